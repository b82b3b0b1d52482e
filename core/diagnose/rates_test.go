package diagnose

import (
	"math"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

func TestCountModelsAreDistributions(t *testing.T) {
	const n = 400
	for name, logP := range map[string]func(k int) float64{
		"afflicted": func(k int) float64 { return infer.LogBetaBinomial(k, n, 0.07, knowledge.Burst) },
	} {
		sum, mean := 0.0, 0.0
		for k := 0; k <= n; k++ {
			p := math.Exp(logP(k))
			sum += p
			mean += p * float64(k)
		}
		if math.Abs(sum-1) > 1e-9 || math.Abs(mean-0.07*n) > 1e-6 {
			t.Errorf("%s: sums to %v with mean %v", name, sum, mean)
		}
	}
	// Strays have no upper bound in the formula; the tail above n is nil.
	sum := 0.0
	for k := 0; k <= n; k++ {
		sum += math.Exp(logStray(k, n, 0))
	}
	if math.Abs(sum-1) > 1e-9 {
		t.Errorf("stray counts sum to %v, want 1", sum)
	}
}

// A lone stray count is no evidence (C), and a clean run after a strong misfire is.
func TestWhatCountsSay(t *testing.T) {
	ratio := func(k, n int, rate float64) float64 {
		return math.Exp(infer.LogBetaBinomial(k, n, rate, knowledge.Burst) - logStray(k, n, 0))
	}
	if r := ratio(2, 1500, 0.05); r > 0.05 {
		t.Errorf("2 of 1500 speak %v times for a 5 %% misfire, want well below 1", r)
	}
	if r := ratio(75, 1500, 0.05); r < 50 {
		t.Errorf("75 of 1500 speak %v times for a 5 %% misfire, want a lot", r)
	}
	if r := ratio(0, 200, 0.01); r < 0.2 || r > 1 {
		t.Errorf("0 of 200 speak %v times for a 1 %% misfire, want little against it", r)
	}
}

// A count of up to three in a hundred of the others' may be theirs, put on the wrong cylinder: it is no
// sign that the cylinder misfires itself. A larger one is.
func TestCountWithinShareOfOthersIsNoMisfire(t *testing.T) {
	for name, c := range map[string]struct {
		counts []int
		sign   bool // that cylinder 3 misfires
	}{
		"none":              {[]int{0, 1000, 0, 0}, false},
		"2 % of the others": {[]int{0, 1000, 20, 0}, false},
		"3 % of the others": {[]int{0, 1000, 30, 0}, false},
		"just above it":     {[]int{0, 1000, 31, 0}, true},
		"10 %":              {[]int{0, 1000, 100, 0}, true},
		"alone":             {[]int{0, 0, 30, 0}, true},
	} {
		table := counted(evidence.Counters{Revolutions: 4000, Counts: c.counts})
		sign := false
		for _, affected := range table.affected[3] {
			sign = sign || affected > table.sound[3]
		}
		if sign != c.sign {
			t.Errorf("%s: a sign of a misfire %v, want %v", name, sign, c.sign)
		}
	}
}
