// Command bench-diagnosis measures the reasoning on hidden faults in the simulated
// engine, and writes reasoning.json and reasoning.md, with pictures, into a folder.
package main

import (
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/sim/finite"
	"glenmist/sim/trial"
)

// policyFigures is what one policy took, over all runs.
type policyFigures struct {
	Right       float64 `json:"right"`
	Runs        int     `json:"runs"`
	Reached     float64 `json:"reached"`
	Proven      float64 `json:"proven"`
	MinutesMean float64 `json:"minutes_mean"`
	MinutesP90  float64 `json:"minutes_p90"`
	Steps       float64 `json:"steps"`
	PartsVain   int     `json:"parts_vain"`
}

// interval is a figure with its 95 % limits.
type interval struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// share is how often a policy was right on some faults.
type share struct {
	Right   float64 `json:"right"`
	Runs    int     `json:"runs"`
	Minutes float64 `json:"minutes_mean"`
}

// aside is a sample apart from the headline.
type aside struct {
	Runs     int                      `json:"runs"`
	Policies map[string]policyFigures `json:"policies"`
	// Silent is, of two faults, how many runs of the first policy were proven with one left that
	// does not misfire in the condition of the proof.
	Silent int `json:"silent,omitzero"`
}

// optimal is the plan held against exact dynamic programming.
type optimal struct {
	Problems int     `json:"problems"`
	Mean     float64 `json:"mean"`
	Worst    float64 `json:"worst"`
	// Pruning is what looking at few second steps costs against looking at all.
	Pruning float64 `json:"pruning"`
}

type report struct {
	Seed   uint64 `json:"seed"`
	N      int    `json:"n"`
	Commit string `json:"commit"`

	RightShare       float64 `json:"right_share"`
	MinutesRatio     float64 `json:"minutes_ratio_usual"`
	WrongPartsRatio  float64 `json:"wrong_parts_ratio_usual"`
	CostRatioOptimal float64 `json:"cost_ratio_optimal"`
	CalibrationWorst float64 `json:"calibration_worst_points"`
	// Faults is how many modes were drawn at least once.
	Faults    int                      `json:"faults"`
	Policies  map[string]policyFigures `json:"policies"`
	Intervals map[string]interval      `json:"intervals"`
	ByLayout  map[string]share         `json:"by_layout"`
	ByPart    map[string]share         `json:"by_part"`
	// ByMode is of the sample with equal numbers of each mode on each layout.
	ByMode            map[string]share `json:"by_mode"`
	ByModeRuns        int              `json:"by_mode_runs"`
	CalibrationBins   []bin            `json:"calibration_bins"`
	CalibrationN      int              `json:"calibration_n"`
	Brier             float64          `json:"brier"`
	LogScore          float64          `json:"log_score"`
	VerdictBins       []bin            `json:"verdict_bins"`
	Optimal           optimal          `json:"optimal"`
	TwoFaults         aside            `json:"two_faults"`
	WrongObservations aside            `json:"wrong_observations"`
	Robustness        aside            `json:"robustness"`
}

const wrongShare = 0.03 // of the observations, in the sample with wrong ones

func main() {
	seed := flag.Uint64("seed", 1, "seed of all draws")
	n := flag.Int("n", 3000, "single faults to draw; the other samples go with it")
	out := flag.String("out", "docs", "folder for reasoning.json, reasoning.md and the pictures")
	commit := flag.String("commit", "", "what was measured")
	flag.Parse()
	debug.SetGCPercent(800)
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
	fmt.Printf("right %.1f %%, minutes %.2f and parts in vain %.2f of the usual order's, cost %.3f of the optimum, calibration within %.1f points\n",
		100*r.RightShare, r.MinutesRatio, r.WrongPartsRatio, r.CostRatioOptimal, r.CalibrationWorst)
}

// parallel does something for each of some numbers, on all processors.
func parallel(n int, do func(i int)) {
	var wg sync.WaitGroup
	work := make(chan int)
	for range runtime.NumCPU() {
		wg.Go(func() {
			for i := range work {
				do(i)
			}
		})
	}
	for i := range n {
		work <- i
	}
	close(work)
	wg.Wait()
}

func measure(seed uint64, n int) report {
	source := func(k uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, k)) } //nolint:gosec // published seeds, nothing secret
	draw := func(times int, one func() drawn) []drawn {
		all := make([]drawn, times)
		for i := range all {
			all[i] = one()
		}
		return all
	}
	r := report{Seed: seed, N: n, Intervals: map[string]interval{}}
	began := time.Now()
	done := func(what string) {
		fmt.Fprintf(os.Stderr, "bench-diagnosis: %s done after %s\n", what, time.Since(began).Round(time.Second))
	}
	rng := source(0)
	headline := draw(n, func() drawn { return single(rng, asStated) })
	run(seed, headline, trial.Policies[:2], 0)
	run(seed, headline[:max(1, n/20)], trial.Policies[2:], 0) // the others on a part, for time
	r.headline(headline)
	done("single faults")

	rng = source(1)
	modes := each(rng, min(20, n/150)) // none in a run too small to tell modes apart
	run(seed+1, modes, trial.Policies[:1], 0)
	r.ByMode, r.ByModeRuns = shares(modes, func(d drawn) string { return string(d.hidden[0].Mode.ID) }), len(modes)

	done("each mode")
	few, two := max(1, n/25), trial.Policies[:2]
	rng = source(2)
	doubles := draw(few, func() drawn { return double(rng) })
	run(seed+2, doubles, two, 0)
	r.TwoFaults = apart(doubles)
	rng = source(3)
	wrongs := draw(few, func() drawn { return single(rng, asStated) })
	run(seed+3, wrongs, two, wrongShare)
	r.WrongObservations = apart(wrongs)
	rng = source(4)
	factor := off(rng)
	biased := draw(few, func() drawn { return single(rng, factor) })
	run(seed+4, biased, two, 0)
	r.Robustness = apart(biased)

	done("two faults, wrong observations, other priors")
	guesses := histories(seed+5, max(1, n*20000/3000))
	r.CalibrationN = len(guesses)
	r.CalibrationBins, r.CalibrationWorst = bins(guesses, 400)
	done("histories")
	r.Brier, r.LogScore = scores(guesses)
	r.Optimal = against(seed+6, max(1, n/40))
	r.CostRatioOptimal = r.Optimal.Mean
	return r
}

// figures adds up what the k-th policy took.
func figures(runs []drawn, k int) policyFigures {
	var f policyFigures
	var minutes []float64
	for _, d := range had(runs, k) {
		t := d.results[k]
		f.Runs++
		f.Right += one(t.Right)
		f.Reached += one(t.Reached)
		f.Proven += one(t.Proven)
		f.Steps += float64(t.Steps)
		f.PartsVain += t.Vain
		minutes = append(minutes, t.Minutes)
		f.MinutesMean += t.Minutes
	}
	slices.Sort(minutes)
	f.MinutesP90 = minutes[len(minutes)*9/10]
	for _, x := range []*float64{&f.Right, &f.Reached, &f.Proven, &f.Steps, &f.MinutesMean} {
		*x /= float64(f.Runs)
	}
	return f
}

// had lists the runs that a policy has made.
func had(runs []drawn, k int) []drawn {
	n := slices.IndexFunc(runs, func(d drawn) bool { return len(d.results) <= k })
	if n < 0 {
		return runs
	}
	return runs[:n]
}

// shares is how often the first policy was right, by some key.
func shares(runs []drawn, key func(drawn) string) map[string]share {
	all := map[string]share{}
	for _, d := range runs {
		s := all[key(d)]
		s.Right, s.Minutes, s.Runs = s.Right+one(d.results[0].Right), s.Minutes+d.results[0].Minutes, s.Runs+1
		all[key(d)] = s
	}
	for k, s := range all {
		all[k] = share{s.Right / float64(s.Runs), s.Runs, s.Minutes / float64(s.Runs)}
	}
	return all
}

func apart(runs []drawn) aside {
	a := aside{Runs: len(runs), Policies: map[string]policyFigures{}}
	for k := range runs[0].results {
		a.Policies[trial.Policies[k].Name] = figures(runs, k)
	}
	for _, d := range runs {
		if d.results[0].Silent {
			a.Silent++
		}
	}
	return a
}

func (r *report) headline(runs []drawn) {
	r.Policies = map[string]policyFigures{}
	for k, p := range trial.Policies {
		r.Policies[p.Name] = figures(runs, k)
	}
	r.ByLayout = shares(runs, func(d drawn) string { return string(d.pattern.Engine().Ignition) })
	r.ByPart = shares(runs, func(d drawn) string { return string(d.hidden[0].Mode.Unit) })
	modes := map[string]bool{}
	var guesses []guess
	for _, d := range runs {
		modes[string(d.hidden[0].Mode.ID)] = true
		if t := d.results[0]; t.Reached {
			guesses = append(guesses, guess{t.Said, t.True})
		}
	}
	r.VerdictBins, _ = bins(guesses, 1)
	ours, usual := r.Policies["glenmist"], r.Policies["usual-order"]
	r.RightShare, r.Faults = ours.Right, len(modes)
	r.MinutesRatio = ours.MinutesMean / usual.MinutesMean
	if usual.PartsVain > 0 {
		r.WrongPartsRatio = float64(ours.PartsVain) / float64(usual.PartsVain)
	}
	r.Intervals["right_share"] = wilson(ours.Right, ours.Runs)
	for k, p := range trial.Policies[1:] {
		r.Intervals["right_difference "+p.Name] = paired(runs, k+1, func(t trial.Result) float64 { return one(t.Right) })
		r.Intervals["minutes_difference "+p.Name] = paired(runs, k+1, func(t trial.Result) float64 { return t.Minutes })
		r.Intervals["parts_difference "+p.Name] = paired(runs, k+1, func(t trial.Result) float64 { return float64(t.Vain) })
	}
}

// against holds the plan against exact dynamic programming, on problems cut out of jobs
// on the patterns of the shelf: as they come in, and some random steps on.
func against(seed uint64, n int) optimal {
	ratios, pruned := make([]float64, n), make([]float64, n)
	rng := rand.New(rand.NewPCG(seed, 5)) //nolint:gosec // published seeds, nothing secret
	runs := make([]drawn, n)
	for i := range runs {
		runs[i] = single(rng, asStated)
	}
	parallel(n, func(i int) {
		chance := rand.New(rand.NewPCG(seed, uint64(i)+9)) //nolint:gosec // likewise
		s := trial.Setup{Engine: runs[i].pattern.Engine(), Hidden: runs[i].hidden, Shop: plan.Default}
		a := diagnose.Assess(job.Job{Vehicle: job.Vehicle{Engine: s.Engine}})
		if i%2 == 1 {
			a = s.Wander(1+chance.IntN(4), chance)
		}
		f := finite.Condense(a, s.Shop)
		best := f.Optimal()
		ours, all := f.Ahead(plan.SecondSteps), f.Ahead(0)
		ratios[i], pruned[i] = 1, 1
		if best > 1e-6 {
			ratios[i], pruned[i] = ours/best, ours/all
		}
	})
	o := optimal{Problems: n}
	for i, x := range ratios {
		o.Mean += x / float64(n)
		o.Pruning += pruned[i] / float64(n)
		o.Worst = max(o.Worst, x)
	}
	return o
}

func one(b bool) float64 {
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

// paired is the mean difference of the first policy less the k-th, run by run.
func paired(runs []drawn, k int, of func(trial.Result) float64) interval {
	sum, squares := 0.0, 0.0
	runs = had(runs, k)
	for _, d := range runs {
		x := of(d.results[0]) - of(d.results[k])
		sum, squares = sum+x, squares+x*x
	}
	n := float64(len(runs))
	mean := sum / n
	half := 1.96 * math.Sqrt(max(0, squares/n-mean*mean)/n)
	return interval{mean, mean - half, mean + half}
}
