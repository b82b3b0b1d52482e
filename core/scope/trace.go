// Package scope reads captures of secondary kilovolts: the files of scopes and recorders, the
// ignition events in them, the figures of each event, and its cylinder. It does not depend on
// the engine simulator, which measures it.
package scope

import (
	"fmt"
	"math"

	"glenmist/core/invalid"
)

// Bounds of a capture.
const (
	MaxBytes    = 200 << 20
	MaxSamples  = 40_000_000 // of all channels together
	MaxChannels = 16
	MinRate     = 20_000.0 // samples per second
	MaxRate     = 5_000_000.0
)

// Trace is a capture: the samples of each channel at equal time steps.
type Trace struct {
	Rate     float64 // samples per second
	Channels []Channel
	// Bad lists the first lines that could not be read; Skipped is their number.
	Bad     []BadLine
	Skipped int
	// Guessed is true if no unit was given and the values were assumed to be kilovolts or
	// volts.
	Guessed bool
	// TimeGuessed is the unit that a time without one was taken for; "" if it was stated or seconds.
	TimeGuessed string
	// Gaps is the number of gaps in time that were filled. Missing is the share of a recording that its header promises and
	// that is not there.
	Gaps    int
	Missing float64

	// Events of the channels searched so far. A trace belongs to one goroutine at a time.
	found map[int]found
}

type found struct {
	events []Event
	floor  float64
}

// Channel is one trace in kilovolts at the electrode side; a sync channel has its own unit.
type Channel struct {
	Name    string
	Samples []Half
}

// BadLine is a line of a file that could not be read.
type BadLine struct {
	Line int
	Got  string
}

// Options states what the file does not.
type Options struct {
	// Factor is the division ratio of the probe; 0 means 1. For a WAV file it is the full
	// scale in kilovolts.
	Factor float64
	// Rate is the number of samples a second of a file without a time; 0 is not stated.
	Rate float64
	// Progress receives the number of bytes read. An error from it ends the reading.
	Progress func(bytes int64) error
	// Bytes is the length of the file, used to allocate its samples at once; 0 means unknown.
	Bytes int64
}

// room allocates memory for the remaining samples of a file; each is the number of bytes of
// one sample of all channels.
func (t *Trace) room(opt Options, each int) {
	if opt.Bytes <= 0 || each <= 0 {
		return
	}
	n := min(opt.Bytes/int64(each)+1, int64(MaxSamples/len(t.Channels)+1))
	for c := range t.Channels {
		t.Channels[c].Samples = make([]Half, 0, n)
	}
}

// SamplesOf returns the largest number of samples in a file of some bytes: two bytes each in
// WAV.
func SamplesOf(bytes int64) int64 { return min(MaxSamples, bytes/2+1) }

func (o Options) factor() float64 {
	if o.Factor == 0 {
		return 1
	}
	return o.Factor
}

// Seconds returns the length of the capture.
func (t *Trace) Seconds() float64 {
	if len(t.Channels) == 0 || t.Rate == 0 {
		return 0
	}
	return float64(len(t.Channels[0].Samples)) / t.Rate
}

// Join appends a trace with the same channels.
func (t *Trace) Join(next *Trace) {
	if len(t.Channels) == 0 {
		t.Rate = next.Rate
		t.Channels = make([]Channel, len(next.Channels))
		for i, c := range next.Channels {
			t.Channels[i].Name = c.Name
		}
	}
	t.found = nil
	for i := range t.Channels {
		t.Channels[i].Samples = append(t.Channels[i].Samples, next.Channels[i].Samples...)
	}
}

// Drop removes the first samples of each channel.
func (t *Trace) Drop(n int) {
	t.found = nil
	for i, c := range t.Channels {
		t.Channels[i].Samples = append([]Half(nil), c.Samples[min(n, len(c.Samples)):]...)
	}
}

// Bounds of the largest kilovolts of a capture (C: a plug needs 3 to 40 kV). Beyond them the scale is wrong.
const (
	leastPeak = 0.4
	mostPeak  = 100.0
)

// Scale rejects kilovolts that no spark has: the probe factor or the unit is wrong. Errors are [invalid.Error] of the field
// "factor". A sync is left out.
func (t *Trace) Scale() error {
	most := 0.0
	for _, c := range t.Channels {
		if syncName.MatchString(c.Name) {
			continue
		}
		low, high := c.Samples[0].Float(), c.Samples[0].Float()
		for _, v := range c.Samples {
			low, high = min(low, v.Float()), max(high, v.Float())
		}
		most = max(most, float64(high-low))
	}
	switch {
	case most < leastPeak:
		return invalid.Error{Field: "factor", Expected: "kilovolts of sparks: state the probe factor, such as 1000, or for a WAV file the kilovolts of full scale", Got: fmt.Sprintf("at most %.3g kV", most)}
	case most > mostPeak:
		return invalid.Error{Field: "factor", Expected: "kilovolts of sparks, up to 60: state a smaller probe factor, such as 0.001", Got: fmt.Sprintf("up to %.3g kV", most)}
	}
	return nil
}

// check rejects what is not a valid capture.
func (t *Trace) check() error {
	switch {
	case len(t.Channels) == 0 || len(t.Channels[0].Samples) < 100:
		return invalid.Error{Expected: "a capture of at least 100 samples", Got: "fewer"}
	case !(t.Rate >= MinRate*0.999 && t.Rate <= MaxRate*1.001):
		return invalid.Error{Expected: "20 000 to 5 000 000 samples a second", Got: fmt.Sprintf("%.0f", t.Rate)}
	}
	for _, c := range t.Channels {
		low, high := float32(math.Inf(1)), float32(math.Inf(-1))
		for _, v := range c.Samples {
			low, high = min(low, v.Float()), max(high, v.Float())
		}
		if high > low {
			return nil
		}
	}
	return invalid.Error{Expected: "a trace that changes", Got: "a constant line"}
}
