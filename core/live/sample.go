// Package live turns what a vehicle sends while it runs into a run: the condition, the revolutions, the misfires of each
// cylinder, and how often the circumstance of a complaint was met. It opens no device and reads no clock.
package live

import (
	"math"
	"slices"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/trouble"
)

// Sample is the state of a vehicle at one moment. A figure that was not read is NaN.
type Sample struct {
	// At is the time of the vehicle since any moment that stays the same.
	At time.Duration
	// RPM is the engine speed in revolutions a minute; 0 is an engine that stands.
	RPM float64
	// Load is the calculated load in per cent, Coolant its temperature in °C, Speed that of the vehicle in km/h.
	Load, Coolant, Speed float64
	// Started is the time since the engine was started, in seconds.
	Started float64
	// Trims are the fuel trims by bank.
	Trims []trouble.Trim
	// Counts are the misfires of each cylinder in this driving cycle; nil if the vehicle does not count them by cylinder.
	Counts []int
}

// Unread is a sample without any figure.
func Unread(at time.Duration) Sample {
	no := math.NaN()
	return Sample{At: at, RPM: no, Load: no, Coolant: no, Speed: no, Started: no}
}

// Runs reports whether the engine runs.
func (s Sample) Runs() bool { return s.RPM >= runs }

// Limits of the conditions (C; judgement).
const (
	runs      = 200.0  // rpm: above what a starter does
	coldBelow = 60.0   // °C
	hotFrom   = 97.0   // °C
	loadFrom  = 60.0   // per cent
	idleTo    = 1200.0 // rpm, with the vehicle standing
	idleLoad  = 45.0   // per cent
	standing  = 3.0    // km/h
)

// recognised lists the conditions that figures show, the rarest first. Wet and a snap of the throttle cannot be read.
var recognised = []struct {
	Condition evidence.Condition
	of        func(s Sample) bool
	Words     string
}{
	{evidence.Cold, func(s Sample) bool { return s.Coolant < coldBelow }, "coolant below 60 °C"},
	{evidence.Load, func(s Sample) bool { return s.Load >= loadFrom }, "load of 60 % or more"},
	{evidence.Hot, func(s Sample) bool { return s.Coolant >= hotFrom }, "coolant at 97 °C or more"},
	{evidence.Idle, func(s Sample) bool { return s.RPM <= idleTo && !(s.Speed > standing) && !(s.Load > idleLoad) }, "up to 1 200 rpm, standing, load up to 45 %"},
}

// Limit is what a condition is recognised by, for display.
type Limit struct {
	Condition evidence.Condition
	Words     string
}

// Limits lists what each condition is recognised by.
func Limits() (all []Limit) {
	for _, row := range recognised {
		all = append(all, Limit{row.Condition, row.Words})
	}
	return all
}

// Conditions lists the conditions that the figures of a running engine show, the rarest first. It is empty for a warm engine
// at part load.
func (s Sample) Conditions() (all []evidence.Condition) {
	if !s.Runs() {
		return nil
	}
	for _, row := range recognised {
		if row.of(s) {
			all = append(all, row.Condition)
		}
	}
	return all
}

// In returns the condition under which this moment is recorded: the wanted one if it holds, otherwise the rarest that holds.
func (s Sample) In(want evidence.Condition) evidence.Condition {
	all := s.Conditions()
	switch {
	case slices.Contains(all, want):
		return want
	case len(all) > 0:
		return all[0]
	}
	return evidence.AnyCondition
}
