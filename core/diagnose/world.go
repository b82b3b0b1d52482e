// Package diagnose weighs the evidence of a job against every single fault the
// engine can have. It is exact: each fault is one world, or two where touching
// can cure it; the hidden misfire rate is summed out on a grid; nothing is
// sampled.
package diagnose

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// World is one way things may stand: a single fault, with what touching it did.
type World struct {
	Hypothesis fault.Hypothesis
	// CuredAfter is the index of the moment that cured it, or -1.
	CuredAfter int
	// P is its probability after all evidence.
	P float64
	// Rate is the probability of each misfire rate of the grid, within the world.
	Rate perRate
	// Suspect is the index of its repair unit in the assessment's Suspects.
	Suspect int
	// prior is its probability before any evidence.
	prior float64
}

// sickAt is what the world afflicts when the i-th moment is observed.
func (w World) sickAt(i int, at part.Positions, e engine.Engine) afflicted {
	if w.CuredAfter >= 0 && i > w.CuredAfter {
		return 0
	}
	c, all := w.Hypothesis.Afflicted(at)
	switch {
	case all:
		return everyCylinder(e)
	case c == 0:
		return 0
	}
	return only(c)
}

// worlds lists the worlds of an engine, given what has been touched.
func worlds(e engine.Engine, moments []evidence.Moment) []World {
	var all []World
	for _, h := range fault.Enumerate(e) {
		touched := -1
		if h.Mode.CuredByTouch > 0 {
			for i, m := range moments {
				if Touches(m, h) {
					touched = i
					break
				}
			}
		}
		if touched < 0 {
			all = append(all, World{Hypothesis: h, CuredAfter: -1, prior: h.Prior})
			continue
		}
		cure := h.Mode.CuredByTouch
		all = append(all,
			World{Hypothesis: h, CuredAfter: -1, prior: h.Prior * (1 - cure)},
			World{Hypothesis: h, CuredAfter: touched, prior: h.Prior * cure})
	}
	return all
}

// Touches says whether a moment took the coil off, or the connector apart, at
// the place of the fault, or handled the tagged part that has it.
func Touches(m evidence.Moment, h fault.Hypothesis) bool {
	c, _ := h.Afflicted(m.Before)
	if m.Entry.Move != nil {
		for _, r := range m.Entry.Move.Parts {
			to, _ := r.To.Cylinder()
			if m.Before.Where(r.Tag) == c || to == c {
				return true
			}
		}
	}
	if m.Entry.Look != nil {
		for _, item := range m.Entry.Look.Items {
			if item.Place == engine.At(c) || item.Tag != "" && m.At.Where(item.Tag) == c {
				return true
			}
		}
	}
	return false
}
