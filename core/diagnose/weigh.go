package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// inference is the model of a job with the likelihoods of its runs, codes and items for each fault. Each is
// computed once, so that leaving an entry out does not compute the others again.
type inference struct {
	a      *Assessment
	model  *infer.Model
	solver *infer.Solver
	faults []Fault
	tracks []*track
	// tables[i] is the runTable of the i-th moment; nil where it is no run.
	tables []*runTable
	runs   map[runKey]*infer.PerRate
	codes  map[codeKey]*infer.PerRate
	items  map[flatItem][]*infer.Factor
	shown  map[evidence.Condition][]*levels // by run condition
	// groups are items of one test that depend on each other, by the items in them.
	groups map[string]*infer.Group
	ids    map[flatItem]int
	// shapes are the affected cylinders at each moment, of each track and of each pair of linked tracks;
	// shapeOf maps tracks to shapes, see [infer.Prior.ShapeOf].
	shapes  []*shape
	shapeOf [][]int
	// profiles are the condition profiles given the driver's statement, and pStated the
	// probability of that statement.
	profiles *statedProfiles
	pStated  float64
	// sums[when][s] is the sum of all runs in a condition for shape s. all is the items of all moments.
	sums map[evidence.Condition][]infer.PerRate
	all  *itemsWeighed
	// referred is true once the solver has all evidence as its reference.
	referred bool
}

// itemsWeighed is the factors of all evidence except runs and codes.
type itemsWeighed struct {
	items   [][]*infer.Factor
	ids     []int
	groups  []*infer.Group
	grouped []bool
}

// shape is the set of affected cylinders when the job came in, and at each moment.
type shape struct {
	first   engine.Set
	at      []engine.Set
	failing int // index into FailingConditions; of two faults the smaller
	burst   int // index into Bursts, of one fault
	// by is at, divided by the index into Bursts. A cylinder that both faults affect belongs to the lower index.
	by []byBurst
}

// byBurst is the affected cylinders for each index into [knowledge.Bursts].
type byBurst [knowledge.NumBursts]engine.Set

type runKey struct {
	moment   int
	affected byBurst
}

type codeKey struct {
	known    codesKnown
	affected engine.Set
	history  bool
}

func newInference(a *Assessment) *inference {
	w := &inference{a: a, tables: make([]*runTable, len(a.Moments)), runs: map[runKey]*infer.PerRate{}, codes: map[codeKey]*infer.PerRate{},
		sums: map[evidence.Condition][]infer.PerRate{}, shown: map[evidence.Condition][]*levels{},
		items: map[flatItem][]*infer.Factor{}, groups: map[string]*infer.Group{}, ids: map[flatItem]int{}}
	w.profiles = &statedProfiles{by: a.Beliefs, said: a.said(), known: map[[3]any]*statedProfile{}}
	w.faults, w.tracks = faults(a.Engine, a.Complaint, w.profiles, a.Moments, a.misfireGroups())
	for k := range w.faults {
		w.pStated += w.faults[k].prior
	}
	for k := range w.faults {
		w.faults[k].prior /= w.pStated
	}
	for i := range a.Moments {
		if a.counts(i) {
			e := a.Moments[i].Entry
			w.tables[i] = kinds[e.Kind()].run(e, a.Engine)
		}
	}
	w.shape()
	w.model = w.prior()
	w.solver = infer.NewSolver(w.model)
	for k := range w.faults {
		w.faults[k].before = w.model.Before[k]
	}
	return w
}

// shape computes the affected cylinders of the tracks, and of pairs of linked tracks, at each moment.
func (w *inference) shape() {
	known := map[string]int{}
	var key []byte
	find := func(of ...*track) int {
		n := len(w.a.Moments)
		s := &shape{at: make([]engine.Set, n), by: make([]byBurst, n), failing: of[0].failing, burst: of[0].burst}
		for _, t := range of {
			s.first |= t.first()
			s.failing = min(s.failing, t.failing)
			for i, m := range w.a.Moments {
				now := t.at(i, m.Epoch)
				s.at[i] |= now
				s.by[i][t.burst] |= now
			}
		}
		for i := range s.by {
			var taken engine.Set
			for b := range s.by[i] {
				s.by[i][b] &^= taken
				taken |= s.by[i][b]
			}
		}
		key = append(key[:0], byte(s.failing), byte(s.first>>8), byte(s.first))
		if len(of) == 1 { // predictions depend on it
			key = append(key, byte(s.burst))
		}
		for i, set := range s.at {
			switch {
			case w.tables[i] != nil:
				for _, set := range s.by[i] {
					key = append(key, byte(set>>8), byte(set))
				}
			case w.a.Moments[i].Entry.Codes() != nil:
				key = append(key, byte(set>>8), byte(set))
			}
		}
		i, ok := known[string(key)]
		if !ok {
			i = len(w.shapes)
			known[string(key)] = i
			w.shapes = append(w.shapes, s)
		}
		return i
	}
	n := len(w.tracks)
	w.shapeOf = make([][]int, n)
	cells := make([]int, n*n)
	for i, t := range w.tracks {
		w.shapeOf[i] = cells[i*n : (i+1)*n]
		for k, o := range w.tracks[:i] {
			w.shapeOf[i][k] = -1
			if (t.pairs && o.pairs || t.acceptsLater && o.later || t.later && o.acceptsLater) && t.meets(o) {
				w.shapeOf[i][k] = find(t, o)
			}
			w.shapeOf[k][i] = w.shapeOf[i][k]
		}
		w.shapeOf[i][i] = find(t)
	}
}

// run is the log likelihood ratio of the i-th moment's run for a set of affected cylinders, by rate.
func (w *inference) run(i int, affected byBurst) *infer.PerRate {
	key := runKey{i, affected}
	lik, ok := w.runs[key]
	if !ok {
		lik = &infer.PerRate{}
		if affected != (byBurst{}) {
			for b, set := range affected {
				part := w.tables[i].ratio(set, b)
				lik.Add(&part)
			}
			mixUninformative(lik, w.a.Moments[i].Entry.Certainty)
		}
		w.runs[key] = lik
	}
	return lik
}

// mixUninformative mixes in the probability that the observation carries no information, by how certain the
// witness was.
func mixUninformative(lik *infer.PerRate, c evidence.Certainty) {
	empty := c.Empty()
	for r, x := range lik {
		lik[r] = infer.LogMix(1-empty, x, empty, 0)
	}
}

// running returns the log likelihood ratio, by rate, of all kept runs and codes for the
// affected cylinders of a shape. noRandom is the log probability that the shape set no random
// misfire code.
func (w *inference) running(k int, s keptRuns) (sum, noRandom infer.PerRate) {
	t := w.shapes[k]
	for _, g := range s.conditions {
		if !slices.ContainsFunc(g.moments, func(i int) bool { return t.at[i] != 0 }) {
			continue
		}
		group := w.inCondition(k, g)
		g.levels[t.failing].shows(&group)
		sum.Add(&group)
	}
	for k, c := range s.codes {
		affected := t.at[c.moment]
		if c.history {
			affected = t.first
		}
		if affected == 0 {
			continue
		}
		key := codeKey{c.known, affected, c.history}
		lik, ok := w.codes[key]
		if !ok {
			lik = &infer.PerRate{}
			*lik = logCodeLikelihood(c.known, affected)
			w.codes[key] = lik
		}
		sum.Add(lik)
		if k == 0 {
			noRandom = logRandomCode(c.known, w.a.Engine, affected)
		}
	}
	return sum, noRandom
}

// inCondition is the sum of the kept runs in a condition for a shape. It subtracts the omitted runs from the total, or adds
// the kept runs if they are fewer.
func (w *inference) inCondition(k int, g runGroup) (sum infer.PerRate) {
	t := w.shapes[k]
	if !g.onlyOne && len(g.out) < len(g.moments) {
		sum = w.total(g.when)[k]
		for _, i := range g.out {
			for r, x := range w.run(i, t.by[i]) {
				sum[r] -= x
			}
		}
		return sum
	}
	for _, i := range g.moments {
		if t.at[i] != 0 {
			sum.Add(w.run(i, t.by[i]))
		}
	}
	return sum
}

// showing is [showing] for a run condition, computed once.
func (w *inference) showing(when evidence.Condition) []*levels {
	if of, ok := w.shown[when]; ok {
		return of
	}
	of := showing(w.profiles.said, when)
	w.shown[when] = of
	return of
}

// total is the sum of all runs in a condition for each shape.
func (w *inference) total(when evidence.Condition) []infer.PerRate {
	if of, ok := w.sums[when]; ok {
		return of
	}
	of := make([]infer.PerRate, len(w.shapes))
	for i, table := range w.tables {
		if table == nil || asMuch(w.a.Moments[i].Entry.Condition) != when {
			continue
		}
		for k, t := range w.shapes {
			if t.at[i] != 0 {
				of[k].Add(w.run(i, t.by[i]))
			}
		}
	}
	w.sums[when] = of
	return of
}

// prior is the model of the job, before any evidence but the complaint.
func (w *inference) prior() *infer.Model {
	p := infer.Prior{ShapeOf: w.shapeOf, Two: fault.TwoFaults, Shows: knowledge.InTheShop, FalseAlarm: knowledge.RandomStray}
	serves := make([]engine.Set, len(w.faults))
	for k := range w.faults {
		f := &w.faults[k]
		serves[k] = f.Hypothesis.Serves(w.a.home)
		p.Hypotheses = append(p.Hypotheses, infer.Hypothesis{Prior: f.prior, LogRate: f.profile.severity, Track: f.track, Pairs: f.Hypothesis.Pairs(), AcceptsLater: f.Hypothesis.IsSet(), Later: f.later})
	}
	p.Times = func(x, y int) float64 {
		return together(&w.faults[x], &w.faults[y], serves[x]&serves[y] != 0)
	}
	return infer.New(p)
}

// together is the ratio of the joint probability of two faults to that of independent faults. A fault that handling caused
// is independent of earlier faults. It can be the same fault again, after the first was cured.
func together(f, g *Fault, common bool) float64 {
	if f.ArisesAfter < 0 && g.ArisesAfter < 0 {
		return fault.Together(&f.Hypothesis, &g.Hypothesis, common)
	}
	if g.ArisesAfter < 0 {
		f, g = g, f
	}
	switch {
	case f.Hypothesis.IsSet() && !f.Hypothesis.Includes(g.Hypothesis.Tag), fault.Together(&f.Hypothesis, &g.Hypothesis, false) > 0:
		return 1
	case f.Hypothesis.Pairs() && f.CuredAfter >= 0 && f.CuredAfter <= g.ArisesAfter:
		return 1
	}
	return 0
}

// keep selects the moments that count: all, all but some, or one.
type keep struct {
	// one is the index of the only moment that counts, plus 1; 0 selects all but those in out.
	one int
	out []int
}

var everything = keep{}

func without(skip ...int) keep { return keep{out: skip} }

func alone(one int) keep { return keep{one: one + 1} }

// has reports whether a moment counts.
func (k keep) has(moment int) bool {
	if k.one > 0 {
		return moment == k.one-1
	}
	return !slices.Contains(k.out, moment)
}

// posterior is the posterior given the moments that are kept. Joint hypotheses are listed only on request.
func (w *inference) posterior(kept keep, named bool) infer.Posterior {
	e := w.evidence(kept)
	if e.Gain != nil && !w.referred {
		w.referred = true
		w.solver.Refer(w.evidence(everything))
	}
	return w.solver.Posterior(e, named)
}

// jointHypotheses lists the joint hypotheses of a posterior with their faults.
func (w *inference) jointHypotheses(p infer.Posterior) []JointHypothesis {
	all := make([]JointHypothesis, len(p.Joints))
	for i, j := range p.Joints {
		all[i] = JointHypothesis{Index: i, P: j.P, Rates: j.Rates}
		for _, k := range j.Of {
			all[i].Faults = append(all[i].Faults, &w.faults[k])
		}
	}
	return all
}

// evidence gathers the likelihood factors of the moments that are kept.
func (w *inference) evidence(kept keep) *infer.Evidence {
	r := w.runsKept(kept)
	e := &infer.Evidence{}
	open := true
	if len(r.codes) > 0 {
		first := r.codes[0].known
		e.Alarm, open = first.random && w.a.Engine.Cylinders > 1, first.open
	}
	e.Shape = func(k int) *infer.Shape {
		sum, noRandom := w.running(k, r)
		if !e.Alarm && !open {
			sum.Add(&noRandom) // none was set: a factor like any other
		}
		return infer.NewShape(&sum, &noRandom)
	}
	switch {
	case kept.one > 0:
		e.Shape = w.inOneMoment(kept.one-1, e.Shape)
	case len(kept.out) > 0:
		e.Gain = w.gain(kept.out)
	}
	of := w.weighedItems(kept)
	e.Items, e.IDs, e.Groups, e.Grouped = of.items, of.ids, of.groups, of.grouped
	return e
}

// inOneMoment makes shapes that affect the same cylinders at one moment share their value. It applies if no other moment
// counts.
func (w *inference) inOneMoment(i int, shape func(int) *infer.Shape) func(int) *infer.Shape {
	type key struct {
		by        byBurst
		at, first engine.Set
		failing   int
	}
	known := map[key]*infer.Shape{}
	run := w.tables[i] != nil
	return func(k int) *infer.Shape {
		t := w.shapes[k]
		at := key{at: t.at[i], first: t.first}
		if run {
			at = key{by: t.by[i], failing: t.failing}
		}
		if known[at] == nil {
			known[at] = shape(k)
		}
		return known[at]
	}
}

// gain bounds how far omitting some moments can raise the log likelihood ratio of a shape: by the inverse of its smallest
// factor in each run. It is nil if codes are omitted, which changes what later codes mean.
func (w *inference) gain(out []int) func(int) float64 {
	for _, i := range out {
		if w.a.Moments[i].Entry.Codes() != nil {
			return nil
		}
	}
	return func(k int) (sum float64) {
		t := w.shapes[k]
		for _, i := range out {
			if w.tables[i] != nil && t.at[i] != 0 {
				sum += max(0, -slices.Min(w.run(i, t.by[i])[:]))
			}
		}
		return sum
	}
}

// weighedItems gathers the factors of all evidence except runs and codes. They do not change when a run is omitted.
func (w *inference) weighedItems(kept keep) *itemsWeighed {
	same := kept.one == 0 && !slices.ContainsFunc(kept.out, func(i int) bool { return w.a.Moments[i].Entry.Codes() != nil || w.tables[i] == nil })
	if same && w.all != nil {
		return w.all
	}
	e := &infer.Evidence{}
	items := w.a.flatItems(kept)
	for _, l := range items {
		e.Items, e.IDs = append(e.Items, w.item(l)), append(e.IDs, w.id(l))
	}
	w.together(e, items)
	of := &itemsWeighed{e.Items, e.IDs, e.Groups, e.Grouped}
	if same {
		w.all = of
	}
	return of
}

// id is the number of an item in the caches.
func (w *inference) id(l flatItem) int {
	id, ok := w.ids[l]
	if !ok {
		id = len(w.ids)
		w.ids[l] = id
	}
	return id
}

// keptRuns are the runs and reads of codes that are weighed.
type keptRuns struct {
	conditions []runGroup
	codes      []codeEpoch
}

// runGroup is the runs in one running condition: the fault is present in all of them or in none.
type runGroup struct {
	when evidence.Condition
	// moments are the runs that are kept, out those that are omitted. onlyOne is true if all moments but one are omitted;
	// out is not filled then.
	moments, out []int
	onlyOne      bool
	levels       []*levels // by failing condition
}

func (w *inference) runsKept(kept keep) keptRuns {
	s := keptRuns{codes: w.a.codeEpochs(kept)}
	at := map[evidence.Condition]int{}
	for i, t := range w.tables {
		if t == nil || kept.one > 0 && !kept.has(i) {
			continue
		}
		when := asMuch(w.a.Moments[i].Entry.Condition)
		g, ok := at[when]
		if !ok {
			g = len(s.conditions)
			at[when] = g
			s.conditions = append(s.conditions, runGroup{when: when, levels: w.showing(when), onlyOne: kept.one > 0})
		}
		if kept.has(i) {
			s.conditions[g].moments = append(s.conditions[g].moments, i)
		} else {
			s.conditions[g].out = append(s.conditions[g].out, i)
		}
	}
	return s
}

// item is the likelihood factor of one finding, trim, check or circuit code for each fault; nil for faults that it
// says nothing about.
func (w *inference) item(l flatItem) []*infer.Factor {
	of, ok := w.items[l]
	if ok {
		return of
	}
	of = make([]*infer.Factor, len(w.faults))
	type key struct {
		row  any
		more float64
	}
	same := map[key]*infer.Factor{} // many faults show alike
	certainty := w.a.Moments[l.moment].Entry.Certainty
	for k := range w.faults {
		row, more, abnormal, ok := w.a.bears(l, &w.faults[k])
		if !ok {
			continue
		}
		have := same[key{row, more}]
		if have == nil {
			have = newFactor(row, more, abnormal, certainty)
			same[key{row, more}] = have
		}
		of[k] = have
	}
	w.items[l] = of
	return of
}

// newFactor makes the likelihood factor of a row, given how certain the witness was.
func newFactor(row likelihoodRow, more, abnormal float64, certainty evidence.Certainty) *infer.Factor {
	var told infer.PerRate
	for r, rate := range infer.Grid {
		told[r] = row.logRatioIfShown(rate) + more
	}
	mixUninformative(&told, certainty)
	return infer.NewFactor(told, abnormal, row.shop, knowledge.InTheShop)
}

// likelihoodRow is a row of a knowledge table for the answer that came. Its likelihood ratio to a sound engine
// depends on the misfire rate.
type likelihoodRow struct {
	odds, sound float64 // chance of the answer if the fault shows, and without it
	// seldom and often are added to odds for faults that misfire now and then, and nearly always; by says how far a
	// rate belongs to each.
	seldom, often float64
	by            knowledge.Tally
	still         float64 // and if it is there and does not show; 0 is as without it
	events        int     // that were watched: few show a slight fault; 0 needs none
	seen          float64 // chance that this test shows it at all
	shop          bool    // asked in the shop, where the fault may not show in anything
}

// logRatioIfShown is the log likelihood ratio if the fault is present when the test is made.
func (k likelihoodRow) logRatioIfShown(rate float64) float64 { return math.Log(k.ratioIfShown(rate)) }

// ratio is the likelihood ratio, averaged over whether the fault is present when the test is made.
func (k likelihoodRow) ratio(rate float64) float64 {
	if k.shop {
		return (1 - knowledge.InTheShop) + knowledge.InTheShop*k.ratioIfShown(rate)
	}
	return k.ratioIfShown(rate)
}

// ratioIfShown is the likelihood ratio if the fault is present when the test is made.
func (k likelihoodRow) ratioIfShown(rate float64) float64 {
	odds := k.odds
	if k.seldom+k.often > 0 {
		second := k.by.Of(rate)
		odds += (1-second)*k.seldom + second*k.often
	}
	return k.mixUnseen(odds/k.sound, rate)
}

// mixUnseen mixes in the probability that the test does not see the fault. times is the likelihood ratio if it does.
func (k likelihoodRow) mixUnseen(times, rate float64) float64 {
	f := k.seen
	if k.events > 0 {
		f *= -math.Expm1(float64(k.events) * math.Log1p(-rate))
	}
	if k.still > 0 {
		return (1-f)*k.still/k.sound + f*times
	}
	return (1 - f) + f*times
}
