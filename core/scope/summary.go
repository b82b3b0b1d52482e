package scope

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// Summary is what the working events of one cylinder come to.
type Summary struct {
	Cylinder engine.Cylinder
	Events   int // steady ones
	// Firing kilovolts: the usual one, the lowest and highest but for one in twenty, and their
	// scatter as a robust standard deviation of logarithms.
	Usual, Low, High, Scatter float64
	AtLeast                   bool // some peaks were cut off
	Negative                  bool // polarity of most
	// Of the events with a spark; Sparks is how many.
	Burn, Line, Slope float64
	Rings             float64
	Dwell             float64
	Sparks, Open      int
	// Fired is the share of the whole cycles in which a spark stood; Counted says that noise
	// leaves no doubt of it.
	Fired   float64
	Counted bool
	// Snap is the kilovolts while the throttle was snapped open, 0 where it was not; SnapAtLeast
	// says that some of those were cut off.
	Snap        float64
	Snaps       int
	SnapAtLeast bool
	// Ringable says that the sampling was quick enough for the ringing.
	Ringable bool
}

// Summaries brings the working events of each cylinder together, in order of number; a cylinder
// without any has a summary too.
func (t *Trace) Summaries(e engine.Engine, a Assigned) []Summary {
	of := map[engine.Cylinder][]Event{}
	snaps := map[engine.Cylinder][]Event{}
	// Whole cycles: the first and the last of the steady ones may be cut.
	sparks := map[engine.Cylinder]map[int]bool{}
	steady := map[int]bool{}
	for _, s := range a.Shots {
		switch {
		case s.Waste, s.Between:
		case s.Snap:
			snaps[s.Cylinder] = append(snaps[s.Cylinder], s.Event)
		default:
			of[s.Cylinder] = append(of[s.Cylinder], s.Event)
			steady[s.Cycle] = true
			if !s.Open {
				if sparks[s.Cylinder] == nil {
					sparks[s.Cylinder] = map[int]bool{}
				}
				sparks[s.Cylinder][s.Cycle] = true
			}
		}
	}
	var whole []int
	for c := range steady {
		if steady[c-1] && steady[c+1] {
			whole = append(whole, c)
		}
	}
	all := make([]Summary, 0, e.Cylinders)
	for _, c := range e.All() {
		s := summary(of[c])
		s.Cylinder, s.Ringable = c, t.Rate >= rateForRings
		fired := 0
		for _, k := range whole {
			if sparks[c][k] {
				fired++
			}
		}
		s.Fired = float64(fired) / float64(max(1, len(whole)))
		var kV []float64
		for _, ev := range snaps[c] {
			kV = append(kV, ev.Firing)
			s.SnapAtLeast = s.SnapAtLeast || ev.AtLeast
		}
		s.Snap, s.Snaps = median(kV), len(kV)
		all = append(all, s)
	}
	var usual []float64
	for _, s := range all {
		if s.Usual > 0 {
			usual = append(usual, s.Usual)
		}
	}
	for i := range all {
		all[i].Counted = a.Floor < doubtful*median(usual)
	}
	return all
}

// doubtful is the share of the usual peak that noise may make an event reach to be found: above
// it an event that is missing may only have been missed (C; judgement).
const doubtful = 0.5

func summary(events []Event) (s Summary) {
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
	every, sparks := func(Event) bool { return true }, func(e Event) bool { return !e.Open }
	s.Events = len(events)
	if s.Events == 0 {
		return s
	}
	kV := take(func(e Event) float64 { return e.Firing }, every)
	s.Usual, s.Low, s.High = median(kV), kV[len(kV)/20], kV[len(kV)-1-len(kV)/20]
	var off []float64
	for _, x := range kV {
		off = append(off, math.Abs(math.Log(max(x, 1e-3)/max(s.Usual, 1e-3))))
	}
	s.Scatter = 1.4826 * median(off)
	s.Burn = median(take(func(e Event) float64 { return e.Burn }, sparks))
	s.Line = median(take(func(e Event) float64 { return e.Line }, sparks))
	s.Slope = median(take(func(e Event) float64 { return e.Slope }, sparks))
	s.Rings = median(take(func(e Event) float64 { return float64(e.Rings) }, every))
	s.Dwell = median(take(func(e Event) float64 { return e.Dwell }, func(e Event) bool { return e.Dwell > 0 }))
	backwards := 0
	for _, e := range events {
		s.AtLeast = s.AtLeast || e.AtLeast
		if e.Open {
			s.Open++
		}
		if e.Negative {
			backwards++
		}
	}
	s.Sparks, s.Negative = s.Events-s.Open, 2*backwards > s.Events
	return s
}

const (
	// leastEvents is how many events a cylinder must have for its figures to stand, leastSparks
	// how many sparks (C; judgement).
	leastEvents = 5
	leastSparks = 3
)

// Readings is the summaries as evidence. A cylinder on which next to nothing was found, while
// others have their events, has fired in no cycle; what noise or a slow sampling hides is left out.
func Readings(all []Summary) evidence.Readings {
	r := evidence.Readings{Measure: evidence.KVWave}
	round := func(v float64) float64 { return math.Round(100*v) / 100 }
	most := 0
	for _, s := range all {
		most = max(most, s.Events)
	}
	if most < leastEvents {
		return r
	}
	for _, s := range all {
		one := evidence.Reading{Place: engine.At(s.Cylinder), AtLeast: s.AtLeast}
		one.Figures = []float64{round(s.Usual), round(min(s.Low, s.Usual)), round(max(s.High, s.Usual)), 0, 0, 0}
		if s.Sparks >= leastSparks {
			copy(one.Figures[3:], []float64{round(s.Burn), round(s.Line), round(s.Slope)})
		}
		if s.Counted {
			if one.Figures = append(one.Figures, math.Round(100*s.Fired)); s.Ringable {
				one.Figures = append(one.Figures, s.Rings)
			}
		}
		r.Each = append(r.Each, one)
	}
	return r
}

// Rises is the steady kilovolts and those of a snap as evidence, of the cylinders that have both.
func Rises(all []Summary) evidence.Readings {
	r := evidence.Readings{Measure: evidence.KVSnap}
	round := func(v float64) float64 { return math.Round(100*v) / 100 }
	for _, s := range all {
		if s.Events >= leastEvents && s.Snaps >= snapCycles && s.Usual > 0 {
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(s.Cylinder), Figures: []float64{round(s.Usual), round(s.Snap)}, AtLeast: s.SnapAtLeast})
		}
	}
	return r
}

// Words is a summary in a sentence.
func (s Summary) Words() string {
	if s.Events == 0 {
		return fmt.Sprintf("cylinder %d: no events", s.Cylinder)
	}
	least := ""
	if s.AtLeast {
		least = "at least "
	}
	words := fmt.Sprintf("cylinder %d: %d events, %s%.1f kV (%.1f to %.1f), burn %.2f ms at %.2f kV", s.Cylinder, s.Events, least, s.Usual, s.Low, s.High, s.Burn, s.Line)
	if s.Open > 0 {
		words += fmt.Sprintf("; %d without an arc", s.Open)
	}
	if s.Snap > 0 {
		words += fmt.Sprintf("; %.1f kV on snap", s.Snap)
	}
	return words
}
