package trial

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/sim/simulator"
)

// handled is what a piece of work touches: the parts that are moved or removed, and the sites that are opened for them.
type handled struct {
	tags  []part.Tag
	sites []engine.Item
	// own is the set of cylinders whose own parts are removed.
	own engine.Set
	at  part.Positions
}

// moving returns what a move touches. at is the positions before the move.
func moving(e engine.Engine, at part.Positions, parts []part.Relocation) handled {
	h := handled{at: at}
	for _, r := range parts {
		h.tags = append(h.tags, r.Tag)
		h.open(e, r.Tag.Kind(), at.Where(r.Tag))
		h.open(e, r.Tag.Kind(), r.To)
	}
	return h
}

// looking returns what a look touches. Looking at a connector unplugs it; looking at a part removes it.
func looking(e engine.Engine, at part.Positions, items []evidence.Seen) handled {
	h := handled{at: at}
	for _, i := range items {
		if i.Tag == "" {
			h.sites = append(h.sites, engine.Item{Kind: engine.Connector, Place: i.Place})
			continue
		}
		h.tags = append(h.tags, i.Tag)
		h.open(e, i.Tag.Kind(), at.Where(i.Tag))
	}
	return h
}

// open adds the sites that are opened to reach a part at a place.
func (h *handled) open(e engine.Engine, k engine.Kind, p engine.Place) {
	feeds, ok := e.Feeds(p)
	if !ok {
		return
	}
	if feeds.Len() == 1 {
		h.own |= feeds
	}
	h.sites = append(h.sites, e.Disturbs(k, p)...)
}

// on reports whether the work touched the faulty item. Removing a boot or lead does not touch the plug below it.
func (h handled) on(f fault.Hypothesis) bool {
	switch {
	case f.IsSet():
		return false
	case f.Tag == "":
		return slices.ContainsFunc(h.sites, func(i engine.Item) bool { return i.Kind == f.Mode.Unit && i.Place == f.Place })
	case slices.Contains(h.tags, f.Tag):
		return true
	case f.Tag.Kind() == engine.Plug:
		return false
	}
	feeds := h.at.Feeds(f.Tag)
	return len(feeds) == 1 && h.own.Has(feeds[0])
}

// moveParts moves parts on the simulated engine. The work can cure a fault where it touches, and can leave a new one.
func moveParts(b *simulator.Engine, e engine.Engine, at part.Positions, parts []part.Relocation) {
	work := moving(e, at, parts)
	b.Fit(parts)
	b.Touch(work.on)
	b.LeaveBehind(work.sites)
}
