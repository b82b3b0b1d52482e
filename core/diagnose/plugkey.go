package diagnose

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/plug"
)

// PlugClass is one way in which a plug can stand to what is wrong, with how likely that is: what
// the key of questions tells apart.
type PlugClass struct {
	Bearing Bearing
	P       float64
}

// PlugClasses says how likely it is, by all that is known now, that a plug stands in each way to
// what is wrong.
func (a *Assessment) PlugClasses(item evidence.Seen) []PlugClass {
	sum := map[Bearing]float64{}
	rest := 1.0
	for i := range a.Faults {
		f := &a.Faults[i]
		if f.P == 0 {
			continue
		}
		if b := standing(item, &f.Hypothesis, a.Now, a.ran(len(a.Moments), f), f.CuredAfter >= 0); b != Bystander {
			sum[b] += f.P
			rest -= f.P
		}
	}
	sum[Bystander] = max(rest, 0.02)
	return classes(sum)
}

// classes brings chances to a sum of 1.
func classes(sum map[Bearing]float64) (all []PlugClass) {
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
		b, known := atFault[m.ID]
		switch {
		case known && m.Unit == engine.Plug:
		case slices.Contains(marks, m.ID):
			b = UnderTrack
		case m.Unit == engine.Well:
			b = UnderWet
		case m.ID == "injector.leaking":
			b = FuelTooMuch
		default:
			b = robbed[m.Robs]
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
	return classes(sum)
}

// SignChance is the chance of each sign of an aspect on a plug that stands so, over the ways in
// which a set can look, half of them with its cylinder misfiring enough
// to leave a trace.
func (t *Beliefs) SignChance(b Bearing, aspect string) []float64 {
	a, _ := plug.FindAspect(aspect)
	out := make([]float64, len(a.Signs))
	for s := range Sets {
		fires := t.signs.of(s, b, false, aspect)
		for i, p := range t.signs.of(s, b, true, aspect) {
			out[i] += Sets[s].Share * (p + fires[i]) / 2
		}
	}
	return out
}

// KeyClasses are the classes that the key of questions tells apart, with what each looks like.
// How the engine was run counts as it does in the reasoning: a wet tip after a cold start is
// not asked for.
func (t *Beliefs) KeyClasses(of []PlugClass, wet float64) []plug.Class {
	var all []plug.Class
	for _, c := range of {
		rows := map[string][]float64{}
		for _, a := range plug.Aspects {
			row := t.SignChance(c.Bearing, a.ID)
			if a.ID == "wet" {
				for i := range row {
					row[i] = wet*row[i] + (1-wet)*wetAnyway[i]
				}
			}
			rows[a.ID] = row
		}
		all = append(all, plug.Class{P: c.P, Signs: func(aspect string) []float64 { return rows[aspect] }})
	}
	return all
}
