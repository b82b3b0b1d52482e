package obd

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Monitors of misfires (SAE J1979, appendix D, from memory).
const (
	// MisfireGeneral is the monitor of misfires of all cylinders; that of cylinder c is MisfireGeneral + c, up to AD for 12.
	MisfireGeneral = 0xA1
	lastMisfire    = 0xAD
	// TestAverage is the average over the last ten driving cycles, TestCount the count of this or the last one.
	TestAverage = 0x0B
	TestCount   = 0x0C
	// ScalingCount is one count a bit.
	ScalingCount = 0x24
)

// Result is a result of a monitor: a value and its limits, as raw numbers in a scaling.
type Result struct {
	Monitor, Test, Scaling byte
	Value, Min, Max        uint16
}

// resultBytes is the length of a result in an answer.
const resultBytes = 9

// ReadResults reads an answer to monitor results: nine bytes each.
func ReadResults(data []byte) (all []Result, err error) {
	if len(data) == 0 || len(data)%resultBytes != 0 {
		return nil, invalid.Error{Field: "monitor results", Expected: "nine bytes for each", Got: fmt.Sprintf("%d bytes", len(data))}
	}
	for ; len(data) > 0; data = data[resultBytes:] {
		two := func(i int) uint16 { return uint16(data[i])<<8 | uint16(data[i+1]) }
		all = append(all, Result{data[0], data[1], data[2], two(3), two(5), two(7)})
	}
	return all, nil
}

// AppendResult writes a result.
func AppendResult(data []byte, r Result) []byte {
	two := func(v uint16) (byte, byte) { return byte(v >> 8), byte(v) } //nolint:gosec // the low byte is meant
	a, b := two(r.Value)
	c, d := two(r.Min)
	e, f := two(r.Max)
	return append(data, r.Monitor, r.Test, r.Scaling, a, b, c, d, e, f)
}

// Misfires are the counts of one cylinder.
type Misfires struct {
	Cylinder engine.Cylinder // 0 for all cylinders together
	// Count is that of this driving cycle, or of the last one if the engine is off; Average is over ten. Each is -1 if it was not told.
	Count, Average int
}

// MisfiresOf collects the counts of misfires from results, by cylinder.
func MisfiresOf(results []Result) (all []Misfires) {
	at := map[engine.Cylinder]int{}
	for _, r := range results {
		if r.Monitor < MisfireGeneral || r.Monitor > lastMisfire || r.Scaling != ScalingCount || r.Test != TestCount && r.Test != TestAverage {
			continue
		}
		c := engine.Cylinder(r.Monitor - MisfireGeneral)
		i, ok := at[c]
		if !ok {
			i, at[c] = len(all), len(all)
			all = append(all, Misfires{c, -1, -1})
		}
		if r.Test == TestCount {
			all[i].Count = int(r.Value)
		} else {
			all[i].Average = int(r.Value)
		}
	}
	return all
}

// NextAverage is the average of ten driving cycles after one more: a tenth of its count and nine tenths of the average before,
// rounded (SAE J1979, from memory).
func NextAverage(before, count int) int { return (9*before + count + 5) / 10 }
