package scope

import (
	"cmp"
	"fmt"
	"maps"
	"math"
	"slices"

	"glenmist/core/engine"
)

// Shot is an event that is assigned to a cylinder.
type Shot struct {
	Event
	// Cylinder is 0 for an event that fits no cylinder.
	Cylinder engine.Cylinder
	// Channel is its source; Cycle is the engine cycle, from 0.
	Channel, Cycle int
	// Waste marks the idle event of a wasted-spark pair, Snap an event during a throttle snap,
	// Between one before or after the snap, or on overrun.
	Waste, Snap, Between bool
}

// By is the method by which events are assigned to cylinders.
type By string

// The methods.
const (
	ByChannel By = "channel" // one channel for each cylinder
	BySync    By = "sync"    // by the firing order, from each pulse of cylinder 1
	ByCount   By = "count"   // by the firing order, from the first event
	// ByNobody: what the channels show is not known, so that nothing is assigned.
	ByNobody By = "unknown"
)

// Assigned holds the events of a capture by cylinder, in order of time.
type Assigned struct {
	Shots []Shot
	By    By
	// Sure is the fraction of checks that succeeded: complete cycles with a sync, even
	// intervals when counting. Without a sync the first event can belong to any cylinder, and
	// the technician sets it.
	Sure float64
	// Cycles is the number of engine cycles.
	Cycles int
	// Floor is the detection threshold of an event in kilovolts.
	Floor float64
	// First is the cylinder of the first event.
	First engine.Cylinder
	// Roles is what each channel shows. Shown is the set of cylinders with a clamp.
	Roles []Role
	Shown engine.Set
	// Stray is the number of events that fit no cylinder.
	Stray int
}

// Assign assigns the events of a trace to cylinders by what the channels show, see [Trace.Roles]. turn shifts the assignment
// of a common channel in the firing order. It marks idle events and those of a snap.
func (t *Trace) Assign(e engine.Engine, turn int) Assigned { return t.AssignAs(e, turn, nil) }

// AssignAs is [Trace.Assign] with the roles that somebody stated; nil takes those of [Trace.Roles].
func (t *Trace) AssignAs(e engine.Engine, turn int, roles []Role) Assigned {
	if len(roles) != len(t.Channels) {
		var known bool
		if roles, known = t.Roles(e); !known {
			return Assigned{By: ByNobody, Roles: roles}
		}
	}
	a := Assigned{Roles: roles}
	var syncs []float64
	var own, shared []int // channels of one cylinder, and of several
	for i, r := range roles {
		a.Shown |= r.Cylinders
		switch {
		case r.Off:
		case r.Sync:
			syncs = t.Syncs(i)
		case r.Cylinders.Len() == 1:
			own = append(own, i)
		case r.Cylinders != 0:
			shared = append(shared, i)
		}
	}
	switch {
	case len(shared) == 0:
		t.assignOwn(&a, own, e)
	case len(shared) == 1 && roles[shared[0]].Cylinders == e.Everything():
		events, floor := t.listen(shared[0])
		one := assign(e, events, syncs, turn)
		one.Roles, one.Shown, one.Floor = a.Roles, a.Shown, floor
		for i := range one.Shots {
			one.Shots[i].Channel = shared[0]
		}
		a = one
	default:
		t.assignShared(&a, append(shared, own...), syncs, e, turn)
	}
	a.finish()
	return a
}

// assignOwn assigns the events of channels that show one cylinder each.
func (t *Trace) assignOwn(a *Assigned, own []int, e engine.Engine) {
	a.By, a.Sure = ByChannel, 1
	for _, i := range own {
		_, floor := t.listen(i)
		a.Floor = max(a.Floor, floor)
		events := t.ownEvents(i, own, a.Roles, e)
		if a.Shown != e.Everything() {
			events = inTurn(events)
		}
		for _, ev := range events {
			a.Shots = append(a.Shots, Shot{Event: ev, Cylinder: a.Roles[i].Cylinders.First(), Channel: i})
		}
	}
	if e.Ignition == engine.WastedSpark || e.Cylinders == 1 {
		a.pair()
	}
	a.cycles()
}

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

// assignShared assigns the events of channels that show several cylinders each, such as one for each bank, by a sync.
func (t *Trace) assignShared(a *Assigned, channels []int, syncs []float64, e engine.Engine, turn int) {
	if len(syncs) < 2 {
		a.By = ByNobody
		return
	}
	a.By, a.Cycles = BySync, len(syncs)
	full := 0.0
	for _, i := range channels {
		_, floor := t.listen(i)
		a.Floor = max(a.Floor, floor)
		one := bySync(e, t.ownEvents(i, channels, a.Roles, e), syncs, a.Roles[i].Cylinders, turn)
		for k := range one.Shots {
			one.Shots[k].Channel = i
		}
		a.Shots = append(a.Shots, one.Shots...)
		full += one.Sure / float64(len(channels))
		a.Stray += one.Stray
	}
	a.Sure = full
}

// Bounds of what a clamp picks up from cylinders without a clamp (C: a tenth at most; judgement).
const (
	strayShare = 0.3  // of the usual peak of the channel
	strayPhase = 0.15 // of the interval: how far from its own turn
)

// inTurn drops weak events that come out of turn: crosstalk of cylinders that no channel shows.
func inTurn(events []Event) []Event {
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
		return events
	}
	return slices.DeleteFunc(slices.Clone(events), func(ev Event) bool {
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
	})
}

// gaps lists the times from event to event.
func gaps(events []Event) (all []float64) {
	for i := 1; i < len(events); i++ {
		all = append(all, events[i].At-events[i-1].At)
	}
	return all
}

// SyncChannel returns the channel that marks cylinder 1; 0 if there is none.
func (t *Trace) SyncChannel(e engine.Engine) int {
	roles, _ := t.Roles(e)
	return max(0, slices.IndexFunc(roles, func(r Role) bool { return r.Sync }))
}

// Syncs returns the times at which a sync channel rises through the middle of its range. A clamp rings, so that a pulse has a
// dead time: a fraction of the usual interval.
func (t *Trace) Syncs(channel int) []float64 {
	v := t.Channels[channel].Samples
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
	return apart(at)
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

// apart removes the pulses that follow another one within its dead time.
func apart(at []float64) []float64 {
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

// assign assigns the events of a trace that all cylinders share.
func assign(e engine.Engine, events []Event, syncs []float64, turn int) Assigned {
	order := e.FiringOrder
	n := len(order)
	if n == 0 || len(events) == 0 {
		return Assigned{By: ByCount}
	}
	at := func(k int) engine.Cylinder { return order[((k+turn)%n+n)%n] }
	if e.Ignition == engine.WastedSpark {
		syncs = everyCycle(events, syncs, n)
	}
	if len(syncs) < 2 {
		return counted(events, n, at)
	}
	return bySync(e, events, syncs, e.Everything(), turn)
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

// evenly is the largest deviation of an interval from a whole number of steps (C; judgement).
const evenly = 0.25

// counted assigns the events one by one. An interval of two or three steps means that events
// are missing. It compares with neighbouring intervals, because the speed changes.
func counted(events []Event, n int, at func(int) engine.Cylinder) Assigned {
	a := Assigned{By: ByCount}
	apart := make([]float64, len(events)-1)
	for i := range apart {
		apart[i] = events[i+1].At - events[i].At
	}
	place, even := 0, 0
	for i, ev := range events {
		if i > 0 {
			near := slices.Sorted(slices.Values(apart[max(0, i-1-n):min(len(apart), i+n)]))
			steps := apart[i-1] / near[len(near)/2]
			place += max(1, int(math.Round(steps)))
			if math.Abs(steps-math.Round(steps)) < evenly {
				even++
			}
		}
		a.Shots = append(a.Shots, Shot{Event: ev, Cycle: place / n, Cylinder: at(place)})
	}
	a.Cycles = place/n + 1
	a.Sure = float64(even) / float64(max(1, len(apart)))
	return a
}

// idleShare is the largest ratio of an idle event's voltage to that of a working event. There
// is little charge at the end of the exhaust stroke (C; judgement).
const idleShare = 0.6

// pairWindow is the number of neighbouring events used to tell idle from working events. A few
// missed events change the alternation.
const pairWindow = 9

// pair marks the idle events of a wasted-spark pair. Each coil fires every revolution. Of two
// consecutive events on a plug, the one with much lower voltage is idle. Unclear events follow
// the alternation of their neighbours. If all are alike, the idle events were too low to
// detect or none fired normally: all count.
func (a *Assigned) pair() {
	of := map[engine.Cylinder][]int{}
	for i, s := range a.Shots {
		if s.Cylinder > 0 {
			of[s.Cylinder] = append(of[s.Cylinder], i)
		}
	}
	for _, shots := range of {
		turns := make([]int, len(shots)) // revolutions, from neighbouring intervals
		apart := make([]float64, max(0, len(shots)-1))
		for k := range apart {
			apart[k] = a.Shots[shots[k+1]].At - a.Shots[shots[k]].At
		}
		for k := range apart {
			near := median(apart[max(0, k-pairWindow/2):min(len(apart), k+pairWindow/2+1)])
			turns[k+1] = turns[k] + max(1, int(math.Round(apart[k]/near)))
		}
		for k, i := range shots {
			var kV [2][]float64 // events of the same phase as this one, and of the other
			for o := max(0, k-pairWindow/2); o < min(len(shots), k+pairWindow/2+1); o++ {
				other := (turns[o] - turns[k]) & 1
				kV[other] = append(kV[other], a.Shots[shots[o]].Firing)
			}
			mine := a.Shots[i].Firing
			least, most := mine, mine // of its neighbours
			if k > 0 {
				least, most = a.Shots[shots[k-1]].Firing, a.Shots[shots[k-1]].Firing
			}
			if k+1 < len(shots) {
				next := a.Shots[shots[k+1]].Firing
				if k == 0 {
					least, most = next, next
				}
				least, most = min(least, next), max(most, next)
			}
			switch {
			case mine < idleShare*least: // far below both neighbours
				a.Shots[i].Waste = true
			case idleShare*mine > most: // far above both neighbours
			default:
				a.Shots[i].Waste = len(kV[1]) > 0 && median(kV[0]) < idleShare*median(kV[1])
			}
		}
	}
}

// cycles numbers the cycles if each cylinder has its own channel. It uses the working events
// of the cylinder with the most events.
func (a *Assigned) cycles() {
	of := map[engine.Cylinder][]float64{}
	for _, s := range a.Shots {
		if !s.Waste {
			of[s.Cylinder] = append(of[s.Cylinder], s.At)
		}
	}
	clocks := slices.SortedFunc(maps.Values(of), func(x, y []float64) int {
		return cmp.Or(cmp.Compare(len(x), len(y)), cmp.Compare(x[0], y[0]))
	})
	if len(clocks) == 0 {
		return
	}
	clock := clocks[len(clocks)/2]
	a.Cycles = len(clock)
	for i := range a.Shots {
		k, _ := slices.BinarySearch(clock, a.Shots[i].At+1e-9)
		a.Shots[i].Cycle = max(0, k-1)
	}
}

// Detection of a snap: all voltages rise together for some cycles (C; judgement: the charge is
// about twice as dense, so kilovolts rise by half or more).
const (
	snapRise   = 1.3
	snapCycles = 2
)

// finish sorts the events by time and marks those of a snap.
func (a *Assigned) finish() {
	slices.SortStableFunc(a.Shots, func(x, y Shot) int { return cmp.Compare(x.At, y.At) })
	if len(a.Shots) == 0 {
		return
	}
	for _, s := range a.Shots {
		if a.First = s.Cylinder; a.First > 0 {
			break
		}
	}
	of := make([][]float64, a.Cycles)
	for _, s := range a.Shots {
		if !s.Waste && s.Cylinder > 0 && s.Cycle < len(of) {
			of[s.Cycle] = append(of[s.Cycle], s.Firing)
		}
	}
	var usual, steady []float64
	for _, kV := range of {
		usual = append(usual, median(kV))
		if len(kV) > 0 {
			steady = append(steady, median(kV))
		}
	}
	slices.Sort(steady)
	level := snapRise * median(steady[:(len(steady)+1)/2])
	snap := make([]bool, a.Cycles)
	for from := 0; from < len(usual); {
		to := from
		for to < len(usual) && usual[to] > level {
			to++
		}
		for k := from; k < to && to-from >= snapCycles; k++ {
			snap[k] = true
		}
		from = max(to, from+1)
	}
	is := func(c int) bool { return c >= 0 && c < len(snap) && snap[c] }
	overrun := overrunCycles(of, usual, snap)
	for i := range a.Shots {
		c := a.Shots[i].Cycle
		a.Shots[i].Snap = is(c)
		a.Shots[i].Between = !is(c) && (is(c-1) || is(c+1) || c >= 0 && c < len(overrun) && overrun[c])
	}
}

// Overrun: with closed throttle there is little charge, so that all cylinders need less (C; judgement: by a quarter or more).
const (
	overrunFall  = 0.75
	overrunLeast = 2 // cylinders: with fewer, a weak cylinder could be taken for it
)

// overrunCycles marks the cycles in which all cylinders need much less than usual. They are no steady running.
func overrunCycles(of [][]float64, usual []float64, snap []bool) []bool {
	var steady []float64
	for k, kV := range usual {
		if !snap[k] && kV > 0 {
			steady = append(steady, kV)
		}
	}
	level := overrunFall * median(steady)
	out := make([]bool, len(usual))
	for k, kV := range usual {
		out[k] = len(of[k]) >= overrunLeast && kV < level
	}
	return out
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	v = slices.Sorted(slices.Values(v))
	return v[len(v)/2]
}

// How describes the method and its reliability.
func (a Assigned) How(e engine.Engine) string {
	stray := ""
	if a.Stray > 0 {
		stray = fmt.Sprintf(" %d events fit no cylinder and are left out.", a.Stray)
	}
	switch {
	case a.By == ByNobody:
		return "Not assigned: it is not known which cylinders the channels show."
	case a.By == ByChannel && a.Shown != e.Everything():
		return fmt.Sprintf("Clamps on %d of %d cylinders, by the names of the channels.", a.Shown.Len(), e.Cylinders)
	case a.By == ByChannel && e.Ignition == engine.WastedSpark:
		return "One channel for each cylinder. The idle event of each pair is kept apart."
	case a.By == ByChannel:
		return "One channel for each cylinder, by the names of the channels."
	}
	pairs := stray
	if e.Ignition == engine.WastedSpark {
		pairs = " Both plugs of a pair are on one trace: the higher is taken for the working one." + stray
	}
	if a.By == BySync {
		return fmt.Sprintf("Cylinders by the sync on cylinder 1: %.0f %% of the cycles are whole.", 100*a.Sure) + pairs
	}
	return fmt.Sprintf("No sync: the first event is taken for cylinder %d; %.0f %% of the events come evenly. If the plan says otherwise, turn it.", a.First, 100*a.Sure) + pairs
}
