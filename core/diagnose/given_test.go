package diagnose

import (
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
)

// Kilovolts in line on a dead cylinder clear what leaks, and on one that misfires now and then they do
// not (physics: the usual spark is one that fails, or one that fires); where next to nothing is read, sparks
// are missing, and a spark that comes and goes over a wide gap is not a weak one.
func TestWhatIsUsualGoesByTheRate(t *testing.T) {
	kV := func(of ...float64) evidence.Entry {
		r := &evidence.Readings{Measure: evidence.KVSteady}
		for c, figures := range [][]float64{{9, 8, 10.5}, of, {9.2, 8, 10.6}, {8.8, 7.6, 10}} {
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(engine.Cylinder(c + 1)), Figures: figures})
		}
		return evidence.Entry{Condition: evidence.Idle, Body: r}
	}
	sparks := evidence.Entry{Condition: evidence.Idle, Body: &evidence.Sparks{Tester: "opened-plug", GapMM: 7, From: "boot", AirKPa: 100, AirCelsius: 20,
		Each: []evidence.Sparked{{Place: "cyl-2", Seen: "intermittent"}}}}
	odds := func(mode, other fault.ModeID, es ...evidence.Entry) float64 {
		sum := map[fault.ModeID]float64{}
		a := Assess(jobtest.With(t, jobtest.AnyTime(4), es...))
		for _, f := range a.Faults {
			sum[f.Hypothesis.Mode.ID] += f.P
		}
		return sum[mode] / sum[other]
	}
	for _, c := range []struct {
		what          string
		mode, other   fault.ModeID
		counts, entry evidence.Entry
		low, high     float64
	}{
		{"dead, kilovolts in line", "coil.cracked", "injector.electrical", jobtest.Counts(3000, 0, 1480, 0, 1), kV(9.1, 8, 10.4), 0, 0.5},
		{"one in fifty, kilovolts in line", "coil.cracked", "injector.electrical", jobtest.Counts(3000, 0, 30, 0, 1), kV(9.1, 8, 10.4), 0.9, 4},
		{"dead, low and steady", "coil.cracked", "injector.electrical", jobtest.Counts(3000, 0, 1480, 0, 1), kV(4.5, 4, 5.2), 10, 1e9},
		{"next to nothing", "connector.loose", "coil.cracked", jobtest.Counts(3000, 0, 1300, 0, 1), kV(0.3, 0.3, 11), 10, 1e9},
		{"sparks missing over a wide gap", "connector.loose", "coil.weak-load", jobtest.Counts(3000, 0, 400, 0, 1), sparks, 2, 1e9},
	} {
		before, after := odds(c.mode, c.other, c.counts), odds(c.mode, c.other, c.counts, c.entry)
		if times := after / before; times < c.low || times > c.high {
			t.Errorf("%s: %s against %s is %.3g times as likely, want %g to %g", c.what, c.mode, c.other, times, c.low, c.high)
		}
	}
}

// A figure misses a fault no more often than the plain answer of its test does, but for answers that
// figures cannot give: what a sound one shows by mistake is not what a fault shows.
func TestReadingMissesAFaultNoMoreOftenThanItsTest(t *testing.T) {
	for id, modes := range map[evidence.MeasureID][]fault.ModeID{
		evidence.LeadOhms: {"lead.open"}, evidence.CompressionDry: {"compression.valve"}, evidence.LeakDownLoss: {"compression.rings"},
		evidence.KVSteady: {"plug.worn-gap", "plug.closed-gap"}, evidence.FuelBar: {"fuel.low"}, evidence.InjectorOhms: {"injector.electrical"},
	} {
		m, _ := evidence.FindMeasure(id)
		for _, mode := range modes {
			plain := knowledge.Shipped.Test(m.Test, mode)[0]
			if got := knowledge.Shipped.Answers(id, mode)[0]; got > plain+0.01 {
				t.Errorf("%s: %s reads sound with %.3f, by the plain answer with %.3f", id, mode, got, plain)
			}
		}
	}
}
