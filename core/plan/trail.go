package plan

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// ProofPoint is how far a repair was proven after one run.
type ProofPoint struct {
	// Seq is the number of the run's entry; 0 is the repair itself.
	Seq int
	// Times is how many firing events or exposures were counted since the repair, as in [Proof.Since].
	Times    int
	Progress float64
}

// Trail lists how a proof has gone, run by run.
func Trail(a *diagnose.Assessment, at int) []ProofPoint {
	trail := []ProofPoint{{}}
	before, after := *a, false
	for i, m := range a.Moments {
		e := m.Entry
		if e.Seq == at {
			after = true
		}
		if !after || e.Counters() == nil && e.Watch() == nil {
			continue
		}
		before.Moments = a.Moments[:i+1]
		p := ProofOf(&before, at)
		trail = append(trail, ProofPoint{e.Seq, p.Since.Times, p.Progress})
	}
	return trail
}

// Mist is one place that water is sprayed on, with the spells so far: before the repair and since.
type Mist struct {
	Place         engine.Place
	Before, Since Tally
}

// MistPlaces lists where to spray water, one place at a time: first where the repaired unit sits, then where
// a misfire was seen before, then the rest.
func MistPlaces(a *diagnose.Assessment, at int) (all []Mist) {
	add := func(p engine.Place) {
		if !slices.ContainsFunc(all, func(m Mist) bool { return m.Place == p }) {
			all = append(all, Mist{Place: p})
		}
	}
	if place := repairedPlace(a, at); place != "" {
		if _, ok := a.Engine.Feeds(place); ok {
			add(place)
		}
	}
	for _, c := range a.Engine.All() {
		add(engine.At(c))
	}
	for _, slot := range part.Slots(a.Engine) {
		if _, cylinder := slot.Place.Cylinder(); !cylinder && slot.Place != engine.Bench {
			add(slot.Place)
		}
	}
	after := false
	for _, m := range a.Moments {
		after = after || m.Entry.Seq == at
		w := m.Entry.Watch()
		if w == nil || w.Exposure == nil || w.Exposure.Of != evidence.Misted {
			continue
		}
		i := slices.IndexFunc(all, func(p Mist) bool { return p.Place == w.Exposure.Place })
		if i < 0 {
			continue
		}
		if after && at > 0 {
			all[i].Since.add(w.Exposure.Times, w.Exposure.Failed)
		} else {
			all[i].Before.add(w.Exposure.Times, w.Exposure.Failed)
		}
	}
	if len(all) > 1 {
		slices.SortStableFunc(all[1:], func(x, y Mist) int { return y.Before.Failed - x.Before.Failed })
	}
	return all
}
