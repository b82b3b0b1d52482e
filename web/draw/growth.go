package draw

import (
	"fmt"
	"strings"

	"glenmist/core/spark"
	"glenmist/core/unit"
)

// Growth plots the demand of the engine over the plug gap, with the proof of a test.
type Growth struct {
	Lines   []growthLine
	Proven  int // height of the proven line
	Gap     int // position of the plug's gap
	KV, MM  []scaleTick
	Words   string
	ProvenW string
}

type growthLine struct {
	Path, Words string
	Style       int
	EndY        int
}

// NewGrowth lays out the demand for a gap in millimetres, a compression ratio, an intake
// pressure in kilopascals and the kilovolts that a spark test has proven.
func NewGrowth(gap, ratio, airKPa, proven float64) *Growth {
	const left, wide, top, high, from, to, most = 34.0, 300.0, 8.0, 120.0, 0.6, 2.4, 45.0
	x := func(mm float64) float64 { return left + wide*(mm-from)/(to-from) }
	y := func(kV float64) float64 { return top + high*(1-min(kV, most)/most) }
	v := &Growth{Proven: int(y(proven)), Gap: int(x(min(max(gap, from), to))), ProvenW: fmt.Sprintf("%.1f kV proven", proven)}
	for kV := 0.0; kV <= 40; kV += 10 {
		v.KV = append(v.KV, scaleTick{int(y(kV)), int(kV)})
	}
	for mm := 1.0; mm <= 2; mm++ {
		v.MM = append(v.MM, scaleTick{int(x(mm)), int(mm)})
	}
	var says []string
	for i, c := range spark.Conditions {
		line := growthLine{Words: c.Words, Style: i}
		until := 0.0
		for mm := from; mm <= to+0.001; mm += 0.1 {
			kV, err := spark.Breakdown(mm, spark.Density(c.Throttle*airKPa, c.ChargeK, ratio))
			if err != nil {
				break
			}
			step := "L"
			if line.Path == "" {
				step = "M"
			}
			line.Path += fmt.Sprintf("%s%.0f %.0f", step, x(mm), y(kV))
			line.EndY = int(y(kV))
			if kV <= proven {
				until = mm
			}
		}
		switch {
		case until == 0:
			says = append(says, fmt.Sprintf("%s is not cleared at any gap from 0.6 mm", c.Words))
		case until > 2.35:
			says = append(says, fmt.Sprintf("%s is cleared for any gap up to 2.4 mm", c.Words))
		default:
			says = append(says, fmt.Sprintf("%s is cleared up to a gap of %.1f mm", c.Words, until))
		}
		v.Lines = append(v.Lines, line)
	}
	v.Words = unit.Capital(strings.Join(says, "; ")) + "."
	return v
}
