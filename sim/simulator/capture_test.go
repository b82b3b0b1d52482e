package simulator

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/sim/coil"
)

// A clamp shows its cylinders and the stated fraction of a neighbour.
func TestClampPicksUpItsNeighbour(t *testing.T) {
	e := engine.Shelf[slices.IndexFunc(engine.Shelf, func(p engine.Pattern) bool { return p.ID == "four-across" })].Engine().Derive()
	s := PlainScope(250_000, 0)
	s.Wiring, s.Crosstalk, s.TurnOn = WiredEach, 0.05, coil.TurnOn{}
	c := New(e, rand.New(rand.NewPCG(1, 2))).Capture(part.Home(e), Recording{When: evidence.Idle, RPM: 750, Cycles: 2, Scope: s})
	if len(c.Channels) != 4 || c.Names[2] != "cylinder 3" || len(c.Drawn) != 8 {
		t.Fatalf("%d channels %v, %d events", len(c.Channels), c.Names, len(c.Drawn))
	}
	for _, d := range c.Drawn {
		at := int(math.Ceil(d.At*s.Rate)) + int(0.0001*s.Rate) // the spark line
		own, beside := float64(c.Channels[d.Cylinder-1][at]), 0.0
		if d.Cylinder > 1 {
			beside = float64(c.Channels[d.Cylinder-2][at])
		} else {
			beside = float64(c.Channels[d.Cylinder][at])
		}
		if own < 0.5 || math.Abs(beside/own-0.05) > 1e-3 {
			t.Errorf("cylinder %d: %v kV, its neighbour shows %v", d.Cylinder, own, beside)
		}
	}
}

// Every wiring shows each cylinder that it names, and a joined recording has no step at its seam.
func TestWiringsAndSeam(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	for _, pattern := range engine.Shelf {
		e := pattern.Engine().Derive()
		for range 4 {
			s := OuterScope(rng, e, 0)
			s.HumKV, s.DriftKV, s.Crosstalk = 0, 0, 0
			r := Recording{When: evidence.Idle, RPM: 750, Cycles: 2, Scope: s}
			b := New(e, rng)
			first := b.Capture(part.Home(e), r)
			c := first.Then(b.Capture(part.Home(e), r), s.Rate)
			shown := s.Shown(e)
			if len(shown) == 0 || len(c.Channels) < len(shown) || len(c.Names) != len(c.Channels) {
				t.Fatalf("%s: %d channels for %v", pattern.ID, len(c.Channels), shown)
			}
			seam := len(first.Channels[0]) - int(Before*s.Rate) + int(0.002*s.Rate)
			for i, v := range c.Channels {
				if c.Names[i] != syncName && math.Abs(float64(v[seam])-s.OffsetKV) > 0.05 {
					t.Errorf("%s, %s: %v kV at the seam, offset %v", pattern.ID, c.Names[i], v[seam], s.OffsetKV)
				}
			}
		}
	}
}
