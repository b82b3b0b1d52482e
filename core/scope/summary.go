package scope

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// Summary is what the events of one cylinder come to.
type Summary struct {
	Cylinder engine.Cylinder
	Events   int
	// Firing kilovolts: the usual one, the lowest and highest but for one in twenty, and their
	// scatter as a robust standard deviation of logarithms.
	Usual, Low, High, Scatter float64
	AtLeast                   bool // some peaks were cut off
	Burn, Line, Slope         float64
	Rings                     float64
	Open                      int // events without an arc
}

// Summaries brings the working events of each cylinder together, in order of number.
func (a Assigned) Summaries() []Summary {
	of := map[engine.Cylinder][]Event{}
	for _, s := range a.Shots {
		if !s.Waste {
			of[s.Cylinder] = append(of[s.Cylinder], s.Event)
		}
	}
	var all []Summary
	for c, events := range of {
		s := Summary{Cylinder: c, Events: len(events)}
		take := func(of func(Event) float64, which func(Event) bool) []float64 {
			var v []float64
			for _, e := range events {
				if which(e) {
					v = append(v, of(e))
				}
			}
			slices.Sort(v)
			return v
		}
		middle := func(v []float64) float64 {
			if len(v) == 0 {
				return 0
			}
			return v[len(v)/2]
		}
		every, arcs := func(Event) bool { return true }, func(e Event) bool { return !e.Open }
		kV := take(func(e Event) float64 { return e.Firing }, every)
		s.Usual, s.Low, s.High = middle(kV), kV[len(kV)/20], kV[len(kV)-1-len(kV)/20]
		var off []float64
		for _, x := range kV {
			off = append(off, math.Abs(math.Log(max(x, 1e-3)/max(s.Usual, 1e-3))))
		}
		slices.Sort(off)
		s.Scatter = 1.4826 * middle(off)
		s.Burn = middle(take(func(e Event) float64 { return e.Burn }, arcs))
		s.Line = middle(take(func(e Event) float64 { return e.Line }, arcs))
		s.Slope = middle(take(func(e Event) float64 { return e.Slope }, arcs))
		s.Rings = middle(take(func(e Event) float64 { return float64(e.Rings) }, every))
		for _, e := range events {
			s.AtLeast = s.AtLeast || e.AtLeast
			if e.Open {
				s.Open++
			}
		}
		all = append(all, s)
	}
	slices.SortFunc(all, func(a, b Summary) int { return int(a.Cylinder) - int(b.Cylinder) })
	return all
}

// leastEvents is how many events a cylinder must have for its figures to stand (C; judgement).
const leastEvents = 5

// Readings is the summaries as a set of steady kilovolts, as if they had been read off one by
// one; cylinders with too few events are left out.
func Readings(all []Summary) evidence.Readings {
	r := evidence.Readings{Measure: evidence.KVSteady}
	round := func(v float64) float64 { return math.Round(100*v) / 100 }
	for _, s := range all {
		if s.Events >= leastEvents {
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(s.Cylinder), Figures: []float64{round(s.Usual), round(min(s.Low, s.Usual)), round(max(s.High, s.Usual))}})
		}
	}
	return r
}

// Words is a summary in a sentence.
func (s Summary) Words() string {
	least := ""
	if s.AtLeast {
		least = "at least "
	}
	return fmt.Sprintf("cylinder %d: %d events, %s%.1f kV (%.1f to %.1f), burn %.2f ms at %.2f kV", s.Cylinder, s.Events, least, s.Usual, s.Low, s.High, s.Burn, s.Line)
}
