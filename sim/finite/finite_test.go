package finite

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/job"
	"glenmist/core/plan"
)

// perfect is a problem of independent perfect checks: each fault is found by its own
// check alone, and a repair in vain is out of the question, so none is found by
// elimination either.
func perfect(p, minutes []float64) Problem {
	f := Problem{P: p}
	for i := range p {
		t := Test{Minutes: minutes[i], Chance: [][]float64{make([]float64, len(p)), make([]float64, len(p))}}
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

// On problems cut out of real jobs two steps ahead cost little more than the optimum,
// and never less.
func TestTwoAheadAgainstOptimal(t *testing.T) {
	worst, sum, n := 1.0, 0.0, 0
	for _, p := range engine.Shelf {
		f := Condense(diagnose.Assess(job.Job{Vehicle: job.Vehicle{Engine: p.Engine()}}), plan.Default)
		f.Tests = f.Tests[:min(5, len(f.Tests))]
		best, ours := f.Optimal(), f.Ahead(plan.SecondSteps)
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
