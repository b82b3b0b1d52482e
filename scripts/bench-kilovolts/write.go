package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
)

// write writes the two files.
func write(dir string, r report) error {
	data, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	if err := os.MkdirAll(dir, 0o755); err != nil { //nolint:gosec // a folder of documents
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "kilovolts.json"), append(data, '\n'), 0o644); err != nil { //nolint:gosec // a document
		return err
	}
	return os.WriteFile(filepath.Join(dir, "kilovolts.md"), page(r), 0o644) //nolint:gosec // a document
}

// told is what the tables by mode show in common; it is checked by eye when they are written.
const told = `
## What shapes tell, and what they do not

- Told well: resistance or a gap in series (high or open leads), shorted or open windings, a weak coil, lost compression, a wide
  or a closed gap. Each changes a figure of its own: the slope, the ringing, the burn, or all kilovolts alike.
- Not told apart: a cracked plug from a leaking lead, boot or seat. The spark breaks down at a lower voltage in both cases, and no figure
  shows where. The same holds for carbon, fuel and oil on a plug: each is a shunt.
- Hardly shown: injectors, fuel and air at idle. The spark is sound, and the need rises by a tenth or less.
- Connectors, feeds and triggers take whole sparks away. A capture of some cycles counts few of them.
- A seat, a well and a boot look as a lead does. The lead is the more common, so that the part is mostly wrong for the others.

The page names what a shape cannot tell apart, with the step that tells it (core/knowledge/lookalike.go). How often each fault shows each shape is
fitted to tuning worlds, which are none of those measured here (make fit-kilovolts, decisions/0041).
`

// page is the report as a page.
func page(r report) []byte {
	var b bytes.Buffer
	put := func(format string, args ...any) { fmt.Fprintf(&b, format, args...) }
	put(`# Captures of kilovolts, measured

Written by `+"`make bench-kilovolts SEED=%d N=%d`"+`, commit %s.

The simulated engine (`+"`sim/simulator`, on `sim/coil`"+`) records eight cycles at idle and eight of a snap of the throttle. The reader
(`+"`core/scope`"+`) shares no code with it. One hidden fault affects one cylinder. It is drawn by prior share over the engines of the
shelf. The reasoning knows the cylinder and the kilovolts, and nothing else.

- *Own world*: the scope of the stand-in, 250 000 samples a second, no disturbance but noise.
- *Outer worlds*: a scope drawn anew for each capture, with turn-on pulses (0.3 to 1.5 kV), crosstalk (2 to 10 %%), hum, offset, drift,
  several sparks in one event, peaks between samples, ringing sync clamps, overrun, and channels in several arrangements
  (`+"`simulator.OuterScope`"+`). The engine's own world is drawn too (`+"`simulator.Outer`"+`).

Events from %.1f kV count. An event that was given to no cylinder counts as missed if it was one, and not as false. *Side* is inside the chamber (plug, compression, mixture) or outside it. *Part* is the unit of the leading
suspect. *Confident* are leading suspects with %.0f %% or more.

`, r.Seed, r.N, r.Commit, foundFrom, 100*confident)
	put("At %d dB:\n\n| aim | own | outer |\n|---|---|---|\n", headlineDB)
	own, outer := r.Own, r.Outer
	row := func(words, format string, of func(*world) float64) {
		put("| %s | "+format+" | "+format+" |\n", words, of(own), of(outer))
	}
	row("events found (outer 98 %)", "%.2f %%", func(w *world) float64 { return 100 * w.Found })
	row("false events (outer 1 %)", "%.2f %%", func(w *world) float64 { return 100 * w.False })
	row("cylinder right (outer 99.5 %)", "%.2f %%", func(w *world) float64 { return 100 * w.Cylinder })
	row("firing voltage, median error (outer 3 %)", "%.1f %%", func(w *world) float64 { return w.FiringPC })
	row("firing voltage, 90th percentile of the error (outer 8 %)", "%.1f %%", func(w *world) float64 { return w.FiringP90 })
	row("side right (own 85 %, outer 80 %)", "%.1f %%", func(w *world) float64 { return 100 * w.Side })
	row("part right (own 65 %, outer 60 %)", "%.1f %%", func(w *world) float64 { return 100 * w.Part })
	row("confident statements right (outer 75 %)", "%.1f %%", func(w *world) float64 { return 100 * w.Confident })
	row("sound engines without a false alarm (outer 95 %)", "%.1f %%", func(w *world) float64 { return 100 * w.Sound })
	row("faulty cylinder called in line", "%.1f %%", func(w *world) float64 { return 100 * w.InLine })
	put("\nReading a file of 200 MB with five columns takes %.2f of the time of a bare read of its fields with `encoding/csv`. The heap is %.0f MB at most.\n", r.ImportTime, r.ImportMB)
	b.WriteString(told)
	for _, w := range []*world{own, outer} {
		put("\n## %s world\n\n| noise, dB under a usual peak | captures | events found | false | cylinder right | side right | part right |\n|---|---|---|---|---|---|---|\n", map[string]string{"own": "Own", "outer": "Outer"}[w.Name])
		for _, l := range w.Levels {
			put("| %.0f | %d | %.2f %% | %.2f %% | %.2f %% | %.1f %% | %.1f %% |\n", l.DB, l.Captures, 100*l.Found, 100*l.False, 100*l.Cylinder, 100*l.Side, 100*l.Part)
		}
		put("\nMedian error of each figure (0 where noise leaves nothing to measure):\n\n| noise, dB | firing | burn | spark line | slope | ringing | dwell |\n|---|---|---|---|---|---|---|\n")
		for _, l := range w.Levels {
			put("| %.0f | %.1f %% | %.2f ms | %.2f kV | %.2f kV/ms | %.1f %% of its frequency | %.2f ms |\n", l.DB, l.FiringPC, l.BurnMS, l.LineKV, l.Slope, l.RingPC, l.DwellMS)
		}
		for _, by := range []struct {
			words string
			of    map[string]*figures
		}{{"layout", w.ByLayout}, {"mode", w.ByMode}} {
			put("\n### By %s, at %d dB\n\n| | captures | events found | false | cylinder right | side right | part right |\n|---|---|---|---|---|---|---|\n", by.words, headlineDB)
			for _, name := range slices.Sorted(maps.Keys(by.of)) {
				f := by.of[name]
				put("| %s | %d | %.1f %% | %.1f %% | %.1f %% | %.0f %% | %.0f %% |\n", name, f.Captures, 100*f.Found, 100*f.False, 100*f.Cylinder, 100*f.Side, 100*f.Part)
			}
		}
	}
	return b.Bytes()
}
