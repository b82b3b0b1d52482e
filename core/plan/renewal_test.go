package plan

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
)

// renewed is the renewal of parts of cylinder 4.
func renewed(j job.Job, kinds ...part.Kind) evidence.Entry {
	const at = engine.Place("cyl-4")
	r := &evidence.Renewal{Cleared: true}
	now := j.Ledger.Positions(j.Vehicle.Engine)
	for _, k := range kinds {
		in, _ := now.Free(k, at)
		r.Parts = append(r.Parts, evidence.Renewed{Place: at, Out: now.Off(k, at), In: in, Fate: evidence.Scrapped})
	}
	return evidence.Entry{Body: r}
}

// signedCoil is a job with a signed verdict on coil C2, which sits at cylinder 4 after an exchange.
func signedCoil(t *testing.T) job.Job {
	t.Helper()
	j := jobtest.TracedCoil(t)
	e, err := For(j, diagnose.Assess(j)).Sign()
	if err != nil {
		t.Fatal(err)
	}
	return jobtest.With(t, j, e)
}

// A fix never lowers the probability of the verdict that it carried out, nothing is asked of a new
// part, and nothing is put back.
func TestRenewalKeepsTheVerdict(t *testing.T) {
	for name, c := range map[string]struct {
		kinds  []part.Kind
		cleans int
	}{
		"coil alone":             {[]part.Kind{engine.Coil}, 1},
		"coil and boot":          {[]part.Kind{engine.Coil, engine.Boot}, 1},
		"coil, several runs":     {[]part.Kind{engine.Coil, engine.Boot}, 4},
		"coil, nothing run yet":  {[]part.Kind{engine.Coil}, 0},
		"coil and plug together": {[]part.Kind{engine.Coil, engine.Boot, engine.Plug}, 2},
	} {
		j := signedCoil(t)
		signed, _ := j.Signed()
		unit := signed.Verdict().Unit
		before := SignedNow(diagnose.Assess(j), *signed.Verdict())
		j = jobtest.With(t, j, renewed(j, c.kinds...))
		for range c.cleans {
			j = jobtest.With(t, j, jobtest.Counts(18_750, 0, 0, 0, 0))
		}
		a := diagnose.Assess(j)
		if after := SignedNow(a, *signed.Verdict()); after < before-1e-4 {
			t.Errorf("%s: %s stood at %.5f, after the fix at %.5f", name, unit, before, after)
		}
		p := For(j, a)
		if at := RepairedAt(a, unit); at == 0 || settled(a)[unit] {
			t.Errorf("%s: repaired at %d, settled %v", name, at, settled(a))
		}
		for _, card := range append(p.Steps(), p.Next) {
			for _, r := range card.Parts {
				if r.Tag.IsNew() && r.To == engine.Bench || card.Step.ID == PutBack || a.Now.Renewed(r.Tag) {
					t.Errorf("%s: %s moves %s", name, card.Title, r.Tag)
				}
			}
			for _, seen := range card.Look {
				if seen.Tag.IsNew() || a.Now.Renewed(seen.Tag) {
					t.Errorf("%s: %s looks at %s", name, card.Title, seen.Tag)
				}
			}
		}
		if !strings.Contains(p.Next.Title, "rove") && !strings.Contains(p.Next.Title, "Run") && !strings.Contains(p.Next.Title, "not attributed") {
			t.Errorf("%s: next is %s", name, p.Next.Title)
		}
		// C4 sits at cylinder 2, where the old C2 belonged: it stays there.
		if away := a.Now.Away(); len(away) > 2*len(c.kinds) {
			t.Errorf("%s: %v are away", name, away)
		}
	}
}

// When the misfire stays after a renewal, the verdict is done with and the search goes on.
func TestFailedRenewalIsSettled(t *testing.T) {
	j := signedCoil(t)
	signed, _ := j.Signed()
	j = jobtest.With(t, j, renewed(j, engine.Coil, engine.Boot), jobtest.Counts(3000, 0, 1, 0, 190))
	a := diagnose.Assess(j)
	if !settled(a)[signed.Verdict().Unit] {
		t.Error("the verdict is not settled")
	}
	// The coil was seen to be bad, so a second fault is what is left: it leads now.
	if p := For(j, a); p.Next.Step.ID == FixAndProve || p.Lead.Key() == signed.Verdict().Unit {
		t.Errorf("next is %s, %s leads", p.Next.Title, p.Lead.Key())
	}
}
