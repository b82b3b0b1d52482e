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
		"reasoning-calibration.svg":       calibrationPicture(r.Worlds["middle"].CalibrationBins),
		"reasoning-calibration-outer.svg": calibrationPicture(r.Worlds["outer"].CalibrationBins), "reasoning-minutes.svg": minutesPicture(r.Worlds["middle"])}
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

// text is the report in words.
func text(r report) string {
	d := document{}
	d.say("# The reasoning, measured on hidden faults\n\n")
	d.say("Written by `make bench-diagnosis SEED=%d N=%d`, commit %s. The faults are hidden in the simulated engine (`sim/simulator`), which is made of physics and shares with the reasoning the names of the faults, their prior shares, the minutes and the laws of physics, and nothing else. A run ends when the fitted repair passes its proof run, when the job ends unresolved, or at a cap (%d steps, %.0f minutes). Right is a run whose first verdict names the unit with the fault and whose repair is proven; of two faults, that both and nothing else were named. For the shops without reasoning right is a run in which nothing was bought in vain.\n\n", r.Seed, r.N, r.Commit, trial.MaxSteps, trial.MaxMinutes)
	d.say("*Parts first* renews the plug of the coded cylinder, then its coil, then all plugs and leads or boots, and proves after each. *Swap first* exchanges the coil, then the plug, renews what the misfire follows, and else renews parts. Neither has a posterior.\n\n")
	d.say("| aim | middle | outer |\n|---|---|---|\n")
	m, o := r.Worlds["middle"], r.Worlds["outer"]
	for _, row := range []struct {
		words string
		of    func(*worldFigures) string
	}{
		{"right, single faults (95, 90 %)", func(w *worldFigures) string { return w.Intervals["right_share"].percent() }},
		{"two faults (80 %)", func(w *worldFigures) string { return w.TwoFaults.Right.percent() }},
		{"sets", func(w *worldFigures) string { return w.Sets.Right.percent() }},
		{"contradicted histories", func(w *worldFigures) string { return w.Contradicted.Right.percent() }},
		{"minutes, of the usual order's (0.65)", func(w *worldFigures) string { return fmt.Sprintf("%.2f", w.MinutesRatioUsual) }},
		{"minutes, of parts first's", func(w *worldFigures) string { return fmt.Sprintf("%.2f", w.MinutesRatioParts) }},
		{"parts in vain, of parts first's (0.25)", func(w *worldFigures) string { return fmt.Sprintf("%.2f", w.PartsRatioParts) }},
		{"worst bin of 400 or more (5, 8 points)", (*worldFigures).worst},
		{"wrong, of what was said at 90 % and more (8.3 %)", func(w *worldFigures) string {
			return fmt.Sprintf("%.1f %% of %d", 100*w.ConfidentWrong, w.Confident)
		}},
	} {
		d.say("| %s | %s | %s |\n", row.words, row.of(m), row.of(o))
	}
	d.say("\n![Minutes of each policy in the middle world](reasoning-minutes.svg)\n")
	for _, kind := range kindsOfWorld {
		d.world(kind, r.Worlds[kind])
	}
	d.say("\n## Against the optimum\n\n%d problems of at most %d faults and %d tests, cut out of jobs as they come in and some steps on, by exact dynamic programming on the same outcomes and costs: the plan's two steps ahead cost %.3f times the optimum in the mean, %.3f at worst. Looking at the %d best second steps only costs %.4f times what looking at all does.\n", r.Optimal.Problems, finite.MostFaults, finite.MostTests, r.Optimal.Mean, r.Optimal.Worst, plan.SecondSteps, r.Optimal.Pruning)
	d.say("\n## The worlds\n\nEach figure of an outer world is drawn anywhere in its range, anew for each run; the middle world has the middle ones (judgement, wide on purpose). In outer worlds each fault is twice or half as common as stated, too.\n\n| | from | middle | to |\n|---|---|---|---|\n")
	for _, s := range r.Spans {
		d.say("| %s | %g | %g | %g |\n", s.Words, s.Low, s.Middle, s.High)
	}
	return d.String()
}

// worst is the worst bin in words, if one is full enough.
func (w *worldFigures) worst() string {
	if !slices.ContainsFunc(w.CalibrationBins, func(b bin) bool { return b.N >= fullBin }) {
		return fmt.Sprintf("no bin of %d in %d histories", fullBin, w.CalibrationN)
	}
	return fmt.Sprintf("%.1f points", w.CalibrationWorst)
}

// percent is a share with its limits.
func (i interval) percent() string {
	return fmt.Sprintf("%.1f %% (%.1f to %.1f)", 100*i.Value, 100*i.Low, 100*i.High)
}

// document collects the report.
type document struct{ strings.Builder }

func (d *document) say(format string, args ...any) { fmt.Fprintf(d, format, args...) }

func (d *document) policies(of map[string]policyFigures) {
	d.say("| policy | runs | right | reached a verdict | proven | minutes, mean | minutes, 9 of 10 | steps | parts in vain |\n|---|---|---|---|---|---|---|---|---|\n")
	for _, p := range trial.Policies {
		if f, ok := of[p.Name]; ok {
			d.say("| %s | %d | %.1f %% | %.1f %% | %.1f %% | %.0f | %.0f | %.1f | %d |\n", p.Name, f.Runs, 100*f.Right, 100*f.Reached, 100*f.Proven, f.MinutesMean, f.MinutesP90, f.Steps, f.PartsVain)
		}
	}
}

func (d *document) bins(of []bin) {
	d.say("| said | n | said, mean | so | 95 %% |\n|---|---|---|---|---|\n")
	for _, x := range of {
		if x.N > 0 {
			d.say("| %.0f–%.0f %% | %d | %.1f %% | %.1f %% | %.1f to %.1f |\n", 100*x.From, 100*x.To, x.N, 100*x.Said, 100*x.True, 100*x.Low, 100*x.High)
		}
	}
}

// world is the report of one kind of world.
func (d *document) world(kind string, w *worldFigures) {
	d.say("\n## The %s world: single faults\n\n", kind)
	d.policies(w.Policies)
	d.say("\nThe usual order has worked on the first half of them. “Something else” and “no fault now” hold no unit that could be named, and are not drawn here.\n\n| against | right, points | proven, points | minutes | parts in vain a run |\n|---|---|---|---|---|\n")
	for _, name := range shopNames[1:] {
		cell := func(key string, times float64, format string) string {
			x := w.Intervals[key+" "+name]
			return fmt.Sprintf(format+" ("+format+" to "+format+")", times*x.Value, times*x.Low, times*x.High)
		}
		d.say("| %s | %s | %s | %s | %s |\n", name, cell("right_difference", 100, "%+.1f"), cell("proven_difference", 100, "%+.1f"), cell("minutes_difference", 1, "%+.0f"), cell("parts_difference", 1, "%+.3f"))
	}
	d.say("\nPaired differences, run by run, with 95 %% limits.\n")
	for _, t := range []struct {
		name string
		of   map[string]share
	}{{"by layout", w.ByLayout}, {"by unit", w.ByPart}} {
		d.say("\n### %s world, %s\n\n| | right | runs | minutes, mean |\n|---|---|---|---|\n", kind, t.name)
		for _, key := range slices.Sorted(maps.Keys(t.of)) {
			d.say("| %s | %.0f %% | %d | %.0f |\n", key, 100*t.of[key].Right, t.of[key].Runs, t.of[key].Minutes)
		}
	}
	d.say("\n### %s world, two faults at once\n\n", kind)
	d.policies(w.TwoFaults.Policies)
	d.say("\n%d of %d runs were proven with one of the two left: it does not misfire in the condition of the complaint, in which the proof is run.\n", w.TwoFaults.Silent, w.TwoFaults.Runs)
	d.say("\n### %s world, sets of parts at fault\n\n", kind)
	d.policies(w.Sets.Policies)
	d.say("\n### %s world, contradicted histories\n\nThe first run after a move says that the misfire is where it is not.\n\n", kind)
	d.policies(w.Contradicted.Policies)
	picture := map[string]string{"middle": "reasoning-calibration.svg", "outer": "reasoning-calibration-outer.svg"}[kind]
	d.say("\n### %s world, calibration\n\n%d histories of 1 to 12 random steps, with no planner, on faults as the model has them (two at once, a set, something else and none among them). One suspect of at least %.0f %% is picked at random from each. Worst bin of at least 400: %s. Brier score %.4f, mean log score %.4f.\n\n", kind, w.CalibrationN, 100*leastSuspect, w.worst(), w.Brier, w.LogScore)
	d.bins(w.CalibrationBins)
	d.say("\n![What was said and what was so](%s)\n\nAt the first verdict:\n\n", picture)
	d.bins(w.VerdictBins)
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
func minutesPicture(r *worldFigures) string {
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
