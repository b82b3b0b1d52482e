package fault

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/part"
)

func TestCatalogue(t *testing.T) {
	sum, seen := 0.0, map[string]bool{}
	for _, m := range Catalogue {
		if seen[m.ID] || m.Source == "" || m.Prior <= 0 || m.CuredByTouch < 0 || m.CuredByTouch >= 1 {
			t.Errorf("row %+v", m)
		}
		seen[m.ID] = true
		sum += m.Prior
	}
	if math.Abs(sum-1) > 1e-12 {
		t.Errorf("the shares sum to %v, want 1", sum)
	}
}

func TestEnumerate(t *testing.T) {
	for n := engine.MinInline; n <= engine.MaxInline; n++ {
		e := engine.Engine{Cylinders: n, FiringOrder: engine.UsualOrder(n)}
		at := part.Home(e)
		sum, keys := 0.0, map[string]bool{}
		for _, h := range Enumerate(e) {
			sum += h.Prior
			if keys[h.Key()] {
				t.Errorf("%d cylinders: %s twice", n, h.Key())
			}
			keys[h.Key()] = true
			c, all := h.Afflicted(at)
			if whole := h.Place == engine.Whole; (c >= 1 && int(c) <= n) == whole || all != (whole && h.Mode.ID == SomethingElse) {
				t.Errorf("%d cylinders: %s afflicts cylinder %d, all: %v", n, h.Key(), c, all)
			}
		}
		if math.Abs(sum-1) > 1e-12 {
			t.Errorf("%d cylinders: priors sum to %v, want 1", n, sum)
		}
	}
}
