// Package diagnose weighs the evidence of a job against every single fault the
// engine can have. It is exact: each fault is one world for each reach it can
// have, and two where touching can cure it; the hidden misfire rate is summed out
// on a grid; nothing is sampled. What a fault troubles comes from the layout and
// from where the parts sit; no layout is a case of its own here.
package diagnose

import (
	"slices"

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
	// Tried says that touching has been tried, and has not cured it.
	Tried bool
	// prior is its probability before any evidence.
	prior float64
	// sick is what it troubles after each number of moves, while it is not cured.
	sick []engine.Set
}

// sickAt is what the world troubles when the i-th moment is observed.
func (w World) sickAt(i, epoch int) engine.Set {
	if w.CuredAfter >= 0 && i > w.CuredAfter {
		return 0
	}
	return w.sick[epoch]
}

// worlds lists the worlds of an engine, given what has been touched.
func worlds(e engine.Engine, c fault.Complaint, moments []evidence.Moment) []World {
	epochs := []part.Positions{part.Home(e)}
	var touching []handled
	for _, m := range moments {
		if m.Epoch == len(epochs) {
			epochs = append(epochs, m.At)
		}
		touching = append(touching, Handled(e, m))
	}
	var all []World
	for _, h := range fault.Enumerate(e, c) {
		w := World{Hypothesis: h, CuredAfter: -1, prior: h.Prior, sick: make([]engine.Set, len(epochs))}
		for k, at := range epochs {
			w.sick[k] = h.Afflicted(at)
		}
		touched := -1
		if h.Mode.CuredByTouch > 0 {
			touched = slices.IndexFunc(touching, func(t handled) bool { return t.Touches(h) })
		}
		if touched < 0 {
			all = append(all, w)
			continue
		}
		cured := w
		cured.CuredAfter = touched
		cured.prior = h.Prior * h.Mode.CuredByTouch
		w.prior, w.Tried = h.Prior*(1-h.Mode.CuredByTouch), true
		all = append(all, w, cured)
	}
	return all
}

// handled is what a moment's work had hands on.
type handled struct {
	tags  []part.Tag
	sites []engine.Item
	// feeds is the cylinders whose own parts were handled; at says where they sat.
	feeds engine.Set
	at    part.Positions
}

// Handled says what a moment's work had hands on: what was moved or looked at, and
// what has to come off for that.
func Handled(e engine.Engine, m evidence.Moment) handled {
	h := handled{at: m.Before}
	take := func(k engine.Kind, p engine.Place) {
		feeds, ok := e.Feeds(p)
		if !ok {
			return
		}
		if feeds.Len() == 1 {
			h.feeds |= feeds
		}
		h.sites = append(h.sites, e.Disturbs(k, p)...)
	}
	if m.Entry.Move != nil {
		for _, r := range m.Entry.Move.Parts {
			h.tags = append(h.tags, r.Tag)
			take(r.Tag.Kind(), m.Before.Where(r.Tag))
			take(r.Tag.Kind(), r.To)
		}
	}
	if m.Entry.Look != nil {
		for _, item := range m.Entry.Look.Items {
			if item.Tag != "" {
				h.tags = append(h.tags, item.Tag)
				take(item.Tag.Kind(), m.At.Where(item.Tag))
				continue
			}
			h.sites = append(h.sites, engine.Item{Kind: engine.Connector, Place: item.Place})
		}
	}
	return h
}

// Touches says whether the work had hands on the item of a fault.
func (t handled) Touches(h fault.Hypothesis) bool {
	if h.Tag == "" {
		return slices.ContainsFunc(t.sites, func(s engine.Item) bool { return s.Kind == h.Mode.Unit && s.Place == h.Place })
	}
	if slices.Contains(t.tags, h.Tag) {
		return true
	}
	feeds := t.at.Feeds(h.Tag)
	return len(feeds) == 1 && t.feeds.Has(feeds[0])
}
