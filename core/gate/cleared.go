package gate

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// curedByHandling reports whether the suspect, if faulty, was cured by handling, and the
// engine has run without misfire at least twice since.
func curedByHandling(a *diagnose.Assessment, s diagnose.Suspect) bool {
	p, last := Cured(a, s)
	if last < 0 || p < 0.9*s.P {
		return false
	}
	clean := 0
	for _, m := range a.Moments[last+1:] {
		switch {
		case m.Entry.Watch() != nil && len(m.Entry.Watch().Cylinders) == 0, m.Entry.Counters() != nil && slices.Max(m.Entry.Counters().Counts) < 2*evidence.Enough:
			clean++
		}
	}
	return clean >= 2
}

// eliminated reports whether all else in the circuit of a coil is proven: its parts by moves;
// feed, ground, trigger and wire by tests; the connector by a look.
func eliminated(a *diagnose.Assessment, place engine.Place) bool {
	sound := func(id evidence.TestID) bool {
		t, _ := evidence.FindTest(id)
		return Tested(a, t, place) && !abnormalAt(a, id, place)
	}
	return ignitionCleared(a, place) && len(Findings(a, "", place)) > 0 && sound(evidence.TriggerPulse) &&
		(sound(evidence.WireTest) || answeredAt(a, evidence.TriggerWatch, place, "there")) // a watch without misfire is no proof
}

// toEliminate returns the first missing test of the elimination that leaves only a connector
// or a contact.
func toEliminate(a *diagnose.Assessment, place engine.Place) evidence.TestID {
	if len(Findings(a, "", place)) == 0 {
		return ""
	}
	for _, id := range []evidence.TestID{evidence.Wiggle, evidence.TriggerPulse, evidence.TriggerWatch} {
		t, _ := evidence.FindTest(id)
		if feeds, ok := a.Engine.Feeds(place); ok && TestPlace(a, t, feeds.First()) == place && !Tested(a, t, place) {
			return id
		}
	}
	return ""
}

// Cured returns the part of a suspect's probability in which handling cured it, and the latest
// entry that can have done so, or -1.
func Cured(a *diagnose.Assessment, s diagnose.Suspect) (p float64, last int) {
	last = -1
	for i := range a.Faults {
		f := &a.Faults[i]
		if f.Suspect < len(a.Suspects) && a.Suspects[f.Suspect].Key() == s.Key() && f.CuredAfter >= 0 && a.Moments[f.CuredAfter].Entry.Fit() == nil {
			p += f.P
			last = max(last, f.CuredAfter)
		}
	}
	return p, last
}

// Lone reports whether the engine has only one place for a kind of part.
func Lone(a *diagnose.Assessment, k engine.Kind) bool {
	n := 0
	for _, slot := range a.Now.Slots() {
		if slot.Kind == k {
			n++
		}
	}
	return n == 1
}

// followed reports whether the misfire moved with the part.
func followed(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Followed && slices.Contains(d.Tags, t)
	})
}

// goneWithout reports whether the misfire disappeared with a known-good spare in place and the
// removed part looks abnormal. Either observation alone proves little.
func goneWithout(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(Findings(a, t, ""), evidence.Finding.Abnormal) && slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Gone && d.OnBench() && slices.Contains(d.Tags, t)
	})
}

// Stayed reports whether a part of a kind was moved away from a cylinder and the misfire
// stayed.
func Stayed(a *diagnose.Assessment, k engine.Kind, c engine.Cylinder) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		if !d.From.Has(c) {
			return false
		}
		return slices.ContainsFunc(d.Ways, func(w diagnose.Way) bool {
			with := slices.ContainsFunc(w.Tags, func(t part.Tag) bool { return t.Kind() == k })
			// A split move also clears the part that the misfire did not follow.
			return with && (d.Outcome == diagnose.Stayed || d.Outcome == diagnose.Followed && w.To != d.To)
		})
	})
}

// HasCleared reports whether the part was moved away and the misfire did not follow.
func HasCleared(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return slices.ContainsFunc(d.Ways, func(w diagnose.Way) bool {
			return slices.Contains(w.Tags, t) && (d.Outcome == diagnose.Stayed || d.Outcome == diagnose.Followed && w.To != d.To)
		})
	})
}

// SparkKinds lists the kinds of part whose exchange clears the ignition of a place: those that
// the place has for itself.
func SparkKinds(a *diagnose.Assessment, p engine.Place) []engine.Kind {
	var kinds []engine.Kind
	of, _ := a.Engine.Feeds(p)
	for _, slot := range a.Now.Slots() {
		if slot.Kind != engine.Boot && (slot.Place == p || of.Len() > 2 && engine.SetOf(slot.Feeds...) == of) {
			kinds = append(kinds, slot.Kind)
		}
	}
	if len(kinds) == 0 {
		return []engine.Kind{engine.Coil, engine.Plug}
	}
	return kinds
}

func sparkParts(a *diagnose.Assessment, p engine.Place) string {
	var words []string
	for _, k := range SparkKinds(a, p) {
		words = append(words, string(k))
	}
	return unit.List(words) + " of " + p.String()
}

func ignitionCleared(a *diagnose.Assessment, at engine.Place) bool {
	feeds, ok := a.Engine.Feeds(at)
	if !ok {
		return false
	}
	for _, k := range SparkKinds(a, at) {
		if !slices.ContainsFunc(feeds.List(), func(c engine.Cylinder) bool { return Stayed(a, k, c) }) {
			return false
		}
	}
	return true
}

// Where returns the positions when the coil's misfire was first observed: before the coil was
// moved, unless the misfire stayed; otherwise the current positions.
func Where(a *diagnose.Assessment, coil part.Tag) part.Positions {
	for _, d := range a.Decodes {
		if d.Outcome == diagnose.Stayed || !slices.Contains(d.Tags, coil) || d.Back() {
			continue
		}
		for _, m := range a.Moments {
			if m.Entry.Seq == d.Move {
				return m.Before
			}
		}
	}
	return a.Now
}

// downstream lists the parts after the coil whose condition can overload it: plugs with boots
// and leads. For a coil that serves more than two cylinders it is what leads to the cap.
func downstream(a *diagnose.Assessment, at part.Positions, coil part.Tag) []part.Tag {
	feeds := at.Feeds(coil)
	var tags []part.Tag
	add := func(k engine.Kind, c engine.Cylinder) {
		t := at.Serving(k, c)
		if k == engine.Boot { // at its current position on the coil
			t = a.Now.In(k, a.Now.Where(coil))
			if t == "" {
				t = at.Serving(k, c)
			}
		}
		if t != "" && !slices.Contains(tags, t) {
			tags = append(tags, t)
		}
	}
	for _, c := range feeds {
		if len(feeds) > 2 {
			add(engine.CoilLead, c)
			add(engine.Rotor, c)
			add(engine.Cap, c)
			continue
		}
		add(engine.Plug, c)
		add(engine.Boot, c)
		add(engine.Lead, c)
	}
	return tags
}
