package course

import (
	"slices"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plan"
)

func stations(j job.Job) []Station {
	a := diagnose.Assess(j)
	return Of(j, a, plan.For(j, a))
}

// A job goes through the phases in order, and each states what it has shown or what it waits for.
func TestJobGoesThroughThePhases(t *testing.T) {
	spare := part.Spare(engine.Coil, 1)
	swap := part.Home(jobtest.New(4).Vehicle.Engine).Swap(engine.At(2), engine.At(4), engine.Coil, engine.Boot)
	moved := evidence.Entry{Body: &evidence.Move{Parts: swap, Cleared: true}}
	sound := evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugNormal}, {Tag: "B2", Finding: evidence.BootSound}}}}
	verdict := evidence.Entry{Body: &evidence.Verdict{Unit: "coil C2", P: 0.99}}
	renewed := evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: "C2", To: engine.Bench}, {Tag: spare, To: engine.At(4)}}}}
	steps := []struct {
		name  string
		entry evidence.Entry
		here  Phase
		// found or missing of one phase
		phase Phase
		says  string
	}{
		{"codes", jobtest.Codes(2), Trace, Scan, "misfires not counted"},
		{"counts", jobtest.Counts(3000, 0, 150, 1, 0), Trace, Scan, "P0302"},
		{"moved", moved, Trace, Verdict, "no suspect above 70 %"},
		{"followed", jobtest.Counts(3000, 0, 0, 1, 150), Trace, Trace, "cylinder 4"},
		{"looked", sound, Verdict, Fix, "no verdict"},
		{"signed", verdict, Fix, Fix, "coil C2 not yet repaired"},
		{"renewed", renewed, Prove, Prove, "no run since the repair"},
		{"run", jobtest.Counts(3000, 0, 0, 0, 0), Prove, Prove, "proven, at idle"},
	}
	j := jobtest.New(4)
	if at := At(stations(j)); at != Scan {
		t.Errorf("a new job stands at %s", at)
	}
	for _, s := range steps {
		j = jobtest.With(t, j, s.entry)
		all := stations(j)
		if len(all) != len(Phases()) {
			t.Fatalf("%d phases", len(all))
		}
		if at := At(all); at != s.here {
			t.Errorf("%s: stands at %s, want %s", s.name, at, s.here)
		}
		i := slices.Index(Phases(), s.phase)
		if got := all[i]; got.Found != s.says && got.Missing != s.says {
			t.Errorf("%s: %s states %q and misses %q, want %q", s.name, s.phase, got.Found, got.Missing, s.says)
		}
	}
}

// A complaint without a condition leaves a point open, and an engine without a control unit has
// nothing to scan.
func TestWhatIsOpenBeforeTheFirstEntry(t *testing.T) {
	if s := stations(jobtest.AnyTime(4))[0]; s.Missing != "when it fails is not stated" {
		t.Errorf("intake misses %q", s.Missing)
	}
	j := jobtest.New(1)
	j.Vehicle.Engine.Ignition, j.Vehicle.Engine.Fuel = engine.Magneto, engine.Carburettor
	if s := stations(j); s[1].State != Done || At(s) == Scan {
		t.Errorf("scan is %s, and the job stands at %s", s[1].State, At(s))
	}
}

// The course states the same probabilities as an assessment of the job at each entry.
func TestBeliefsAreThoseOfEachEntry(t *testing.T) {
	j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 150, 1, 0))
	points, beliefs := Beliefs(knowledge.Shipped, j)
	if len(points) != 2 || points[1].Seq != 2 || len(beliefs) == 0 {
		t.Fatalf("%d points, %d units", len(points), len(beliefs))
	}
	for i := range 3 {
		at := j
		at.Ledger = j.Ledger[:i]
		for _, b := range beliefs {
			want := 0.0
			for _, s := range diagnose.Assess(at).Suspects {
				if s.Key() == b.Key {
					want = s.P
				}
			}
			if b.P[i] != want {
				t.Errorf("%s after %d entries: %g, want %g", b.Key, i, b.P[i], want)
			}
		}
	}
	if lead := diagnose.Assess(j).Suspects[0].Key(); beliefs[0].Key != lead {
		t.Errorf("%s comes first, want %s", beliefs[0].Key, lead)
	}
	if points, _ := Beliefs(knowledge.Shipped, jobtest.New(4)); points != nil {
		t.Error("a job without entries has a course")
	}
}
