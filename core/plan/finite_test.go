package plan

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/job"
)

// perfect is a problem of independent perfect checks: each fault is found by its own
// check alone, and a repair in vain is out of the question, so none is found by
// elimination either.
func perfect(p, minutes []float64) Finite {
	f := Finite{P: p}
	for i := range p {
		t := FiniteTest{Minutes: minutes[i], Chance: [][]float64{make([]float64, len(p)), make([]float64, len(p))}}
		for k := range p {
			t.Chance[0][k], t.Chance[1][k] = 0, 1
		}
		t.Chance[0][i], t.Chance[1][i] = 1, 0
		f.Tests = append(f.Tests, t)
		f.Vain = append(f.Vain, 1e6)
	}
	return f
}

// With one fault and independent perfect checks the least cost is in order of
// probability over cost (P: Simon and Kadane 1975, from memory): the exact optimum and
// the two steps ahead both come to it. By hand, with 0.5, 0.3, 0.2 and 10, 5, 20 minutes
// the order is the second, the first, the third (0.06, 0.05, 0.01 a minute), and the
// third need not be checked, since only it is left: 5 + 0.7·10 = 12 minutes.
func TestOrderOfProbabilityOverCost(t *testing.T) {
	f := perfect([]float64{0.5, 0.3, 0.2}, []float64{10, 5, 20})
	for name, got := range map[string]float64{"optimal": f.Optimal(), "two ahead": f.Ahead(0)} {
		if math.Abs(got-12) > 1e-9 {
			t.Errorf("%s: %v minutes, want 12 by hand", name, got)
		}
	}
	r := rand.New(rand.NewPCG(1, 2))
	for range 50 {
		n := 3 + r.IntN(4)
		p, minutes, order := make([]float64, n), make([]float64, n), make([]int, n)
		sum := 0.0
		for i := range p {
			p[i], minutes[i], order[i] = r.Float64()+0.05, 2+20*r.Float64(), i
			sum += p[i]
		}
		for i := range p {
			p[i] /= sum
		}
		// What is left to the last is not checked: try each, the others in their order.
		want := math.Inf(1)
		for last := range n {
			slices.SortFunc(order, func(x, y int) int {
				switch {
				case x == y:
					return 0
				case x == last:
					return 1
				case y == last, p[x]/minutes[x] > p[y]/minutes[y]:
					return -1
				}
				return 1
			})
			cost, left := 0.0, 1.0
			for _, u := range order[:n-1] {
				cost += left * minutes[u]
				left -= p[u]
			}
			want = min(want, cost)
		}
		if got := perfect(p, minutes).Optimal(); math.Abs(got-want) > 1e-6 {
			t.Fatalf("%v in %v minutes: %v, want %v", p, minutes, got, want)
		}
	}
}

// The plan's own order of repairs is that order too: the reckoning with no test left
// agrees with the sum by hand, 0.6·(0.4 of the rest) and so on.
func TestReckoningByHand(t *testing.T) {
	r := &reckoning{p: []float64{0.2, 0.5, 0.3}, units: [][2]int{{0, -1}, {1, -1}, {2, -1}}, confirm: make([]float64, 3), vain: []float64{10, 100, 20}}
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

// On problems cut out of real jobs two steps ahead cost little more than the optimum,
// and never less.
func TestTwoAheadAgainstOptimal(t *testing.T) {
	worst, sum, n := 1.0, 0.0, 0
	for _, p := range engine.Shelf {
		s := beginOn(t, p.ID)
		j := job.Job{Vehicle: s.j.Vehicle, Opened: s.j.Opened}
		f := Condense(diagnose.Assess(j), Default)
		f.Tests = f.Tests[:min(5, len(f.Tests))]
		best, ours := f.Optimal(), f.Ahead(SecondSteps)
		if ours < best-1e-9 {
			t.Errorf("%s: %v minutes, less than the optimum of %v", p.ID, ours, best)
		}
		worst, sum, n = max(worst, ours/best), sum+ours/best, n+1
	}
	t.Logf("%d problems: %.3f times the optimum in the mean, %.3f at worst", n, sum/float64(n), worst)
	if sum/float64(n) > 1.10 {
		t.Errorf("%.3f times the optimum", sum/float64(n))
	}
}
