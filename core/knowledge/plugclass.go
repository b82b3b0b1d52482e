package knowledge

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/plug"
)

// PlugClass is one possible bearing of a plug, with its probability. The key of questions
// distinguishes these classes.
type PlugClass struct {
	Bearing Bearing
	P       float64
}

// Classes scales probabilities to a sum of 1.
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

// PriorPlugClasses returns the classes of a plug before any evidence, from the catalogue. The
// key of questions is measured with them. troubled is true for a plug of the cylinder that
// misfires.
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
		case MarkPlug.Covers(m.ID):
			b = UnderTrack
		case m.Unit == engine.Well:
			b = UnderWet
		case m.ID == fault.InjectorLeaking:
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

// SignChance returns the probability of each sign of an aspect, averaged over the set rows,
// with half of the misfiring plugs showing a trace.
func (b *Beliefs) SignChance(of Bearing, aspect string) []float64 {
	a, _ := plug.FindAspect(aspect)
	out := make([]float64, len(a.Signs))
	for s := range Sets {
		fires := b.Sign(s, of, false, aspect)
		for i, p := range b.Sign(s, of, true, aspect) {
			out[i] += Sets[s].Share * (p + fires[i]) / 2
		}
	}
	return out
}

// KeyClasses returns the classes for the key of questions, each with its signs. The way in
// which the engine ran counts as in the reasoning: the key does not ask for a wet tip after a
// cold start.
func (b *Beliefs) KeyClasses(of []PlugClass, wet float64) []plug.Class {
	var all []plug.Class
	for _, c := range of {
		rows := map[string][]float64{}
		for _, a := range plug.Aspects {
			row := b.SignChance(c.Bearing, a.ID)
			if a.ID == "wet" {
				for i := range row {
					row[i] = wet*row[i] + (1-wet)*WetAnyway[i]
				}
			}
			rows[a.ID] = row
		}
		all = append(all, plug.Class{P: c.P, Signs: func(aspect string) []float64 { return rows[aspect] }})
	}
	return all
}
