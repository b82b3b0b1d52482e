package scope

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
)

// With a sync on cylinder 1 each event has its cylinder even where some are missing; turned by
// one all move on; and the figures go into a ledger as if they had been read off.
func TestAssignAndSummaries(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	p, _ := engine.FindPattern("four-across")
	e := p.Engine()
	var events []Event
	var syncs []float64
	for cycle := range 20 {
		start := 0.15 * float64(cycle)
		syncs = append(syncs, start+0.001)
		for k, c := range e.FiringOrder {
			if cycle == 7 && k == 2 {
				continue // one is missing
			}
			kV := 9 * math.Exp(0.05*r.NormFloat64())
			if c == 3 {
				kV = 17
			}
			events = append(events, Event{At: start + 0.0375*float64(k), Firing: kV, Burn: 1.2, Line: 1.3})
		}
	}
	at := func(a Assigned, rate float64) []Summary {
		a.finish()
		return (&Trace{Rate: rate}).Summaries(e, a)
	}
	a := assign(e, events, syncs, 0)
	sums := at(a, 250_000)
	if len(sums) != 4 || a.Sure < 0.9 || a.Sure == 1 || a.By != BySync {
		t.Fatalf("%+v sure %v", sums, a.Sure)
	}
	for _, s := range sums {
		if high := s.Usual > 14; high != (s.Cylinder == 3) || s.Events < 19 || (s.Fired < 1) != (s.Cylinder == e.FiringOrder[2]) {
			t.Errorf("%s, fired %v", s.Words(), s.Fired)
		}
	}
	turned := at(assign(e, events, syncs, 1), 250_000)
	if turned[3].Usual < 14 { // 3 fires before 4 in 1-3-4-2
		t.Errorf("turned by one: %+v", turned)
	}
	set := Readings(sums)
	if _, err := (evidence.Ledger{}).Add(e, evidence.Entry{By: "x", Done: moment, Body: &set}); err != nil {
		t.Error(err)
	}
	if slow := Readings(at(a, 30_000)); len(slow.Each[0].Figures) >= len(set.Each[0].Figures) {
		t.Errorf("ringing at 30 000 samples a second: %v", slow.Each[0])
	}
	// Without a sync it is counted through, and the gap where one is missing moves nothing.
	blind := assign(e, events, nil, 0)
	if counted := at(blind, 250_000); blind.By != ByCount || blind.Sure < 0.95 || counted[2].Usual < 14 || counted[2].Low < 14 {
		t.Errorf("sure %v: %+v", blind.Sure, counted)
	}
}

// A dead cylinder has its place in the readings: next to others that fire it has fired in no
// cycle. Kilovolts that rise on all together are a snap of the throttle and are kept apart.
func TestDeadCylinderAndSnapAreKeptApart(t *testing.T) {
	p, _ := engine.FindPattern("four-across")
	e := p.Engine()
	var events []Event
	var syncs []float64
	now := 0.0
	for cycle := range 18 {
		period, rise := 0.15, 1.0
		if cycle >= 8 && cycle < 14 {
			period, rise = 0.08, 1.9
		}
		syncs = append(syncs, now)
		for k, c := range e.FiringOrder {
			if c != 2 {
				events = append(events, Event{At: now + period*float64(k)/4, Firing: rise * (9 + 0.1*float64(cycle%3)), Burn: 1.2, Line: 1.3, AtLeast: rise > 1})
			}
		}
		now += period
	}
	a := assign(e, events, syncs, 0)
	a.finish()
	sums := (&Trace{Rate: 250_000}).Summaries(e, a)
	steady, rises := Readings(sums), Rises(sums)
	if len(steady.Each) != 4 || steady.Each[1].Figures[0] != 0 || steady.Each[1].Figures[6] != 0 || steady.Each[0].Figures[6] != 100 || steady.Each[0].AtLeast {
		t.Errorf("%+v", steady)
	}
	for _, s := range a.Shots {
		if s.Between != (s.Cycle == 7 || s.Cycle == 14) {
			t.Errorf("cycle %d: between %v", s.Cycle, s.Between)
		}
	}
	if len(rises.Each) != 3 || math.Abs(rises.Each[0].Figures[1]/rises.Each[0].Figures[0]-1.9) > 0.05 || !rises.Each[0].AtLeast {
		t.Errorf("%+v", rises)
	}
	for _, set := range []evidence.Readings{steady, rises} {
		if _, err := (evidence.Ledger{}).Add(e, evidence.Entry{By: "x", Done: moment, Body: &set}); err != nil {
			t.Error(err)
		}
	}
}

// Cylinder 3 misses every second spark of a snap and burns short in the others, and cylinder 4 has no event in it: both are said
// with the kilovolts.
func TestSnapShowsMissedSparks(t *testing.T) {
	p, _ := engine.FindPattern("four-across")
	e := p.Engine()
	a := Assigned{Cycles: 22}
	for cycle := range 22 {
		for _, c := range e.FiringOrder {
			s := Shot{Event: Event{Firing: 9, Burn: 1.2, Line: 1.3}, Cylinder: c, Cycle: cycle, Snap: cycle >= 10}
			if s.Snap {
				s.Firing, s.Burn = 20, 0.7
			}
			if s.Snap && c == 3 {
				s.Burn, s.Open = 0.2, cycle%2 == 0
			}
			if !s.Snap || c != 4 {
				a.Shots = append(a.Shots, s)
			}
		}
	}
	rises := Rises((&Trace{Rate: 250_000}).Summaries(e, a))
	want := [][]float64{{9, 20, 0.7, 100}, {9, 20, 0.7, 100}, {9, 20, 0.2, 50}, {9, 0, 0, 0}}
	for i, one := range rises.Each {
		if !slices.Equal(one.Figures, want[i]) {
			t.Errorf("%s: %v, want %v", one.Place, one.Figures, want[i])
		}
	}
	if _, err := (evidence.Ledger{}).Add(e, evidence.Entry{By: "x", Done: moment, Body: &rises}); err != nil || len(rises.Each) != 4 {
		t.Errorf("%v: %+v", err, rises)
	}
}

// Noise can lift the quiet line above a weak spark line. The readings are evidence all the same.
func TestWeakSparkLineIsRecorded(t *testing.T) {
	e := engine.Shelf[0].Engine()
	set := Readings([]Summary{{Cylinder: 1, Events: 9, Sparks: 9, Usual: 9, Low: 8, High: 10, Burn: 1, Line: -0.1, Slope: -0.2}})
	if _, err := (evidence.Ledger{}).Add(e, evidence.Entry{By: "x", Done: moment, Body: &set}); err != nil {
		t.Error(err)
	}
}

// An idle event of a pair needs less, and is kept apart, also behind one that was missed.
func TestIdleEventOfAPairIsKeptApart(t *testing.T) {
	pair := func(idle float64, missed int) Summary {
		p, _ := engine.FindPattern("six-pairs")
		a := Assigned{}
		for k := range 20 {
			kV := 10.0
			if k%2 == 1 {
				kV = idle
			}
			if k != missed {
				a.Shots = append(a.Shots, Shot{Event: Event{At: 0.06 * float64(k), Firing: kV}, Cylinder: 1})
			}
		}
		a.pair()
		a.cycles()
		a.finish()
		return (&Trace{}).Summaries(p.Engine(), a)[0]
	}
	if s := pair(2.2, -1); s.Events != 10 || s.Usual != 10 || s.Scatter != 0 {
		t.Errorf("%+v", s)
	}
	if s := pair(2.2, 9); s.Events != 10 || s.Low != 10 {
		t.Errorf("behind a missed one: %+v", s)
	}
	if s := pair(9.5, -1); s.Events != 20 { // the idle ones were too low to be found
		t.Errorf("alike, and yet kept apart: %+v", s)
	}
}

// A clamp on one lead picks up a little of the neighbours. What comes out of turn and is weak is shown with no cylinder.
func TestStraysHaveNoCylinder(t *testing.T) {
	var events []Event
	for k := range 10 {
		at := 0.16 * float64(k)
		events = append(events, Event{At: at, Firing: 10}, Event{At: at + 0.04, Firing: 1.5})
	}
	kept, strays := withoutStrays(events)
	a := Assigned{By: ByChannel, Shown: engine.SetOf(1)}
	for k, ev := range kept {
		a.Shots = append(a.Shots, Shot{Event: ev, Cylinder: 1, Cycle: k})
	}
	var shots []Shot
	for _, ev := range strays {
		shots = append(shots, Shot{Event: ev})
	}
	a.addStrays(shots)
	if len(kept) != 10 || a.Stray != 10 || len(a.Shots) != 20 {
		t.Fatalf("%d kept, %d strays, %d shots", len(kept), a.Stray, len(a.Shots))
	}
	for k, s := range a.Shots[10:] {
		if s.Cylinder != 0 || s.Cycle != k {
			t.Errorf("stray %d: cylinder %d in cycle %d", k, s.Cylinder, s.Cycle)
		}
	}
	if how := a.How(engine.Shelf[0].Engine()); !strings.Contains(how, "10 events fit no cylinder") {
		t.Error(how)
	}
}
