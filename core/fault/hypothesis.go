package fault

import (
	"glenmist/core/engine"
	"glenmist/core/part"
)

// Hypothesis is one mode on one part or at one place.
type Hypothesis struct {
	Mode Mode
	// Tag is the part at fault, for modes that travel.
	Tag part.Tag
	// Place is the cylinder at fault, or the whole engine, for those that stay.
	Place engine.Place
	// Prior is its probability before anything is known.
	Prior float64
}

// Key is the hypothesis as one stable word: "coil.breakdown@C2".
func (h Hypothesis) Key() string {
	if h.Tag != "" {
		return h.Mode.ID + "@" + string(h.Tag)
	}
	return h.Mode.ID + "@" + string(h.Place)
}

// Enumerate lists every single fault an engine can have, with "something else"
// (at each cylinder and for the whole engine) and "no fault now". The priors
// sum to 1; before anything is known no cylinder is likelier than another.
func Enumerate(e engine.Engine) []Hypothesis {
	var all []Hypothesis
	n := float64(e.Cylinders)
	for _, m := range Catalogue {
		share := m.Prior
		switch m.ID {
		case NoFaultNow:
			all = append(all, Hypothesis{Mode: m, Place: engine.Whole, Prior: share})
			continue
		case SomethingElse:
			all = append(all, Hypothesis{Mode: m, Place: engine.Whole, Prior: share * ElseWholeEngine})
			share *= 1 - ElseWholeEngine
		}
		for _, c := range e.All() {
			h := Hypothesis{Mode: m, Prior: share / n}
			if m.Travels {
				h.Tag = part.Of(part.Kind(m.Unit), c)
			} else {
				h.Place = engine.At(c)
			}
			all = append(all, h)
		}
	}
	return all
}

// Afflicted says which cylinder the fault troubles while the parts sit as they
// do: one cylinder, or all of them, or none.
func (h Hypothesis) Afflicted(at part.Positions) (c engine.Cylinder, all bool) {
	if h.Tag != "" {
		return at.Where(h.Tag), false
	}
	if c, ok := h.Place.Cylinder(); ok {
		return c, false
	}
	return 0, h.Mode.ID == SomethingElse
}
