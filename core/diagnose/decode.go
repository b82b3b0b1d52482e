package diagnose

import (
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/floats"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Outcome is what a run after a move shows.
type Outcome string

// The outcomes of a move.
const (
	// Waiting: the engine has not been observed since the move.
	Waiting Outcome = "waiting"
	// Followed: the misfire went where the part went.
	Followed Outcome = "followed"
	// Stayed: it is where it was.
	Stayed Outcome = "stayed"
	// Both: it is in both places.
	Both Outcome = "both"
	// Gone: it is nowhere. That proves nothing.
	Gone Outcome = "gone"
	// Elsewhere: it is on a cylinder that had no part in the move.
	Elsewhere Outcome = "elsewhere"
	// Unclear: too little was watched to say.
	Unclear Outcome = "unclear"
)

// Way is parts that went the same way in one move.
type Way struct {
	Tags []part.Tag
	// From and To are the cylinders that depended on them before and after; none
	// on the bench.
	From, To engine.Set
	// Place is where they are now.
	Place engine.Place
}

// Parts names what went: "coil C2 with boot B2".
func (w Way) Parts() string {
	words := make([]string, len(w.Tags))
	for i, t := range w.Tags {
		words[i] = t.Words()
	}
	return strings.Join(words, " with ")
}

// Decode compares what was seen after a move with what was seen before it.
type Decode struct {
	// Move is the number of the move's entry.
	Move int
	// From is the cylinders that misfired before, of those that depended on a moved part;
	// empty when parts came back from the bench.
	From engine.Set
	// Ways are the moved parts by where they went: two in a split move.
	Ways []Way
	// Tags and To are the parts that the misfire followed and where to, or the first of the ways.
	Tags    []part.Tag
	To      engine.Set
	Outcome Outcome
	// P is the probability of the likeliest outcome, also when the outcome is Unclear.
	P float64
	// More is how many more revolutions without a misfire would make Gone sure; 0 when
	// Gone is not in question, or no run would be long enough.
	More int

	place engine.Place
}

// Parts names what moved: "coil C2 with boot B2".
func (d Decode) Parts() string { return Way{Tags: d.Tags}.Parts() }

// OnBench reports whether the parts were taken out for the move.
func (d Decode) OnBench() bool { return d.place == engine.Bench }

// Back reports whether the parts came from the bench.
func (d Decode) Back() bool { return d.From == 0 && len(d.Tags) > 0 }

// decodes compares the runs just before and after every move. Both share one unknown
// misfire rate, so a short clean run after a slight misfire tells little. A decode
// describes the run, not the fault: Gone means a clean run and no more.
func decodes(a *Assessment) []Decode {
	epochs := a.codeEpochs(everything)
	tables := a.weighing.tables
	var all []Decode
	for i, m := range a.Moments {
		if m.Entry.Move() != nil {
			all = append(all, a.decode(i, epochs, tables))
		}
	}
	return all
}

// runLikelihood is the log likelihood of the runs for a set of affected cylinders, by rate.
type runLikelihood func(affected engine.Set) infer.PerRate

// memo computes the likelihood of each set once.
func (f runLikelihood) memo() runLikelihood {
	have := map[engine.Set]infer.PerRate{}
	return func(affected engine.Set) infer.PerRate {
		lik, ok := have[affected]
		if !ok {
			lik = f(affected)
			have[affected] = lik
		}
		return lik
	}
}

// codedAlone is the log likelihood ratio of one read of the codes for a set of affected cylinders.
func (a *Assessment) codedAlone(c codeEpoch, affected engine.Set) infer.PerRate {
	of := logCodeLikelihood(c.known, affected)
	if affected == 0 && c.history { // codes of what has gone
		for r := range of {
			of[r] += float64(c.known.set.Len()) * math.Log(knowledge.CodeHistory/knowledge.CodeStray)
		}
	}
	if affected == 0 || c.known.open && !c.known.random {
		return of
	}
	quiet := logRandomCode(c.known, a.Engine, affected)
	for r, x := range quiet {
		if c.known.random {
			x = math.Log1p(-(1-knowledge.RandomStray)*math.Exp(x)) - math.Log(knowledge.RandomStray)
		}
		of[r] += x
	}
	return of
}

func (a *Assessment) decode(last int, epochs []codeEpoch, tables []*runTable) Decode {
	move := a.Moments[last]
	when, compare := a.compared(move.Epoch, tables)
	ran := func(epoch int) (of []*runTable) {
		for i, m := range a.Moments {
			if m.Epoch == epoch && tables[i] != nil && (!compare || m.Entry.Condition == when) {
				of = append(of, tables[i])
			}
		}
		return of
	}
	runs := func(epoch int, of []*runTable) (seen runLikelihood, some bool) {
		var codes []codeEpoch
		for _, c := range epochs {
			if a.Moments[c.moment].Epoch == epoch && (!c.known.open || c.known.any()) {
				codes = append(codes, c)
			}
		}
		return runLikelihood(func(affected engine.Set) (lik infer.PerRate) {
			for _, t := range of {
				of := t.steady(affected)
				lik.Add(&of)
			}
			for _, c := range codes {
				of := a.codedAlone(c, affected)
				lik.Add(&of)
			}
			return lik
		}).memo(), len(of)+len(codes) > 0
	}
	d := Decode{Move: move.Entry.Seq}
	before, _ := runs(move.Epoch-1, ran(move.Epoch-1))
	a.lead(&d, move, before)
	was := before(d.From)
	with := func(after runLikelihood) runLikelihood {
		return func(affected engine.Set) infer.PerRate {
			lik := after(affected)
			lik.Add(&was)
			return lik
		}
	}
	of := ran(move.Epoch)
	for len(of) > 1 { // what the work disturbed, and was put home since, is no answer to the move
		if o, _, p := a.classify(d, with(of[0].steady)); o != Elsewhere || p < knowledge.SureOutcome {
			break
		}
		of = of[1:]
	}
	some, there := runs(move.Epoch, of)
	if !there {
		d.Outcome, d.P = Waiting, 1
		return d
	}
	joint := with(some)
	way := 0
	d.Outcome, way, d.P = a.classify(d, joint)
	d.take(d.Ways[way])
	if d.P < knowledge.SureOutcome {
		if d.Outcome == Gone {
			d.More = a.moreToWatch(d, joint)
		}
		d.Outcome = Unclear
	}
	return d
}

func (d *Decode) take(w Way) { d.Tags, d.To, d.place = w.Tags, w.To, w.Place }

// outcomes are the prior shares of the outcomes of a move (C; judgement): two faults at
// once, and a part disturbed during the work, are rare.
var outcomes = []struct {
	outcome Outcome
	before  float64
}{{Followed, 0.32}, {Stayed, 0.32}, {Gone, 0.24}, {Both, 0.06}, {Elsewhere, 0.06}}

// classify returns the most probable outcome of a move, the index of the way that it belongs
// to, and its probability. joint is the likelihood of a set of affected cylinders after the move.
func (a *Assessment) classify(d Decode, joint runLikelihood) (Outcome, int, float64) {
	c := classifier{a: a, d: d, joint: joint}
	follows := slices.ContainsFunc(d.Ways, func(w Way) bool { return w.To&^d.From != 0 })
	gone := 0.0 // with the shares of the outcomes that cannot be distinguished from Gone
	for _, o := range outcomes {
		if o.outcome == Gone || o.outcome == Followed && !follows || o.outcome == Stayed && d.From == 0 {
			gone += o.before
		}
	}
	for _, o := range outcomes {
		switch o.outcome {
		case Followed, Both:
			c.ways(o.outcome, o.before/float64(len(d.Ways)))
		case Stayed:
			if d.From != 0 {
				c.add(Stayed, 0, o.before, c.of(d.From))
			}
		case Gone:
			c.add(Gone, 0, gone, c.of(0))
		case Elsewhere:
			c.elsewhere(o.before)
		}
	}
	best := floats.MaxIdx(c.logs)
	return c.options[best].outcome, c.options[best].way, math.Exp(c.logs[best] - floats.LogSumExp(c.logs))
}

// classifier collects the possible outcomes of a move, each with its log weight.
type classifier struct {
	a       *Assessment
	d       Decode
	joint   runLikelihood
	options []classified
	logs    []float64
}

// classified is one outcome with the index of its way.
type classified struct {
	outcome Outcome
	way     int
}

func (c *classifier) add(o Outcome, way int, before, log float64) {
	c.options = append(c.options, classified{o, way})
	c.logs = append(c.logs, math.Log(before)+log)
}

// of returns the log likelihood of affected cylinders. A cylinder in series with an affected one
// can lose its spark too.
func (c *classifier) of(affected engine.Set) float64 {
	one := func(affected engine.Set) float64 {
		lik := c.joint(affected)
		return floats.LogSumExp(lik[:])
	}
	all := affected
	for _, cylinder := range affected.List() {
		all |= c.a.Engine.Circuit(cylinder)
	}
	if all == affected {
		return one(affected)
	}
	return infer.LogMix(0.5, one(affected), 0.5, one(all))
}

// mean returns the log of the mean likelihood of equally likely sets.
func (c *classifier) mean(sets []engine.Set) float64 {
	var logs []float64
	for _, set := range sets {
		logs = append(logs, c.of(set))
	}
	return floats.LogSumExp(logs) - math.Log(float64(len(logs)))
}

// ways adds Followed or Both for each way whose parts now serve other cylinders. before is the
// prior share of each way.
func (c *classifier) ways(o Outcome, before float64) {
	for i, w := range c.d.Ways {
		switch {
		case w.To&^c.d.From == 0 || o == Both && c.d.From == 0:
			// The parts went to the bench, came from it, or are where they were.
		case o == Both:
			c.add(o, i, before, c.of(w.To|c.d.From))
		default:
			c.add(o, i, before, c.mean(c.a.affectedByWay(w)))
		}
	}
}

// elsewhere adds the misfire of a cylinder that the move did not involve.
func (c *classifier) elsewhere(before float64) {
	touched := c.d.From
	for _, w := range c.d.Ways {
		touched |= w.To
	}
	var others []engine.Set
	for _, cylinder := range c.a.Engine.All() {
		if !touched.Has(cylinder) {
			others = append(others, engine.SetOf(cylinder))
		}
	}
	if len(others) > 0 {
		c.add(Elsewhere, 0, before, c.mean(others))
	}
}

// compared is the running condition in which the runs before and after a move are compared:
// one in which a misfire was seen before the move. Without one all runs are compared.
func (a *Assessment) compared(epoch int, tables []*runTable) (when evidence.Condition, ok bool) {
	after := map[evidence.Condition]bool{}
	for i, m := range a.Moments {
		if m.Epoch == epoch && tables[i] != nil {
			after[m.Entry.Condition] = true
		}
	}
	for i, m := range a.Moments {
		if m.Epoch != epoch-1 || tables[i] == nil || !after[m.Entry.Condition] {
			continue
		}
		seen := m.Entry.Watch() != nil && len(m.Entry.Watch().Cylinders) > 0
		if c := m.Entry.Counters(); c != nil {
			seen = slices.Max(c.Counts) >= evidence.Enough
		}
		if seen {
			when, ok = m.Entry.Condition, true
		}
	}
	return when, ok
}

// affectedByWay lists the sets of cylinders that a fault of the parts of one way can affect
// where they are now: all that depend on them, or some where a part serves several.
func (a *Assessment) affectedByWay(w Way) []engine.Set {
	all := []engine.Set{w.To}
	for i := range a.Faults {
		h := &a.Faults[i].Hypothesis
		if w.To.Len() < 2 || h.Tag == "" || !slices.Contains(w.Tags, h.Tag) {
			continue
		}
		if to := h.Affected(a.Now); to != 0 && to&^w.To == 0 && !slices.Contains(all, to) {
			all = append(all, to)
		}
	}
	return all
}

// lead finds the cylinders that misfired before, of those that depended on a part
// that moved, and the ways that their parts went. Parts that came from the bench
// lead only when nothing misfired.
func (a *Assessment) lead(d *Decode, move evidence.Moment, before runLikelihood) {
	var ways []Way
	add := func(t part.Tag, from, to engine.Set, at engine.Place) {
		i := slices.IndexFunc(ways, func(have Way) bool { return have.From == from && have.To == to })
		if i < 0 {
			ways = append(ways, Way{[]part.Tag{t}, from, to, at})
		} else if !slices.Contains(ways[i].Tags, t) {
			ways[i].Tags = append(ways[i].Tags, t)
		}
	}
	for _, r := range move.Entry.Move().Parts {
		from, to := move.Before.Feeds(r.Tag), move.At.Feeds(r.Tag)
		add(r.Tag, engine.SetOf(from...), engine.SetOf(to...), r.To)
		if len(from) != 2 {
			continue
		}
		for tower, c := range from { // one of its towers alone
			var onto engine.Set
			if tower < len(to) {
				onto = engine.SetOf(to[tower])
			}
			add(r.Tag, engine.SetOf(c), onto, r.To)
		}
	}
	best := math.Inf(-1)
	for _, w := range ways {
		// Nothing was seen before: the move asks about the cylinders that parts were taken from.
		lik := before(w.From)
		p := floats.LogSumExp(lik[:])
		if w.From == 0 && !w.Tags[0].IsOriginal() {
			p = math.Inf(-1)
		}
		if p > best+1e-9 {
			best, d.From = p, w.From
		}
	}
	for _, w := range ways {
		if w.From == d.From && (d.From != 0 || w.Tags[0].IsOriginal()) {
			d.Ways = append(d.Ways, w)
		}
	}
	if len(d.Ways) == 0 {
		d.Ways = ways
	}
	d.take(d.Ways[0])
}

// moreToWatch is how many more clean revolutions would make Gone sure; 0 when no run of
// bounded length would. so is the likelihood of what was seen until now.
func (a *Assessment) moreToWatch(d Decode, so runLikelihood) int {
	so = so.memo()
	for revs := 500; revs <= int(unit.MaxRevolutions); revs *= 2 {
		clean := counted(evidence.Counters{Revolutions: revs, Counts: make([]int, a.Engine.Cylinders), Fresh: true}, a.Engine)
		outcome, _, p := a.classify(d, func(affected engine.Set) infer.PerRate {
			lik := so(affected)
			of := clean.steady(affected)
			lik.Add(&of)
			return lik
		})
		if outcome == Gone && p >= knowledge.SureOutcome {
			return revs
		}
	}
	return 0
}
