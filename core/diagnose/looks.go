package diagnose

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// bearing is the relation of an item to a fault. ran lists where the
// parts were in the runs with the fault present, up to the look.
func bearing(item evidence.Seen, h *fault.Hypothesis, at part.Positions, ran []part.Positions, cured bool) knowledge.Bearing {
	if item.Tag == "" {
		if h.Mode.Unit == engine.Connector && h.Place == item.Place && !cured {
			return knowledge.ConnectorBad
		}
		return knowledge.Bystander
	}
	if h.Includes(item.Tag) {
		if b, shows := knowledge.AtFault[h.Mode.ID]; shows {
			return b
		}
		return knowledge.Bystander // it fails inside
	}
	own := engine.SetOf(at.Feeds(item.Tag)...)
	switch item.Tag.Kind() {
	case engine.Boot, engine.Lead:
		switch {
		case h.Mode.Unit == engine.Seat && h.Affected(at)&own != 0 && !cured:
			return knowledge.NotHome
		case h.Mode.Unit == engine.Well && h.Affected(at)&own != 0 && !cured:
			return knowledge.WellIsWet
		case h.Mode.ID == fault.PlugCracked && engine.SetOf(at.Feeds(h.Tag)...)&own != 0:
			return knowledge.OverTracked
		}
	case engine.Plug:
		b, known := knowledge.Robbed[h.Mode.Robs]
		if !known {
			return knowledge.Bystander
		}
		if h.Mode.ID == fault.InjectorLeaking {
			b = knowledge.FuelTooMuch
		}
		for _, then := range ran {
			if h.Affected(then)&engine.SetOf(then.Feeds(item.Tag)...) != 0 {
				return b
			}
		}
	}
	return knowledge.Bystander
}

// looked is the likelihood row of a finding for a fault with that relation to the item; abnormal is the
// probability that the fault shows there.
func looked(t *knowledge.Beliefs, item evidence.Seen, b knowledge.Bearing) (k likelihoodRow, abnormal float64) {
	on := item.Kind()
	normal := evidence.FindingsOn(on)[0].Finding
	return likelihoodRow{odds: t.Look(on, b, item.Finding), sound: t.Look(on, knowledge.Bystander, item.Finding), events: knowledge.Effects[b], seen: 1},
		1 - t.Look(on, b, normal)
}
