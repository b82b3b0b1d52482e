package diagnose

import (
	"math"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
)

// v8 is a V8 with leads and a misfire on cylinder 2, and a capture in which that cylinder shows
// some figures beside seven that are alike.
func v8(t *testing.T) (j job.Job, capture func(number int, mine ...float64) evidence.Entry) {
	t.Helper()
	p, _ := engine.FindPattern("v8-leads")
	j = suspected(t)
	j.Vehicle.Engine = p.Engine()
	return j, func(number int, mine ...float64) evidence.Entry {
		r := &evidence.Readings{Measure: evidence.KVWave, Capture: number}
		for c := engine.Cylinder(1); c <= 8; c++ {
			figures := []float64{9 + float64(c)/10, 7.8 + float64(c)/10, 10.4 + float64(c)/10, 1.4, 1.2, -0.1, 100, 8}
			if c == 2 {
				figures = mine
			}
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c), Figures: figures})
		}
		return evidence.Entry{Condition: evidence.Idle, Readings: r}
	}
}

// A capture stands among the reasons with what it looks like; a second one of the same says little
// more; and beside kilovolts of a clamp it is the one that counts, whichever came first.
func TestCaptureAmongTheReasons(t *testing.T) {
	j, capture := v8(t)
	wide := []float64{15, 13, 17, 1, 1.7, -0.1, 100, 8}
	one := with(t, j, capture(3, wide...))
	a := Assess(one).Explain()
	lead := a.Suspects[0]
	if lead.Tag != "P2" {
		t.Fatalf("%s leads", lead.Name())
	}
	said := ""
	for _, r := range lead.Reasons {
		said += r.Text + "\n"
	}
	if !strings.Contains(said, "capture 3: cylinder 2: a wide gap") {
		t.Errorf("the reasons do not say it:\n%s", said)
	}
	before, once, twice := p(t, Assess(j), "plug P2"), p(t, Assess(one), "plug P2"), p(t, Assess(with(t, one, capture(4, wide...))), "plug P2")
	odds := func(p float64) float64 { return math.Log(p / (1 - p)) }
	if once <= before || odds(twice)-odds(once) > 0.2*(odds(once)-odds(before)) {
		t.Errorf("before %.3f, with one capture %.3f, with two alike %.3f", before, once, twice)
	}
	clamp := evidence.Entry{Readings: &evidence.Readings{Measure: evidence.KVSteady}}
	for c := engine.Cylinder(1); c <= 8; c++ {
		clamp.Readings.Each = append(clamp.Readings.Each, evidence.Reading{Place: engine.At(c), Figures: []float64{9 + float64(c)/10}})
	}
	for _, both := range [][]evidence.Entry{{clamp, capture(3, wide...)}, {capture(3, wide...), clamp}} {
		if got := p(t, Assess(with(t, j, both...)), "plug P2"); math.Abs(got-once) > 0.02 {
			t.Errorf("with a clamp beside it %.3f, the capture alone %.3f", got, once)
		}
	}
	if quiet := Assess(with(t, j, capture(5, 9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8))).Explain(); p(t, quiet, "plug P2") >= before {
		t.Error("in line with the others, and the worn plug is as likely as before")
	}
}

// What a capture could not tell is left out at its end, and the rest speaks: each figure more
// leaves less doubt of shorted turns, which only the ringing shows for sure.
func TestShortCaptures(t *testing.T) {
	j, capture := v8(t)
	shorted := []float64{6, 5, 7, 0.9, 1.1, 0, 100, 1}
	share := func(figures int) (sum float64) {
		e := capture(1, shorted[:figures]...)
		for i := range e.Readings.Each {
			e.Readings.Each[i].Figures = e.Readings.Each[i].Figures[:figures]
		}
		for _, f := range Assess(with(t, j, e)).Faults {
			if f.Hypothesis.Mode.ID == "coil.secondary-shorted" {
				sum += f.P
			}
		}
		return sum
	}
	if peaks, arcs, all := share(3), share(6), share(8); all < 3*arcs || all < 3*peaks {
		t.Errorf("of peaks alone %.4f, with the arcs %.4f, with the ringing %.4f", peaks, arcs, all)
	}
}
