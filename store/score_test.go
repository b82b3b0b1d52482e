package store_test

import (
	"testing"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/plan"
	"glenmist/core/score"
)

// closedCoil is a job on a coil that was proven and closed.
func closedCoil(t *testing.T, fleet string) job.Job {
	t.Helper()
	j := jobtest.TracedCoil(t)
	j.Vehicle.Fleet, j.Number = fleet, ""
	signed, err := plan.For(j, diagnose.Assess(j)).Sign()
	if err != nil {
		t.Fatal(err)
	}
	j = jobtest.With(t, j, signed)
	now := j.Ledger.Positions(j.Vehicle.Engine)
	in, _ := now.Free(engine.Coil, "cyl-4")
	return jobtest.With(t, j, evidence.Entry{Body: &evidence.Renewal{Cleared: true, Parts: []evidence.Renewed{{Place: "cyl-4", Out: now.Off(engine.Coil, "cyl-4"), In: in, Fate: evidence.Scrapped}}}},
		jobtest.Counts(18_750, 0, 0, 0, 0), evidence.Entry{Body: &evidence.Closing{Ending: evidence.EndedProven}})
}

// A closed job counts for the score and for learning, one from a file only if the workshop says so, and one that
// came back no more.
func TestWhatCountsForTheScore(t *testing.T) {
	s, _ := fresh(t)
	counted := func(imported bool) (all, held, seen int) {
		t.Helper()
		list, err := s.Outcomes(t.Context(), imported)
		if err != nil {
			t.Fatal(err)
		}
		for _, o := range list {
			if o.Result == score.Held {
				held++
			}
		}
		set, _, err := s.Shop(t.Context())
		if err != nil {
			t.Fatal(err)
		}
		for _, c := range set.Seen {
			seen += c.Jobs
		}
		return len(list), held, seen
	}
	check := func(what string, imported bool, all, held, seen int) {
		t.Helper()
		if a, h, n := counted(imported); a != all || h != held || n != seen {
			t.Errorf("%s: %d outcomes, %d held, %d seen; want %d, %d, %d", what, a, h, n, all, held, seen)
		}
	}
	check("nothing", true, 0, 0, 0)
	own, err := s.Open(t.Context(), closedCoil(t, "OW-1"))
	if err != nil {
		t.Fatal(err)
	}
	check("one of ours", false, 1, 1, 1)
	if _, err := s.Import(t.Context(), closedCoil(t, "IM-1")); err != nil {
		t.Fatal(err)
	}
	check("and an imported one", false, 1, 1, 1)
	set, version, err := s.Shop(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	set.CountImported = true
	if err := s.SetShop(t.Context(), set, version); err != nil {
		t.Fatal(err)
	}
	check("imported ones count", true, 2, 2, 2)

	old, err := s.Job(t.Context(), own)
	if err != nil {
		t.Fatal(err)
	}
	back := old.Job
	back.Number, back.Ledger, back.Opened = "", nil, back.Opened.Add(42*24*time.Hour)
	c := plan.ComebackOf(old.Job, diagnose.Assess(old.Job), back.Opened, back.Distance)
	back = jobtest.With(t, back, evidence.Entry{Body: &c})
	number, err := s.Open(t.Context(), back)
	if err != nil {
		t.Fatal(err)
	}
	check("one came back", true, 2, 1, 1)
	if as, err := s.CameBackAs(t.Context(), own); err != nil || len(as) != 1 || as[0] != number {
		t.Errorf("came back as %v, %v", as, err)
	}
	// It is another trouble after all: the old job counts again.
	rec, err := s.Job(t.Context(), number)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := s.Append(t.Context(), rec, evidence.Entry{By: "x", Done: time.Now(), Body: &evidence.Withdraw{Entry: 1, Reason: "another trouble"}}); err != nil {
		t.Fatal(err)
	}
	check("it did not come back", true, 2, 2, 2)
}
