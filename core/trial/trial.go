// Package trial lets policies look for hidden faults in the simulated engine, all
// under the same rules, and notes what each took.
package trial

import (
	"slices"
	"time"

	"glenmist/core/bench"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
)

// Caps of one run: beyond them it is wrong, and its minutes are charged.
const (
	MaxSteps   = 40
	MaxMinutes = 900.0
)

// Policy chooses the next step where there is a choice. It may use the posterior,
// and nothing of the engine's hidden state.
type Policy struct {
	Name   string
	Choose func(j job.Job, a *diagnose.Assessment, p plan.Plan, rng bench.Rand) plan.Card
}

// Policies are those that are compared. All of them share the posterior, the gates,
// the stopping confidence, the tools and the caps.
var Policies = []Policy{
	{"glenmist", func(_ job.Job, _ *diagnose.Assessment, p plan.Plan, _ bench.Rand) plan.Card { return p.Next }},
	{"usual-order", usual},
	{"random", func(_ job.Job, a *diagnose.Assessment, _ plan.Plan, rng bench.Rand) plan.Card {
		cards := plan.Candidates(a)
		return cards[rng.IntN(len(cards))]
	}},
}

// order is the usual order of the work: scan, look, swap, bench tests, kilovolts, old
// plugs, and then beyond the ignition (C: the order of the work). On small engines
// the stop wire is isolated first.
var order = []string{
	plan.ReadCodes, plan.CountMisfires, plan.FindCylinder, plan.CheckStopWire, plan.LookConnector, plan.CheckRouting, plan.LookCapRotor,
	plan.SwapCoil, plan.SwapLead, plan.SwapBoot, plan.SwapPlug, plan.TrySpare, plan.PutBack,
	plan.TestSpark, plan.TestCoilOhms, plan.TestLeadOhms, plan.TestTrigger, plan.CheckAirGap, plan.ReadKV,
	plan.LookPlugBoot, plan.LookPlugLead, plan.TestCompress, plan.TestInjector, plan.CheckSmoke, plan.CheckFuel, plan.CheckTiming,
}

// usual goes by the order, skipping what is impossible or already answered.
func usual(_ job.Job, a *diagnose.Assessment, p plan.Plan, _ bench.Rand) plan.Card {
	cards := plan.Candidates(a)
	for _, id := range order {
		for _, c := range cards {
			if c.Step.ID == id && !answered(a, c) {
				return c
			}
		}
	}
	return p.Next
}

// answered says whether a run or an exchange has been made that tells what the card
// asks; looks and tests that have been made are no candidates any more.
func answered(a *diagnose.Assessment, c plan.Card) bool {
	if len(c.Parts) > 0 && c.Step.ID != plan.PutBack {
		return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
			return m.Entry.Move != nil && slices.ContainsFunc(m.Entry.Move.Parts, func(r part.Relocation) bool { return r.Tag == c.Parts[0].Tag })
		})
	}
	return (c.Step.ID == plan.CountMisfires || c.Step.ID == plan.FindCylinder) && slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Counters != nil || m.Entry.Watch != nil
	})
}

// Result is what one run took.
type Result struct {
	// Right: the first verdict names the repair unit with the hidden fault.
	Right bool
	// Reached: a verdict was signed before the caps.
	Reached bool
	Minutes float64
	Steps   int
	// Vain is parts fitted whose unit holds no hidden fault.
	Vain int
	// Said is the probability of the verdict's unit at the signature.
	Said float64
}

const drive = 6000 // revolutions since the codes were last cleared, before the job

// Run lets a policy work on one engine with one hidden fault.
func Run(e engine.Engine, h fault.Hypothesis, p Policy, rng bench.Rand) Result {
	b := bench.New(e, rng, h)
	j := intake(e, b, h, rng)
	var r Result
	for r.Steps < MaxSteps && r.Minutes < MaxMinutes {
		a := diagnose.Assess(j)
		next := plan.For(j, a)
		if next.Verdict != nil {
			r.Reached, r.Said = true, next.Verdict.P
			r.Minutes += next.Next.Minutes + plan.Find(plan.FixAndProve).Minutes
			r.Right = names(*next.Verdict, h)
			if !r.Right {
				r.Vain += parts(*next.Verdict)
			}
			return r
		}
		card := next.Next
		if !next.Forced() {
			card = p.Choose(j, a, next, rng)
		}
		r.Steps++
		r.Minutes += card.Minutes
		when := j.FailsWhen
		if card.Condition != "" {
			when = card.Condition
		}
		entries := do(b, a, card, when, rng)
		for _, entry := range entries {
			entry.Done, entry.By = j.Opened.Add(time.Duration(len(j.Ledger)+1)*time.Minute), "bench"
			longer, err := j.Ledger.Add(e, entry)
			if err != nil {
				return r // an answer that the ledger refuses counts as wrong
			}
			j.Ledger = longer
		}
	}
	return r
}

// intake is the job as it comes in: the driver mostly knows when it fails.
func intake(e engine.Engine, b *bench.Engine, h fault.Hypothesis, rng bench.Rand) job.Job {
	when, most := evidence.AnyCondition, 0.0
	for _, row := range evidence.Conditions {
		for _, c := range h.Afflicted(part.Home(e)).List() {
			if rate := b.Rate(c, part.Home(e), row.Condition); rate > most+0.02 {
				when, most = row.Condition, rate
			}
		}
	}
	if rng.Float64() < 0.2 {
		when = evidence.AnyCondition
	}
	return job.Job{Number: "bench", Complaint: "misfires", By: "bench", FailsWhen: when, Opened: time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC),
		Vehicle: job.Vehicle{Fleet: "bench", What: "bench", Engine: e}}
}

// names says whether a verdict is on the unit that holds the fault, alone or with
// what goes with it.
func names(v evidence.Verdict, h fault.Hypothesis) bool {
	at := string(h.Place)
	if h.Tag != "" {
		at = string(h.Tag)
	}
	if h.Pair != 0 && h.Mode.Unit == engine.Compression { // of a gasket either neighbour
		for _, c := range h.Pair.List() {
			if v.Unit == string(h.Mode.Unit)+" "+string(engine.At(c)) {
				return true
			}
		}
	}
	unit := string(h.Mode.Unit) + " " + at
	return v.Unit == unit || slices.Contains(v.With, unit)
}

// parts is how many parts a verdict asks to be fitted.
func parts(v evidence.Verdict) int {
	n := len(v.With)
	for _, k := range []engine.Kind{engine.Coil, engine.CoilLead, engine.Cap, engine.Rotor, engine.Lead, engine.Boot, engine.Plug, engine.Injector, engine.Connector} {
		if len(v.Unit) > len(k) && v.Unit[:len(k)+1] == string(k)+" " {
			return n + 1
		}
	}
	return n
}

// do does what a card asks for, on the bench, and says what was found.
func do(b *bench.Engine, a *diagnose.Assessment, c plan.Card, when evidence.Condition, rng bench.Rand) []evidence.Entry {
	var out []evidence.Entry
	if len(c.Covers) > 0 {
		out = append(out, evidence.Entry{Covers: &evidence.Covers{Off: c.Covers}})
	}
	add := func(e evidence.Entry) []evidence.Entry { return append(out, e) }
	touch := func(m evidence.Moment) {
		hands := diagnose.Handled(a.Engine, m)
		b.Touch(func(h fault.Hypothesis) bool { return hands.Touches(h) })
	}
	switch {
	case len(c.Parts) > 0:
		next, err := a.Now.Move(c.Parts)
		if err != nil {
			return out
		}
		b.Fit(c.Parts)
		e := evidence.Entry{Move: &evidence.Move{Parts: c.Parts, Cleared: true}}
		touch(evidence.Moment{Entry: e, Before: a.Now, At: next})
		return add(e)
	case c.Step.ID == plan.ReadCodes:
		codes := b.Codes(a.Now, b.Run(a.Now, when, drive))
		return add(evidence.Entry{Codes: &codes})
	case len(c.Look) > 0:
		look := &evidence.Look{}
		for _, item := range c.Look {
			item.Finding = b.Look(item, a.Now, when)
			look.Items = append(look.Items, item)
		}
		e := evidence.Entry{Look: look}
		touch(evidence.Moment{Entry: e, Before: a.Now, At: a.Now})
		return add(e)
	case c.Test != "":
		place := engine.Whole
		for _, o := range c.Outcomes {
			if o.Record.Check != nil {
				place = o.Record.Check.Place
				break
			}
		}
		result, where := b.Answer(c.Test, place, a.Now)
		return add(evidence.Entry{Check: &evidence.Check{Test: c.Test, Place: where, Result: result}})
	}
	run := b.Run(a.Now, when, 3500)
	if a.Engine.Scanned() {
		return add(evidence.Entry{Condition: when, Counters: &evidence.Counters{Revolutions: 3500, Counts: run.Counted, Fresh: true}})
	}
	watch := &evidence.Watch{Cylinders: []engine.Cylinder{}}
	for i, n := range run.Misfires {
		rate := float64(n) / float64(run.Events)
		if rng.Float64() < 0.95*rate/(rate+0.006) || rng.Float64() < 0.01 {
			watch.Cylinders = append(watch.Cylinders, engine.Cylinder(i+1))
		}
	}
	return add(evidence.Entry{Condition: when, Watch: watch})
}
