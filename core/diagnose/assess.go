package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// Assessment is what the evidence of one job says.
type Assessment struct {
	Engine    engine.Engine
	FailsWhen evidence.Condition
	// Fails says in words in which condition it fails, as the driver said.
	Fails     string
	Complaint fault.Complaint
	// Records is what is known of the age and design of the parts.
	Records []part.Record
	Moments []evidence.Moment
	// Now is where every part sits, and Off names the covers that are off.
	Now part.Positions
	Off []string
	// Faults are all possible faults. Joint are the joint hypotheses: each fault alone and the likelier
	// pairs. They sum to 1, less the pairs that are too unlikely to list.
	Faults          []Fault
	JointHypotheses []JointHypothesis
	// Suspects are the repair units, the likeliest first, with "something else" and
	// "no fault now". Two can be at fault at once, so they may sum to more than 1.
	Suspects []Suspect
	// Suspicion is the probability that each cylinder misfires as the parts sit
	// now; index 0 is cylinder 1.
	Suspicion []float64
	// Decodes states what each move showed, in order.
	Decodes []Decode
	// Checks are the answers of all tests, measured ones among them, in order.
	Checks []Checked

	// Beliefs are the knowledge tables in use.
	Beliefs *knowledge.Beliefs

	// contradictions holds the result of Contradictions; contradicted is true once it is computed.
	contradictions []Contradiction
	contradicted   bool

	weighing *inference
	looking  map[evidence.Seen]map[int]knowledge.Bearing // what could be looked at now, by the faults that bear on it
	asking   map[asking][]int                            // what could be tested now, likewise
	home     part.Positions
	leaks    []engine.Item    // the places where air can leak in
	answered [][]Checked      // Checks by moment
	boards   []*board         // the plugs that were read in full, by moment
	history  map[int]bool     // numbers of runs whose counts were set aside
	sites    map[site]float64 // prior shares by mode and place, computed when asked for
}

// AnswersOf lists what the i-th moment answers, of tests that were measured in part as well.
func (a *Assessment) AnswersOf(i int) []Checked { return a.answered[i] }

// LastDecode is what the last move showed, or nil when nothing was moved.
func (a *Assessment) LastDecode() *Decode {
	if len(a.Decodes) == 0 {
		return nil
	}
	return &a.Decodes[len(a.Decodes)-1]
}

// Assess weighs the evidence of a job, which must be valid. Package explain adds
// reasons to the suspects.
func Assess(j job.Job) *Assessment { return AssessBy(knowledge.Shipped, j) }

// AssessBy is Assess with the workshop's own tables.
func AssessBy(b *knowledge.Beliefs, j job.Job) *Assessment {
	e := j.Vehicle.Engine.Derive()
	a := &Assessment{Engine: e, FailsWhen: j.FailsWhen, Fails: j.Fails(), Complaint: fault.Complaint{Signs: j.Signs, Used: wear(j), Shares: b.Shares(), Factors: b.Factors(), Learnt: b.Learnt[e.Ignition]},
		Records: j.Vehicle.Parts, Moments: j.Ledger.Replay(e), Now: part.Home(e), Beliefs: b}
	a.home = a.Now
	a.history = setAside(a.Moments)
	for _, item := range e.Items() {
		if item.Kind == engine.AirLeak {
			a.leaks = append(a.leaks, item)
		}
	}
	if n := len(a.Moments); n > 0 {
		a.Now, a.Off = a.Moments[n-1].At, a.Moments[n-1].Off
	}
	for i, m := range a.Moments {
		a.boards = append(a.boards, a.boardOf(m))
		a.answered = append(a.answered, a.checks(i))
		for _, c := range a.answered[i] {
			// Of a test that was measured in part, the other part is still to be made.
			if c.item.number.measure == "" || knowledge.AnswersWholeTest(c.item.number.measure) || c.item.abnormalAnswer() {
				a.Checks = append(a.Checks, c)
			}
		}
	}
	a.weighing, a.looking, a.asking = newInference(a), map[evidence.Seen]map[int]knowledge.Bearing{}, map[asking][]int{}
	all := a.weighing.posterior(everything, true)
	a.Faults, a.JointHypotheses = a.weighing.faults, a.weighing.jointHypotheses(all)
	for k := range a.Faults {
		a.Faults[k].P = all.Any[k]
	}
	a.Suspicion = make([]float64, e.Cylinders)
	for i := range a.JointHypotheses {
		world := &a.JointHypotheses[i]
		affected := a.Affected(world, a.Now)
		for i := range a.Suspicion {
			if affected.Has(engine.Cylinder(i + 1)) {
				a.Suspicion[i] += world.P
			}
		}
	}
	a.Suspects = suspects(a, all)
	a.Decodes = decodes(a)
	return a
}

// touchedLately maps a kind of part to the sign that it was worked on lately.
var touchedLately = map[engine.Kind]evidence.Sign{engine.Plug: evidence.TouchedPlugs, engine.Coil: evidence.TouchedCoils, engine.Lead: evidence.TouchedLeads}

// wear is what is known of the parts' ages.
func wear(j job.Job) fault.Wear {
	var used fault.Wear
	for _, at := range part.Home(j.Vehicle.Engine).All() {
		r, ok := part.For(j.Vehicle.Parts, at.Kind, at.Tag.Home())
		if !ok || slices.Contains(j.Signs, touchedLately[at.Kind]) { // they may have been renewed then
			continue
		}
		if age := r.AgeAt(j.Distance, j.Opened); !math.IsNaN(age.Used) {
			if used == nil {
				used = fault.Wear{}
			}
			used[at.Tag] = age.Used
		}
	}
	return used
}

// Worst is the cylinder most likely to misfire as the parts sit now.
func (a *Assessment) Worst() engine.Cylinder {
	worst := engine.Cylinder(1)
	for i, p := range a.Suspicion {
		if p > a.Suspicion[worst-1]+1e-9 {
			worst = engine.Cylinder(i + 1)
		}
	}
	if a.Suspicion[worst-1] >= knowledge.Unsuspected {
		return worst
	}
	for _, m := range slices.Backward(a.Moments) {
		switch e := m.Entry; {
		case e.Counters() != nil:
			if c, most := e.Counters().Most(); most > 0 {
				return c
			}
			return worst
		case e.Watch() != nil && len(e.Watch().Cylinders) > 0:
			return e.Watch().Cylinders[0]
		case e.Watch() != nil:
			return worst
		}
	}
	return worst
}

// Observed reports whether the job has an entry that is evidence by itself.
func (a *Assessment) Observed() bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return Weighs(m.Entry.Kind()) })
}

// NamesCylinder reports whether the evidence distinguishes cylinders. Without evidence, and while
// it concerns all cylinders alike, no cylinder is under suspicion.
func (a *Assessment) NamesCylinder() bool {
	if !a.Observed() {
		return false
	}
	return len(a.Suspicion) == 1 || slices.Max(a.Suspicion)-slices.Min(a.Suspicion) >= leastDifference
}

// leastDifference is the least difference in probability that distinguishes cylinders (judgement).
const leastDifference = 0.02

// Sick is the cylinders that misfire with a probability above one half with the parts where
// they are now.
func (a *Assessment) Sick() engine.Set {
	var s engine.Set
	for i, p := range a.Suspicion {
		if p >= 0.5 {
			s |= engine.SetOf(engine.Cylinder(i + 1))
		}
	}
	return s
}

// counts reports whether the i-th moment is a run whose counts can be used. Counters that
// were not reset still hold what was counted before a move.
func (a *Assessment) counts(i int) bool {
	m := a.Moments[i]
	of := kinds[m.Entry.Kind()].counts
	return of != nil && of(m) && !a.history[m.Entry.Seq]
}

// setAside returns the numbers of the runs whose counts stand as history.
func setAside(moments []evidence.Moment) map[int]bool {
	var aside map[int]bool
	for _, m := range moments {
		if m.Entry.Clearing() == nil {
			continue
		}
		for _, n := range m.Entry.Clearing().History {
			if aside == nil {
				aside = map[int]bool{}
			}
			aside[n] = true
		}
	}
	return aside
}

// Aside is the reason why an entry is noted but not weighed.
type Aside int

// The reasons.
const (
	// Weighed: it is weighed.
	Weighed Aside = iota
	// NotReset: the counters still held what was counted before the move.
	NotReset
	// OldCode: permanent, or not cleared after the move.
	OldCode
	// NoMisfireCode: none of the codes bears on a misfire.
	NoMisfireCode
	// History: the counts stand as history, as a clearing says.
	History
)

// SetAside returns why a moment is noted and not weighed.
func (a *Assessment) SetAside(i int) Aside {
	m := a.Moments[i]
	switch {
	case a.history[m.Entry.Seq]:
		return History
	case m.Entry.Counters() != nil && !a.counts(i):
		return NotReset
	case m.Entry.Codes() != nil && len(m.Entry.Codes().Read) > 0:
		weighed := a.codeEpochs(everything)
		for _, c := range weighed {
			if a.Moments[c.moment].Epoch != m.Epoch {
				continue
			}
			var here codesKnown
			for _, r := range m.Entry.Codes().Read {
				here.take(r, a.Engine)
			}
			if here.within(c.known).any() {
				return Weighed
			}
		}
		for _, r := range m.Entry.Codes().Read {
			if _, weighs := r.Code.Meaning(); weighs {
				return OldCode
			}
		}
		return NoMisfireCode
	}
	return Weighed
}

// codeEpoch is the codes that were read between two moves, taken together.
type codeEpoch struct {
	moment  int // the last read
	known   codesKnown
	history bool
}

// take notes a code that was read.
func (k *codesKnown) take(r trouble.Reading, e engine.Engine) {
	if c, ok := r.Code.MisfireCylinder(); ok {
		k.set |= engine.SetOf(c)
	}
	k.random = k.random || r.Code == trouble.RandomMisfire
	if kind, feeds, ok := r.Code.Circuit(e); ok && kind == engine.Coil {
		k.coils |= feeds
	} else if ok {
		k.injectors |= feeds
	}
	if bank, lean, ok := r.Code.Mixture(); ok && lean {
		k.lean |= 1 << bank
	} else if ok {
		k.rich |= 1 << bank
	}
}

// within is what of k is in other as well, and beyond what of it is not.
func (k codesKnown) within(other codesKnown) codesKnown {
	return codesKnown{random: k.random && other.random, set: k.set & other.set, coils: k.coils & other.coils,
		injectors: k.injectors & other.injectors, lean: k.lean & other.lean, rich: k.rich & other.rich}
}

func (k codesKnown) beyond(other codesKnown) codesKnown {
	return codesKnown{random: k.random && !other.random, set: k.set &^ other.set, coils: k.coils &^ other.coils,
		injectors: k.injectors &^ other.injectors, lean: k.lean &^ other.lean, rich: k.rich &^ other.rich}
}

// join adds what is set in other.
func (k *codesKnown) join(other codesKnown) {
	k.random = k.random || other.random
	k.set |= other.set
	k.coils |= other.coils
	k.injectors |= other.injectors
	k.lean |= other.lean
	k.rich |= other.rich
}

// codeEpochs joins the reads of codes between moves: reading a code twice adds nothing.
// After a move only codes that cannot be old count.
func (a *Assessment) codeEpochs(kept keep) []codeEpoch {
	var out []codeEpoch
	var earlier codesKnown
	cleared, epoch := true, -1
	for i, m := range a.Moments {
		if after, ok := m.Entry.ClearedAfter(); ok {
			cleared = after
		}
		if c := m.Entry.Clearing(); c != nil && c.Codes {
			cleared = true
			if n := len(out); n > 0 && out[n-1].known.open { // what is read from here on is new
				out[n-1].known.open, out[n-1].known.cleared = false, true
			}
		}
		if m.Entry.Codes() == nil || !kept.has(i) {
			continue
		}
		if m.Epoch != epoch {
			if n := len(out); n > 0 {
				earlier.join(out[n-1].known)
			}
			epoch = m.Epoch
			out = append(out, codeEpoch{known: codesKnown{cleared: epoch > 0 && cleared, open: epoch > 0 && !cleared}, history: epoch == 0})
		}
		now := &out[len(out)-1]
		now.moment = i
		var here codesKnown
		for _, r := range m.Entry.Codes().Read {
			if epoch == 0 || r.State != trouble.Permanent {
				here.take(r, a.Engine)
			}
		}
		if now.known.open {
			here = here.beyond(earlier)
		}
		now.known.join(here)
	}
	return out
}

// Inside is the probability that the fault is in the combustion chamber, or in what enters it.
func (a *Assessment) Inside() float64 {
	sum := 0.0
	for _, f := range a.Faults {
		if fault.Inside(f.Hypothesis.Mode.Unit) {
			sum += f.P
		}
	}
	return min(1, sum)
}
