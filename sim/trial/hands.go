package trial

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// hands is what a piece of work touches: the parts in the hand, and the sites that come apart for them.
type hands struct {
	tags  []part.Tag
	sites []engine.Item
	// own is the cylinders whose parts come off.
	own engine.Set
	at  part.Positions
}

// moving returns what a move touches, with the parts where they were.
func moving(e engine.Engine, at part.Positions, parts []part.Relocation) hands {
	h := hands{at: at}
	for _, r := range parts {
		h.tags = append(h.tags, r.Tag)
		h.open(e, r.Tag.Kind(), at.Where(r.Tag))
		h.open(e, r.Tag.Kind(), r.To)
	}
	return h
}

// looking returns what a look touches: a connector is unplugged for it, and a part pulled off.
func looking(e engine.Engine, at part.Positions, items []evidence.Seen) hands {
	h := hands{at: at}
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

// open adds the sites that come apart for a part at a place.
func (h *hands) open(e engine.Engine, k engine.Kind, p engine.Place) {
	feeds, ok := e.Feeds(p)
	if !ok {
		return
	}
	if feeds.Len() == 1 {
		h.own |= feeds
	}
	h.sites = append(h.sites, e.Disturbs(k, p)...)
}

// on reports whether the fault is where the work was. Pulling what sits on a plug neither tightens nor dries it.
func (h hands) on(f fault.Hypothesis) bool {
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
