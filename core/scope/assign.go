package scope

import (
	"math"
	"slices"

	"glenmist/core/engine"
)

// Shot is an event with the cylinder that it belongs to.
type Shot struct {
	Event
	Cylinder engine.Cylinder
	// Waste says that it is the idle one of a wasted-spark pair.
	Waste bool
}

// Assigned is the events of a capture by cylinder.
type Assigned struct {
	Shots []Shot
	// Sure is the share of cycles that hold just as many events as they should; without a sync
	// the first event may be any cylinder's, and the technician turns it.
	Sure   float64
	Synced bool
}

// Syncs finds the pulses of a sync channel: where it rises through the middle of its range.
func (t *Trace) Syncs(channel int) []float64 {
	v := t.Channels[channel].Samples
	low, high := slices.Min(v), slices.Max(v)
	up, down := low+(high-low)*6/10, low+(high-low)*4/10
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
	return at
}

// Assign gives each event of a trace that all cylinders share its cylinder: by the firing
// order, beginning anew at each pulse of a sync on cylinder 1, or counted through from the
// first event where there is none. turn moves all of it on by so many places in the order.
func Assign(e engine.Engine, events []Event, syncs []float64, turn int) Assigned {
	order := e.FiringOrder
	n := len(order)
	a := Assigned{Synced: len(syncs) > 1}
	if n == 0 || len(events) == 0 {
		return a
	}
	at := func(k int) engine.Cylinder { return order[((k+turn)%n+n)%n] }
	if !a.Synced {
		for i, ev := range events {
			a.Shots = append(a.Shots, Shot{Event: ev, Cylinder: at(i)})
		}
		return a
	}
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
		// The pulse stands on the event of cylinder 1 itself, a little before or behind it.
		slack := period / float64(4*n)
		held := 0
		for _, ev := range events {
			if ev.At < from-slack || ev.At >= to-slack {
				continue
			}
			held++
			a.Shots = append(a.Shots, Shot{Event: ev, Cylinder: at(int(math.Round((ev.At - from) / period * float64(n))))})
		}
		if c+1 < len(syncs) {
			cycles++
			if held == n {
				full++
			}
		}
	}
	if cycles > 0 {
		a.Sure = float64(full) / float64(cycles)
	}
	return a
}

// idleShare is the share of a working event's kilovolts that an idle one may ask for: at the end
// of exhaust there is little charge (C; judgement).
const idleShare = 0.6

// Pair marks the idle events of a wasted-spark pair: each coil fires every revolution, and of
// two that follow one another on a plug the one that needs far less is the idle one. Where they
// are alike, the idle ones were too low to be found, or none has fired as it should: all count.
func (a *Assigned) Pair() {
	of := map[engine.Cylinder][]int{}
	for i, s := range a.Shots {
		of[s.Cylinder] = append(of[s.Cylinder], i)
	}
	for _, shots := range of {
		if len(shots) < 2 {
			continue
		}
		var sum [2]float64
		for k, i := range shots {
			sum[k%2] += a.Shots[i].Firing
		}
		even, odd := sum[0]/float64((len(shots)+1)/2), sum[1]/float64(len(shots)/2)
		idle := 0
		if odd < even {
			idle = 1
		}
		if min(even, odd) > idleShare*max(even, odd) {
			continue
		}
		for k, i := range shots {
			a.Shots[i].Waste = k%2 == idle
		}
	}
}

// First is the cylinder of the first event, or the first of the order where there is none.
func (a Assigned) First(e engine.Engine) engine.Cylinder {
	if len(a.Shots) > 0 {
		return a.Shots[0].Cylinder
	}
	return e.FiringOrder[0]
}
