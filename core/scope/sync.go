package scope

import (
	"glenmist/core/engine"
	"math"
	"slices"
)

// SyncChannel returns the channel that marks cylinder 1; 0 if there is none.
func (t *Trace) SyncChannel(e engine.Engine) int {
	roles, _ := t.Roles(e)
	return max(0, slices.IndexFunc(roles, func(r Role) bool { return r.Sync }))
}

// Syncs returns the times at which a sync channel rises through the middle of its range. A clamp rings, so that a pulse has a
// dead time: a fraction of the usual interval.
func (t *Trace) Syncs(channel int) []float64 {
	v, free := t.Channels[channel].floats()
	defer free()
	if len(v) == 0 {
		return nil
	}
	low, high := slices.Min(v), slices.Max(v)
	mid := shorth(slices.Sorted(slices.Values(thinned(v))))
	up, down := mid+(high-mid)*6/10, mid+(high-mid)*4/10
	if high-mid < mid-low { // a pulse downwards
		up, down = mid-(mid-low)*4/10, mid-(mid-low)*6/10
	}
	var at []float64
	armed := true
	for i, x := range v {
		switch {
		case armed && x > up:
			at = append(at, float64(i)/t.Rate)
			armed = false
		case x < down:
			armed = true
		}
	}
	return withDeadTime(at)
}

// thinned is a part of the samples, evenly spread.
func thinned(v []float32) []float32 {
	var some []float32
	for i := 0; i < len(v); i += max(1, len(v)/4096) {
		some = append(some, v[i])
	}
	return some
}

// Dead times of a sync (C; judgement): ringAt is longer than a clamp rings, syncDead is the fraction of the usual interval.
const (
	ringAt   = 3e-3
	syncDead = 0.4
)

// withDeadTime removes the pulses that follow another one within its dead time.
func withDeadTime(at []float64) []float64 {
	keep := func(dead float64) (kept []float64) {
		for _, x := range at {
			if len(kept) == 0 || x-kept[len(kept)-1] >= dead {
				kept = append(kept, x)
			}
		}
		return kept
	}
	at = keep(ringAt)
	var gaps []float64
	for i := 1; i < len(at); i++ {
		gaps = append(gaps, at[i]-at[i-1])
	}
	if len(gaps) < 2 {
		return at
	}
	return keep(syncDead * median(gaps))
}

// slotSlack is how far an event may be from the place of a cylinder, as a fraction of the distance between two places. The
// speed changes within a cycle (C; judgement).
const slotSlack = 0.35

// bySync assigns events to the places of some cylinders in the firing order, from each pulse of cylinder 1. Of two events at
// one place the larger belongs to it; the other, and what is at no place, belongs to no cylinder.
func bySync(e engine.Engine, events []Event, syncs []float64, of engine.Set, turn int) Assigned {
	order := e.FiringOrder
	n := len(order)
	a := Assigned{By: BySync, Cycles: len(syncs)}
	full, cycles := 0, 0
	for c := range syncs {
		from, to := syncs[c], math.Inf(1)
		if c+1 < len(syncs) {
			to = syncs[c+1]
		}
		period := to - from
		if math.IsInf(period, 1) {
			period = syncs[c] - syncs[c-1]
		}
		// The pulse coincides with the event of cylinder 1, slightly before or after it.
		slack := period / float64(4*n)
		taken := map[engine.Cylinder]int{} // index of the shot at each place
		for _, ev := range events {
			if ev.At < from-slack || ev.At >= to-slack {
				continue
			}
			at := (ev.At - from) / period * float64(n)
			place := math.Round(at)
			shot := Shot{Event: ev, Cycle: c, Cylinder: order[((int(place)+turn)%n+n)%n]}
			switch have, double := taken[shot.Cylinder]; {
			case !of.Has(shot.Cylinder) || math.Abs(at-place) > slotSlack:
				shot.Cylinder = 0
			case double && a.Shots[have].Firing >= ev.Firing:
				shot.Cylinder = 0
			case double:
				a.Shots[have].Cylinder = 0
				a.Stray++
				taken[shot.Cylinder] = len(a.Shots)
			default:
				taken[shot.Cylinder] = len(a.Shots)
			}
			if shot.Cylinder == 0 {
				a.Stray++
			}
			a.Shots = append(a.Shots, shot)
		}
		if c+1 < len(syncs) {
			cycles++
			if len(taken) == of.Len() {
				full++
			}
		}
	}
	a.Sure = float64(full) / float64(max(1, cycles))
	return a
}

// everyCycle removes every second pulse if pulses occur once per revolution, as from a clamp
// on a lead of a wasted-spark pair. It keeps the pulse whose event has the higher voltage: the
// working event.
func everyCycle(events []Event, syncs []float64, n int) []float64 {
	if len(syncs) < 4 {
		return syncs
	}
	held := make([]float64, len(syncs)-1)
	var sum [2]float64
	for c := range held {
		for _, ev := range events {
			if ev.At >= syncs[c]-(syncs[c+1]-syncs[c])/float64(2*n) && ev.At < syncs[c+1]-(syncs[c+1]-syncs[c])/float64(2*n) {
				if held[c] == 0 {
					sum[c%2] += ev.Firing
				}
				held[c]++
			}
		}
	}
	slices.Sort(held)
	if int(held[len(held)/2]) > n/2 {
		return syncs
	}
	first := 0
	if sum[1] > sum[0] {
		first = 1
	}
	var whole []float64
	for c := first; c < len(syncs); c += 2 {
		whole = append(whole, syncs[c])
	}
	return whole
}
