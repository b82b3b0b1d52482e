// Package drive simulates an engine that is run after a repair, with misfires in bursts. It shares no model
// with the test that it measures: bursts have geometric sizes and run on from event to event.
package drive

import (
	"math/rand/v2"

	"glenmist/core/proof"
)

// Engine is one cylinder after a repair.
type Engine struct {
	// Rate is the share of firing events that misfire, Burst the mean length of a burst in events.
	Rate, Burst float64
}

// misfires runs a number of events and counts the misfires; in is whether a burst is under way.
func (e Engine) misfires(r *rand.Rand, events int, in bool) (n int, still bool) {
	start := e.Rate / (e.Burst * (1 - e.Rate))
	for range events {
		if in {
			in = r.Float64() >= 1/e.Burst
		} else {
			in = r.Float64() < start
		}
		if in {
			n++
		}
	}
	return n, in
}

// Independent is an engine that misfires in each event by itself.
func Independent(rate float64) Engine { return Engine{rate, 1 / (1 - rate)} }

// Test decides from a number of events and the misfires among them.
type Test interface {
	After(events, misfires int) (proof.State, float64)
}

// Until runs an engine, a step of events at a time, until a test has decided. It returns the decision and
// the number of events; it gives up as not yet after most events.
func (e Engine) Until(r *rand.Rand, t Test, step, most int) (s proof.State, events int) {
	misfires, in := 0, false
	for events < most {
		var n int
		n, in = e.misfires(r, step, in)
		events, misfires = events+step, misfires+n
		if s, _ = t.After(events, misfires); s != proof.NotYet {
			return s, events
		}
	}
	return proof.NotYet, events
}

// Fixed runs an engine for the fixed length of a test, and returns its decision.
func (e Engine) Fixed(r *rand.Rand, events, most int) proof.State {
	if n, _ := e.misfires(r, events, false); n <= most {
		return proof.Proven
	}
	return proof.NotFixed
}
