// Package trial lets policies look for hidden faults in the simulated engine, all
// under the same rules, and notes what each took.
package trial

import (
	"slices"
	"strings"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/plug"
	"glenmist/sim/simulator"
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
	Choose func(a *diagnose.Assessment, p plan.Plan, rng simulator.Rand) plan.Card
}

// Policies are those that are compared. All of them share the posterior, the gates,
// the stopping confidence, the tools and the caps.
var Policies = []Policy{
	{"glenmist", func(_ *diagnose.Assessment, p plan.Plan, _ simulator.Rand) plan.Card { return p.Next }},
	{"usual-order", by(plan.UsualOrder)},
	{"usual-order-tuned", by(tuned)},
	{"random", func(_ *diagnose.Assessment, p plan.Plan, rng simulator.Rand) plan.Card {
		cards := p.Steps()
		if len(cards) == 0 {
			return p.Next
		}
		return cards[rng.IntN(len(cards))]
	}},
}

// tuned is the usual order as well as it could be arranged by hand: what is quick goes
// before what is slow, and what parts fuel and compression from ignition goes before
// the third exchange (C; judgement, not fitted to any run).
var tuned = []string{
	plan.ReadCodes, plan.ReadTrims, plan.CountMisfires, plan.FindCylinder, plan.LookConnector, plan.TestWiggle, plan.CheckRouting, plan.CheckStopWire, plan.LookCapRotor, plan.CheckAirGap,
	plan.TestSpark, plan.ReadKV, plan.TestLeadOhms, plan.SwapCoil, plan.LookPlugBoot, plan.LookPlugLead, plan.SwapLead, plan.TestCompress,
	plan.SwapPlug, plan.PutBack, plan.TrySpare, plan.TestCoilOhms, plan.TestTrigger, plan.TestOverlay, plan.TestInjector, plan.CheckSmoke, plan.CheckFuel, plan.CheckTiming, plan.TestCrank, plan.TestLeakDown, plan.TestExchange, plan.SwapBoot,
}

// by goes by an order, skipping what is impossible or already answered.
func by(order []string) func(*diagnose.Assessment, plan.Plan, simulator.Rand) plan.Card {
	return func(a *diagnose.Assessment, p plan.Plan, _ simulator.Rand) plan.Card {
		if c, ok := plan.InOrder(order, a, p.Steps()); ok {
			return c
		}
		return p.Next
	}
}

// Result is what one run took.
type Result struct {
	// Right: the first verdict names the repair unit with the hidden fault; of two
	// hidden faults both have been named, and nothing else, when the proof run passes.
	Right bool
	// Reached: some verdict was signed.
	Reached bool
	// Proven: the fitted repair passed the proof run before the caps.
	Proven  bool
	Minutes float64
	Steps   int
	// Silent: of two hidden faults one was left that nothing had named, and the proof run passed: it
	// did not misfire there.
	Silent bool
	// Vain is parts fitted whose unit holds no hidden fault; what goes with a part is
	// not counted.
	Vain int
	// Said is the probability of the first verdict's unit at the signature, and True
	// whether it was so.
	Said float64
	True bool
	// Trace is what was done, in order.
	Trace []string
}

// Setup is what a run is made on.
type Setup struct {
	Engine engine.Engine
	Hidden []fault.Hypothesis
	// Wrong is the chance that an observation is wrong: a look or a test answers at
	// random, counters are read off one cylinder further on.
	Wrong float64
	// Shop is whose costs and tools are planned with.
	Shop plan.Shop
}

const drive = 6000 // revolutions since the codes were last cleared, before the job

// Run lets a policy work on one engine with hidden faults.
func (s Setup) Run(p Policy, rng simulator.Rand) Result {
	s.Engine = s.Engine.Derive()
	e := s.Engine
	b := s.simulated(rng)
	j := s.intake(b, rng)
	var r Result
	var named []string
	add := func(entries ...evidence.Entry) bool {
		for _, entry := range entries {
			entry.Done, entry.By = j.Opened.Add(time.Duration(len(j.Ledger)+1)*time.Minute), "bench"
			longer, err := j.Ledger.Add(e, entry)
			if err != nil {
				r.Trace = append(r.Trace, "refused: "+err.Error())
				return false // an answer that the ledger refuses counts as wrong
			}
			j.Ledger = longer
			if k := entry.Kind(); k != evidence.KindMove && k != evidence.KindCovers {
				r.Trace = append(r.Trace, entry.Words())
			}
		}
		return true
	}
	for r.Steps < MaxSteps && r.Minutes < MaxMinutes {
		a := diagnose.Assess(j)
		next := s.Shop.Plan(j, a)
		if next.Verdict != nil {
			v := *next.Verdict
			right := s.holds(v)
			if !r.Reached {
				r.Reached, r.Said, r.True, r.Right = true, v.P, right, right
			}
			if !right {
				r.Vain += bought(v)
			}
			named = append(append(named, v.Unit), v.With...)
			if !add(evidence.Entry{Body: &v}) {
				break
			}
			r.Trace = append(r.Trace, "fit "+v.Unit)
			minutes, entries, passed := s.fit(b, a, v, plan.RunIn(a))
			r.Minutes += next.Next.Minutes + minutes
			if passed {
				return s.proven(r, named)
			}
			if !add(entries...) {
				break
			}
			continue
		}
		card := next.Next
		if !next.Forced() {
			card = p.Choose(a, next, rng)
		}
		r.Trace = append(r.Trace, card.Title)
		r.Steps++
		if card.Step.ID == plan.FixAndProve { // strays spoilt the proof run: once more
			again, passed := s.prove(b, a.Now, plan.RunIn(a))
			r.Minutes += plan.ProofRun
			if passed {
				return s.proven(r, named)
			}
			if !add(again) {
				break
			}
			continue
		}
		r.Minutes += card.Minutes
		if card.Step.ID == plan.HandBack {
			break
		}
		when := j.FailsWhen
		if card.Condition != "" {
			when = card.Condition
		}
		if !add(s.do(b, a, card, when, rng)...) {
			break
		}
	}
	if !r.Proven {
		r.Right = false
	}
	return r
}

// proven is the result of a run whose proof has passed.
func (s Setup) proven(r Result, named []string) Result {
	r.Proven = true
	if len(s.Hidden) > 1 {
		r.Silent = !s.all(named)
		r.Right = r.Vain == 0 && !r.Silent
	}
	return r
}

// Wander takes some steps at random and gives the assessment of what they showed.
func (s Setup) Wander(steps int, rng simulator.Rand) *diagnose.Assessment {
	return diagnose.Assess(s.History(steps, rng))
}

// History is a job with the evidence of some steps taken at random.
func (s Setup) History(steps int, rng simulator.Rand) job.Job {
	s.Engine = s.Engine.Derive()
	b := s.simulated(rng)
	j := s.intake(b, rng)
	a := diagnose.Assess(j)
	for range steps {
		cards := plan.Candidates(a)
		if len(cards) == 0 {
			break
		}
		entries := s.do(b, a, cards[rng.IntN(len(cards))], j.FailsWhen, rng)
		if len(entries) == 0 {
			break
		}
		if last := entries[len(entries)-1]; last.Move() != nil { // a move is run
			next, err := a.Now.Move(last.Move().Parts)
			if err != nil {
				break
			}
			entries = append(entries, s.observe(b, next, j.FailsWhen, rng))
		}
		for _, entry := range entries {
			entry.Done, entry.By = j.Opened.Add(time.Duration(len(j.Ledger)+1)*time.Minute), "bench"
			longer, err := j.Ledger.Add(s.Engine, entry)
			if err != nil {
				return j
			}
			j.Ledger = longer
		}
		a = diagnose.Assess(j)
	}
	return j
}

// felt is the share of misfires below which, in every condition, nobody would have come:
// the job is there because somebody felt it or a lamp came on (C; judgement). It is the
// least that the model counts as a misfire too.
const felt = 0.002

// simulated is the engine with its hidden faults, each of a severity that is felt.
func (s Setup) simulated(rng simulator.Rand) *simulator.Engine {
	b := simulator.New(s.Engine, rng, s.Hidden...)
	for range 50 {
		if len(s.Hidden) == 0 || s.most(b) >= felt || s.silent() {
			break
		}
		b = simulator.New(s.Engine, rng, s.Hidden...)
	}
	return b
}

// silent says that nothing of what is hidden ever shows: no fault now.
func (s Setup) silent() bool {
	return !slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return h.Affected(part.Home(s.Engine)) != 0 })
}

// most is the highest misfire rate that the hidden faults give a cylinder in any condition.
func (s Setup) most(b *simulator.Engine) (most float64) {
	home := part.Home(s.Engine)
	for _, row := range evidence.Conditions {
		for _, h := range s.Hidden {
			for _, c := range h.Affected(home).List() {
				most = max(most, b.Rate(c, home, row.Condition))
			}
		}
	}
	return most
}

// Holds says whether a suspect's unit, or what goes with it, holds a hidden fault; of "something
// else" and "no fault now" whether that is what is hidden.
func (s Setup) Holds(of diagnose.Suspect) bool {
	if !of.Real() {
		return slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return h.Mode.Unit == of.Unit })
	}
	v := evidence.Verdict{Unit: of.Key()}
	for _, t := range of.With {
		v.With = append(v.With, t.Words())
	}
	return s.holds(v)
}

// intake is the job as it comes in: the driver mostly knows when it fails.
func (s Setup) intake(b *simulator.Engine, rng simulator.Rand) job.Job {
	when, most := evidence.AnyCondition, 0.0
	for _, row := range evidence.Conditions {
		if row.Condition == evidence.Snap {
			continue // it lasts a second: said, and driven, as under load
		}
		for _, h := range s.Hidden {
			for _, c := range h.Affected(part.Home(s.Engine)).List() {
				if rate := b.Rate(c, part.Home(s.Engine), row.Condition); rate > most+0.02 {
					when, most = row.Condition, rate
				}
			}
		}
	}
	var signs []evidence.Sign
	switch said := rng.Float64() >= 0.2; {
	case !said:
		when = evidence.AnyCondition
	case when == evidence.AnyCondition: // no condition brings more of it than another
		signs = append(signs, evidence.AlwaysThere)
	}
	return job.Job{Number: "bench", Complaint: "misfires", By: "bench", FailsWhen: when, Signs: signs, Opened: time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC),
		Vehicle: job.Vehicle{Fleet: "bench", What: "bench", Engine: s.Engine}}
}

// units are the keys of the repair units that put a fault right: of a gasket between
// two cylinders either will do.
func units(h fault.Hypothesis) []string {
	if h.Tag != "" {
		return []string{string(h.Mode.Unit) + " " + string(h.Tag)}
	}
	if h.Pair != 0 && h.Mode.Unit == engine.Compression {
		var all []string
		for _, c := range h.Pair.List() {
			all = append(all, evidence.UnitKey(h.Mode.Unit, engine.At(c)))
		}
		return all
	}
	return []string{evidence.UnitKey(h.Mode.Unit, h.Place)}
}

// puts says whether a unit, or what is renewed with it, holds a fault.
func puts(unit string, with []string, h fault.Hypothesis) bool {
	return slices.ContainsFunc(units(h), func(u string) bool { return u == unit || slices.Contains(with, u) })
}

// holds says whether a verdict is on a unit that holds a hidden fault.
func (s Setup) holds(v evidence.Verdict) bool {
	return slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return puts(v.Unit, v.With, h) })
}

// all says whether every hidden fault has been named.
func (s Setup) all(named []string) bool {
	for _, h := range s.Hidden {
		if !slices.ContainsFunc(named, func(u string) bool { return puts(u, nil, h) }) {
			return false
		}
	}
	return true
}

// bought is how many parts a verdict has fitted, without what goes with them.
func bought(v evidence.Verdict) int {
	of := plan.Repair{}
	for _, row := range plan.Repairs { // “lead order” begins as “lead” does
		if strings.HasPrefix(v.Unit, string(row.Unit)+" ") && len(row.Unit) > len(of.Unit) {
			of = row
		}
	}
	if of.Price > 0 {
		return 1
	}
	return 0
}

// fit puts a unit right and makes the proof run. It returns the minutes, what goes into
// the ledger when the proof fails, and whether it passed.
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
	if of.Tag == "" {
		b.Repair(of.Unit, of.Place)
		entries = append(entries, evidence.Entry{Body: &evidence.Fit{Unit: v.Unit, Cleared: true}})
	} else {
		var parts []part.Relocation
		taken := at
		for _, t := range append([]part.Tag{of.Tag}, of.With...) {
			in, ok := taken.FreeSpare(t.Kind(), func(t part.Tag) bool { return used(a, t) })
			if !ok || taken.Where(t) == engine.Bench {
				continue
			}
			parts = append(parts, taken.Replace(t, in)...)
		}
		if len(parts) > 0 { // else the new one is in already
			next, err := at.Move(parts)
			if err != nil {
				return minutes, nil, false
			}
			b.Fit(parts)
			at = next
			entries = append(entries, evidence.Entry{Body: &evidence.Move{Parts: parts, Cleared: true}})
		}
	}
	run, passed := s.prove(b, at, when)
	return minutes, append(entries, run), passed
}

// prove makes the proof run.
func (s Setup) prove(b *simulator.Engine, at part.Positions, when evidence.Condition) (evidence.Entry, bool) {
	run := b.Run(at, when, proofRevolutions)
	passed := slices.Max(run.Counted) <= passes
	if !s.Engine.Scanned() {
		return watched(run, when, func() float64 { return 0 }), passed
	}
	return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: proofRevolutions, Counts: run.Counted, Fresh: true}}, passed
}

// A proof run passes with at most so many counts on any cylinder: strays (C; judgement).
const (
	proofRevolutions = 8000
	passes           = 6
)

func used(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Move() != nil && slices.ContainsFunc(m.Entry.Move().Parts, func(r part.Relocation) bool { return r.Tag == t })
	})
}

// do does what a card asks for, on the simulated engine, and says what was found.
func (s Setup) do(b *simulator.Engine, a *diagnose.Assessment, c plan.Card, when evidence.Condition, rng simulator.Rand) []evidence.Entry {
	var out []evidence.Entry
	if len(c.Covers) > 0 {
		out = append(out, evidence.Entry{Body: &evidence.Covers{Off: c.Covers}})
	}
	add := func(e evidence.Entry) []evidence.Entry { return append(out, e) }
	wrong := func() bool { return s.wrong(rng) }
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
		if len(c.Look) > 0 { // seen as it comes off
			out = append(out, s.look(b, a, c.Look, when, rng, true))
		}
		b.Fit(c.Parts)
		e := evidence.Entry{Body: &evidence.Move{Parts: c.Parts, Cleared: true}}
		touch(evidence.Moment{Entry: e, Before: a.Now, At: next})
		return add(e)
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
		touch(evidence.Moment{Entry: e, Before: a.Now, At: a.Now})
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

func (s Setup) wrong(rng simulator.Rand) bool { return s.Wrong > 0 && rng.Float64() < s.Wrong }

// plugGap is the maker's range of the simulated plugs, which a workshop looks up.
var plugGap = plug.Range{Low: 0.9, High: 1.1}

// look is what the eye finds on some items, before any hand has changed them.
func (s Setup) look(b *simulator.Engine, a *diagnose.Assessment, items []evidence.Seen, when evidence.Condition, rng simulator.Rand, moving bool) evidence.Entry {
	look := &evidence.Look{Moving: moving, Gap: &plugGap}
	if slices.ContainsFunc(items, func(i evidence.Seen) bool { return i.Tag.Kind() == engine.Plug }) {
		look.Ran = evidence.RanDriven // as the simulator has it: in the condition in which it fails
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
	if s.Wrong > 0 && rng.Float64() < s.Wrong {
		last := len(run.Counted) - 1
		run.Counted = append([]int{run.Counted[last]}, run.Counted[:last]...)
		run.Misfires = append([]int{run.Misfires[last]}, run.Misfires[:last]...)
	}
	if s.Engine.Scanned() {
		return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: 3500, Counts: run.Counted, Fresh: true}}
	}
	return watched(run, when, rng.Float64)
}

// watched is a run followed without numbers.
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
