package fault

import (
	"fmt"
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/part"
)

func setsOf(t testing.TB, pattern string, c Complaint, seen ...engine.Set) []Hypothesis {
	t.Helper()
	p, ok := engine.FindPattern(pattern)
	if !ok {
		t.Fatalf("no pattern %s", pattern)
	}
	e := p.Engine()
	var troubled []MisfireGroup
	for _, s := range seen {
		troubled = append(troubled, MisfireGroup{Cylinders: s, At: part.Home(e)})
	}
	return Sets(e, c, troubled)
}

// Sets are of parts that the layout has one of for each cylinder, with a prior each; one cylinder has no set.
func TestSetsAreOfLikeParts(t *testing.T) {
	for pattern, want := range map[string]map[Unit]bool{
		"four-across":    {engine.Plugs: true, engine.Boots: true, engine.SetOfCoils: true},
		"six-pairs":      {engine.Plugs: true, engine.Leads: true},
		"v8-leads":       {engine.Plugs: true, engine.Leads: true, engine.SetOfCoils: true},
		"single-magneto": {},
	} {
		have := map[Unit]bool{}
		for _, h := range setsOf(t, pattern, Complaint{}) {
			have[h.Unit()] = true
			if h.Prior <= 0 || h.Prior > 0.05 || h.Misfiring == 0 || h.Misfiring&^h.Set != 0 || h.Pairs() {
				t.Errorf("%s: %s has prior %v", pattern, h.Key(), h.Prior)
			}
		}
		if len(have) != len(want) {
			t.Errorf("%s: sets of %v, want %v", pattern, have, want)
		}
		for u := range want {
			if !have[u] {
				t.Errorf("%s: no %s", pattern, u)
			}
		}
	}
}

// All ways in which some parts of a set misfire sum to 1.
func TestChanceOfSickIsADistribution(t *testing.T) {
	for n := 2; n <= 12; n++ {
		sum := 0.0
		for k := 1; k <= n; k++ {
			sum += binomial(n, k) * chanceOfMisfiring(k, n)
		}
		if math.Abs(sum-1) > 1e-12 {
			t.Errorf("%d parts: %v", n, sum)
		}
	}
}

// The parts of a set keep their fault where they are moved to, and those that are out affect nothing.
func TestSetsGoWithTheirParts(t *testing.T) {
	p, _ := engine.FindPattern("four-across")
	e := p.Engine()
	home := part.Home(e)
	h := Hypothesis{Mode: Catalogue[0], Set: e.Everything(), Misfiring: engine.SetOf(2)}
	for _, m := range Catalogue {
		if m.ID == PlugWornGap {
			h.Mode = m
		}
	}
	moved, err := home.Move(home.Swap("cyl-2", "cyl-4", engine.Plug))
	if err != nil {
		t.Fatal(err)
	}
	if got := h.Affected(home); got != engine.SetOf(2) {
		t.Errorf("at home %v", got)
	}
	if got := h.Affected(moved); got != engine.SetOf(4) || h.Reaches(moved) != e.Everything() {
		t.Errorf("moved %v, found on %v", got, h.Reaches(moved))
	}
	if !h.Includes("P3") || h.MisfiresOn("P3") || !h.MisfiresOn("P2") || h.Includes("C2") {
		t.Error("which parts are at fault, and which of them misfire")
	}
}

// Every row of sets and of handling is about a mode that exists, and is stated with its source.
func TestSetsAndHandlingAreStated(t *testing.T) {
	known := map[ModeID]Mode{}
	for _, m := range Catalogue {
		known[m.ID] = m
	}
	for _, s := range SetCauses {
		if m, ok := known[s.Mode]; !ok || s.Source == "" || s.Share <= 0 || s.Share > 0.05 || setKinds[m.Unit] == "" {
			t.Errorf("set %+v is not stated", s)
		}
	}
	for _, h := range Handlings {
		if _, ok := known[h.Mode]; !ok || h.Source == "" || h.Breaks <= 0 || h.Breaks > 0.05 {
			t.Errorf("handling %+v is not stated", h)
		}
	}
	all := Enumerate(setEngine(), Complaint{})
	sum := 0.0
	for _, h := range NewPart("C2", part.New(engine.Coil, "cyl-2", 1), all) {
		sum += h.Prior
	}
	if math.Abs(sum-NewPartFaulty) > 1e-12 {
		t.Errorf("a new coil is bad with %v, want %v", sum, NewPartFaulty)
	}
}

func setEngine() engine.Engine {
	p, _ := engine.FindPattern("four-across")
	return p.Engine()
}

func ExampleSets() {
	e := setEngine()
	seen := []MisfireGroup{{Cylinders: engine.SetOf(2, 3, 4), At: part.Home(e)}}
	for _, h := range Sets(e, Complaint{}, seen) {
		if h.Mode.ID == CoilCracked {
			fmt.Println(h.Key(), h.Unit())
		}
	}
	// Output:
	// coil.cracked@set:1-2-3-4:1-2-3-4 set of coils
	// coil.cracked@set:2-3-4:2-3-4 set of coils
	// coil.cracked@set:1-2-3-4:2-3-4 set of coils
}
