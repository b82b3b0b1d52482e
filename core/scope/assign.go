package scope

import (
	"fmt"
	"glenmist/core/engine"
	"math"
	"slices"
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
	// ByUnknown: what the channels show is not known, so that nothing is assigned.
	ByUnknown By = "unknown"
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
	// Stray is the number of events that fit no cylinder. Their shots have cylinder 0.
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
			return Assigned{By: ByUnknown, Roles: roles}
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
	var strays []Shot
	for _, i := range own {
		_, floor := t.listen(i)
		a.Floor = max(a.Floor, floor)
		events := t.ownEvents(i, own, a.Roles, e)
		if a.Shown != e.Everything() {
			var out []Event
			events, out = withoutStrays(events)
			for _, ev := range out {
				strays = append(strays, Shot{Event: ev, Channel: i})
			}
		}
		for _, ev := range events {
			a.Shots = append(a.Shots, Shot{Event: ev, Cylinder: a.Roles[i].Cylinders.First(), Channel: i})
		}
	}
	if e.Ignition == engine.WastedSpark || e.Cylinders == 1 {
		a.pair()
	}
	a.cycles()
	a.addStrays(strays)
}

// addStrays adds events of no cylinder, in the cycle of the event before each.
func (a *Assigned) addStrays(strays []Shot) {
	assigned := a.Shots
	for _, s := range strays {
		last := math.Inf(-1)
		for _, other := range assigned {
			if other.At <= s.At && other.At > last {
				s.Cycle, last = other.Cycle, other.At
			}
		}
		a.Shots = append(a.Shots, s)
	}
	a.Stray += len(strays)
}

// assignShared assigns the events of channels that show several cylinders each, such as one for each bank, by a sync.
func (t *Trace) assignShared(a *Assigned, channels []int, syncs []float64, e engine.Engine, turn int) {
	if len(syncs) < 2 {
		a.By = ByUnknown
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

// How describes the method and its reliability.
func (a Assigned) How(e engine.Engine) string {
	stray := ""
	if a.Stray > 0 {
		stray = fmt.Sprintf(" %d events fit no cylinder. They are shown but not counted.", a.Stray)
	}
	switch {
	case a.By == ByUnknown:
		return "Not assigned: it is not known which cylinders the channels show."
	case a.By == ByChannel && a.Shown != e.Everything():
		return fmt.Sprintf("Clamps on %d of %d cylinders, by the names of the channels.", a.Shown.Len(), e.Cylinders) + stray
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
