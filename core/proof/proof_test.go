package proof

import (
	"fmt"
	"math"
	"testing"
)

// Exact bounds against the rule of three and hand-worked values (Hanley and Lippman-Hand, JAMA 1983, from
// memory; ln 0.05 / ln(1 − p) by hand).
func TestBoundsAgainstTheRuleOfThree(t *testing.T) {
	if got := UpperBound(100, 0.95); math.Abs(got-0.0295) > 0.0001 {
		t.Errorf("no event in 100: %.4f, want 0.0295", got)
	}
	for _, n := range []int{30, 100, 1000, 100_000} {
		if got := UpperBound(n, 0.95); got > 3/float64(n) || got < 2.85/float64(n) {
			t.Errorf("no event in %d: %g, want just below 3/n", n, got)
		}
	}
	for rate, want := range map[float64]int{0.01: 299, 0.001: 2995, 0.5: 5} {
		if got := Trials(rate, 0.95); got != want {
			t.Errorf("trials to show a rate of at most %g: %d, want %d", rate, got, want)
		}
		if b := UpperBound(want, 0.95); b > rate {
			t.Errorf("%d clean trials leave a rate of %g possible, above %g", want, b, rate)
		}
	}
}

// Clopper and Pearson: at the lower bound, k or more of n have a chance of exactly one in twenty.
func TestLowerBoundIsExact(t *testing.T) {
	for _, c := range []struct{ k, n int }{{1, 1}, {1, 20}, {7, 40}, {40, 40}, {3, 2000}} {
		p := LowerBound(float64(c.k), float64(c.n), 0.95)
		tail, term := 0.0, math.Pow(1-p, float64(c.n))
		for i := range c.n + 1 {
			if i >= c.k {
				tail += term
			}
			term *= float64(c.n-i) / float64(i+1) * p / (1 - p)
		}
		if math.Abs(tail-0.05) > 1e-6 {
			t.Errorf("%d of %d: bound %.5f, at which as many have a chance of %.5f", c.k, c.n, p, tail)
		}
	}
	if LowerBound(0, 50, 0.95) != 0 {
		t.Error("no event bounds nothing from below")
	}
}

// Wald's limits at errors of 5 % each are ±ln 19. Without bursts a clean stretch is proven after
// ln 19 / (0.9 × rate) events (by hand).
func TestSequentialLimits(t *testing.T) {
	test := Usual(0.02)
	low, high := test.Limits()
	if math.Abs(high-math.Log(19)) > 1e-12 || math.Abs(low+high) > 1e-12 {
		t.Errorf("limits %g and %g, want ±ln 19", low, high)
	}
	test.Burst = 1
	if want := int(math.Ceil(math.Log(19) / 0.018)); test.Clean() != want {
		t.Errorf("clean events %d, want %d", test.Clean(), want)
	}
	test.Burst = 10
	if got, want := test.Clean(), int(math.Ceil(10*math.Log(19)/0.018)); got < want-2 || got > want+2 {
		t.Errorf("in bursts of ten: %d, want ten times as many: %d", got, want)
	}
	for _, c := range []struct {
		events, misfires int
		want             State
	}{{0, 0, NotYet}, {1600, 0, NotYet}, {1640, 0, Proven}, {1640, 1, NotYet}, {4000, 80, NotYet}, {5000, 100, NotFixed}, {50, 40, NotYet}} {
		if got, progress := test.After(c.events, c.misfires); got != c.want || math.Abs(progress) > 1 {
			t.Errorf("%d of %d: %s (%.2f), want %s", c.misfires, c.events, got, progress, c.want)
		}
	}
}

// More is what is missing: with that many clean events more the repair is proven, with one less it is not.
func TestMoreIsTheLeast(t *testing.T) {
	for _, c := range []struct{ events, misfires int }{{0, 0}, {700, 0}, {700, 2}, {5000, 9}} {
		for _, rate := range []float64{0.003, 0.05, 0.5} {
			test := Usual(rate)
			n := test.More(c.events, c.misfires)
			if s, _ := test.After(c.events, c.misfires); s != NotYet {
				continue
			}
			with, _ := test.After(c.events+n, c.misfires)
			without, _ := test.After(c.events+n-1, c.misfires)
			if with != Proven || without == Proven {
				t.Errorf("rate %g, %d of %d: %d more give %s, one less %s", rate, c.misfires, c.events, n, with, without)
			}
		}
	}
}

// Runs of several days add up: the chance of a number of misfires in two stretches is that in both together.
func TestStretchesAddUp(t *testing.T) {
	test := Usual(0.02)
	for k := range 12 {
		var sum float64
		for i := range k + 1 {
			sum += (test.atMost(3, i) - below(test, 3, i)) * (test.atMost(5, k-i) - below(test, 5, k-i))
		}
		if both := test.atMost(8, k) - below(test, 8, k); math.Abs(sum-both) > 1e-12 {
			t.Errorf("%d misfires: %g in two stretches, %g in one", k, sum, both)
		}
	}
}

func below(test Test, mean float64, k int) float64 {
	if k == 0 {
		return 0
	}
	return test.atMost(mean, k-1)
}

func ExampleTest_Clean() {
	test := Usual(0.05) // one event in twenty misfired before the repair
	n := test.Clean()
	fmt.Printf("%d firing events, %.0f min at 700 rpm\n", n, float64(n)/350)
	// Output: 655 firing events, 2 min at 700 rpm
}
