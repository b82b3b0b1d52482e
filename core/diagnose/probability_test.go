package diagnose

import (
	"testing"

	"glenmist/core/infer"
	"glenmist/core/jobtest"
)

// The ledger refuses a verdict with a probability above 1, so rounding must not carry a sum of shares beyond it.
func TestSuspectProbabilityIsAtMostOne(t *testing.T) {
	a := Assess(jobtest.Shelf(t, "four-across"))
	for k := range a.Faults { // as rounding leaves it: each a little more than its share
		a.Faults[k].P = 0
		if f := a.Faults[k].Hypothesis; f.Tag == "P1" {
			a.Faults[k].P = 0.5
		}
	}
	for _, s := range suspects(a, infer.Posterior{}) {
		if s.P < 0 || s.P > 1 {
			t.Errorf("%s: %v, want from 0 to 1", s.Key(), s.P)
		}
	}
}
