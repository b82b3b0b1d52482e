package trial

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/plug"
	"glenmist/sim/simulator"
)

// fit repairs a unit and makes the proof run. It returns the minutes, the entries of a failed
// proof, and whether it passed.
func (s Setup) fit(b *simulator.Engine, a *diagnose.Assessment, v evidence.Verdict, when evidence.Condition) (minutes float64, entries []evidence.Entry, passed bool) {
	var of diagnose.Suspect
	for _, su := range a.Suspects {
		if su.Key() == v.Unit {
			of = su
		}
	}
	_, access := s.Engine.Access(of.Place, a.Off)
	minutes = plan.RepairOf(a.Beliefs, of.Unit).Minutes + access + plan.ProofRun
	at := a.Now
	if of.Tag == "" && !of.IsSet() {
		b.Repair(of.Unit, of.Place)
		entries = append(entries, evidence.Entry{Body: &evidence.Fit{Unit: v.Unit, Cleared: true}})
	} else {
		r := &evidence.Renewal{Cleared: true}
		for _, t := range append([]part.Tag{of.Tag}, of.With...) {
			if t == "" || at.Where(t) == engine.Bench {
				continue
			}
			place := at.Where(t)
			if in, ok := newPart(a, t.Kind(), place); ok {
				r.Parts = append(r.Parts, evidence.Renewed{Place: place, Out: t, In: in, Fate: evidence.Scrapped})
			}
		}
		if len(r.Parts) > 0 { // otherwise the new part is already fitted
			next, err := at.Renew(r.List())
			if err != nil {
				return minutes, nil, false
			}
			var parts []part.Relocation
			for _, one := range r.Parts {
				parts = append(parts, part.Relocation{Tag: one.Out, To: engine.Bench}, part.Relocation{Tag: one.In, To: one.Place})
			}
			moveParts(b, s.Engine, at, parts)
			at = next
			entries = append(entries, evidence.Entry{Body: r})
		}
	}
	run, passed := s.prove(b, at, when)
	return minutes, append(entries, run), passed
}

// prove makes the proof run.
func (s Setup) prove(b *simulator.Engine, at part.Positions, when evidence.Condition) (evidence.Entry, bool) {
	run := b.Run(at, when, proofRevolutions)
	passed := slices.Max(run.Misfires) <= passes
	if !s.Engine.Scanned() {
		return watched(run, when, func() float64 { return 0 }), passed
	}
	return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: proofRevolutions, Counts: run.Counted, Fresh: true}}, passed
}

// Bounds of a proof run (C; judgement). It passes if no cylinder has more than passes misfires. True misfires decide,
// not counted ones: the sequential proof has a benchmark of its own.
const (
	proofRevolutions = 8000
	passes           = 6
)

// newPart returns the tag of the next new part at a place.
func newPart(a *diagnose.Assessment, k engine.Kind, place engine.Place) (part.Tag, bool) {
	for n := 1; n <= part.MaxRenewed; n++ {
		if t := part.New(k, place, n); !used(a, t) {
			return t, true
		}
	}
	return "", false
}

// used reports whether a part was moved or fitted.
func used(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		switch e := m.Entry; {
		case e.Move() != nil:
			return slices.ContainsFunc(e.Move().Parts, func(r part.Relocation) bool { return r.Tag == t })
		case e.Renewal() != nil:
			return slices.ContainsFunc(e.Renewal().Parts, func(r evidence.Renewed) bool { return r.In == t })
		}
		return false
	})
}

// do carries out a card on the simulated engine and returns the findings.
func (s Setup) do(b *simulator.Engine, a *diagnose.Assessment, c plan.Card, when evidence.Condition, rng simulator.Rand) []evidence.Entry {
	var out []evidence.Entry
	if len(c.Covers) > 0 {
		out = append(out, evidence.Entry{Body: &evidence.Covers{Off: c.Covers}})
	}
	add := func(e evidence.Entry) []evidence.Entry { return append(out, e) }
	wrong := func() bool { return s.wrong(rng) }
	switch {
	case len(c.Parts) > 0:
		if _, err := a.Now.Move(c.Parts); err != nil {
			return out
		}
		if len(c.Look) > 0 { // seen as it comes off
			out = append(out, s.look(b, a, c.Look, when, rng, true))
		}
		moveParts(b, a.Engine, a.Now, c.Parts)
		return add(evidence.Entry{Body: &evidence.Move{Parts: c.Parts, Cleared: true}})
	case c.Step.ID == plan.ReadCodes:
		codes := b.Codes(a.Now, b.Run(a.Now, when, drive))
		return add(evidence.Entry{Body: &codes})
	case c.Step.ID == plan.ReadTrims:
		trims := &evidence.Trims{}
		for bank := 1; bank <= s.Engine.Banks(); bank++ {
			trims.Banks = append(trims.Banks, b.Trim(bank, a.Now))
		}
		return add(evidence.Entry{Body: trims})
	case len(c.Look) > 0:
		e := s.look(b, a, c.Look, when, rng, false)
		b.Touch(looking(a.Engine, a.Now, c.Look).on)
		return add(e)
	case c.Test != "":
		out = append(out, s.measured(b, a, c, wrong)...)
		if measures[c.Test].all {
			return out
		}
		result, where := b.Answer(c.Test, c.Place, a.Now)
		if t, _ := evidence.FindTest(c.Test); t.Of != evidence.OfLeaks && wrong() {
			result = t.Results[rng.IntN(len(t.Results))].ID
		}
		return add(evidence.Entry{Body: &evidence.Check{Test: c.Test, Place: where, Result: result}})
	}
	return add(s.observe(b, a.Now, when, rng))
}

// plugGap is the maker's range of the simulated plugs.
var plugGap = plug.Range{Low: 0.9, High: 1.1}

// look returns the findings of a look, before any handling.
func (s Setup) look(b *simulator.Engine, a *diagnose.Assessment, items []evidence.Seen, when evidence.Condition, rng simulator.Rand, moving bool) evidence.Entry {
	look := &evidence.Look{Moving: moving, Gap: &plugGap}
	if slices.ContainsFunc(items, func(i evidence.Seen) bool { return i.Tag.Kind() == engine.Plug }) {
		look.Ran = evidence.RanDriven // the simulator runs in the failing condition
	}
	for _, item := range items {
		wrong := s.wrong(rng)
		if item.Tag.Kind() == engine.Plug && !wrong {
			look.Items = append(look.Items, look.Read(item.Tag, b.ReadPlug(item.Tag, a.Now, when)))
			continue
		}
		item.Finding = b.Look(item, a.Now, when)
		if wrong {
			rows := evidence.FindingsOn(item.Kind())
			item.Finding = rows[rng.IntN(len(rows))].Finding
		}
		look.Items = append(look.Items, item)
	}
	return evidence.Entry{Body: look}
}

// observe runs the engine and reads its counters, or watches it.
func (s Setup) observe(b *simulator.Engine, at part.Positions, when evidence.Condition, rng simulator.Rand) evidence.Entry {
	run := b.Run(at, when, 3500)
	if s.wrong(rng) {
		last := len(run.Counted) - 1
		run.Counted = append([]int{run.Counted[last]}, run.Counted[:last]...)
		run.Misfires = append([]int{run.Misfires[last]}, run.Misfires[:last]...)
	}
	if s.Engine.Scanned() {
		return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: 3500, Counts: run.Counted, Fresh: true}}
	}
	return watched(run, when, rng.Float64)
}

// watched is a run observed without counts.
func watched(run simulator.Run, when evidence.Condition, chance func() float64) evidence.Entry {
	watch := &evidence.Watch{Cylinders: []engine.Cylinder{}}
	for i, n := range run.Misfires {
		rate := float64(n) / float64(run.Events)
		if chance() < 0.95*rate/(rate+0.006) || chance() < 0.01*rate {
			watch.Cylinders = append(watch.Cylinders, engine.Cylinder(i+1))
		}
	}
	return evidence.Entry{Condition: when, Body: watch}
}
