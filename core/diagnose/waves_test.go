package diagnose

import (
	"testing"

	"glenmist/core/evidence"
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

// A coil that is weak under load fires all at idle, and on a snap its sparks miss and burn short: the snap of the capture shows
// the coil, and its kilovolts alone, which rise as the others', do not.
func TestSnapShowsAWeakCoil(t *testing.T) {
	j, capture := jobtest.V8(t)
	share := func(figures ...float64) (sum float64) {
		idle := capture(1, 9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8)
		snap := &evidence.Readings{Measure: evidence.KVSnapWave, Capture: 1}
		for i, one := range idle.Readings().Each {
			of := []float64{one.Figures[0], 20 + float64(i)/5, 0.7, 100}[:len(figures)]
			if i == 1 {
				of = figures
			}
			snap.Each = append(snap.Each, evidence.Reading{Place: one.Place, Figures: of})
		}
		a := Assess(jobtest.With(t, j, idle, evidence.Entry{Body: snap}))
		for _, s := range a.Shapes(*idle.Readings(), *snap) {
			if failing := len(figures) == 4 && figures[3] < 100; s.Abnormal != (failing && s.Cylinder == 2) || s.Abnormal && s.Words != riseWords[evidence.FailsOnSnap] {
				t.Errorf("%v: %+v", figures, s)
			}
		}
		for _, f := range a.Faults {
			if f.Hypothesis.Mode.ID == fault.CoilWeakLoad {
				sum += f.P
			}
		}
		return sum
	}
	if all, peaks, sound := share(9.2, 20, 0.2, 40), share(9.2, 20), share(9.2, 20, 0.7, 100); all < 2*peaks || peaks < sound {
		t.Errorf("with the sparks %.4f, of the kilovolts alone %.4f, with sound sparks %.4f", all, peaks, sound)
	}
}
