package diagnose

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
)

// everywhere is steady kilovolts of all cylinders, as many as there are figures.
func everywhere(kV ...float64) evidence.Entry {
	set := &evidence.Readings{Measure: evidence.KVSteady}
	for i, x := range kV {
		set.Each = append(set.Each, evidence.Reading{Place: engine.At(engine.Cylinder(i + 1)), Figures: []float64{x, 0.85 * x, 1.2 * x}})
	}
	return evidence.Entry{Readings: set}
}

// Lean on all cylinders raises the kilovolts of all of them, and none stands out: a reading that
// is alike everywhere does not clear what all share (C: the siblings are no measure then), while it
// does clear what one cylinder has for itself.
func TestWhatAllShareStandsOutNowhere(t *testing.T) {
	j := with(t, shelf(t, "six-pairs"), counts(3500, 900, 870, 910, 880, 890, 860))
	before, after := Assess(j), Assess(with(t, j, everywhere(13, 12.6, 13.3, 13.1, 12.8, 13.2)))
	for _, key := range []string{"air leak engine", "fuel supply engine"} {
		if x, y := p(t, before, key), p(t, after, key); y < 0.5*x {
			t.Errorf("%s: %.3f, and %.3f after kilovolts that are alike on all six", key, x, y)
		}
	}
	one := with(t, shelf(t, "six-pairs"), counts(3500, 0, 0, 910, 1, 0, 0))
	if x, y := p(t, Assess(one), "compression cyl-3"), p(t, Assess(with(t, one, everywhere(9, 9.2, 9.1, 8.9, 9, 9.1))), "compression cyl-3"); y > 0.5*x {
		t.Errorf("compression of one cylinder: %.3f, and %.3f after kilovolts in line with the others", x, y)
	}
}

// The answers of one test in several places, by hand: four fifths of one answer everywhere, one
// fifth of each for itself; a witness who saw it says nothing one time in a hundred.
func TestOneTestInSeveralPlacesByHand(t *testing.T) {
	j := shelf(t, "six-distributor")
	for _, place := range []engine.Place{"cyl-1", "cyl-2", "cyl-3"} {
		j = with(t, j, evidence.Entry{Check: &evidence.Check{Test: evidence.Spark, Place: place, Result: "weak"}})
	}
	a := Assess(j)
	row, sound := checkRows[evidence.Spark]["coil.secondary-shorted"].Chance, checkRows[evidence.Spark][""].Chance
	const weak, empty = 1, 0.01
	cube := func(x float64) float64 { return x * x * x }
	alone := empty + (1-empty)*row[weak]/sound[weak]
	same := row[weak] * cube(empty+(1-empty)/sound[weak])
	for i := range row {
		if i != weak {
			same += row[i] * cube(empty)
		}
	}
	want := math.Log(oneAnswer*same + (1-oneAnswer)*cube(alone))
	got, bears := 0.0, 0
	for _, item := range a.weighing.scope(everything).items {
		for k, says := range item {
			if says != nil && a.Faults[k].Hypothesis.Mode.ID == "coil.secondary-shorted" && a.Faults[k].CuredAfter < 0 {
				got += says.ratio[rates-1]
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
func TestTheShopIsOneWitness(t *testing.T) {
	j := newJob(4)
	j.FailsWhen = evidence.Wet
	j = with(t, j, codes(2))
	first := p(t, Assess(j), "coil C2") / p(t, Assess(j), "plug P2")
	for _, c := range []evidence.Check{{Test: evidence.Spark, Place: "cyl-2", Result: "strong"}, {Test: evidence.Kilovolts, Place: "cyl-2", Result: "in-line"}} {
		j = with(t, j, evidence.Entry{Check: &c})
	}
	a := Assess(j)
	post := a.weighing.posterior(everything, false)
	before := Assess(with(t, func() (k job.Job) { k = newJob(4); k.FailsWhen = evidence.Wet; return k }(), codes(2)))
	was := before.weighing.posterior(everything, false)
	share := func(a *Assessment, post posterior, mode string) (sum float64) {
		for k, f := range a.Faults {
			if f.Hypothesis.Mode.ID == mode {
				sum += post.single[k]
			}
		}
		return sum
	}
	// Against what neither test asks about, a cracked coil loses no more than that it does not show.
	odds := func(a *Assessment, post posterior) float64 {
		return share(a, post, "coil.cracked") / share(a, post, fault.SomethingElse)
	}
	if times := odds(a, post) / odds(before, was); times < 1-inTheShop-1e-9 || times > 0.9 {
		t.Errorf("two dry tests speak %.3f times for a cracked coil, want at least %.2f; it stood %.2f times before its plug", times, 1-inTheShop, first)
	}
}

// Every mode has its severity: shares that sum to 1, the same on the grid; two of one rate have
// shares that sum to 1 as well.
func TestSeveritiesAreShares(t *testing.T) {
	for _, row := range Severities {
		sum := 0.0
		for _, x := range row.Shares {
			sum += x
		}
		if math.Abs(sum-1) > 1e-9 || row.Source == "" {
			t.Errorf("%v: shares that sum to %v", row.Modes, sum)
		}
		used := false
		for _, m := range fault.Catalogue {
			used = used || matches(row.Modes, m.ID)
		}
		if !used {
			t.Errorf("%v names no mode", row.Modes)
		}
	}
	for _, said := range append(WhenOrder[:], evidence.AnyCondition, always) {
		told := tempers{said, map[[2]any]*temper{}}
		for _, x := range fault.Catalogue {
			of, grid := told.of(x), 0.0
			for _, s := range of.severe {
				grid += math.Exp(s) / rates
			}
			if math.Abs(grid-1) > 1e-9 || of.told <= 0 || of.told > 1+1e-9 {
				t.Errorf("%s, %q: the grid sums to %v, said %v", x.ID, said, grid, of.told)
			}
			for _, y := range fault.Catalogue[:8] {
				sum, other := 0.0, told.of(y).severe
				for r := range rates {
					sum += math.Exp(of.severe[r]+other[r]-oneRate(of.severe, other)) / rates
				}
				if math.Abs(sum-1) > 1e-9 {
					t.Errorf("%s with %s: %v", x.ID, y.ID, sum)
				}
			}
		}
	}
}

// Every kind of fault has its manner, whose shares sum to 1, and what is said of it at each rate is
// something. The habit of one that has a condition of its own is that condition until another is said.
func TestManners(t *testing.T) {
	for _, mode := range fault.Catalogue {
		m := manners[mode.ID]
		if m == nil || m.Source == "" {
			t.Fatalf("%s has no manner", mode.ID)
		}
		for _, rate := range hit {
			sum := m.says(always, rate)
			for _, c := range WhenOrder {
				sum += m.says(c, rate)
			}
			if math.Abs(sum-1) > 1e-9 || m.says(evidence.AnyCondition, rate) != 1 {
				t.Errorf("%s at %.3f: all that can be said sums to %v", mode.ID, rate, sum)
			}
		}
		if h := m.habit(evidence.AnyCondition); h < 0 || (h == 0) != m.Alike {
			t.Errorf("%s has no habit", mode.ID)
		}
	}
	// Common practice: what was said to be hot only, and runs clean at idle, is no worn gap; a
	// connector that makes no contact does not wait for heat.
	weak, gap, contact := manners["coil.weak-hot"], manners["plug.worn-gap"], manners["connector.loose"]
	if weak.says(evidence.Hot, 0.5) < 10*gap.says(evidence.Hot, 0.5) || contact.says(always, 0.5) < 5*contact.says(evidence.Hot, 0.5) {
		t.Error("what drivers say does not tell them apart")
	}
	clean := func(m *Manner, said, run evidence.Condition) float64 {
		return showing(said, run)[m.habit(said)][12][len(Levels)-1]
	}
	if of := clean(weak, evidence.AnyCondition, evidence.Idle); of < 5*clean(weak, evidence.AnyCondition, evidence.Hot) || of < 5*clean(contact, evidence.AnyCondition, evidence.Idle) {
		t.Error("a coil that is weak when hot shows at idle")
	}
	if asMuch(evidence.Snap) != evidence.Load || clean(gap, evidence.Load, evidence.Load) > clean(gap, evidence.Load, evidence.Idle)/5 {
		t.Error("a gap that fails under load fails at idle")
	}
}
