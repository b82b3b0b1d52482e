// Package trial lets policies search for hidden faults in the simulated engine under the same
// rules, and records the cost of each.
package trial

import (
	"slices"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/plan"
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
	// Alone, if set, replaces Choose: it works through a whole job without a posterior.
	Alone func(s Setup, rng simulator.Rand) Result
}

// Policies lists the compared policies. The first two share the posterior, gates, stopping rule, tools and limits. The
// others are baselines without them: what many workshops do.
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
			right := s.holds(v) || leftByWork(b, v)
			if !r.Reached {
				r.Reached, r.Said, r.True, r.Right = true, v.P, right, right
			}
			if !right {
				r.Vain += partsBought(v)
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
		s.Contradict = s.Contradict && !contradict(a, found)
		if !add(found...) {
			break
		}
	}
	if !r.Proven {
		r.Right = false
	}
	return r
}

// contradict falsifies the first run after a move, and reports whether the findings held one.
func contradict(a *diagnose.Assessment, found []evidence.Entry) bool {
	d := a.LastDecode()
	return d != nil && d.Outcome == diagnose.Waiting && len(found) > 0 && exchangeCylinders(&found[len(found)-1], d.From|d.To)
}

// exchangeCylinders exchanges the results of a run on two cylinders of a move. It reports false for other entries.
func exchangeCylinders(e *evidence.Entry, of engine.Set) bool {
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
	if len(s.Hidden) == 1 && s.Hidden[0].IsSet() { // renewing the set part by part is right too, if no sound part is bought
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
		if !new(Result).record(&j, entries) {
			break
		}
		a = diagnose.Assess(j)
	}
	return j
}
