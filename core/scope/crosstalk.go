package scope

import (
	"cmp"
	"glenmist/core/engine"
	"math"
	"slices"
)

// A clamp picks up a tenth of its neighbours at most (C: 2 to 10 %). An event at the same time as one on another channel is
// crosstalk if that is crosstalkRatio times as large.
const (
	crosstalkRatio = 6.0
	sameTime       = 60e-6 // seconds
)

// ownEvents returns the events of a channel without what it picks up from the other channels. The two ends of a wasted-spark
// coil fire at the same time.
func (t *Trace) ownEvents(channel int, others []int, roles []Role, e engine.Engine) []Event {
	events, _ := t.listen(channel)
	mates := e.Circuit(roles[channel].Cylinders.First())
	return slices.DeleteFunc(slices.Clone(events), func(ev Event) bool {
		return slices.ContainsFunc(others, func(o int) bool {
			if o == channel || e.Ignition == engine.WastedSpark && mates&roles[o].Cylinders != 0 {
				return false
			}
			there, _ := t.listen(o)
			k, _ := slices.BinarySearchFunc(there, ev.At-sameTime, func(x Event, at float64) int { return cmp.Compare(x.At, at) })
			return k < len(there) && there[k].At < ev.At+sameTime && there[k].Firing > crosstalkRatio*ev.Firing
		})
	})
}

// Bounds of what a clamp picks up from cylinders without a clamp (C: a tenth at most; judgement).
const (
	strayShare = 0.3  // of the usual peak of the channel
	strayPhase = 0.15 // of the interval: how far from its own turn
)

// withoutStrays separates weak events that come out of turn: crosstalk of cylinders that no channel shows.
func withoutStrays(events []Event) (kept, strays []Event) {
	var kV []float64
	for _, ev := range events {
		kV = append(kV, ev.Firing)
	}
	least := strayShare * median(kV)
	var strong []Event
	for _, ev := range events {
		if ev.Firing >= least {
			strong = append(strong, ev)
		}
	}
	if len(strong) < 3 {
		return events, nil
	}
	outOfTurn := func(ev Event) bool {
		if ev.Firing >= least {
			return false
		}
		k, _ := slices.BinarySearchFunc(strong, ev.At, func(x Event, at float64) int { return cmp.Compare(x.At, at) })
		k = min(max(k, 1), len(strong)-1)
		turns := (ev.At - strong[k-1].At) / (strong[k].At - strong[k-1].At)
		// Between two strong events one or more turns can be missing.
		near := median(gaps(strong[max(0, k-4):min(len(strong), k+4)]))
		turns *= math.Round((strong[k].At - strong[k-1].At) / near)
		return math.Abs(turns-math.Round(turns)) > strayPhase
	}
	for _, ev := range events {
		if outOfTurn(ev) {
			strays = append(strays, ev)
		} else {
			kept = append(kept, ev)
		}
	}
	return kept, strays
}

// gaps lists the times from event to event.
func gaps(events []Event) (all []float64) {
	for i := 1; i < len(events); i++ {
		all = append(all, events[i].At-events[i-1].At)
	}
	return all
}
