package standin

import (
	"iter"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/scope"
	"glenmist/sim/simulator"
)

// Settings of the simulated scope: fast enough for a firing peak, a few cycles at a time.
const (
	rate     = 250_000.0
	noiseKV  = 0.02
	perBlock = 2 // cycles
)

// Conditions lists the conditions of the simulated scope. With a snap the engine idles, the
// throttle is opened briefly, and it idles again.
var Conditions = []evidence.Condition{evidence.Idle, evidence.Snap, evidence.Load, evidence.Cold, evidence.Hot, evidence.Wet}

// rpm is the engine speed in each condition (C; judgement).
var rpm = map[evidence.Condition]float64{evidence.Idle: 750, evidence.Snap: 1500, evidence.Load: 1800, evidence.Cold: 950, evidence.Hot: 700, evidence.Wet: 750}

// snapped reports whether a block of a recording with a snap in it lies in the snap: three of twelve.
func snapped(block int) bool { return block%12 >= 4 && block%12 < 7 }

// Scope returns an endless sequence of recordings of a job's engine in a condition, some
// cycles each. run distinguishes recordings.
func (s Standin) Scope(j job.Job, when evidence.Condition, run uint64) (iter.Seq[*scope.Trace], error) {
	if !slices.Contains(Conditions, when) {
		return nil, invalid.Error{Field: "condition", Expected: "idle, snap, load, cold, hot or wet", Got: invalid.Quote(string(when))}
	}
	b, now := s.engine(j)
	b = b.With(s.Chance(run, uint64(len(j.Ledger))+2))
	return func(yield func(*scope.Trace) bool) {
		over := int(simulator.Before * rate)
		var tail [][]float32 // end of the previous block, which the next one overlaps
		for block := 0; ; block++ {
			r := simulator.Recording{When: when, Cycles: perBlock, Scope: simulator.PlainScope(rate, noiseKV)}
			if when == evidence.Snap && !snapped(block) {
				r.When = evidence.Idle
			}
			r.RPM = rpm[r.When]
			of := b.Capture(now, r)
			t := Trace(of, rate)
			for i := range t.Channels {
				v := t.Channels[i].Samples
				if tail != nil {
					for k, x := range tail[i] {
						v[k] = scope.ToHalf(v[k].Float() + x)
					}
				}
				t.Channels[i].Samples = v[:len(v)-over]
			}
			tail = tail[:0]
			for _, v := range of.Channels {
				tail = append(tail, v[len(v)-over:])
			}
			if !yield(t) {
				return
			}
		}
	}, nil
}

// Trace converts a simulated recording to a trace. The sync is scaled like the other channels.
func Trace(of simulator.Captured, rate float64) *scope.Trace {
	t := &scope.Trace{Rate: rate}
	for i, v := range of.Channels {
		if of.Names[i] == scope.SyncName {
			for k := range v {
				v[k] /= 1000 // it was in volts
			}
		}
		t.Channels = append(t.Channels, scope.Channel{Name: of.Names[i], Samples: scope.Halves(v)})
	}
	return t
}
