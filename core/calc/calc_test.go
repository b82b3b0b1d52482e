package calc

import (
	"math"
	"net/url"
	"testing"

	"glenmist/core/invalid"
)

// P: Hanley and Lippman-Hand, JAMA 1983 (from memory), and what follows from it.
func TestCleanRuns(t *testing.T) {
	if got := UpperBound(100); math.Abs(got-0.0295) > 5e-5 {
		t.Errorf("no event in 100: %v, want 0.0295", got)
	}
	for _, n := range []float64{30, 100, 1000} {
		if got := UpperBound(n); math.Abs(got-3/n) > 0.06*3/n {
			t.Errorf("no event in %v: %v, far from the rule of three", n, got)
		}
	}
	for p, want := range map[float64]float64{0.01: 299, 0.001: 2995} {
		if got := TrialsToRuleOut(p); got != want {
			t.Errorf("to rule out %v: %v trials, want %v", p, got, want)
		}
	}
}

func answer(t *testing.T, name string, pairs ...string) (map[string]float64, error) {
	t.Helper()
	c, ok := Find(name)
	if !ok {
		t.Fatalf("no calculator %s", name)
	}
	v := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		v.Set(pairs[i], pairs[i+1])
	}
	a, err := c.Answer(v)
	out := map[string]float64{}
	for _, r := range a.Result {
		out[r.Name] = r.Value
	}
	return out, err
}

func TestAnswers(t *testing.T) {
	// 2995 events are ten minutes at 600 rpm, 300 firings a minute (definition).
	if got, err := answer(t, "clean-run", "rate", "0.1", "speed", "600"); err != nil || math.Abs(got["minutes"]-10) > 0.02 || got["events"] != 2995 {
		t.Errorf("clean run: %v, %v", got, err)
	}
	if got, err := answer(t, "misfire-rate", "count", "23", "revolutions", "5 min at 600 rpm"); err != nil || got["opportunities"] != 1500 || math.Abs(got["rate"]-100*23.0/1500) > 1e-12 {
		t.Errorf("misfire rate: %v, %v", got, err)
	}
	if got, err := answer(t, "rate-bound", "revolutions", "200"); err != nil || math.Abs(got["upper bound"]-2.95) > 0.005 {
		t.Errorf("bound: %v, %v", got, err)
	}
	for name, c := range map[string]struct {
		calculator string
		pairs      []string
		field      string
	}{
		"nothing":         {"misfire-rate", nil, "count"},
		"count too high":  {"misfire-rate", []string{"count", "51", "revolutions", "100"}, "count"},
		"half a count":    {"misfire-rate", []string{"count", "1.5", "revolutions", "100"}, "count"},
		"negative":        {"misfire-rate", []string{"count", "-1", "revolutions", "100"}, "count"},
		"no number":       {"clean-run", []string{"rate", "NaN", "speed", "600"}, "rate"},
		"standing engine": {"clean-run", []string{"rate", "1", "speed", "0"}, "speed"},
		"no revolutions":  {"rate-bound", []string{"revolutions", "1"}, "revolutions"},
	} {
		if got, err := answer(t, c.calculator, c.pairs...); err == nil || invalid.From(err)[0].Field != c.field {
			t.Errorf("%s: %v, %v, want an error at %s", name, got, err, c.field)
		}
	}
}

func TestTable(t *testing.T) {
	for _, c := range Calculators {
		v := url.Values{}
		for _, in := range c.Inputs {
			v.Set(in.Name, in.Example)
		}
		if a, err := c.Answer(v); err != nil || len(a.Result) == 0 || a.Formula == "" || a.Source == "" || a.Limits == "" {
			t.Errorf("%s with its own examples: %+v, %v", c.Name, a, err)
		}
	}
}
