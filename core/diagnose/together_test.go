package diagnose

import (
	"math"
	"strconv"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
)

// everywhere is steady kilovolts of all cylinders, as many as there are figures.
func everywhere(kV ...float64) evidence.Entry {
	set := &evidence.Readings{Measure: evidence.KVSteady}
	for i, x := range kV {
		set.Each = append(set.Each, evidence.Reading{Place: engine.At(engine.Cylinder(i + 1)), Figures: []float64{x, 0.85 * x, 1.2 * x}})
	}
	return evidence.Entry{Body: set}
}

// Lean on all cylinders raises the kilovolts of all of them, and none stands out: a reading that
// is alike everywhere does not clear what all share (C: the siblings are no measure then), while it
// does clear what one cylinder has for itself.
func TestWhatAllShareStandsOutNowhere(t *testing.T) {
	j := jobtest.With(t, jobtest.Shelf(t, "six-pairs"), jobtest.Counts(3500, 900, 870, 910, 880, 890, 860))
	before, after := Assess(j), Assess(jobtest.With(t, j, everywhere(13, 12.6, 13.3, 13.1, 12.8, 13.2)))
	for _, key := range []string{"air leak engine", "fuel supply engine"} {
		if x, y := p(t, before, key), p(t, after, key); y < 0.5*x {
			t.Errorf("%s: %.3f, and %.3f after kilovolts that are alike on all six", key, x, y)
		}
	}
	one := jobtest.With(t, jobtest.Shelf(t, "six-pairs"), jobtest.Counts(3500, 0, 0, 910, 1, 0, 0))
	if x, y := p(t, Assess(one), "compression cyl-3"), p(t, Assess(jobtest.With(t, one, everywhere(9, 9.2, 9.1, 8.9, 9, 9.1))), "compression cyl-3"); y > 0.5*x {
		t.Errorf("compression of one cylinder: %.3f, and %.3f after kilovolts in line with the others", x, y)
	}
}

// The answers of one test in several places, by hand: four fifths of one answer everywhere, one
// fifth of each for itself; a witness who saw it says nothing two times in a thousand.
func TestOneTestInSeveralPlacesByHand(t *testing.T) {
	j := jobtest.Shelf(t, "six-distributor")
	for _, place := range []engine.Place{"cyl-1", "cyl-2", "cyl-3"} {
		j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Check{Test: evidence.Spark, Place: place, Result: "weak"}})
	}
	a := Assess(j)
	row, sound := knowledge.Shipped.Test(evidence.Spark, fault.CoilSecondaryShorted), knowledge.Shipped.Test(evidence.Spark, "")
	const weak, empty = 1, 0.002
	cube := func(x float64) float64 { return x * x * x }
	alone := empty + (1-empty)*row[weak]/sound[weak]
	same := row[weak] * cube(empty+(1-empty)/sound[weak])
	for i := range row {
		if i != weak {
			same += row[i] * cube(empty)
		}
	}
	want := math.Log(knowledge.OneAnswer*same + (1-knowledge.OneAnswer)*cube(alone))
	got, bears := 0.0, 0
	for _, item := range a.weighing.evidence(everything).Items {
		for k, says := range item {
			if says != nil && a.Faults[k].Hypothesis.Mode.ID == fault.CoilSecondaryShorted && a.Faults[k].CuredAfter < 0 {
				got += says.LogRatio[infer.Rates-1]
				bears++
			}
		}
	}
	if bears != 1 || math.Abs(got-want) > 1e-9 {
		t.Errorf("three weak sparks speak %v in %d items, by hand %v in one", got, bears, want)
	}
}

// A fault that fails in the wet shows in a dry shop in all that is asked there or in nothing: no
// number of tests that find nothing tells more than that it does not show.
func TestDryTestsOfAWetFaultCountOnce(t *testing.T) {
	j := jobtest.New(4)
	j.FailsWhen = evidence.Wet
	j = jobtest.With(t, j, jobtest.Codes(2))
	first := p(t, Assess(j), "coil C2") / p(t, Assess(j), "plug P2")
	for _, c := range []evidence.Check{{Test: evidence.Spark, Place: "cyl-2", Result: "strong"}, {Test: evidence.Kilovolts, Place: "cyl-2", Result: "in-line"}} {
		j = jobtest.With(t, j, evidence.Entry{Body: &c})
	}
	a := Assess(j)
	post := a.weighing.posterior(everything, false)
	before := Assess(jobtest.With(t, func() (k job.Job) { k = jobtest.New(4); k.FailsWhen = evidence.Wet; return k }(), jobtest.Codes(2)))
	was := before.weighing.posterior(everything, false)
	share := func(a *Assessment, post infer.Posterior, mode fault.ModeID) (sum float64) {
		for k, f := range a.Faults {
			if f.Hypothesis.Mode.ID == mode {
				sum += post.Single[k]
			}
		}
		return sum
	}
	// Against what neither test asks about, a cracked coil loses no more than that it does not show.
	odds := func(a *Assessment, post infer.Posterior) float64 {
		return share(a, post, "coil.cracked") / share(a, post, fault.SomethingElse)
	}
	if times := odds(a, post) / odds(before, was); times < 1-knowledge.InTheShop-1e-9 || times > 0.9 {
		t.Errorf("two dry tests speak %.3f times for a cracked coil, want at least %.2f; it stood %.2f times before its plug", times, 1-knowledge.InTheShop, first)
	}
}

// Kilovolts that are high at both ends of a coil are one open lead: that it raises both has been said
// when one reading is taken for both, and a worn plug beside it would explain one of them again. By
// the shares of the catalogue two faults at once are one job in twenty.
func TestOneWitnessIsNoSecondFault(t *testing.T) {
	j := jobtest.Shelf(t, "six-pairs")
	j.FailsWhen = evidence.Load
	e := everywhere(9.8, 10.1, 34, 10.2, 9.9, 10)
	mates := Assess(j).Engine.Circuit(3)
	for _, c := range mates.List() {
		e.Readings().Each[c-1].Figures = []float64{34, 29, 39}
	}
	a := Assess(jobtest.With(t, j, e))
	two := 0.0
	for _, w := range a.JointHypotheses {
		if len(w.Faults) == 2 {
			two += w.P
		}
	}
	lead := 0.0
	for _, c := range mates.List() {
		lead += p(t, a, "lead L"+strconv.Itoa(int(c)))
	}
	if two > 0.1 || lead < 0.8 {
		t.Errorf("two faults at once are believed at %.2f, a lead at %.2f", two, lead)
	}
}

// A trigger that never comes belongs to a dead cylinder, one that comes and goes to one that misses now and
// then: one severity shows in the counts and in the test.
func TestMissingTriggerBelongsToADeadCylinder(t *testing.T) {
	after := func(misfires int, answer evidence.ResultID) float64 {
		j := jobtest.With(t, jobtest.AnyTime(4), jobtest.Counts(3000, 0, misfires, 0, 0), evidence.Entry{Body: &evidence.Check{Test: evidence.TriggerPulse, Place: "cyl-2", Result: answer}})
		a := Assess(j)
		return p(t, a, "trigger wire cyl-2") + p(t, a, "driver cyl-2")
	}
	if missing, comes := after(1460, "missing"), after(1460, "intermittent"); missing < 1.4*comes {
		t.Errorf("dead: %.3f after no trigger, %.3f after one that comes and goes", missing, comes)
	}
	if missing, comes := after(90, "missing"), after(90, "intermittent"); comes < 2*missing {
		t.Errorf("now and then: %.3f after no trigger, %.3f after one that comes and goes", missing, comes)
	}
}
