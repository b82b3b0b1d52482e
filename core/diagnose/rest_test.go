package diagnose

import (
	"slices"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/jobtest"
)

// An assessment at rest answers as it did before.
func TestRestChangesNothing(t *testing.T) {
	j := jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 200, 1, 0), evidence.Entry{Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-2", Result: "weak"}})
	a, rested := Assess(j), Assess(j)
	rested.Rest()
	a.AddReasons()
	rested.AddReasons()
	if x, y := a.RecomputePosterior(), rested.RecomputePosterior(); x != y {
		t.Errorf("%v before, %v after", x, y)
	}
	for i, s := range a.Suspects {
		if got := rested.Suspects[i]; got.P != s.P || !slices.Equal(got.Reasons, s.Reasons) {
			t.Errorf("%s: %+v before, %+v after", s.Name(), s, got)
		}
	}
}
