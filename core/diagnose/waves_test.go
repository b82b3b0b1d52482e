package diagnose

import (
	"testing"

	"glenmist/core/fault"
	"glenmist/core/jobtest"
)

// What a capture could not tell is left out at its end, and the rest speaks: each figure more
// leaves less doubt of shorted turns, which only the ringing shows for sure.
func TestShortCaptures(t *testing.T) {
	j, capture := jobtest.V8(t)
	shorted := []float64{6, 5, 7, 0.9, 1.1, 0, 100, 1}
	share := func(figures int) (sum float64) {
		e := capture(1, shorted[:figures]...)
		for i := range e.Readings().Each {
			e.Readings().Each[i].Figures = e.Readings().Each[i].Figures[:figures]
		}
		for _, f := range Assess(jobtest.With(t, j, e)).Faults {
			if f.Hypothesis.Mode.ID == fault.CoilSecondaryShorted {
				sum += f.P
			}
		}
		return sum
	}
	if peaks, sparks, all := share(3), share(6), share(8); all < 3*sparks || all < 3*peaks {
		t.Errorf("of peaks alone %.4f, with the sparks %.4f, with the ringing %.4f", peaks, sparks, all)
	}
}
