package diagnose

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

func TestCountModelsAreDistributions(t *testing.T) {
	const n = 400
	for name, logP := range map[string]func(k int) float64{
		"afflicted": func(k int) float64 {
			return infer.LogBetaBinomial(k, n, 0.07, knowledge.Bursts[knowledge.BurstSteady].Alpha)
		},
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
		sum += math.Exp(logStray(k, n, 0, 0))
	}
	if math.Abs(sum-1) > 1e-9 {
		t.Errorf("stray counts sum to %v, want 1", sum)
	}
}

// A lone stray count is no evidence (C), and a clean run after a strong misfire is.
func TestWhatCountsSay(t *testing.T) {
	ratio := func(k, n int, rate float64) float64 {
		return math.Exp(infer.LogBetaBinomial(k, n, rate, knowledge.Bursts[knowledge.BurstSteady].Alpha) - logStray(k, n, 0, 0))
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
	pattern, _ := engine.FindPattern("four-across")
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
		table := counted(evidence.Counters{Revolutions: 4000, Counts: c.counts}, pattern.Engine())
		sign := false
		for _, affected := range table.affected[knowledge.BurstSteady][3] {
			sign = sign || affected > table.sound[3]
		}
		if sign != c.sign {
			t.Errorf("%s: a sign of a misfire %v, want %v", name, sign, c.sign)
		}
	}
}

// A late count goes to the next cylinder to fire: there it is a stray sooner than elsewhere (common practice).
func TestStraysGoToTheNextToFire(t *testing.T) {
	pattern, _ := engine.FindPattern("four-across") // fires 1-3-4-2
	next := counted(evidence.Counters{Revolutions: 4000, Counts: []int{40, 1000, 0, 0}}, pattern.Engine())
	other := counted(evidence.Counters{Revolutions: 4000, Counts: []int{0, 1000, 40, 0}}, pattern.Engine())
	if next.sound[1] < other.sound[3]+1 {
		t.Errorf("40 beside 1000 of the cylinder before: log %v, of another: %v", next.sound[1], other.sound[3])
	}
}

// Rates that change between runs are the mark of contacts (common practice): a contact explains 30, then 900, in like
// runs better than what repeats itself does.
func TestContactsChangeFromRunToRun(t *testing.T) {
	best := func(mode fault.ModeID) float64 {
		alpha, most := knowledge.Bursts[knowledge.BurstOf(&fault.Hypothesis{Mode: fault.Mode{ID: mode}})].Alpha, math.Inf(-1)
		for _, rate := range infer.Grid {
			most = max(most, infer.LogBetaBinomial(30, 1500, rate, alpha)+infer.LogBetaBinomial(900, 1500, rate, alpha))
		}
		return most
	}
	for _, contact := range []fault.ModeID{fault.ConnectorLoose, fault.GroundPoor, fault.StopWireSwitch} {
		for _, steady := range []fault.ModeID{fault.PlugWornGap, fault.CoilCracked, fault.CompressionValve} {
			if more := best(contact) - best(steady); more < 2 {
				t.Errorf("%s explains a change by %v more than %s", contact, more, steady)
			}
		}
	}
}
