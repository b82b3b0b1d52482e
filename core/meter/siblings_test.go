package meter

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/stat"
)

func set(values ...float64) []Sibling {
	var all []Sibling
	for i, v := range values {
		all = append(all, Sibling{Name: string(rune('A' + i)), Value: math.Abs(v), Over: v < 0})
	}
	return all
}

func abnormal(s Siblings) (names string) {
	for _, j := range s.Each {
		if j.Abnormal {
			names += j.Name
		}
	}
	return names
}

func TestOneThatDiffersFromItsSiblings(t *testing.T) {
	const over = -1
	for name, c := range map[string]struct {
		of   []Sibling
		want string
	}{
		"secondaries alike":       {set(12.4, 12.6, 12.1, 12.5), ""},
		"one open":                {set(12.4, 12.6, over, 12.5), "C"},
		"one of shorted turns":    {set(12.4, 12.6, 12.1, 7.9, 12.3, 12.5), "D"},
		"as exact as the meter":   {set(0.6, 0.6, 0.6, 0.7), ""},
		"all exact, one far":      {set(5, 5, 5, 5, 5, 9), "F"},
		"leads by length":         {set(4.1, 4.9, 5.8, 6.6, 7.2), ""},
		"most over range":         {set(over, over, over, 12), ""},
		"three, one odd":          {set(12.4, 12.6, 19), "C"},
		"three, all differ":       {set(8, 12, 19), ""},
		"three, one over":         {set(12.4, over, 12.5), "B"},
		"two that differ":         {set(12, 19), ""},
		"one":                     {set(12), ""},
		"none":                    {nil, ""},
		"two of twelve, both far": {set(10, 10.2, 9.9, 10.1, 10, 10.3, 3, 10.2, 9.8, 10, 24, 10.1), "GK"},
	} {
		s := CompareSiblings(c.of, 0.1)
		if got := abnormal(s); got != c.want || s.Words == "" {
			t.Errorf("%s: odd %q, want %q; %s", name, got, c.want, s.Words)
		}
	}
}

// Against gonum's quantiles on random sets; and of sets that are alike, normal with 3 %, few
// are called abnormal.
func TestAgainstGonum(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 9))
	called, all := 0, 0
	for range 2000 {
		n := 4 + rng.IntN(9)
		values := make([]float64, n)
		for i := range values {
			values[i] = 12 * (1 + 0.03*rng.NormFloat64())
		}
		s := CompareSiblings(set(values...), 0.01)
		sorted := slices.Sorted(slices.Values(values))
		if n%2 == 1 {
			median := stat.Quantile(0.5, stat.Empirical, sorted, nil)
			away := make([]float64, n)
			for i, v := range values {
				away[i] = math.Abs(v - median)
			}
			slices.Sort(away)
			spread := max(1.4826*stat.Quantile(0.5, stat.Empirical, away, nil), 0.01, alike*median)
			if math.Abs(s.Median-median) > 1e-12 || math.Abs(s.Spread-spread) > 1e-12 {
				t.Fatalf("%v: median %v and spread %v, by gonum %v and %v", values, s.Median, s.Spread, median, spread)
			}
		}
		for _, j := range s.Each {
			all++
			if j.Abnormal {
				called++
			}
		}
	}
	if share := float64(called) / float64(all); share > 0.005 {
		t.Errorf("%.2f %% of sound ones are called odd", 100*share)
	}
}
