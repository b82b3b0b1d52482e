package plan

import (
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
)

// The chain asks only what is not yet known, in the order of the trade (section 7, C), and
// ends at a unit with its gates, on every kind of coil.
func TestChain(t *testing.T) {
	check := func(id evidence.TestID, place engine.Place, r evidence.ResultID) evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: id, Place: place, Result: r}}
	}
	drop := func(id evidence.MeasureID, place engine.Place, figures ...float64) evidence.Entry {
		return evidence.Entry{Body: &evidence.Readings{Measure: id, Each: []evidence.Reading{{Place: place, Figures: figures}}}}
	}
	unloaded := drop(evidence.FeedDrop, "cyl-2", 12.4, 12.4)
	unloaded.Readings().Unloaded = true
	for name, c := range map[string]struct {
		pattern string
		wires   int
		entries []evidence.Entry
		next    string // the link that is asked, or ""
		points  string // the unit that it ends at
	}{
		"nothing known":          {"four-across", 3, nil, "spark", ""},
		"there is a spark":       {"four-across", 3, []evidence.Entry{check(evidence.Spark, "cyl-2", "strong")}, "", ""},
		"none: first the move":   {"four-across", 3, []evidence.Entry{check(evidence.Spark, "cyl-2", "none")}, "coil", ""},
		"without a load":         {"four-across", 3, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {Body: nil}, unloaded}, "feed", ""},
		"feed poor":              {"four-across", 3, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), drop(evidence.FeedDrop, "cyl-2", 12.4, 8.8)}, "", "feed cyl-2"},
		"feed good, ground next": {"four-across", 3, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {}, drop(evidence.FeedDrop, "cyl-2", 12.4, 12.2)}, "ground", ""},
		"two wires, no ground":   {"four-across", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {}, drop(evidence.FeedDrop, "cyl-2", 12.4, 12.2)}, "pulse", ""},
		"ground poor":            {"four-across", 4, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {}, drop(evidence.FeedDrop, "cyl-2", 12.4, 12.2), drop(evidence.GroundDrop, "cyl-2", 2.1)}, "", "ground cyl-2"},
		"all there: between":     {"four-across", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), check(evidence.TriggerPulse, "cyl-2", "there"), {}}, "", ""},
		"one coil, no spare":     {"six-distributor", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), check(evidence.TriggerPulse, "engine", "there")}, "coil", ""},
		"trigger gone: wire":     {"four-across", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {}, check(evidence.TriggerPulse, "cyl-2", "missing")}, "wire", ""},
		"wire broken":            {"four-across", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), check(evidence.TriggerPulse, "cyl-2", "missing"), check(evidence.WireTest, "cyl-2", "bad")}, "", "trigger wire cyl-2"},
		"the driver, last":       {"four-across", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), {}, check(evidence.TriggerPulse, "cyl-2", "missing"), check(evidence.WireTest, "cyl-2", "sound")}, "", "driver cyl-2"},
		"missing on all":         {"six-distributor", 2, []evidence.Entry{check(evidence.Spark, "cyl-2", "none"), check(evidence.TriggerPulse, "engine", "missing")}, "crank", ""},
		"stop wire first":        {"single-magneto", 0, []evidence.Entry{check(evidence.Spark, "cyl-1", "none")}, "stop", ""},
		"a stop switch":          {"single-magneto", 0, []evidence.Entry{check(evidence.Spark, "cyl-1", "none"), check(evidence.StopWireOff, "engine", "sparks")}, "", "stop wire engine"},
		"air gap after it":       {"single-magneto", 0, []evidence.Entry{check(evidence.Spark, "cyl-1", "none"), check(evidence.StopWireOff, "engine", "still-none")}, "airgap", ""},
	} {
		p, ok := engine.FindPattern(c.pattern)
		if !ok {
			t.Fatal(c.pattern)
		}
		e := p.Engine()
		if c.wires > 0 {
			e.Wires = c.wires
		}
		s := begin(t, 4)
		s.j.Vehicle = job.Vehicle{Fleet: "T-1", What: "van", Engine: e}
		for _, entry := range c.entries {
			if entry.Kind() == "" { // the coil is moved away, and the misfire stays
				at := s.j.Ledger.Positions(e)
				s.counts(0, 150, 0, 0)
				s.add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: at.Swap("cyl-2", "cyl-4", engine.Coil, engine.Boot)}}).counts(0, 150, 0, 0)
				continue
			}
			s.add(entry)
		}
		cyl := engine.Cylinder(2)
		if e.Cylinders == 1 {
			cyl = 1
		}
		a := diagnose.Assess(s.j)
		ch := ChainOf(a, cyl)
		next, points := "", ""
		if ch.Next >= 0 {
			next = ch.Links[ch.Next].ID
		}
		if ch.Target != nil {
			points = ch.Target.Key()
		}
		if next != c.next || points != c.points || (next == "") != (ch.Ends != "") {
			t.Errorf("%s: asks %q, points at %q: %s\n%+v", name, next, points, ch.Ends, ch.Links)
		}
		for i, l := range ch.Links {
			if i == ch.Next && l.Caution == "" && l.ID != "feed" && l.ID != "ground" {
				t.Errorf("%s: no caution at %s", name, l.ID)
			}
		}
	}
}
