package score

import (
	"math"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
	"glenmist/core/plan"
)

// Each state of a job is one outcome or none: nothing before the proof, held when it is proven, failed when the
// misfire stayed, apart when two things were renewed; shares are learnt from closed, attributed jobs alone.
func TestOutcomeOfAJob(t *testing.T) {
	signed := jobtest.TracedCoil(t)
	e, err := plan.For(signed, diagnose.Assess(signed)).Sign()
	if err != nil {
		t.Fatal(err)
	}
	signed = jobtest.With(t, signed, e)
	renew := func(kinds ...engine.Kind) evidence.Entry {
		r := &evidence.Renewal{Cleared: true}
		now := signed.Ledger.Positions(signed.Vehicle.Engine)
		for _, k := range kinds {
			in, _ := now.Free(k, "cyl-4")
			r.Parts = append(r.Parts, evidence.Renewed{Place: "cyl-4", Out: now.Off(k, "cyl-4"), In: in, Fate: evidence.Scrapped})
		}
		return evidence.Entry{Body: r}
	}
	clean, stays := jobtest.Counts(18_750, 0, 0, 0, 0), jobtest.Counts(3000, 0, 0, 0, 190)
	closing := evidence.Entry{Body: &evidence.Closing{Ending: evidence.EndedProven}}
	for name, c := range map[string]struct {
		then   []evidence.Entry
		result Result // "" for no outcome
		learnt bool
		vain   int
	}{
		"signed":         {nil, "", false, 0},
		"renewed":        {[]evidence.Entry{renew(engine.Coil)}, "", false, 0},
		"proven":         {[]evidence.Entry{renew(engine.Coil), clean}, Held, false, 0},
		"closed":         {[]evidence.Entry{renew(engine.Coil), clean, closing}, Held, true, 0},
		"two at once":    {[]evidence.Entry{renew(engine.Coil, engine.Plug), clean, closing}, Unattributed, false, 0},
		"not fixed":      {[]evidence.Entry{renew(engine.Coil), stays}, Failed, false, 1},
		"closed at once": {[]evidence.Entry{renew(engine.Coil), closing}, "", false, 0},
	} {
		j := jobtest.With(t, signed, c.then...)
		o, ok := Of(j, diagnose.Assess(j))
		if ok != (c.result != "") || ok && (o.Result != c.result || o.Unit != engine.Coil || o.Layout != engine.CoilOnPlug || o.P < 0.95 || (o.Learnt == engine.Coil) != c.learnt || o.InVain != c.vain) {
			t.Errorf("%s: %v %+v, want %q", name, ok, o, c.result)
		}
		if ok && (o.Took <= 0 || o.Usual <= 0) {
			t.Errorf("%s: took %.0f of %.0f min", name, o.Took, o.Usual)
		}
	}
}

// Counts by hand: 18 of 20 verdicts held. The exact bounds of 18 of 20 are 68.3 % and 98.8 % (Clopper and
// Pearson; handbook tables, from memory). One that came back, one that failed; one is counted apart. Below 20
// there is no comparison with the stated probabilities.
func TestTally(t *testing.T) {
	var all []Outcome
	for i := range 20 {
		o := Outcome{Layout: engine.CoilOnPlug, Unit: engine.Coil, P: 0.96, Result: Held, Took: 50, Usual: 40, Parts: 1}
		switch {
		case i < 5:
			o.P, o.Unit = 0.72, engine.Plug
		case i < 8:
			o.Layout = engine.WastedSpark
		}
		switch i {
		case 0:
			o.Result, o.InVain = Failed, 1
		case 19:
			o.Result, o.InVain = CameBack, 1
		}
		all = append(all, o)
	}
	s := Tally(append(all, Outcome{Layout: engine.CoilOnPlug, Unit: engine.Coil, Result: Unattributed, Parts: 2}))
	if s.Held.K != 18 || s.Held.N != 20 || math.Abs(s.Held.Low-0.683) > 0.001 || math.Abs(s.Held.High-0.988) > 0.001 || s.Unattributed != 1 || s.CameBack != 1 {
		t.Errorf("%+v", s)
	}
	if s.Took != 1000 || s.Usual != 800 || s.Parts != 22 || s.InVain != 2 {
		t.Errorf("minutes %g of %g, parts %d of %d", s.Took, s.Usual, s.InVain, s.Parts)
	}
	if len(s.Bins) != 2 || s.Bins[0].Held.K != 4 || s.Bins[0].Held.N != 5 || math.Abs(s.Bins[0].Said-0.72) > 1e-12 || s.Bins[1].Held.K != 14 || s.Bins[1].Held.N != 15 {
		t.Errorf("bins %+v", s.Bins)
	}
	if len(s.ByLayout) != 2 || s.ByLayout[1].Held.N != 3 || len(s.ByKind) != 2 || s.ByKind[0].Held.N != 15 {
		t.Errorf("layouts %+v, kinds %+v", s.ByLayout, s.ByKind)
	}
	if few := Tally(all[:19]); few.Bins != nil || few.Held.N != 19 {
		t.Errorf("19 verdicts: %+v", few)
	}
	if none := Tally(nil); none.Held.N != 0 || none.Held.P() != 0 {
		t.Errorf("none: %+v", none)
	}
	if s := NewShare(0, 0); s.Low != 0 || s.High != 1 {
		t.Errorf("0 of 0: %+v", s)
	}
}
