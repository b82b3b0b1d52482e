// Package trial lets policies search for hidden faults in the simulated engine under the same
// rules, and records the cost of each.
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

// Limits of one run. Beyond them the run counts as wrong, and its minutes count.
const (
	MaxSteps   = 40
	MaxMinutes = 900.0
)

// Policy is one way to work on a job.
type Policy struct {
	Name string
	// Choose picks the next step. It may use the posterior but not the hidden state of the engine.
	Choose func(a *diagnose.Assessment, p plan.Plan, rng simulator.Rand) plan.Card
	// Alone works through a whole job without any posterior, instead.
	Alone func(s Setup, rng simulator.Rand) Result
}

// Policies lists the compared policies. The first two share the posterior, gates, stopping rule, tools and limits; the
// others stand for what shops do, and have none of them.
var Policies = []Policy{
	{Name: "glenmist", Choose: func(_ *diagnose.Assessment, p plan.Plan, _ simulator.Rand) plan.Card { return p.Next }},
	{Name: "usual-order", Choose: by(plan.UsualOrder)},
	{Name: "parts-first", Alone: partsFirst},
	{Name: "swap-first", Alone: swapFirst},
}

// by follows an order and skips steps that are impossible or answered.
func by(order []string) func(*diagnose.Assessment, plan.Plan, simulator.Rand) plan.Card {
	return func(a *diagnose.Assessment, p plan.Plan, _ simulator.Rand) plan.Card {
		if c, ok := plan.InOrder(order, a, p.Steps()); ok {
			return c
		}
		return p.Next
	}
}

// Result is the outcome of one run.
type Result struct {
	// Right is true if the first verdict names the unit with the hidden fault. With two hidden
	// faults, both and nothing else must be named when the proof run passes.
	Right bool
	// Reached is true if a verdict was signed.
	Reached bool
	// Proven is true if the repair passed the proof run within the limits.
	Proven  bool
	Minutes float64
	Steps   int
	// Silent is true if one of two hidden faults was never named, and the proof run passed
	// because the fault did not misfire there.
	Silent bool
	// Vain is the number of parts fitted to units without hidden fault. Parts fitted together
	// with another are not counted.
	Vain int
	// Said is the probability of the first verdict's unit when signed; True is whether the
	// verdict was right.
	Said float64
	True bool
	// Trace lists the steps in order.
	Trace []string
}

// Setup holds the settings of a run.
type Setup struct {
	Engine engine.Engine
	Hidden []fault.Hypothesis
	// World is how the engine, its instruments and people behave; the zero value is the middle world.
	World simulator.World
	// Wrong is the probability of a wrong observation on top of the world's: a random result of a look or test, or
	// counters shifted by one cylinder.
	Wrong float64
	// Contradict makes the first run after a move say that the misfire is where it is not.
	Contradict bool
	// Shop holds the costs and tools for planning.
	Shop plan.Shop
}

const drive = 6000 // revolutions since the codes were last cleared, before the job

// Run lets a policy work on one engine with hidden faults.
func (s Setup) Run(p Policy, rng simulator.Rand) Result {
	if p.Alone != nil {
		return p.Alone(s, rng)
	}
	s.Engine = s.Engine.Derive()
	b := s.simulated(rng)
	j := s.intake(b, rng)
	var r Result
	var named []string
	add := func(entries ...evidence.Entry) bool { return r.record(&j, entries) }
	for r.Steps < MaxSteps && r.Minutes < MaxMinutes {
		a := diagnose.Assess(j)
		next := s.Shop.Plan(j, a)
		if next.Verdict != nil {
			v := *next.Verdict
			right := s.holds(v) || left(b, v)
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
		if card.Step.ID == plan.FixAndProve { // stray counts spoilt the proof run: repeat it
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
		if card.Step.ID == plan.EndUnresolved {
			break
		}
		when := j.FailsWhen
		if card.Condition != "" {
			when = card.Condition
		}
		found := s.do(b, a, card, when, rng)
		s.Contradict = s.Contradict && !contradicted(a, found)
		if !add(found...) {
			break
		}
	}
	if !r.Proven {
		r.Right = false
	}
	return r
}

// contradicted makes the first run after a move say what is not so, and reports whether this was one.
func contradicted(a *diagnose.Assessment, found []evidence.Entry) bool {
	d := a.LastDecode()
	return d != nil && d.Outcome == diagnose.Waiting && len(found) > 0 && elsewhere(&found[len(found)-1], d.From|d.To)
}

// elsewhere exchanges what a run shows on two cylinders of a move, and reports whether it could.
func elsewhere(e *evidence.Entry, of engine.Set) bool {
	list := of.List()
	if len(list) < 2 {
		return false
	}
	x, y := list[0], list[1]
	switch b := e.Body.(type) {
	case *evidence.Counters:
		b.Counts = slices.Clone(b.Counts)
		b.Counts[x-1], b.Counts[y-1] = b.Counts[y-1], b.Counts[x-1]
		return true
	case *evidence.Watch:
		for i, c := range b.Cylinders {
			switch c {
			case x:
				b.Cylinders[i] = y
			case y:
				b.Cylinders[i] = x
			}
		}
		slices.Sort(b.Cylinders)
		return true
	}
	return false
}

// record adds entries to the ledger of a job. It reports false for an entry that the ledger rejects: the run then counts
// as wrong.
func (r *Result) record(j *job.Job, entries []evidence.Entry) bool {
	for _, entry := range entries {
		entry.Done, entry.By = j.Opened.Add(time.Duration(len(j.Ledger)+1)*time.Minute), "bench"
		longer, err := j.Ledger.Add(j.Vehicle.Engine, entry)
		if err != nil {
			r.Trace = append(r.Trace, "refused: "+err.Error())
			return false
		}
		j.Ledger = longer
		if k := entry.Kind(); k != evidence.KindMove && k != evidence.KindCovers {
			r.Trace = append(r.Trace, entry.Words())
		}
	}
	return true
}

// proven returns the result of a run with a passed proof.
func (s Setup) proven(r Result, named []string) Result {
	r.Proven = true
	if len(s.Hidden) == 1 && s.Hidden[0].IsSet() { // part by part will do, as long as nothing is bought in vain
		r.Right = r.Vain == 0
	}
	if len(s.Hidden) > 1 {
		r.Silent = !s.all(named)
		r.Right = r.Vain == 0 && !r.Silent
	}
	return r
}

// Wander takes some random steps and returns the assessment.
func (s Setup) Wander(steps int, rng simulator.Rand) *diagnose.Assessment {
	return diagnose.Assess(s.History(steps, rng))
}

// History returns a job with the evidence of some random steps.
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
		if last := entries[len(entries)-1]; last.Move() != nil { // a run follows each move
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

// felt is the misfire share below which nobody notices, in every condition. A job exists
// because somebody noticed it or a lamp came on (C; judgement: one misfire in two hundred is felt by few).
const felt = 0.004

// simulated returns the engine with its hidden faults, each of a noticeable severity.
func (s Setup) simulated(rng simulator.Rand) *simulator.Engine {
	b := simulator.In(s.world(), s.Engine, rng, s.Hidden...)
	for range 50 {
		if len(s.Hidden) == 0 || s.most(b) >= felt || s.silent() {
			break
		}
		b = simulator.In(s.world(), s.Engine, rng, s.Hidden...)
	}
	return b
}

// silent reports whether no hidden fault ever shows.
func (s Setup) silent() bool {
	return !slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return h.Affected(part.Home(s.Engine)) != 0 })
}

// most returns the highest misfire rate of a cylinder in any condition.
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

// Holds reports whether a suspect's unit, or a unit renewed with it, holds a hidden fault. For
// "something else" and "no fault now" it compares with what is hidden.
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

// intake returns the new job. The driver usually states when it fails.
func (s Setup) intake(b *simulator.Engine, rng simulator.Rand) job.Job {
	when, most := evidence.AnyCondition, 0.0
	for _, row := range evidence.Conditions {
		if row.Condition == evidence.Snap {
			continue // it lasts a second, so it is reported and driven as under load
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
	said := rng.Float64() >= s.world().Mute
	if said && rng.Float64() < s.world().Loose { // whatever comes to mind
		if when = evidence.AnyCondition; rng.IntN(3) > 0 {
			when = loose[rng.IntN(len(loose))]
		}
	}
	switch {
	case !said:
		when = evidence.AnyCondition
	case when == evidence.AnyCondition: // no condition has a higher rate than another
		signs = append(signs, evidence.AlwaysThere)
	}
	return job.Job{Number: "bench", Complaint: "misfires", By: "bench", FailsWhen: when, Signs: signs, Opened: time.Date(2026, 1, 1, 8, 0, 0, 0, time.UTC),
		Vehicle: job.Vehicle{Fleet: "bench", What: "bench", Engine: s.Engine}}
}

// loose lists the conditions that a driver may name whatever it is.
var loose = []evidence.Condition{evidence.Idle, evidence.Load, evidence.Hot, evidence.Cold, evidence.Wet}

// units lists the keys of the repair units that cure a fault. For a gasket between two
// cylinders, either will do.
func units(h fault.Hypothesis) []string {
	if h.Tag != "" {
		return []string{string(h.Mode.Unit) + " " + string(h.Tag)}
	}
	if h.IsSet() { // the set, or one of its parts
		all := []string{evidence.UnitKey(h.Unit(), engine.Whole)}
		for _, t := range h.Members() {
			all = append(all, string(t.Kind())+" "+string(t))
		}
		return all
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

// puts reports whether a unit, or what is renewed with it, holds a fault.
func puts(unit string, with []string, h fault.Hypothesis) bool {
	return slices.ContainsFunc(units(h), func(u string) bool { return u == unit || slices.Contains(with, u) })
}

// holds reports whether a verdict is on a unit that holds a hidden fault.
func (s Setup) holds(v evidence.Verdict) bool {
	return slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return puts(v.Unit, v.With, h) })
}

// left reports whether a verdict is on a site at which work has left a fault behind.
func left(b *simulator.Engine, v evidence.Verdict) bool {
	return slices.ContainsFunc(b.Left, func(i engine.Item) bool { return evidence.UnitKey(i.Kind, i.Place) == v.Unit })
}

// all reports whether every hidden fault has been named.
func (s Setup) all(named []string) bool {
	for _, h := range s.Hidden {
		if !slices.ContainsFunc(named, func(u string) bool { return puts(u, nil, h) }) {
			return false
		}
	}
	return true
}

// bought returns the number of parts fitted by a verdict, without those renewed with them.
func bought(v evidence.Verdict) int {
	of := plan.Repair{}
	for _, row := range plan.Repairs { // “lead order” and “lead” have a common prefix
		if strings.HasPrefix(v.Unit, string(row.Unit)+" ") && len(row.Unit) > len(of.Unit) {
			of = row
		}
	}
	if of.Price > 0 {
		return 1
	}
	return 0
}

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
		var parts []part.Relocation
		taken := at
		for _, t := range append([]part.Tag{of.Tag}, of.With...) {
			if t == "" {
				continue
			}
			in, ok := taken.FreeSpare(t.Kind(), func(t part.Tag) bool { return used(a, t) })
			if !ok || taken.Where(t) == engine.Bench {
				continue
			}
			one := taken.Replace(t, in)
			next, err := taken.Move(one)
			if err != nil {
				continue
			}
			parts, taken = append(parts, one...), next
		}
		if len(parts) > 0 { // otherwise the new part is already fitted
			next, err := at.Move(parts)
			if err != nil {
				return minutes, nil, false
			}
			work := moving(s.Engine, at, parts)
			b.Fit(parts)
			b.Touch(work.on)
			b.LeaveBehind(work.sites)
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
	passed := slices.Max(run.Misfires) <= passes
	if !s.Engine.Scanned() {
		return watched(run, when, func() float64 { return 0 }), passed
	}
	return evidence.Entry{Condition: when, Body: &evidence.Counters{Revolutions: proofRevolutions, Counts: run.Counted, Fresh: true}}, passed
}

// A proof run passes with at most this many misfires of any cylinder, by what truly misfired: how false counts are told
// from misfires is the matter of the proof, which is measured by itself (C; judgement).
const (
	proofRevolutions = 8000
	passes           = 6
)

func used(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Move() != nil && slices.ContainsFunc(m.Entry.Move().Parts, func(r part.Relocation) bool { return r.Tag == t })
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
		b.Fit(c.Parts)
		work := moving(a.Engine, a.Now, c.Parts)
		b.Touch(work.on)
		b.LeaveBehind(work.sites)
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

func (s Setup) wrong(rng simulator.Rand) bool {
	p := s.Wrong + s.world().Wrong
	return p > 0 && rng.Float64() < p
}

func (s Setup) world() simulator.World {
	if s.World.Name == "" {
		return simulator.Middle
	}
	return s.World
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
