package plan

import (
	"math"
	"slices"
	"testing"
)

// The plan's own order of repairs is that order too: the valuation with no test left
// agrees with the sum by hand, 0.6·(0.4 of the rest) and so on.
func TestCostOfRepairsByHand(t *testing.T) {
	r := &valuation{p: []float64{0.2, 0.5, 0.3}, units: [][2]int{{0, -1}, {1, -1}, {2, -1}}, confirm: make([]float64, 3), vain: []float64{10, 100, 20}}
	r.scratch = scratch{mass: make([]float64, 3), wrong: make([]float64, 3), ratio: make([]float64, 3), rank: make([]int, 3)}
	// By probability over cost: 0 (0.02), 2 (0.015), 1 (0.005): 0.8·10 + 0.5·20.
	if got := r.toGo(r.p, r.confirm, r.units); math.Abs(got-18) > 1e-9 {
		t.Errorf("%v minutes in vain, want 18 by hand", got)
	}
	if got := r.order(); !slices.Equal(got, []int{0, 2, 1}) {
		t.Errorf("order %v", got)
	}
	// With a gate on each that asks for five minutes' work, what is sound is found out
	// in it but for one in mistaken: 8, 6.5 and 20 minutes, so 2 goes before 0.
	for u := range r.confirm {
		r.confirm[u] = 5
	}
	want := 0.0
	for _, step := range []struct{ p, left, vain float64 }{{0.3, 1, 20}, {0.2, 0.7, 10}, {0.5, 0.5, 100}} {
		want += 5*step.p + (5+mistaken*step.vain)*(step.left-step.p)
	}
	if got := r.toGo(r.p, r.confirm, r.units); math.Abs(got-want) > 1e-9 {
		t.Errorf("%v minutes, want %v by hand", got, want)
	}
}
