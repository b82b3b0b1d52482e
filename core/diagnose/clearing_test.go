package diagnose

import (
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/jobtest"
)

// Counts that are set aside as history weigh nothing and contradict nothing.
func TestCountsSetAsideWeighNothing(t *testing.T) {
	old := jobtest.Counts(30_000, 900, 1, 0, 2)
	old.Counters().Fresh = false
	j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), old)
	if a := Assess(j); a.Worst() != 1 || a.SetAside(1) != Weighed {
		t.Fatalf("worst is %d, aside %v", a.Worst(), a.SetAside(1))
	}
	aside := jobtest.With(t, j, evidence.Entry{Body: &evidence.Clearing{Codes: true, Counters: true, History: []int{2}}}, jobtest.Counts(3000, 0, 150, 0, 0))
	a := Assess(aside)
	if a.Worst() != 2 || a.SetAside(1) != History || len(a.Contradictions()) > 0 {
		t.Errorf("worst is %d, aside %v, contradictions %v", a.Worst(), a.SetAside(1), a.Contradictions())
	}
	never := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 150, 0, 0))
	if got, want := a.Suspects[0].P, Assess(never).Suspects[0].P; got < want-1e-9 || got > want+1e-9 {
		t.Errorf("the lead has %.6f, without the run %.6f", got, want)
	}
}

// A code that is read after a clearing is new, also where the move before it left the codes as they were.
func TestCodesAfterAClearingAreNew(t *testing.T) {
	moved := func(wiped bool) *Assessment {
		j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 1, 212, 0, 2))
		move := jobtest.Swap24(j, "coil")
		move.Move().Cleared = false
		j = jobtest.With(t, j, move)
		if wiped {
			j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Clearing{Codes: true}})
		}
		return Assess(jobtest.With(t, j, jobtest.Codes(2)))
	}
	if a := moved(false); a.SetAside(len(a.Moments)-1) != OldCode {
		t.Error("the code that was there before the move counts")
	}
	a := moved(true)
	if a.SetAside(len(a.Moments)-1) != Weighed {
		t.Error("the code that came after the clearing does not count")
	}
}
