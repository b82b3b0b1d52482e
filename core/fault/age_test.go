package fault

import (
	"fmt"
	"math"
	"slices"
	"testing"

	"glenmist/core/engine"
)

// Every row of ages and of causes is about modes that exist, is stated with its source,
// and stays within bounds; what is not known shifts nothing.
func TestAgesAndCausesAreStated(t *testing.T) {
	known := func(key Key) bool {
		return slices.ContainsFunc(Catalogue, func(m Mode) bool { return key.Covers(m.ID) })
	}
	for _, a := range Ages {
		if a.Source == "" || a.Factor <= 0 || a.Factor > MostShift || a.From < 0 {
			t.Errorf("age row %+v is not stated", a)
		}
		for _, id := range a.Modes {
			if !known(id) {
				t.Errorf("age row for %s, which is no mode", id)
			}
		}
	}
	for _, c := range Causes {
		if c.Source == "" || c.Times <= 1 || !known(c.First) || !known(c.Second) {
			t.Errorf("cause %+v is not stated", c)
		}
	}
	for _, m := range Catalogue {
		if m.Aged(math.NaN()) != 1 {
			t.Errorf("%s is shifted by an age that is not known", m.ID)
		}
	}
	worn := Catalogue[slices.IndexFunc(Catalogue, func(m Mode) bool { return m.ID == PlugWornGap })]
	for used, last := 0.0, 0.0; used < 2; used += 0.1 {
		f := worn.Aged(used)
		if f < last {
			t.Errorf("a plug at %.1f of its life is worn less often than before", used)
		}
		last = f
	}
}

// Age shifts the parts that are old, each by itself, and the shares still sum to 1.
func TestAgeShiftsItsPart(t *testing.T) {
	p, _ := engine.FindPattern("six-pairs")
	e := p.Engine()
	share := func(c Complaint, key string) (sum float64) {
		for _, h := range Enumerate(e, c) {
			if h.Key() == key {
				sum += h.Prior
			}
		}
		return sum
	}
	old := Complaint{Used: Wear{"P2": 1.6, "P3": 0.02}}
	total := 0.0
	for _, h := range Enumerate(e, old) {
		total += h.Prior
	}
	if math.Abs(total-1) > 1e-12 {
		t.Errorf("the shares sum to %v", total)
	}
	plain, spent, fresh := share(old, "plug.worn-gap@P1"), share(old, "plug.worn-gap@P2"), share(old, "plug.worn-gap@P3")
	if math.Abs(spent/plain-4) > 1e-9 || math.Abs(fresh/plain-0.15) > 1e-9 {
		t.Errorf("worn at P2 %.4f, P3 %.4f times as often as at P1", spent/plain, fresh/plain)
	}
	if own := (Complaint{Shares: map[ModeID]float64{"cap.tracked": 3, "lead.open": 3}}); share(own, "lead.open@L2") < 2*share(Complaint{}, "lead.open@L2") {
		t.Error("a workshop's own share counts for nothing")
	}
}

// Two of one item are no pair, those of the trade are likelier than chance where they
// serve a cylinder in common, and whether one comes first makes no difference.
func TestWhichPairsAreLikelier(t *testing.T) {
	p, _ := engine.FindPattern("four-across")
	find := func(key string) *Hypothesis {
		for _, h := range Enumerate(p.Engine(), Complaint{}) {
			if h.Key() == key {
				return &h
			}
		}
		t.Fatalf("no fault %s", key)
		return nil
	}
	for _, c := range []struct {
		a, b   string
		common bool
		want   float64
	}{
		{"well.oil@cyl-2", "boot.swollen@B2", true, 12},
		{"well.oil@cyl-2", "boot.swollen@B3", false, 1},
		{"plug.worn-gap@P2", "coil.weak-load@C2", true, 8},
		{"plug.worn-gap@P2", "plug.cracked@P2", true, 0},
		{"connector.loose@cyl-2", "connector.corroded@cyl-2", true, 0},
		{"connector.loose@cyl-2", "connector.corroded@cyl-3", false, 1},
		{"something.else@cyl-2", "coil.cracked@C2", true, 0},
		{"no-fault.now@engine", "coil.cracked@C2", false, 0},
	} {
		a, b := find(c.a), find(c.b)
		if x, y := Together(a, b, c.common), Together(b, a, c.common); x != c.want || y != c.want {
			t.Errorf("%s with %s: %v and %v times, want %v", c.a, c.b, x, y, c.want)
		}
	}
}

func ExampleEnumerate() {
	p, _ := engine.FindPattern("single-magneto")
	for _, h := range Enumerate(p.Engine(), Complaint{Used: Wear{"P1": 1.2}}) {
		if h.Mode.Unit == engine.StopWire || h.Mode.ID == PlugWornGap {
			fmt.Printf("%s %.3f\n", h.Key(), h.Prior)
		}
	}
	// Output:
	// plug.worn-gap@P1 0.230
	// stop-wire.shorted@engine 0.042
	// stop-wire.switch@engine 0.031
}
