package main

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/sim/trial"
)

// Wilson's interval at worked values: 10 of 20 is 29.9 to 70.1 %, none of 10 up to
// 27.8 %, 81 of 263 25.5 to 36.6 % (the last from Newcombe 1998, table I, from memory; the
// others by hand from the formula).
func TestWilson(t *testing.T) {
	for _, c := range []struct {
		k, n      int
		low, high float64
	}{{10, 20, 0.299, 0.701}, {0, 10, 0, 0.278}, {81, 263, 0.255, 0.366}} {
		i := wilson(float64(c.k)/float64(c.n), c.n)
		if math.Abs(i.Low-c.low) > 6e-4 || math.Abs(i.High-c.high) > 6e-4 {
			t.Errorf("%d of %d: %.4f to %.4f, want %.3f to %.3f", c.k, c.n, i.Low, i.High, c.low, c.high)
		}
	}
}

// Bins hold what falls into them, the worst counts only those that are filled, and the
// scores are those of the definition.
func TestBinsAndScores(t *testing.T) {
	var all []guess
	for i := range 100 {
		all = append(all, guess{0.25, i < 40}, guess{0.95, i < 95})
	}
	all = append(all, guess{0.55, false}) // one alone is no bin
	out, worst := bins(all, 50)
	if out[2].N != 100 || out[9].N != 100 || out[5].N != 1 || out[2].True != 0.4 || math.Abs(worst-15) > 1e-9 {
		t.Errorf("bins %+v, worst %v", out, worst)
	}
	brier, _ := scores([]guess{{0.8, true}, {0.3, false}})
	if math.Abs(brier-(0.04+0.09)/2) > 1e-12 {
		t.Errorf("Brier score %v", brier)
	}
}

// A paired difference is that of the means, with limits that hold it; runs that a policy
// has not made are left out of its figures.
func TestPairedDifference(t *testing.T) {
	runs := []drawn{
		{results: []trial.Result{{Minutes: 10, Right: true, Vain: 1}, {Minutes: 30}}},
		{results: []trial.Result{{Minutes: 20, Right: true}, {Minutes: 20, Right: true}}},
		{results: []trial.Result{{Minutes: 99}}},
	}
	i := paired(runs, 1, func(r trial.Result) float64 { return r.Minutes })
	if i.Value != -10 || i.Low >= -10 || i.High <= -10 {
		t.Errorf("difference %+v", i)
	}
	ours, other := figures(runs, 0), figures(runs, 1)
	if ours.Runs != 3 || ours.MinutesMean != 43 || ours.PartsVain != 1 || math.Abs(ours.Right-2.0/3) > 1e-12 || other.Runs != 2 || other.Right != 0.5 {
		t.Errorf("figures %+v, %+v", ours, other)
	}
}

// What is drawn is drawn as it is said to be: faults that have a unit, pairs of two that
// can be at once, each mode on each layout that has it, priors off by a factor of two.
func TestJobsAreDrawnAsStated(t *testing.T) {
	rng := rand.New(rand.NewPCG(5, 6))
	for range 50 {
		d := single(rng, asStated)
		if len(d.hidden) != 1 || !named(d.hidden[0]) {
			t.Fatalf("drawn %+v", d.hidden)
		}
		two := double(rng)
		home := part.Home(two.pattern.Engine())
		x, y := &two.hidden[0], &two.hidden[1]
		if fault.Together(x, y, x.Serves(home)&y.Serves(home) != 0) == 0 {
			t.Errorf("%s and %s cannot be at once", x.Key(), y.Key())
		}
	}
	for range 20 {
		d := set(rng, asStated)
		h := d.hidden[0]
		if !h.IsSet() || h.Misfiring.Len() < 2 || h.Misfiring&^h.Set != 0 {
			t.Errorf("drawn as a set: %s", h.Key())
		}
	}
	factor := off(rng)
	for _, m := range fault.Catalogue {
		if f := factor(m); f != 2 && f != 0.5 {
			t.Errorf("%s is off by %v", m.ID, f)
		}
	}
}

// A run of the smallest size writes all that is asked of it, and the same seed gives the
// same figures.
func TestWritesItsReport(t *testing.T) {
	r := measure(77, 2)
	if !testing.Short() {
		if a, b := text(r), text(measure(77, 2)); a != b {
			t.Errorf("the same seed gives\n%s\nand\n%s", a, b)
		}
	}
	dir := t.TempDir()
	if err := write(dir, r); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(filepath.Join(dir, "reasoning.json"))
	if err != nil {
		t.Fatal(err)
	}
	var got map[string]any
	if err := json.Unmarshal(data, &got); err != nil {
		t.Fatal(err)
	}
	for _, field := range []string{"seed", "n", "commit", "worlds", "two_faults_right_share", "sets_right_share", "minutes_ratio_usual", "minutes_ratio_parts_first",
		"parts_ratio_parts_first", "cost_ratio_optimal", "reasons_cost_ratio_200"} {
		if _, ok := got[field]; !ok {
			t.Errorf("reasoning.json has no %s", field)
		}
	}
	middle := got["worlds"].(map[string]any)["middle"].(map[string]any)
	for _, field := range []string{"right_share", "calibration_worst_points", "confident_wrong_share", "runs"} {
		if _, ok := middle[field]; !ok {
			t.Errorf("the middle world has no %s", field)
		}
	}
	for _, p := range trial.Policies {
		f, ok := middle["policies"].(map[string]any)[p.Name].(map[string]any)
		for _, field := range []string{"right", "runs", "minutes_mean", "minutes_p90", "steps", "parts_vain"} {
			if _, has := f[field]; !ok || !has {
				t.Errorf("%s has no %s", p.Name, field)
			}
		}
	}
	if r.CostRatioOptimal < 1-1e-9 {
		t.Errorf("the plan costs %v of the optimum", r.CostRatioOptimal)
	}
	for _, name := range []string{"reasoning-calibration.svg", "reasoning-minutes.svg"} {
		if svg, err := os.ReadFile(filepath.Join(dir, name)); err != nil || !strings.HasPrefix(string(svg), "<svg") {
			t.Errorf("%s: %v", name, err)
		}
	}
}
