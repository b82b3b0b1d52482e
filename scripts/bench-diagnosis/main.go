// Command bench-diagnosis measures the reasoning on hidden faults in the simulated
// engine, and writes reasoning.json and reasoning.md into a folder.
package main

import (
	"encoding/json"
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"

	"glenmist/core/bench"
	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/trial"
)

// policyFigures is what one policy took, over all runs.
type policyFigures struct {
	Right       float64 `json:"right"`
	Runs        int     `json:"runs"`
	Reached     float64 `json:"reached"`
	MinutesMean float64 `json:"minutes_mean"`
	MinutesP90  float64 `json:"minutes_p90"`
	Steps       float64 `json:"steps"`
	PartsVain   float64 `json:"parts_vain"`
}

// interval is a figure with its 95 % limits.
type interval struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// share is how often a policy was right on some faults.
type share struct {
	Right float64 `json:"right"`
	Runs  int     `json:"runs"`
}

type report struct {
	Seed   uint64 `json:"seed"`
	N      int    `json:"n"`
	Commit string `json:"commit"`

	RightShare      float64 `json:"right_share"`
	MinutesRatio    float64 `json:"minutes_ratio_usual"`
	WrongPartsRatio float64 `json:"wrong_parts_ratio_usual"`
	// Faults is how many modes were drawn at least once.
	Faults    int                      `json:"faults"`
	Policies  map[string]policyFigures `json:"policies"`
	Intervals map[string]interval      `json:"intervals"`
	ByLayout  map[string]share         `json:"by_layout"`
	ByPart    map[string]share         `json:"by_part"`
	ByMode    map[string]share         `json:"by_mode"`
	// NotMeasured lists what the shape provides for and this version does not measure.
	NotMeasured []string `json:"not_measured"`
}

type drawn struct {
	pattern engine.Pattern
	fault   fault.Hypothesis
	results []trial.Result
}

func main() {
	seed := flag.Uint64("seed", 1, "seed of all draws")
	n := flag.Int("n", 3000, "faults to draw")
	out := flag.String("out", "docs", "folder for reasoning.json and reasoning.md")
	commit := flag.String("commit", "", "what was measured")
	flag.Parse()
	if *n < 1 || *n > 1_000_000 {
		fmt.Fprintln(os.Stderr, "bench-diagnosis: expected -n from 1 to 1 000 000")
		os.Exit(2)
	}
	r := measure(*seed, *n)
	r.Commit = *commit
	if err := write(*out, r); err != nil {
		fmt.Fprintln(os.Stderr, "bench-diagnosis:", err)
		os.Exit(1)
	}
	fmt.Printf("right %.1f %%, minutes %.2f and parts in vain %.2f of the usual order's\n", 100*r.RightShare, r.MinutesRatio, r.WrongPartsRatio)
}

// draw draws a layout evenly and a fault by its prior; "something else" and "no
// fault now" hold no unit that could be named.
func draw(rng *rand.Rand) drawn {
	d := drawn{pattern: engine.Shelf[rng.IntN(len(engine.Shelf))]}
	for {
		u := rng.Float64()
		for _, h := range fault.Enumerate(d.pattern.Engine(), fault.Complaint{}) {
			if u -= h.Prior; u < 0 {
				if h.Mode.Unit == fault.Else || h.Mode.Unit == fault.NoFault {
					break
				}
				d.fault = h
				return d
			}
		}
	}
}

func measure(seed uint64, n int) report {
	runs := make([]drawn, n)
	rng := rand.New(rand.NewPCG(seed, 0)) //nolint:gosec // published seeds, nothing secret
	for i := range runs {
		runs[i] = draw(rng)
	}
	var wg sync.WaitGroup
	work := make(chan int)
	for range runtime.NumCPU() {
		wg.Go(func() {
			for i := range work {
				for _, p := range trial.Policies { // the same draws for each policy
					var chance bench.Rand = rand.New(rand.NewPCG(seed, uint64(i)+1)) //nolint:gosec // likewise
					runs[i].results = append(runs[i].results, trial.Run(runs[i].pattern.Engine(), runs[i].fault, p, chance))
				}
			}
		})
	}
	for i := range runs {
		work <- i
	}
	close(work)
	wg.Wait()
	return summary(seed, runs)
}

func summary(seed uint64, runs []drawn) report {
	r := report{Seed: seed, N: len(runs), Policies: map[string]policyFigures{}, Intervals: map[string]interval{}, ByLayout: map[string]share{}, ByPart: map[string]share{}, ByMode: map[string]share{},
		NotMeasured: []string{"cost_ratio_optimal", "calibration_worst_points", "calibration_bins", "two_faults", "wrong_observations", "robustness"}}
	for k, p := range trial.Policies {
		var f policyFigures
		var minutes []float64
		for _, d := range runs {
			t := d.results[k]
			f.Runs++
			f.Right += unit(t.Right)
			f.Reached += unit(t.Reached)
			f.Steps += float64(t.Steps)
			f.PartsVain += float64(t.Vain)
			minutes = append(minutes, t.Minutes)
			f.MinutesMean += t.Minutes
		}
		slices.Sort(minutes)
		f.MinutesP90 = minutes[len(minutes)*9/10]
		for _, x := range []*float64{&f.Right, &f.Reached, &f.Steps, &f.PartsVain, &f.MinutesMean} {
			*x /= float64(f.Runs)
		}
		r.Policies[p.Name] = f
	}
	for _, d := range runs {
		right := unit(d.results[0].Right)
		for key, m := range map[string]map[string]share{string(d.pattern.Engine().Ignition): r.ByLayout, string(d.fault.Mode.Unit): r.ByPart, d.fault.Mode.ID: r.ByMode} {
			s := m[key]
			s.Right, s.Runs = s.Right+right, s.Runs+1
			m[key] = s
		}
	}
	for _, m := range []map[string]share{r.ByLayout, r.ByPart, r.ByMode} {
		for key, s := range m {
			m[key] = share{s.Right / float64(s.Runs), s.Runs}
		}
	}
	ours, usual := r.Policies["glenmist"], r.Policies["usual-order"]
	r.RightShare, r.Faults = ours.Right, len(r.ByMode)
	r.MinutesRatio = ours.MinutesMean / usual.MinutesMean
	if usual.PartsVain > 0 {
		r.WrongPartsRatio = ours.PartsVain / usual.PartsVain
	}
	r.Intervals["right_share"] = wilson(ours.Right, ours.Runs)
	r.Intervals["right_difference_usual"] = paired(runs, func(t trial.Result) float64 { return unit(t.Right) })
	r.Intervals["minutes_difference_usual"] = paired(runs, func(t trial.Result) float64 { return t.Minutes })
	return r
}

func unit(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

// wilson is the 95 % interval of a share.
func wilson(p float64, n int) interval {
	const z = 1.96
	m := float64(n)
	mid := (p + z*z/(2*m)) / (1 + z*z/m)
	half := z / (1 + z*z/m) * math.Sqrt(p*(1-p)/m+z*z/(4*m*m))
	return interval{p, mid - half, mid + half}
}

// paired is the mean difference of the first policy less the second, run by run.
func paired(runs []drawn, of func(trial.Result) float64) interval {
	sum, squares := 0.0, 0.0
	for _, d := range runs {
		x := of(d.results[0]) - of(d.results[1])
		sum, squares = sum+x, squares+x*x
	}
	n := float64(len(runs))
	mean := sum / n
	half := 1.96 * math.Sqrt(max(0, squares/n-mean*mean)/n)
	return interval{mean, mean - half, mean + half}
}

func write(dir string, r report) error {
	data, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "reasoning.json"), append(data, '\n'), 0o644); err != nil { //nolint:gosec // a document
		return err
	}
	return os.WriteFile(filepath.Join(dir, "reasoning.md"), []byte(text(r)), 0o644) //nolint:gosec // a document
}

func text(r report) string {
	var b strings.Builder
	say := func(format string, args ...any) { fmt.Fprintf(&b, format, args...) }
	say("# The reasoning, measured on hidden faults\n\n")
	say("Written by `make bench-diagnosis SEED=%d N=%d`, commit %s. %d single faults, drawn from the prior over the patterns of the shelf, in the simulated engine (`core/bench`), which knows no likelihood. Every policy sees the same faults, with the same posterior, gates, tools and caps (%d steps, %.0f minutes). A run ends with its first verdict, or at a cap; then it is wrong.\n\n", r.Seed, r.N, r.Commit, r.N, trial.MaxSteps, trial.MaxMinutes)
	say("| policy | right | reached a verdict | minutes, mean | minutes, 9 of 10 | steps | parts in vain, a run |\n|---|---|---|---|---|---|---|\n")
	for _, p := range trial.Policies {
		f := r.Policies[p.Name]
		say("| %s | %.1f %% | %.1f %% | %.0f | %.0f | %.1f | %.3f |\n", p.Name, 100*f.Right, 100*f.Reached, f.MinutesMean, f.MinutesP90, f.Steps, f.PartsVain)
	}
	i := r.Intervals
	say("\nRight: %.1f %% (95 %%: %.1f to %.1f). Against the usual order, run by run: right %+.1f points (%+.1f to %+.1f), minutes %+.0f (%+.0f to %+.0f), %.2f of its minutes, %.2f of its parts in vain.\n",
		100*i["right_share"].Value, 100*i["right_share"].Low, 100*i["right_share"].High,
		100*i["right_difference_usual"].Value, 100*i["right_difference_usual"].Low, 100*i["right_difference_usual"].High,
		i["minutes_difference_usual"].Value, i["minutes_difference_usual"].Low, i["minutes_difference_usual"].High, r.MinutesRatio, r.WrongPartsRatio)
	for _, t := range []struct {
		name string
		of   map[string]share
	}{{"By layout", r.ByLayout}, {"By unit", r.ByPart}, {"By mode", r.ByMode}} {
		say("\n## %s\n\n| | right | runs |\n|---|---|---|\n", t.name)
		for _, key := range slices.Sorted(keys(t.of)) {
			say("| %s | %.0f %% | %d |\n", key, 100*t.of[key].Right, t.of[key].Runs)
		}
	}
	say("\nNot measured yet: %s.\n", strings.Join(r.NotMeasured, ", "))
	return b.String()
}

func keys(m map[string]share) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}
