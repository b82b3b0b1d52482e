package plan

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// After a verdict the repair is asked for, and its proof; a misfire that stays leaves the
// unit behind, a few strays only once more the proof.
func TestAfterTheRepair(t *testing.T) {
	verdict := evidence.Entry{Body: &evidence.Verdict{Unit: "coil C2", P: 0.98}}
	renewed := evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: "C2", To: engine.Bench}, {Tag: "CS1", To: "cyl-2"}}}}
	site := evidence.Entry{Body: &evidence.Verdict{Unit: "connector cyl-2", P: 0.98}}
	put := evidence.Entry{Body: &evidence.Fit{Unit: "connector cyl-2", Cleared: true}}
	run := func(n ...int) evidence.Entry {
		return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Counters{Revolutions: 8000, Counts: n, Fresh: true}}
	}
	for name, c := range map[string]struct {
		then    []evidence.Entry
		settled bool
	}{
		"signed alone":             {[]evidence.Entry{verdict, run(0, 400, 0, 0)}, false},
		"renewed, not run":         {[]evidence.Entry{verdict, renewed}, false},
		"renewed and clean":        {[]evidence.Entry{verdict, renewed, run(0, 1, 0, 2)}, false},
		"renewed, still there":     {[]evidence.Entry{verdict, renewed, run(0, 400, 0, 0)}, true},
		"renewed, on another":      {[]evidence.Entry{verdict, renewed, run(0, 0, 160, 0)}, true},
		"a few strays":             {[]evidence.Entry{verdict, renewed, run(0, 0, 7, 0)}, false},
		"a few strays, twice":      {[]evidence.Entry{verdict, renewed, run(0, 0, 7, 0), run(9, 0, 0, 0)}, true},
		"put right, still there":   {[]evidence.Entry{site, put, run(0, 300, 0, 0)}, true},
		"another place put right":  {[]evidence.Entry{verdict, put, run(0, 300, 0, 0)}, false},
		"there before the repair":  {[]evidence.Entry{verdict, run(0, 400, 0, 0), renewed, run(0, 0, 0, 0)}, false},
		"watched, and still there": {[]evidence.Entry{verdict, renewed, {Body: &evidence.Watch{Cylinders: []engine.Cylinder{2}}}}, true},
	} {
		s := begin(t, 4).code(2).counts(0, 140, 1, 0)
		for _, e := range c.then {
			s.add(e)
		}
		a := diagnose.Assess(s.j)
		unit := c.then[0].Verdict().Unit
		if settled(a)[unit] != c.settled {
			t.Errorf("%s: settled %v", name, !c.settled)
		}
		p := For(s.j, a)
		if asks := p.Next.Step.ID == FixAndProve; asks == c.settled {
			t.Errorf("%s: the next step is %s", name, p.Next.Title)
		}
		if c.settled && (p.Verdict != nil && p.Verdict.Unit == unit || s.state() == "signed") {
			t.Errorf("%s: it is named again, or still stands as signed", name)
		}
	}
}

// A misfire that fits nothing is counted again before the job ends, and a job that ends
// with one says so; it never says then that it ran clean.
func TestEndsWithoutACause(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil().counts(1, 0, 0, 131)
	s.add(evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugNormal}, {Tag: "B2", Finding: evidence.BootSound}}}})
	sign, err := s.plan().Sign()
	if err != nil {
		t.Fatal(err)
	}
	s.add(sign).add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: "C2", To: engine.Bench}, {Tag: "CS1", To: "cyl-4"}}}}).counts(0, 1, 60, 2)
	p := s.plan()
	if p.Next.Step.ID != CountMisfires {
		t.Fatalf("after a misfire out of nowhere: %s", p.Next.Title)
	}
	if p = s.counts(1, 0, 64, 0).plan(); p.Next.Step.ID == EndUnresolved || diagnose.Assess(s.j).Worst() != 3 {
		t.Errorf("counted twice on cylinder 3: %s", p.Next.Title)
	}
	a := diagnose.Assess(begin(t, 4).code(2).counts(0, 140, 1, 0).j)
	if c := endUnresolved(a); !strings.Contains(c.Why, "still misfires on cylinder 2") || strings.Contains(c.Do+c.Why, "ran clean") {
		t.Errorf("%s %s", c.Do, c.Why)
	}
}

// A misfire that comes up where no part went is not explained by a fault before what the work
// disturbed has been put home and it was run again (section 6 of the trade).
func TestDisturbedInTheWork(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil().counts(1, 0, 64, 0)
	if p := s.plan(); p.Next.Step.ID != CountMisfires || !strings.Contains(p.Next.Title, "cylinder 3") || p.Verdict != nil || !p.Forced() || !slices.Contains(p.Next.Step.Cautions, highVoltage) {
		t.Errorf("after it moved to cylinder 3: %s", p.Next.Title)
	}
	if p := s.counts(1, 0, 66, 0).plan(); p.Next.Step.ID == CountMisfires {
		t.Errorf("after it stayed there: %s", p.Next.Title)
	}
	for name, counts := range map[string][]int{"followed": {1, 0, 0, 131}, "stayed": {0, 140, 1, 0}, "a few strays elsewhere": {0, 0, 4, 0}} {
		if p := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil().counts(counts...).plan(); strings.Contains(p.Next.Title, "disturbed") {
			t.Errorf("%s: %s", name, p.Next.Title)
		}
	}
}

// What comes off for a move is looked at once: the part, its boot or lead, its connector;
// no spare, and nothing that has been seen.
func TestLookedAtOnTheWay(t *testing.T) {
	of := func(c Card) (names []string) {
		for _, item := range c.Look {
			names = append(names, string(item.Tag)+string(item.Place))
		}
		return names
	}
	a := diagnose.Assess(begin(t, 4).code(2).counts(0, 140, 1, 0).j)
	for tag, want := range map[part.Tag][]string{"C2": {"C2", "cyl-2", "B2"}, "P2": {"P2", "cyl-2", "B2"}} {
		got := of(swap(a, tag))
		slices.Sort(got)
		slices.Sort(want)
		if !slices.Equal(got, want) {
			t.Errorf("%s moved: %v, want %v", tag, got, want)
		}
	}
	seen := begin(t, 4).code(2).add(evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Tag: "B2", Finding: evidence.BootSound}}}})
	if got := of(swap(diagnose.Assess(seen.j), "C2")); slices.Contains(got, "B2") {
		t.Errorf("seen before: %v", got)
	}
	spare := begin(t, 4).code(2).add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: "C2", To: engine.Bench}, {Tag: "CS1", To: "cyl-2"}}}}).counts(0, 140, 1, 0)
	if got := of(swap(diagnose.Assess(spare.j), "P2")); slices.Contains(got, "CS1") {
		t.Errorf("a spare: %v", got)
	}
	// Each joint hypothesis's outcomes are still a whole when each is parted by what the look may find.
	c := swap(a, "C2").weighed()
	if len(c.chances) != 2*len(c.Outcomes) {
		t.Fatalf("%d rows for %d outcomes", len(c.chances), len(c.Outcomes))
	}
	for i := range a.JointHypotheses {
		sum := 0.0
		for _, row := range c.chances {
			sum += row[i]
		}
		if a.JointHypotheses[i].P > negligible && math.Abs(sum-1) > 1e-9 {
			t.Fatalf("%s: the outcomes sum to %v", a.JointHypotheses[i].Key(), sum)
		}
	}
}

// What a shop has no tool for is asked for nowhere: not as a step, and not for a gate.
func TestNothingWithoutItsTool(t *testing.T) {
	for tool, pattern := range map[string]string{"smoke machine": "four-across", "scope with a kV clamp": "six-pairs", "multimeter": "six-pairs", "plug socket": "four-across"} {
		shop := Default
		shop.Missing = []string{tool}
		s := beginOn(t, pattern)
		counts := make([]int, s.j.Vehicle.Engine.Cylinders)
		counts[1] = 900
		s.code(2).counts(counts...)
		for range 25 {
			c := shop.Plan(s.j, diagnose.Assess(s.j)).Next
			if c.Step.ID == SignVerdict || c.Step.ID == EndUnresolved {
				break
			}
			if slices.Contains(c.Step.Tools, tool) {
				t.Fatalf("%s, without a %s: %s is asked for", pattern, tool, c.Title)
			}
			switch { // all that is looked at is sound, and the misfire stays
			case len(c.Parts) > 0:
				s.add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: c.Parts}}).counts(counts...)
			case c.Step.ID == ReadTrims:
				s.add(evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Long: 2}}}})
			case len(c.Look) > 0 || c.Test != "":
				s.add(c.Outcomes[0].Record)
			default:
				s.counts(counts...)
			}
		}
	}
}

// A shop without fused test leads measures a feed that was read well once more, where another would
// lay a wire of its own over it.
func TestMeasuredAgainWithoutTheLeads(t *testing.T) {
	pulse := evidence.Entry{Body: &evidence.Check{Test: evidence.TriggerPulse, Place: "cyl-2", Result: "there"}}
	for _, missing := range []string{"", "fused test leads"} {
		shop, want := Default, TestOverlay
		if missing != "" {
			shop.Missing, want = []string{missing}, TestTrigger
		}
		a := diagnose.Assess(begin(t, 4).code(2).add(pulse).j)
		feed := a.Suspects[slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Key() == "feed cyl-2" })]
		if c, ok := shop.forGate(a, feed, gate.Of(a, feed), 1); !ok || c.Step.ID != want {
			t.Errorf("missing %q: %s is asked for, not %s", missing, c.Step.ID, want)
		}
	}
}
