package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"glenmist/core/plan"
	"glenmist/sim/finite"
	"glenmist/sim/trial"
)

func write(dir string, r report) error {
	data, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	files := map[string]string{"reasoning.json": string(data) + "\n", "reasoning.md": text(r),
		"reasoning-calibration.svg": calibrationPicture(r.CalibrationBins), "reasoning-minutes.svg": minutesPicture(r)}
	if err := os.MkdirAll(dir, 0o755); err != nil { //nolint:gosec // a folder of documents
		return err
	}
	for _, name := range slices.Sorted(maps.Keys(files)) {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(files[name]), 0o644); err != nil { //nolint:gosec // a document
			return err
		}
	}
	return nil
}

func text(r report) string {
	var b strings.Builder
	say := func(format string, args ...any) { fmt.Fprintf(&b, format, args...) }
	say("# The reasoning, measured on hidden faults\n\n")
	say("Written by `make bench-diagnosis SEED=%d N=%d`, commit %s. The faults are hidden in the simulated engine (`sim/simulator`), which is made of physics and knows no likelihood. Every policy sees the same faults with the same chances, and shares the posterior, the gates, the stopping confidence, the tools and the caps (%d steps, %.0f minutes). A run ends when the fitted repair passes its proof run, when the job ends unresolved, or at a cap. Right is a run whose first verdict names the unit with the fault and whose repair is proven.\n\n", r.Seed, r.N, r.Commit, trial.MaxSteps, trial.MaxMinutes)
	say("## %d single faults, drawn from the prior over the patterns of the shelf\n\n", r.N)
	table := func(of map[string]policyFigures) {
		say("| policy | runs | right | reached a verdict | proven | minutes, mean | minutes, 9 of 10 | steps | parts in vain |\n|---|---|---|---|---|---|---|---|---|\n")
		for _, p := range trial.Policies {
			if f, ok := of[p.Name]; ok {
				say("| %s | %d | %.1f %% | %.1f %% | %.1f %% | %.0f | %.0f | %.1f | %d |\n", p.Name, f.Runs, 100*f.Right, 100*f.Reached, 100*f.Proven, f.MinutesMean, f.MinutesP90, f.Steps, f.PartsVain)
			}
		}
	}
	table(r.Policies)
	i := r.Intervals
	say("\nRight: %.1f %% (95 %%: %.1f to %.1f). Minutes: %.2f of the usual order's; parts in vain: %.2f of its. “Something else” and “no fault now” hold no unit that could be named, and are not drawn here.\n\n", 100*i["right_share"].Value, 100*i["right_share"].Low, 100*i["right_share"].High, r.MinutesRatio, r.WrongPartsRatio)
	say("| against | right, points | minutes | parts in vain a run |\n|---|---|---|---|\n")
	for _, p := range trial.Policies[1:] {
		d := func(key string, times float64, format string) string {
			x := i[key+" "+p.Name]
			return fmt.Sprintf(format+" ("+format+" to "+format+")", times*x.Value, times*x.Low, times*x.High)
		}
		say("| %s | %s | %s | %s |\n", p.Name, d("right_difference", 100, "%+.1f"), d("minutes_difference", 1, "%+.0f"), d("parts_difference", 1, "%+.3f"))
	}
	say("\nPaired differences, run by run, with 95 %% limits.\n\n![Minutes of each policy](reasoning-minutes.svg)\n")
	for _, t := range []struct {
		name string
		of   map[string]share
	}{{"By layout", r.ByLayout}, {"By unit", r.ByPart}, {fmt.Sprintf("By mode: %d runs, equal numbers of each mode on each layout", r.ByModeRuns), r.ByMode}} {
		say("\n## %s\n\n| | right | runs | minutes, mean |\n|---|---|---|---|\n", t.name)
		for _, key := range slices.Sorted(maps.Keys(t.of)) {
			say("| %s | %.0f %% | %d | %.0f |\n", key, 100*t.of[key].Right, t.of[key].Runs, t.of[key].Minutes)
		}
	}
	say("\n## Two faults at once\n\nRight: every unit with a fault was named, and nothing else was bought, when the proof run passed.\n\n")
	table(r.TwoFaults.Policies)
	say("\n%d of %d runs of %s were proven with one of the two left: it does not misfire in the condition of the complaint, in which the proof is run.\n", r.TwoFaults.Silent, r.TwoFaults.Runs, trial.Policies[0].Name)
	say("\n## Wrong observations\n\n%.0f %% of looks, tests and runs answer at random or one cylinder further on.\n\n", 100*wrongShare)
	table(r.WrongObservations.Policies)
	say("\n## Priors off by a factor of two\n\nEvery mode is twice as common as stated, or half as common.\n\n")
	table(r.Robustness.Policies)
	say("\n## Calibration\n\n%d histories of 1 to 12 random steps, with no planner, on faults as the model has them (two at once, something else and none among them). One suspect of at least %.0f %% is picked at random from each. Worst bin of at least 400: %.1f points. Brier score %.4f, mean log score %.4f.\n\n", r.CalibrationN, 100*leastSuspect, r.CalibrationWorst, r.Brier, r.LogScore)
	calibration := func(of []bin) {
		say("| said | n | said, mean | so | 95 %% |\n|---|---|---|---|---|\n")
		for _, x := range of {
			if x.N > 0 {
				say("| %.0f–%.0f %% | %d | %.1f %% | %.1f %% | %.1f to %.1f |\n", 100*x.From, 100*x.To, x.N, 100*x.Said, 100*x.True, 100*x.Low, 100*x.High)
			}
		}
	}
	calibration(r.CalibrationBins)
	say("\n![What was said and what was so](reasoning-calibration.svg)\n\n## At the first verdict\n\n")
	calibration(r.VerdictBins)
	say("\n## Against the optimum\n\n%d problems of at most %d faults and %d tests, cut out of jobs as they come in and some steps on, by exact dynamic programming on the same outcomes and costs: the plan's two steps ahead cost %.3f times the optimum in the mean, %.3f at worst. Looking at the %d best second steps only costs %.4f times what looking at all does.\n", r.Optimal.Problems, finite.MostFaults, finite.MostTests, r.Optimal.Mean, r.Optimal.Worst, plan.SecondSteps, r.Optimal.Pruning)
	return b.String()
}

// calibrationPicture draws what was so over what was said, with 95 % limits.
func calibrationPicture(of []bin) string {
	var b strings.Builder
	at := func(x, y float64) (float64, float64) { return 50 + 300*x, 350 - 300*y }
	b.WriteString(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 380 400" width="380" height="400" font-family="sans-serif" font-size="12" role="img" aria-label="What was so over what was said"><rect width="380" height="400" fill="#fff"/>`)
	for k := 0; k <= 10; k += 2 {
		x, y := at(float64(k)/10, float64(k)/10)
		fmt.Fprintf(&b, `<text x="%.0f" y="368" text-anchor="middle">%d</text><text x="42" y="%.0f" text-anchor="end">%d</text>`, x, 10*k, y+4, 10*k)
	}
	b.WriteString(`<path d="M50 50V350H350" fill="none" stroke="#555"/><path d="M50 350L350 50" stroke="#aaa" stroke-dasharray="4 4"/><text x="200" y="390" text-anchor="middle">said, per cent</text><text x="14" y="200" text-anchor="middle" transform="rotate(-90 14 200)">so, per cent</text>`)
	for _, x := range of {
		if x.N == 0 {
			continue
		}
		px, py := at(x.Said, x.True)
		_, low := at(x.Said, x.Low)
		_, high := at(x.Said, x.High)
		fmt.Fprintf(&b, `<path d="M%.1f %.1fV%.1f" stroke="#225" stroke-width="2"/><circle cx="%.1f" cy="%.1f" r="4" fill="#225"/>`, px, low, high, px, py)
	}
	b.WriteString("</svg>\n")
	return b.String()
}

// minutesPicture draws the mean minutes of each policy, and those of nine in ten runs.
func minutesPicture(r report) string {
	most := 1.0
	for _, f := range r.Policies {
		most = max(most, f.MinutesP90)
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 560 %d" width="560" height="%d" font-family="sans-serif" font-size="12" role="img" aria-label="Minutes of each policy"><rect width="560" height="%d" fill="#fff"/>`, 40+34*len(trial.Policies), 40+34*len(trial.Policies), 40+34*len(trial.Policies))
	for k, p := range trial.Policies {
		f, y := r.Policies[p.Name], 14+34*k
		fmt.Fprintf(&b, `<text x="130" y="%d" text-anchor="end">%s</text><rect x="140" y="%d" width="%.1f" height="16" fill="#cdd"/><rect x="140" y="%d" width="%.1f" height="16" fill="#255"/><text x="%.1f" y="%d">%.0f, nine in ten within %.0f</text>`,
			y+13, p.Name, y, 260*f.MinutesP90/most, y, 260*f.MinutesMean/most, 148+260*f.MinutesP90/most, y+13, f.MinutesMean, f.MinutesP90)
	}
	fmt.Fprintf(&b, `<text x="140" y="%d">minutes a run</text></svg>`+"\n", 30+34*len(trial.Policies))
	return b.String()
}
