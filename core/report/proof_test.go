package report

import (
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/plan"
)

// The proof goes from none over not yet to proven, and the probability that the repair holds rises with each
// clean run. The prior is the verdict's own probability (Bayes' rule).
func TestProofFollowsTheRuns(t *testing.T) {
	j := jobtest.New(4)
	if r := Of(j); r.Proof != nil {
		t.Errorf("a new job has the proof %+v", *r.Proof)
	}
	j = jobtest.TracedCoil(t)
	signed, err := plan.For(j, diagnose.Assess(j)).Sign()
	if err != nil {
		t.Fatal(err)
	}
	j = jobtest.With(t, j, signed)
	now := j.Ledger.Positions(j.Vehicle.Engine)
	in, _ := now.Free(engine.Coil, "cyl-4")
	before := signed.Verdict().P
	for _, c := range []struct {
		add   evidence.Body
		state string
		known bool
	}{
		{nil, "none", false},
		{&evidence.Renewal{Cleared: true, Parts: []evidence.Renewed{{Place: "cyl-4", Out: now.Off(engine.Coil, "cyl-4"), In: in, Fate: evidence.Scrapped}}}, "not-yet", true},
		{jobtest.Counts(300, 0, 0, 0, 0).Body, "not-yet", true},
		{jobtest.Counts(3000, 0, 0, 0, 0).Body, "proven", true},
	} {
		if c.add != nil {
			j = add(t, j, c.add)
		}
		p := Of(j).Proof
		if p == nil || p.State != c.state || (p.Fixed != nil) != c.known || (p.Needs.Events != nil) != c.known {
			t.Fatalf("after %T: %+v, want %s", c.add, p, c.state)
		}
		if !c.known {
			continue
		}
		if *p.Fixed < before-1e-9 || *p.Fixed > 1 || (c.state == "proven") != (*p.Needs.Events == 0) {
			t.Errorf("%s: holds at %.4f after %.4f, needs %d", c.state, *p.Fixed, before, *p.Needs.Events)
		}
		before = *p.Fixed
	}
}

func add(t *testing.T, j job.Job, body evidence.Body) job.Job {
	t.Helper()
	e := jobtest.Counts(2, 0, 0, 0, 0)
	e.Body = body
	return jobtest.With(t, j, e)
}
