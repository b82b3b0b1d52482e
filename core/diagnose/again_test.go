package diagnose

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/jobtest"
	"glenmist/core/part"
)

// A test made again with another part in it tells something new only of what has moved: a
// coil that sat there both times has given its answer, one that came in has not. The plug
// is not in a spark test.
func TestTheSameTestAgain(t *testing.T) {
	spark := func() evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-2", Result: "strong"}}
	}
	kilovolts := func() evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: evidence.Kilovolts, Place: "cyl-2", Result: "in-line"}}
	}
	seen := jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 200, 1, 0))
	plugs := func(test func() evidence.Entry, again bool) *Assessment {
		j := jobtest.With(t, seen, test(), jobtest.Swap24(seen, engine.Plug), jobtest.Counts(3000, 0, 190, 0, 1))
		if again {
			j = jobtest.With(t, j, test())
		}
		return Assess(j)
	}
	for name, test := range map[string]func() evidence.Entry{"spark": spark, "kilovolts": kilovolts} {
		once, twice := plugs(test, false), plugs(test, true)
		for _, key := range []string{"coil C2", "connector cyl-2", "injector cyl-2"} {
			before, after := p(t, once, key), p(t, twice, key)
			// Only the plug that came in, and what was left loose when it was put in, can make it smaller, and hardly do.
			if math.Abs(math.Log(after/before)) > 0.2 {
				t.Errorf("%s again with another plug: %s goes from %.4f to %.4f", name, key, before, after)
			}
		}
	}
	coils := jobtest.With(t, seen, spark(), jobtest.Swap24(seen, engine.Coil, engine.Boot), jobtest.Counts(3000, 0, 190, 0, 1))
	before, after := p(t, Assess(coils), "coil C4"), p(t, Assess(jobtest.With(t, coils, spark())), "coil C4")
	if after >= before {
		t.Errorf("a spark test of the coil that came in: %.5f, then %.5f", before, after)
	}
}

// What was seen as things came off speaks of how they sat before, whatever the hands have
// cured since; the same look after the move does not.
func TestSeenOnTheWay(t *testing.T) {
	notHome := evidence.Seen{Tag: part.Of(engine.Boot, "cyl-2"), Finding: evidence.BootNotHome}
	seen := jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 200, 1, 0))
	onTheWay := jobtest.Look(notHome)
	onTheWay.Look().Moving = true
	way := Assess(jobtest.With(t, seen, onTheWay, jobtest.Swap24(seen, engine.Coil, engine.Boot), jobtest.Counts(3000, 0, 0, 1, 0), jobtest.Counts(3000, 0, 0, 0, 0)))
	if got := way.Suspects[0]; got.Key() != "seat cyl-2" || got.P < 0.8 {
		t.Errorf("seen on the way: %s at %.2f leads", got.Name(), got.P)
	}
	none := Assess(jobtest.With(t, seen, jobtest.Swap24(seen, engine.Coil, engine.Boot), jobtest.Counts(3000, 0, 0, 1, 0), jobtest.Counts(3000, 0, 0, 0, 0)))
	if p(t, way, "seat cyl-2") <= p(t, none, "seat cyl-2") {
		t.Errorf("not seen, it stands at %.2f", p(t, none, "seat cyl-2"))
	}
	// A coil move neither tightens nor dries the plug beneath.
	for i := range none.Faults {
		if f := &none.Faults[i]; f.Hypothesis.Mode.ID == fault.PlugLoose && f.CuredAfter >= 0 {
			t.Errorf("%s was cured by a hand on the coil", f.Hypothesis.Key())
		}
	}
}

// A dead cylinder is seldom something that is in no list, and trims that are read add up.
func TestUnlistedCauseIsSeldomDead(t *testing.T) {
	slight, dead := Assess(jobtest.With(t, jobtest.AnyTime(4), jobtest.Counts(3000, 0, 60, 0, 0))), Assess(jobtest.With(t, jobtest.AnyTime(4), jobtest.Counts(3000, 0, 1450, 3, 2)))
	whatElse := func(a *Assessment) (sum float64) {
		for _, w := range a.JointHypotheses {
			if w.Faults[0].Hypothesis.Mode.ID == fault.SomethingElse {
				sum += w.P
			}
		}
		return sum
	}
	if a, b := whatElse(slight), whatElse(dead); a == 0 || b > a/3 {
		t.Errorf("slight %.4f, dead %.4f", a, b)
	}
	for i := range dead.JointHypotheses {
		w := &dead.JointHypotheses[i]
		sum := dead.TrimBetween(1, math.Inf(-1), -10)(w) + dead.TrimBetween(1, -10, 10)(w) + dead.TrimBetween(1, 10, math.Inf(1))(w)
		if math.Abs(sum-1) > 1e-9 {
			t.Fatalf("%s: trims sum to %v", w.Key(), sum)
		}
	}
}
