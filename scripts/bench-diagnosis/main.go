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
	"testing"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/trouble"
	"glenmist/sim/finite"
	"glenmist/sim/simulator"
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
	Right    interval                 `json:"right"`
	// Silent is, of two faults, how many runs of the first policy were proven with one left that
	// does not misfire in the condition of the proof.
	Silent int `json:"silent,omitzero"`
}

// worldFigures is what was measured in one kind of world.
type worldFigures struct {
	RightShare float64 `json:"right_share"`
	Runs       int     `json:"runs"`
	// CalibrationWorst is in points, over bins of at least 400. ConfidentWrong is the share of statements of 90 % and more
	// that were wrong, in histories and in first verdicts.
	CalibrationWorst float64 `json:"calibration_worst_points"`
	ConfidentWrong   float64 `json:"confident_wrong_share"`
	Confident        int     `json:"confident"`
	// MinutesRatioUsual is against the usual order; the others are against parts first.
	MinutesRatioUsual float64                  `json:"minutes_ratio_usual"`
	MinutesRatioParts float64                  `json:"minutes_ratio_parts_first"`
	PartsRatioParts   float64                  `json:"parts_ratio_parts_first"`
	Policies          map[string]policyFigures `json:"policies"`
	Intervals         map[string]interval      `json:"intervals"`
	ByLayout          map[string]share         `json:"by_layout"`
	ByPart            map[string]share         `json:"by_part"`
	CalibrationBins   []bin                    `json:"calibration_bins"`
	CalibrationN      int                      `json:"calibration_n"`
	Brier             float64                  `json:"brier"`
	LogScore          float64                  `json:"log_score"`
	VerdictBins       []bin                    `json:"verdict_bins"`
	TwoFaults         aside                    `json:"two_faults"`
	Sets              aside                    `json:"sets"`
	Contradicted      aside                    `json:"contradicted"`
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

	Worlds map[string]*worldFigures `json:"worlds"`
	// The headline figures are of the middle world.
	TwoFaultsRight    float64 `json:"two_faults_right_share"`
	SetsRight         float64 `json:"sets_right_share"`
	MinutesRatioUsual float64 `json:"minutes_ratio_usual"`
	MinutesRatioParts float64 `json:"minutes_ratio_parts_first"`
	PartsRatioParts   float64 `json:"parts_ratio_parts_first"`
	CostRatioOptimal  float64 `json:"cost_ratio_optimal"`
	// ReasonsCost is the time of all reasons and contradictions at 200 entries, over that of one posterior.
	ReasonsCost float64          `json:"reasons_cost_ratio_200"`
	Optimal     optimal          `json:"optimal"`
	Spans       []simulator.Span `json:"spans"`
}

// fullBin is the least number of guesses in a bin that counts for the calibration.
const fullBin = 400

// kindsOfWorld are the worlds in the order in which they are measured.
var kindsOfWorld = []string{"middle", "outer"}

func main() {
	seed := flag.Uint64("seed", 1, "seed of all draws")
	n := flag.Int("n", 400, "runs of each sample in each kind of world")
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
	for _, kind := range kindsOfWorld {
		w := r.Worlds[kind]
		fmt.Printf("%s: right %.1f %%, two faults %.1f %%, sets %.1f %%, contradicted %.1f %%; minutes %.2f of the usual order's and %.2f of parts first's, parts in vain %.2f of parts first's; calibration within %.1f points, wrong at 90 %% and more %.1f %% of %d\n",
			kind, 100*w.RightShare, 100*w.TwoFaults.Right.Value, 100*w.Sets.Right.Value, 100*w.Contradicted.Right.Value, w.MinutesRatioUsual, w.MinutesRatioParts, w.PartsRatioParts, w.CalibrationWorst, 100*w.ConfidentWrong, w.Confident)
	}
	fmt.Printf("cost %.3f of the optimum, reasons at 200 entries %.1f times one posterior\n", r.CostRatioOptimal, r.ReasonsCost)
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
	r := report{Seed: seed, N: n, Worlds: map[string]*worldFigures{}, Spans: simulator.Spans()}
	began := time.Now()
	for k, kind := range kindsOfWorld {
		r.Worlds[kind] = world(seed+100*uint64(k), n, kind == "outer", func(what string) { //nolint:gosec // a small index
			fmt.Fprintf(os.Stderr, "bench-diagnosis: %s, %s done after %s\n", kind, what, time.Since(began).Round(time.Second))
		})
	}
	r.Optimal = against(seed+6, max(1, n/20))
	r.ReasonsCost = reasonsCost()
	middle := r.Worlds["middle"]
	r.TwoFaultsRight, r.SetsRight, r.CostRatioOptimal = middle.TwoFaults.Right.Value, middle.Sets.Right.Value, r.Optimal.Mean
	r.MinutesRatioUsual, r.MinutesRatioParts, r.PartsRatioParts = middle.MinutesRatioUsual, middle.MinutesRatioParts, middle.PartsRatioParts
	return r
}

// reasonsCost is the time of all reasons and contradictions of a job with 200 entries on an engine of eight, over the time
// of its bare posterior.
func reasonsCost() float64 {
	p, _ := engine.FindPattern("v8-leads")
	j := job.Job{Number: "cost", Opened: time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC), Vehicle: job.Vehicle{Fleet: "cost", What: "cost", Engine: p.Engine()}}
	add := func(body evidence.Body) {
		if longer, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: j.Opened.Add(time.Duration(len(j.Ledger)+1) * time.Minute), By: "cost", Body: body}); err == nil {
			j.Ledger = longer
		}
	}
	add(&evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(2), State: trouble.Stored}}})
	add(&evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugNormal}}})
	add(&evidence.Move{Cleared: true, Parts: part.Home(j.Vehicle.Engine).Swap("cyl-2", "cyl-4", engine.Plug)})
	for len(j.Ledger) < 200 {
		counts := make([]int, 8)
		counts[1] = 40 + len(j.Ledger)
		add(&evidence.Counters{Revolutions: 3000, Counts: counts, Fresh: true})
	}
	a := diagnose.Assess(j)
	bare := testing.Benchmark(func(b *testing.B) {
		for b.Loop() {
			a.RecomputePosterior()
		}
	})
	began := time.Now()
	a.AddReasons()
	a.Contradictions()
	return float64(time.Since(began)) / float64(bare.NsPerOp())
}

// world measures one kind of world. In outer worlds the shares of the faults are off as well, by a factor of two either
// way, anew for each run.
func world(seed uint64, n int, outer bool, done func(what string)) *worldFigures {
	source := func(k uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, k)) } //nolint:gosec // published seeds, nothing secret
	draw := func(k uint64, one func(*rand.Rand, func(fault.Mode) float64) drawn) []drawn {
		rng := source(k)
		all := make([]drawn, n)
		for i := range all {
			factor := asStated
			if outer {
				factor = off(rng)
			}
			all[i] = one(rng, factor)
		}
		return in(rng, outer, all)
	}
	w := &worldFigures{Intervals: map[string]interval{}}
	singles := draw(0, single)
	run(seed, singles, []trial.Policy{trial.Policies[0], trial.Policies[2], trial.Policies[3]})
	part := singles[:max(1, n/2)] // the usual order on a part, for time
	usual := make([]drawn, len(part))
	copy(usual, part)
	for i := range usual {
		usual[i].results = nil
	}
	run(seed, usual, trial.Policies[1:2])
	w.headline(singles, usual)
	done("single faults")
	few := trial.Policies[:1]
	doubles := draw(2, func(rng *rand.Rand, _ func(fault.Mode) float64) drawn { return double(rng) })
	run(seed+2, doubles, few)
	w.TwoFaults = apart(doubles)
	done("two faults")
	sets := draw(3, set)
	run(seed+3, sets, []trial.Policy{trial.Policies[0], trial.Policies[2], trial.Policies[3]})
	w.Sets = apart(sets)
	done("sets")
	odd := draw(4, single)
	for i := range odd {
		odd[i].contradict = true
	}
	run(seed+4, odd, few)
	w.Contradicted = apart(odd)
	done("contradicted histories")
	guesses := histories(seed+5, max(1, 3*n), outer)
	w.CalibrationN = len(guesses)
	w.CalibrationBins, w.CalibrationWorst = bins(guesses, fullBin)
	w.Brier, w.LogScore = scores(guesses)
	done("histories")
	wrong := 0
	for _, of := range [][]guess{guesses, verdicts(singles)} {
		for _, g := range of {
			if g.p >= 0.9 {
				w.Confident++
				wrong += int(1 - one(g.is))
			}
		}
	}
	w.ConfidentWrong = float64(wrong) / float64(max(1, w.Confident))
	return w
}

// verdicts lists what the first verdicts said.
func verdicts(runs []drawn) (all []guess) {
	for _, d := range runs {
		if t := d.results[0]; t.Reached {
			all = append(all, guess{t.Said, t.True})
		}
	}
	return all
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

// shopNames are the policies of a sample by the place of their results: ours, and those without a posterior.
var shopNames = []string{"glenmist", "parts-first", "swap-first"}

func apart(runs []drawn) aside {
	a := aside{Runs: len(runs), Policies: map[string]policyFigures{}}
	for k := range runs[0].results {
		a.Policies[shopNames[k]] = figures(runs, k)
	}
	for _, d := range runs {
		if d.results[0].Silent {
			a.Silent++
		}
	}
	a.Right = wilson(a.Policies["glenmist"].Right, a.Runs)
	return a
}

// headline works out the figures of single faults. The usual order has worked on the first of them only.
func (w *worldFigures) headline(runs, usual []drawn) {
	w.Policies = map[string]policyFigures{"usual-order": figures(usual, 0)}
	for k, name := range shopNames {
		w.Policies[name] = figures(runs, k)
	}
	w.ByLayout = shares(runs, func(d drawn) string { return string(d.pattern.Engine().Ignition) })
	w.ByPart = shares(runs, func(d drawn) string { return string(d.hidden[0].Mode.Unit) })
	w.VerdictBins, _ = bins(verdicts(runs), 1)
	ours, parts := w.Policies["glenmist"], w.Policies["parts-first"]
	w.RightShare, w.Runs = ours.Right, ours.Runs
	w.MinutesRatioUsual = figures(runs[:len(usual)], 0).MinutesMean / w.Policies["usual-order"].MinutesMean
	w.MinutesRatioParts = ours.MinutesMean / parts.MinutesMean
	w.PartsRatioParts = float64(ours.PartsVain) / float64(max(1, parts.PartsVain))
	w.Intervals["right_share"] = wilson(ours.Right, ours.Runs)
	for k, name := range shopNames[1:] {
		w.Intervals["right_difference "+name] = paired(runs, k+1, func(t trial.Result) float64 { return one(t.Right) })
		w.Intervals["proven_difference "+name] = paired(runs, k+1, func(t trial.Result) float64 { return one(t.Proven) })
		w.Intervals["minutes_difference "+name] = paired(runs, k+1, func(t trial.Result) float64 { return t.Minutes })
		w.Intervals["parts_difference "+name] = paired(runs, k+1, func(t trial.Result) float64 { return float64(t.Vain) })
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
