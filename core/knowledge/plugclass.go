package knowledge

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/fault"
)

// PlugClass is one way in which a plug can stand to what is wrong, with how likely that is: what
// the key of questions tells apart.
type PlugClass struct {
	Bearing Bearing
	P       float64
}

// classes brings chances to a sum of 1.
func Classes(sum map[Bearing]float64) (all []PlugClass) {
	total := 0.0
	for _, b := range plugBearings {
		total += sum[b]
	}
	for _, b := range plugBearings {
		if sum[b] > 0 {
			all = append(all, PlugClass{b, sum[b] / total})
		}
	}
	return all
}

var plugBearings = []Bearing{Bystander, WornGap, CrackedPlug, SootyPlug, WetPlug, OilyPlug, ClosedGap, WrongPlug, LoosePlug, SparkLost, FuelLost, FuelTooMuch, SqueezeLost, UnderTrack, UnderWet}

// PriorPlugClasses is how plugs stand before anything is known, by the catalogue: what the key is
// measured with. troubled says that the plug is of the cylinder that misfires.
func PriorPlugClasses(e engine.Engine, troubled bool) []PlugClass {
	sum := map[Bearing]float64{Bystander: 0}
	layout := slices.Index(engine.Ignitions(), e.Ignition)
	for _, m := range fault.Catalogue {
		p := m.Prior[layout]
		if p == 0 {
			continue
		}
		b, known := AtFault[m.ID]
		switch {
		case known && m.Unit == engine.Plug:
		case slices.Contains(MarkPlug, m.ID):
			b = UnderTrack
		case m.Unit == engine.Well:
			b = UnderWet
		case m.ID == "injector.leaking":
			b = FuelTooMuch
		default:
			b = Robbed[m.Robs]
		}
		if b == "" {
			b = Bystander
		}
		sum[b] += p
	}
	if !troubled {
		rest := 0.0
		for b := range sum {
			sum[b] /= float64(max(1, e.Cylinders))
			rest += sum[b]
		}
		sum[Bystander] += 1 - rest
	}
	return Classes(sum)
}
