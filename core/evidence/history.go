package evidence

import (
	"glenmist/core/engine"
	"glenmist/core/part"
)

// Stay is one period of one part at one place.
type Stay struct {
	Tag   part.Tag
	Place engine.Place
	// From and To are the entry numbers of the moves at its beginning and end. From 0 means
	// since the start of the job; To 0 means until now.
	From, To int
}

// History lists the stays of every part that has moved, by home place and then by time. A part
// that never moved has none.
func (l Ledger) History(eng engine.Engine) []Stay {
	moments := l.Replay(eng)
	seen := map[part.Tag][]Stay{}
	var order []part.Tag
	for _, m := range moments {
		for _, t := range handled(m) {
			stays := seen[t]
			if stays == nil {
				stays = []Stay{{Tag: t, Place: m.Before.Where(t)}}
				order = append(order, t)
			}
			stays[len(stays)-1].To = m.Entry.Seq
			seen[t] = append(stays, Stay{Tag: t, Place: m.At.Where(t), From: m.Entry.Seq})
		}
	}
	var all []Stay
	add := func(t part.Tag) {
		all = append(all, seen[t]...)
		delete(seen, t)
	}
	for _, at := range part.Home(eng).All() {
		add(at.Tag)
	}
	for _, t := range order {
		add(t)
	}
	return all
}

// handled lists the parts that a moment took to another place.
func handled(m Moment) (tags []part.Tag) {
	switch {
	case m.Entry.Move() != nil:
		for _, r := range m.Entry.Move().Parts {
			tags = append(tags, r.Tag)
		}
	case m.Entry.Renewal() != nil:
		for _, t := range part.Tags(m.Entry.Renewal().List()) {
			if m.Before.Where(t) != m.At.Where(t) {
				tags = append(tags, t)
			}
		}
	}
	return tags
}

// At selects the stays at one place, in order of time.
func At(stays []Stay, k part.Kind, place engine.Place) []Stay {
	var here []Stay
	for _, s := range stays {
		if s.Place == place && s.Tag.Kind() == k {
			at := len(here)
			for at > 0 && here[at-1].From > s.From {
				at--
			}
			here = append(here[:at], append([]Stay{s}, here[at:]...)...)
		}
	}
	return here
}
