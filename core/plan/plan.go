package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/forbid"
	"glenmist/core/gate"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/unit"
)

// Condemn is the probability a repair unit must reach before a verdict on it is
// offered while there is still something to test (judgement: one wrong part in twenty).
const Condemn = 0.95

// FitNow is the probability from which a verdict is offered when putting the unit right
// costs less than to test on (judgement).
const FitNow = 0.70

// LastResort is the probability from which a verdict is offered when no test is left that
// is worth its minutes (judgement).
const LastResort = 0.30

// LastBuy is the same where a part has to be bought (judgement: wasted work is an hour, a wasted part is
// the customer's money).
const LastBuy = 0.50

// leastWork is the probability below which nothing is done for a suspect's gates when no
// test is worth its minutes (judgement).
const leastWork = 0.03

// worthIt is what a step must save, in minutes, to be worth beginning (judgement).
const worthIt = 0.5

// RuledOut is the probability below which a unit counts as cleared (judgement).
const RuledOut = 0.02

// Plan is what to do next, and what stands in the way of a verdict.
type Plan struct {
	Next Card
	// Alternatives are the next best steps, with what each costs against Next.
	Alternatives []Alternative
	// Lead is the likeliest unit that is still to be put right, and Gates stand before
	// condemning it, or the unit of Verdict where that is another.
	Lead  diagnose.Suspect
	Gates []gate.Gate
	// PutRight lists the units of verdicts that were put right while the misfire stayed.
	PutRight map[string]bool
	// Verdict can be signed when it is not nil.
	Verdict *evidence.Verdict
	// With is the expected wasted time in minutes with the next step and the best after it;
	// Without is that when testing ends now and units are repaired in order of probability over
	// cost. Wasted parts and a wrong verdict count as minutes.
	With, Without float64
	// While lists steps that save time when they are done while the covers are off for the next
	// step, with the minutes saved.
	While []Meanwhile

	// Dearer is the additional expected wasted time of the usual order's next step over the
	// best step, in minutes; 0 where the usual order is not chosen.
	Dearer float64

	forced bool
	steps  []Card
}

// Meanwhile is a step that costs less while covers are off anyway.
type Meanwhile struct {
	Card Card
	// Minutes is the time it takes then, and Saves the time saved.
	Minutes, Saves float64
}

// Alternative is a step that could be done instead.
type Alternative struct {
	Card Card
	// ExtraCost is the additional expected wasted time in minutes when this step is done first. Where
	// the next step is required (a run after a move, a gate, a signature) it is all of this
	// step's minutes.
	ExtraCost float64
}

// For plans a job from its assessment, for a workshop with every tool.
func For(j job.Job, a *diagnose.Assessment) Plan { return Default.Plan(j, a) }

// Plan plans a job from its assessment.
func (shop Shop) Plan(j job.Job, a *diagnose.Assessment) Plan {
	done := settled(a)
	first := leading(a, done)
	lead := a.Suspects[first]
	p := Plan{Lead: lead, Gates: gate.Of(a, lead), PutRight: done}
	r := newValuation(a, shop)
	bans := forbid.Of(a.Moments)
	candidates := shop.Candidates(a)
	if len(bans) > 0 {
		candidates = slices.DeleteFunc(candidates, Card.Turns)
	}
	options, without := r.weigh(a, weighed(candidates))
	if len(options) == 0 {
		options = append(options, option{card: endUnresolved(a), cost: without})
	}
	best := options[0]
	p.With, p.Without = min(best.cost, without), without
	if end, ok := j.Ledger.Closed(); ok {
		p.Next, p.forced = closed(j, a, end), true
	} else if signed, ok := j.Signed(); ok && !done[signed.Verdict().Unit] {
		p.afterVerdict(a, signed)
	} else if len(j.Planned) > 0 && !anyMisfire(a) {
		p.Next, p.forced = planned(j, a), true
	} else if !shop.required(&p, a, best.cost, r.fitNow(first)) {
		if best.cost < without-worthIt {
			p.Next, p.forced = applyPrecedence(a, shop, best.card), false
		} else {
			shop.end(&p, a, r.order(), done)
		}
	}
	if !p.forced && j.School == job.UsualOrder {
		p.byUsualOrder(a, options)
	}
	p.Next = p.Next.weighed()
	p.While = while(&p.Next, options, without)
	p.steps = cardsOf(options)
	p.alternatives(options)
	p.applyBans(bans)
	return p
}

// afterVerdict plans a job with a signed verdict: the repair and its proof, or a second verdict
// if later evidence speaks for another unit.
func (p *Plan) afterVerdict(a *diagnose.Assessment, signed evidence.Entry) {
	p.Next, p.forced = prove(a, signed), true
	v := verdict(a, p.Lead)
	if p.Lead.P < Condemn || !gate.AllMet(p.Gates) || !revised(signed, v) {
		return
	}
	v.Revises = signed.Seq
	p.Verdict = &v
	if v.Unit != signed.Verdict().Unit {
		p.Next = sign(v)
		p.Next.Why = fmt.Sprintf("The evidence since entry %d speaks for another unit than the one that was signed. A second verdict says what changed; the first stays in the ledger.", signed.Seq)
	}
}

// required plans the step that does not depend on the value of tests, if there is one: the run
// after a move, a repeat, the signature, or the work for a gate. best is the expected wasted
// time with the best test first, fitNow that of repairing the leading suspect now.
func (shop Shop) required(p *Plan, a *diagnose.Assessment, best, fitNow float64) bool {
	p.forced = true
	open := gate.AllMet(p.Gates)
	if d := a.LastDecode(); d != nil && d.Outcome == diagnose.Waiting {
		p.Next = runAfterMove(a, *d)
		return true
	}
	if again, ok := disturbed(a); ok {
		p.Next = again
		return true
	}
	switch {
	case p.Lead.P >= Condemn && open:
		p.offer(a)
		return true
	case p.Lead.P >= Condemn:
		if work, ok := shop.forGate(a, p.Lead, p.Gates, 1); ok {
			p.Next = work
			return true
		}
	}
	if p.Lead.P >= FitNow && open && fitNow < best+worthIt {
		p.offer(a)
		p.Next.Why = fmt.Sprintf("More tests cost more than they save. Expected wasted time: %.0f min if it is fitted now, %.0f min with the best test first. Its probability is %s, and every gate is met.", fitNow, best, justBelow(p.Lead.P))
		return true
	}
	return false
}

// offer offers the verdict on the leading suspect for signature.
func (p *Plan) offer(a *diagnose.Assessment) {
	v := verdict(a, p.Lead)
	p.Verdict = &v
	p.Next = sign(v)
}

// byUsualOrder replaces the next step by that of the usual order, and notes its additional cost.
func (p *Plan) byUsualOrder(a *diagnose.Assessment, options []option) {
	c, ok := InOrder(UsualOrder, a, cardsOf(options))
	if !ok {
		return
	}
	p.Next = c
	for _, o := range options {
		if o.card.Title == c.Title {
			p.Dearer = o.cost - options[0].cost
		}
	}
}

// alternatives lists the two best other steps with their additional cost. If the next step is
// required, the cost of another is its minutes.
func (p *Plan) alternatives(options []option) {
	for _, o := range options {
		c := o.card
		if c.Step.ID == p.Next.Step.ID && c.Target == p.Next.Target || len(p.Alternatives) == 2 {
			continue
		}
		extra := c.Minutes
		if !p.forced {
			extra = max(0, o.cost-options[0].cost)
		}
		p.Alternatives = append(p.Alternatives, Alternative{c, extra})
	}
}

// while lists looks and tests that pay while the covers are off for a step: at most two, the best first.
func while(next *Card, options []option, without float64) (list []Meanwhile) {
	this := option{covers: map[string]float64{}}
	for _, name := range next.Covers {
		this.covers[name] = 0
	}
	for i := range options {
		o := &options[i]
		saves := this.shares(o)
		if saves < worthDoing || o.card.Title == next.Title || !standing(&o.card) || o.cost-saves >= without {
			continue
		}
		list = append(list, Meanwhile{o.card, o.card.Minutes - saves, saves})
		if len(list) == 2 {
			break
		}
	}
	return list
}

// worthDoing is the least saving in minutes for which a second step is proposed with the first.
const worthDoing = 5.0

// standing reports whether a step is a look or a test with the engine stopped, which can be done with covers off
// that the engine needs to run.
func standing(c *Card) bool {
	switch c.Test {
	case evidence.CoilResistance, evidence.LeadResistance, evidence.WireTest, evidence.AirGapCheck, evidence.LeadRouting, evidence.LeakDown:
		return true
	}
	return len(c.Look) > 0 && len(c.Parts) == 0
}

// end chooses the next step when no test is worth its minutes. It takes the first unit, in
// order of probability over cost, that may be repaired or whose gates can be opened. Without
// one the job ends unresolved, or with no fault found. A unit that handling may have cured is
// named if it is more likely than no fault.
func (shop Shop) end(p *Plan, a *diagnose.Assessment, order []int, done map[string]bool) {
	none := 0.0
	if i := slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Unit == fault.NoFault }); i >= 0 {
		none = a.Suspects[i].P
	}
	likeliest := 0.0
	for _, u := range order {
		if s := a.Suspects[u]; s.Real() && !done[s.Key()] {
			likeliest = max(likeliest, s.P)
		}
	}
	for _, times := range []int{1, mostForGate} { // nothing is done again while something is new
		after := false // the turn of "no fault now" has come
		for _, u := range order {
			s := a.Suspects[u]
			switch {
			case s.Unit == fault.Else || done[s.Key()]: // looking elsewhere comes last
			case !s.Real():
				after = true
			case after && s.P <= none:
			case (times > 1 || s.P == likeliest) && shop.sign(p, a, s):
				return
			case s.P >= leastWork && (!after || s.P >= LastResort):
				if c, ok := shop.forGate(a, s, gate.Of(a, s), times); ok {
					p.Next = c
					return
				}
			}
		}
	}
	if last, ok := lastRun(a); ok && a.Sick() == 0 && misfired(last) && !slight(last) && runs(a, last.Condition) < mostRuns {
		p.Next = countMisfires(a, last.Condition)
		p.Next.Why = "The last run shows a misfire that no suspect explains. Count once more before you rely on it."
		return
	}
	p.Next = endUnresolved(a)
}

// sign offers a verdict on a suspect when no test is left, and reports whether its gates and its
// probability permit that.
func (shop Shop) sign(p *Plan, a *diagnose.Assessment, s diagnose.Suspect) bool {
	gates := gate.Of(a, s)
	if !gate.AllMet(gates) || s.P < lastResort(a, s) || !shop.worthFitting(a, s) {
		return false
	}
	v := verdict(a, s)
	p.Verdict, p.Gates = &v, gates
	p.Next = sign(v)
	p.Next.Why = fmt.Sprintf("Every remaining test costs more than fitting the part. Its probability is only %s, and every gate is met.", unit.Percent(s.P))
	return true
}

// lastResort is the least probability for naming a unit when no test is left.
func lastResort(a *diagnose.Assessment, s diagnose.Suspect) float64 {
	if RepairOf(a.Beliefs, s.Unit).Price > 0 {
		return LastBuy
	}
	return LastResort
}

// worthFitting reports whether repairing a unit at its probability wastes less, on average, than ending the job
// unresolved costs if it was that unit. A cylinder head is not taken off at a probability of one third.
func (shop Shop) worthFitting(a *diagnose.Assessment, s diagnose.Suspect) bool {
	_, access := a.Engine.Access(s.Place, a.Off)
	return (1-s.P)*shop.InVain(a.Beliefs, s.Unit, access) <= s.P*shop.InVain(a.Beliefs, fault.Else, 0)
}

// lastRun is the newest run with misfires counted or watched.
func lastRun(a *diagnose.Assessment) (evidence.Entry, bool) {
	for i := len(a.Moments) - 1; i >= 0; i-- {
		if e := a.Moments[i].Entry; e.Counters() != nil || e.Watch() != nil {
			return e, true
		}
	}
	return evidence.Entry{}, false
}

// endUnresolved is the card that ends a job with no fault found, or unresolved when no step that is left would
// find a misfire that is still there.
func endUnresolved(a *diagnose.Assessment) Card {
	c := at(a, EndUnresolved)
	c.Target, c.Recheck = string(engine.Whole), RecheckDays
	if affected := a.Sick(); affected != 0 {
		c.Title = "End the job unresolved: the engine still misfires"
		c.Do = "Put borrowed parts back. Write down the tests done and how the engine still misfires. Until the cause is found: short runs only, and no hard driving with the lamp flashing."
		c.Why = fmt.Sprintf("The engine still misfires on %s, and every remaining test costs more than it is expected to save. No part is condemned.", affected)
		return c
	}
	c.Title = "End the job with no fault found, and set a date for a recheck"
	if due, set := recheckOf(a); set {
		c.Title, c.Recheck = "No fault found so far: recheck on "+due.Due.Words(), 0
	}
	c.Do = "Put borrowed parts back. Write down what was seen and in which conditions the engine ran clean. Ask the driver to note when it misfires: load, weather, hot or cold."
	c.Why = "The engine ran clean in the condition where it should fail, and every remaining test costs more than it is expected to save. No part is condemned."
	return c
}

// Forced reports whether the next step is required: a run after a move, a gate, a signature or the
// repair.
func (p Plan) Forced() bool { return p.forced }

func cardsOf(options []option) []Card {
	cards := make([]Card, len(options))
	for i, o := range options {
		cards[i] = o.card
	}
	return cards
}

// Steps lists every step that could be done now, the best first.
func (p Plan) Steps() []Card { return p.steps }

// Candidates lists every step that could be done now, made concrete, without what its
// outcomes are.
func Candidates(a *diagnose.Assessment) []Card { return Default.Candidates(a) }

// Candidates leaves out what the shop has no tool for.
func (shop Shop) Candidates(a *diagnose.Assessment) []Card {
	return slices.DeleteFunc(candidates(a), func(c Card) bool { return !shop.has(c.Step) })
}

func verdict(a *diagnose.Assessment, s diagnose.Suspect) evidence.Verdict {
	v := evidence.Verdict{Unit: s.Key(), P: s.P, Trial: s.P < Condemn, Evidence: counted(a)}
	for _, t := range s.With {
		v.With = append(v.With, t.Words())
	}
	v.Cleared, v.Also, v.Cause = Cleared(a), along(a, s), cause(a, s)
	return v
}

// Cleared lists the units of the cylinders in question that evidence has ruled
// out.
func Cleared(a *diagnose.Assessment) []string {
	var asked engine.Set
	for _, d := range a.Decodes {
		switch d.Outcome { // a clean run rules nothing out
		case diagnose.Followed, diagnose.Stayed, diagnose.Both:
			asked |= d.From | d.To
		}
	}
	if len(a.Decodes) == 0 {
		asked = engine.SetOf(a.Worst())
	}
	var names []string
	for _, s := range a.Suspects {
		place := s.Place
		if s.Tag != "" {
			place = s.Tag.Home()
		}
		if s.Tag != "" && slices.Contains(a.Suspects[0].With, s.Tag) {
			continue // what is renewed with the leading suspect is not cleared
		}
		feeds, ok := a.Engine.Feeds(place)
		if ok && feeds&asked != 0 && s.Real() && s.P < RuledOut && s.P < s.Prior {
			names = append(names, s.Key())
		}
	}
	slices.Sort(names)
	return names
}

func sign(v evidence.Verdict) Card {
	if v.Trial {
		return Card{Step: Find(SignVerdict), Minutes: Find(SignVerdict).Minutes, Title: "Trial repair: " + evidence.UnitWords(v.Unit), Target: v.Unit,
			Do:  fmt.Sprintf("Sign a trial repair of %s. Its probability is %s; a verdict needs %s.", named(v), justBelow(v.P), unit.Percent(Condemn)),
			Why: "The repair costs less than more tests, and every gate is met."}
	}
	return Card{Step: Find(SignVerdict), Minutes: Find(SignVerdict).Minutes, Title: "Sign the verdict: " + evidence.UnitWords(v.Unit), Target: v.Unit,
		Do:  fmt.Sprintf("Sign: %s is at fault, at %s.", named(v), unit.Percent(v.P)),
		Why: "It stands at the required certainty, and every gate before it is met."}
}

// named returns the unit of a verdict as it stands in a sentence. A set is followed by its tags.
func named(v evidence.Verdict) string {
	name := evidence.UnitWords(v.Unit)
	if strings.HasPrefix(v.Unit, "set of ") {
		var tags []string
		for _, words := range v.With {
			tags = append(tags, words[strings.LastIndexByte(words, ' ')+1:])
		}
		return "the " + name + " (" + unit.List(tags) + ")"
	}
	return name
}

// justBelow returns a probability below [Condemn] as text. It gets a decimal if it would round to [Condemn].
func justBelow(p float64) string {
	if s := unit.Percent(p); s != unit.Percent(Condemn) {
		return s
	}
	return fmt.Sprintf("%.1f\u202f%%", 100*min(p, Condemn-0.001))
}

// onAgain names the covers that are off, with the gaskets they need.
func onAgain(a *diagnose.Assessment) string {
	if len(a.Off) == 0 {
		return ""
	}
	var gaskets []string
	for _, name := range a.Off {
		c, _ := a.Engine.Cover(name)
		gaskets = append(gaskets, c.Gaskets...)
	}
	s := " Start it before the covers go back on: " + unit.List(a.Off) + "."
	if len(gaskets) > 0 {
		s += " New for them: " + unit.List(gaskets) + "."
	}
	return s
}

// runAfterMove asks for the run that says what a move did; the outcomes can be
// recorded with one tap.
func runAfterMove(a *diagnose.Assessment, d diagnose.Decode) Card {
	c := at(a, RunAfterMove)
	c.Title, c.Target, c.Cylinder = "Run it: where is the misfire now?", string(engine.Whole), d.To.First()
	cleared := "Run"
	if a.Engine.Scanned() {
		cleared = "With the codes cleared and the counters at zero, run"
	}
	c.Do = fmt.Sprintf("%s the engine for five minutes %s. Where is the misfire now?", cleared, inCondition(a))
	var ways []way
	var went []string
	for _, w := range d.Ways {
		id := string(diagnose.Followed)
		if len(d.Ways) > 1 {
			id += "-" + string(w.Tags[0].Kind())
		}
		ways = append(ways, way{id, w.Parts(), w.From, w.To})
		from := "from " + w.From.String()
		if w.From == 0 {
			from = "from the bench"
		}
		went = append(went, fmt.Sprintf("%s %s to %s", w.Parts(), from, w.Place))
	}
	c.Why = fmt.Sprintf("Since the move of %s nothing has been observed. Only a run tells whether the misfire went along.", unit.List(went))
	c.Condition = RunIn(a)
	c.later = func(c *Card) {
		c.weigh(a, outcomesOfMove(a, ways, func(w *diagnose.JointHypothesis) (engine.Set, float64) { return a.Affected(w, a.Now), 1 }))
	}
	return c
}

// Sign makes the entry that signs the verdict, or says what still stands in the
// way.
func (p Plan) Sign() (evidence.Entry, error) {
	if p.Verdict == nil {
		expected := fmt.Sprintf("a suspect at %s or more with every gate met", unit.Percent(Condemn))
		got := "none that likely yet"
		if open := gate.Needs(p.Gates); len(open) > 0 {
			got = "still open: " + unit.List(open)
		}
		return evidence.Entry{}, invalid.Errors{{Field: "verdict", Expected: expected, Got: got}}
	}
	v := *p.Verdict
	return evidence.Entry{Body: &v}, nil
}
