// Package scope reads captures of secondary kilovolts: the files that scopes and recorders
// write, the ignition events in them, what each event shows, and which cylinder it belongs to.
// It knows no engine simulator: it is measured on one.
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
	MinRate     = 20_000.0 // samples a second
	MaxRate     = 5_000_000.0
)

// Trace is a capture: one sample of each channel at equal steps of time.
type Trace struct {
	Rate     float64 // samples a second
	Channels []Channel
	// Bad are lines that could not be read, the first of them; Skipped is how many there were.
	Bad     []BadLine
	Skipped int
	// Guessed says that no unit was given and the values were taken for kilovolts or volts.
	Guessed bool

	// The events of the channels that were looked through: a trace is one goroutine's at a time.
	found map[int]found
}

type found struct {
	events []Event
	floor  float64
}

// Channel is one trace, in kilovolts at the electrode side (of a sync channel in its own).
type Channel struct {
	Name    string
	Samples []float32
}

// BadLine is a line of a file that could not be read.
type BadLine struct {
	Line int
	Got  string
}

// Options say what a file does not.
type Options struct {
	// Factor is the probe's: how many times more there is than was measured; 0 is 1. Of a WAV
	// file it is the kilovolts of its full scale.
	Factor float64
	// Progress is told how many bytes have been read; an error of it ends the reading.
	Progress func(bytes int64) error
	// Bytes is how long the file is, so that room is made for its samples at once; 0 where it
	// is not known.
	Bytes int64
}

// room makes room for the samples of the rest of a file, of which each sample of all channels
// takes so many bytes.
func (t *Trace) room(opt Options, each int) {
	if opt.Bytes <= 0 || each <= 0 {
		return
	}
	n := min(opt.Bytes/int64(each)+1, int64(MaxSamples/len(t.Channels)+1))
	for c := range t.Channels {
		t.Channels[c].Samples = make([]float32, 0, n)
	}
}

// SamplesOf is how many samples a file of so many bytes holds at most: two bytes each in WAV.
func SamplesOf(bytes int64) int64 { return min(MaxSamples, bytes/2+1) }

func (o Options) factor() float64 {
	if o.Factor == 0 {
		return 1
	}
	return o.Factor
}

// Seconds is how long the capture is.
func (t *Trace) Seconds() float64 {
	if len(t.Channels) == 0 || t.Rate == 0 {
		return 0
	}
	return float64(len(t.Channels[0].Samples)) / t.Rate
}

// Join puts a trace with the same channels behind this one.
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

// Drop takes the first samples of each channel off.
func (t *Trace) Drop(n int) {
	t.found = nil
	for i, c := range t.Channels {
		t.Channels[i].Samples = append([]float32(nil), c.Samples[min(n, len(c.Samples)):]...)
	}
}

// check refuses what is no capture.
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
			low, high = min(low, v), max(high, v)
		}
		if high > low {
			return nil
		}
	}
	return invalid.Error{Expected: "a trace that changes", Got: "a constant line"}
}
