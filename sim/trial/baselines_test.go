package trial

import (
	"math/rand/v2"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

func hidden(t *testing.T, pattern, key string) Setup {
	t.Helper()
	p, _ := engine.FindPattern(pattern)
	for _, h := range fault.Enumerate(p.Engine(), fault.Complaint{}) {
		if h.Key() == key {
			return Setup{Engine: p.Engine(), Hidden: []fault.Hypothesis{h}, Shop: plan.Default}
		}
	}
	t.Fatalf("no fault %s", key)
	return Setup{}
}

// Shops that renew parts find what a new part cures, buy in vain before they get there, and never find what no part
// cures; shops that exchange first buy less in vain.
func TestWhatShopsFind(t *testing.T) {
	quiet := simulator.Middle
	quiet.Breaks, quiet.Wrong = 0, 0
	for _, c := range []struct {
		key          string
		proven       bool
		parts, swaps int // in vain at most
	}{
		{key: "plug.worn-gap@P2", proven: true, parts: 0, swaps: 0},
		{key: "coil.secondary-open@C2", proven: true, parts: 1, swaps: 0},
		{key: "driver.dead@cyl-2", proven: false, parts: 12, swaps: 12},
	} {
		s := hidden(t, "four-across", c.key)
		s.World = quiet
		proven := [2]int{}
		vain := [2]int{}
		const runs = 20
		for i := range uint64(runs) {
			for k, p := range Policies[2:] {
				r := s.Run(p, rand.New(rand.NewPCG(i, 3)))
				if r.Proven {
					proven[k]++
				}
				vain[k] += r.Vain
				if r.Minutes <= 0 {
					t.Errorf("%s, %s: %v minutes", p.Name, c.key, r.Minutes)
				}
			}
		}
		for k, most := range []int{c.parts, c.swaps} {
			if c.proven != (proven[k] > runs*3/4) || vain[k] > most*runs+runs/2 {
				t.Errorf("%s, %s: proven %d of %d, %d parts in vain", Policies[2+k].Name, c.key, proven[k], runs, vain[k])
			}
		}
	}
}

// A world draws what its figures say: handling cures and leaves behind, and a contact swings from run to run.
func TestWorldsDiffer(t *testing.T) {
	var rng simulator.Rand = rand.New(rand.NewPCG(1, 2))
	spans := simulator.Spans()
	for range 50 {
		w := simulator.Outer(rng)
		if w.Scatter < spans[0].Low || w.Scatter > spans[0].High || w.Name != "outer" {
			t.Fatalf("%+v", w)
		}
	}
	for _, s := range spans {
		if s.Middle < s.Low || s.Middle > s.High || s.Low >= s.High {
			t.Errorf("%s: %v to %v, middle %v", s.Words, s.Low, s.High, s.Middle)
		}
	}
	rates := func(swing float64) (spread float64) {
		s := hidden(t, "four-across", "connector.loose@cyl-2")
		w := simulator.Middle
		w.Swing = swing
		b := simulator.In(w, s.Engine.Derive(), rng, s.Hidden...)
		low, high := 1<<30, 0
		for range 20 {
			n := b.Run(part.Home(s.Engine), "", 3000).Misfires[1]
			low, high = min(low, n), max(high, n)
		}
		return float64(high) / float64(max(1, low))
	}
	if calm, wild := rates(0), rates(1.2); wild < 1.5*calm {
		t.Errorf("runs of a contact differ by %.1f times, without a swing by %.1f", wild, calm)
	}
}
