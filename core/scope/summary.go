package scope

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// Summary describes the working events of one cylinder.
type Summary struct {
	Cylinder engine.Cylinder
	Events   int // steady events
	// Firing voltage in kilovolts: median, 5 % and 95 % quantiles, and scatter as a robust
	// standard deviation of logarithms.
	Usual, Low, High, Scatter float64
	AtLeast                   bool // some peaks were clipped
	Negative                  bool // polarity of most events
	// Means over the events with a spark; Sparks is their number.
	Burn, Line, Slope float64
	Rings             float64
	Dwell             float64
	Sparks, Open      int
	// Fired is the fraction of complete cycles with a spark. Counted is true if noise leaves
	// no doubt about it.
	Fired   float64
	Counted bool
	// Snap is the firing voltage in kilovolts during a throttle snap, 0 without one.
	// SnapAtLeast is true if some peaks were clipped.
	Snap        float64
	Snaps       int
	SnapAtLeast bool
	// SnapBurn is the median burn time of its sparks in milliseconds, 0 with fewer than three; SnapFired is the fraction of its
	// complete cycles with a spark.
	SnapBurn, SnapFired float64
	// Ringable is true if the sample rate was high enough for ringing.
	Ringable bool
	// Unseen is true if no channel shows the cylinder.
	Unseen bool
}

// Summaries returns one summary for each cylinder, in order of number, also for cylinders
// without events.
func (t *Trace) Summaries(e engine.Engine, a Assigned) []Summary {
	of := map[engine.Cylinder][]Event{}
	snaps := map[engine.Cylinder][]Event{}
	steady, snap := fired{}, fired{}
	for _, s := range a.Shots {
		switch {
		case s.Waste, s.Between, s.Cylinder == 0:
		case s.Snap:
			snaps[s.Cylinder] = append(snaps[s.Cylinder], s.Event)
			snap.add(s)
		default:
			of[s.Cylinder] = append(of[s.Cylinder], s.Event)
			steady.add(s)
		}
	}
	all := make([]Summary, 0, e.Cylinders)
	for _, c := range e.All() {
		s := summary(of[c])
		s.Cylinder, s.Ringable, s.Unseen = c, t.Rate >= rateForRings, a.Shown != 0 && !a.Shown.Has(c)
		s.Fired, s.SnapFired = steady.share(c), snap.share(c)
		s.ofSnap(snaps[c])
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

// fired is the set of cylinders with a spark in each cycle that has an event.
type fired map[int]engine.Set

func (f fired) add(s Shot) {
	f[s.Cycle] |= 0
	if !s.Open {
		f[s.Cycle] |= engine.SetOf(s.Cylinder)
	}
}

// share is the fraction of the complete cycles in which a cylinder has a spark: the first and the last can be truncated.
func (f fired) share(c engine.Cylinder) float64 {
	sparks, whole := 0, 0
	for cycle, had := range f {
		_, before := f[cycle-1]
		if _, after := f[cycle+1]; before && after {
			whole++
			if had.Has(c) {
				sparks++
			}
		}
	}
	return float64(sparks) / float64(max(1, whole))
}

// ofSnap adds the figures of the events on a snap.
func (s *Summary) ofSnap(events []Event) {
	var burns []float64
	for _, e := range events {
		s.SnapAtLeast = s.SnapAtLeast || e.AtLeast
		if !e.Open {
			burns = append(burns, e.Burn)
		}
	}
	s.Snap, s.Snaps = usualKV(events), len(events)
	if len(burns) >= leastSparks {
		s.SnapBurn = median(burns)
	}
}

// doubtful is the ratio of the detection threshold to the usual peak above which a missing
// event may be undetected (C; judgement).
const doubtful = 0.5

// usualKV is the median firing voltage. Where peaks fall between samples it is the mean, since each is off by a random amount.
func usualKV(events []Event) float64 {
	var kV []float64
	sum, unsure := 0.0, false
	for _, e := range events {
		kV = append(kV, e.Firing)
		sum += e.Firing
		unsure = unsure || e.Unsure > 0
	}
	if unsure {
		return sum / float64(len(kV))
	}
	return median(kV)
}

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
	s.Usual, s.Low, s.High = usualKV(events), kV[len(kV)/20], kV[len(kV)-1-len(kV)/20]
	var off []float64
	for _, x := range kV {
		off = append(off, math.Abs(math.Log(max(x, 1e-3)/max(s.Usual, 1e-3))))
	}
	s.Scatter = 1.4826 * median(off)
	if most := slices.MaxFunc(events, func(a, b Event) int { return cmp.Compare(a.Unsure, b.Unsure) }).Unsure; most > 0 {
		// Only the part of the spread counts that is not due to peaks between samples.
		low, high := take(func(e Event) float64 { return e.Firing + e.Unsure }, every), take(func(e Event) float64 { return e.Firing - e.Unsure }, every)
		s.Low, s.High = min(low[len(low)/20], s.Usual), max(high[len(high)-1-len(high)/20], s.Usual)
		s.Scatter = math.Sqrt(max(0, s.Scatter*s.Scatter-sq(most/max(s.Usual, 1e-3))/3))
	}
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
	// leastEvents and leastSparks are the least numbers for valid figures (C; judgement).
	leastEvents = 5
	leastSparks = 3
)

// Readings converts the summaries to evidence. A cylinder without events, while others have
// theirs, fired in no cycle. Values hidden by noise or a low sample rate are omitted.
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
		if s.Unseen {
			continue
		}
		one := evidence.Reading{Place: engine.At(s.Cylinder), AtLeast: s.AtLeast}
		one.Figures = []float64{round(s.Usual), round(min(s.Low, s.Usual)), round(max(s.High, s.Usual)), 0, 0, 0}
		if s.Sparks >= leastSparks {
			// Noise can lift the quiet line above a weak spark line.
			copy(one.Figures[3:], []float64{round(s.Burn), max(0, round(s.Line)), round(s.Slope)})
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

// Rises converts what a snap shows to evidence: steady and snap kilovolts, burn time on the snap and the share of its cycles
// with a spark. A cylinder without events on it, while others have theirs, has 0.
func Rises(all []Summary) evidence.Readings {
	r := evidence.Readings{Measure: evidence.KVSnapWave}
	round := func(v float64) float64 { return math.Round(100*v) / 100 }
	most := 0
	for _, s := range all {
		most = max(most, s.Snaps)
	}
	for _, s := range all {
		if s.Events < leastEvents || s.Usual <= 0 || s.Snaps < snapCycles && most < leastEvents {
			continue
		}
		one := evidence.Reading{Place: engine.At(s.Cylinder), Figures: []float64{round(s.Usual), round(s.Snap)}, AtLeast: s.SnapAtLeast}
		if s.Counted && most >= leastEvents {
			one.Figures = append(one.Figures, round(s.SnapBurn), math.Round(100*s.SnapFired))
		}
		r.Each = append(r.Each, one)
	}
	return r
}

// Words returns a summary in a sentence.
func (s Summary) Words() string {
	switch {
	case s.Unseen:
		return fmt.Sprintf("cylinder %d: no clamp on it", s.Cylinder)
	case s.Events == 0:
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
