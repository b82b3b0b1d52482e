package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// falseAlarm is the share of jobs without a contradiction in which one may be said by this
// measure; with what it leaves out at most one in twenty are (measured in the tests)
// all the same. It is shared out over the entries of a job.
const falseAlarm = 0.02

// mostLooked is how many of the newest entries are looked at.
const mostLooked = 60

// Contradiction is an entry that is very unlikely given all other entries.
type Contradiction struct {
	// Entries are numbers of entries: the one that does not fit, and after it the one that it
	// conflicts with most, if leaving that one out removes the contradiction.
	Entries []int
	// P is the probability, given all other entries, of what was seen or of anything as unlikely.
	P float64
}

// Contradictions lists the entries that conflict with all others, by the posterior
// predictive probability of each entry with that entry left out. The least likely comes
// first; an entry that is no contradiction once that one is left out is not listed.
func (a *Assessment) Contradictions() []Contradiction {
	if !a.contradicted {
		a.contradictions, a.contradicted = a.contradict(), true
	}
	return a.contradictions
}

func (a *Assessment) contradict() []Contradiction {
	var seen []int
	for i, m := range a.Moments {
		if k := kinds[m.Entry.Kind()]; k.surprise != nil && (k.counts == nil || a.counts(i)) {
			seen = append(seen, i)
		}
	}
	if len(seen) < 2 {
		return nil
	}
	if extra := len(seen) - mostLooked; extra > 0 {
		seen = seen[extra:]
	}
	limit := falseAlarm / float64(len(seen))
	var out []Contradiction
	skip := map[int]bool{}
	for len(out) < 3 {
		worst, least := -1, limit
		for _, i := range seen {
			if skip[i] {
				continue
			}
			if p := a.surprise(i, without(append(skipped(skip), i)...)); p < least {
				worst, least = i, p
			}
		}
		if worst < 0 {
			break
		}
		out = append(out, a.contradiction(worst, least, seen, skip))
		skip[worst] = true
	}
	return out
}

// skipped lists the omitted moments in order.
func skipped(skip map[int]bool) (all []int) {
	for i := range skip {
		all = append(all, i)
	}
	slices.Sort(all)
	return all
}

func (a *Assessment) contradiction(i int, p float64, seen []int, skip map[int]bool) Contradiction {
	e := a.Moments[i].Entry
	c := Contradiction{Entries: []int{e.Seq}, P: p}
	// The entry without which this one would be least surprising.
	with, best := -1, falseAlarm
	for _, k := range seen {
		if k == i || skip[k] {
			continue
		}
		if q := a.surprise(i, without(append(skipped(skip), i, k)...)); q > best {
			with, best = k, q
		}
	}
	if with >= 0 {
		c.Entries = append(c.Entries, a.Moments[with].Entry.Seq)
	}
	return c
}

// surprise is the probability, given the entries that are kept, of what the i-th moment says or of anything as
// unlikely; 1 for kinds of entry that are not examined.
func (a *Assessment) surprise(i int, kept keep) float64 {
	of := kinds[a.Moments[i].Entry.Kind()].surprise
	if of == nil {
		return 1
	}
	return of(a, i, a.weighing.jointHypotheses(a.weighing.posterior(kept, true)), kept)
}

// upTo is the probability of at most k, from log probabilities.
func upTo(k, n int, log func(int) float64) float64 {
	sum := 0.0
	for x := 0; x <= min(k, n); x++ {
		sum += math.Exp(log(x))
	}
	return min(1, sum)
}

// predict is the probability of one item over all joint hypotheses.
func (a *Assessment) predict(joints []JointHypothesis, item flatItem) float64 {
	of := a.weighing.item(item)
	var sound float64
	if item.check.Test != "" {
		sound = a.soundAnswer(item.check)
	} else {
		sound = a.Beliefs.Look(item.seen.Kind(), knowledge.Bystander, item.seen.Finding)
	}
	sum, total := 0.0, 0.0
	for i := range joints {
		w := &joints[i]
		total += w.P
		var most *infer.Factor
		var rate *infer.PerRate
		for k, f := range w.Faults {
			if it := of[f.index]; it != nil && (most == nil || it.Weight > most.Weight) {
				most, rate = it, &w.Rates[k]
			}
		}
		p := 1.0
		if most != nil {
			p = 0
			for r, weight := range rate {
				p += weight * math.Exp(most.LogRatio[r])
			}
		}
		sum += w.P * p
	}
	return sum / total * sound
}

// levelsOf says, for each rate where the vehicle fails, how likely each rate is in the
// i-th moment's run, by the other runs in its condition that are kept: for a shape.
func (a *Assessment) levelsOf(i int, kept keep) func(shape int) levels {
	w, when := a.weighing, a.Moments[i].Entry.Condition
	known := map[int]levels{}
	return func(shape int) levels {
		if l, ok := known[shape]; ok {
			return l
		}
		l := w.levels(shape, when, kept)
		known[shape] = l
		return l
	}
}

// asUnlikely is the sum of the probabilities that are no greater than that of what came.
func asUnlikely(chances []float64, came int) float64 {
	sum := 0.0
	for _, p := range chances {
		if p <= chances[came]*(1+1e-9) {
			sum += p
		}
	}
	return sum
}

// pattern is the probability that a run or a read of codes shows a cylinder: if it is sound,
// and if it is affected at each rate. of returns the rate of a fault in that run.
type pattern struct {
	stray float64
	// affected is for each index into [knowledge.Bursts].
	affected [knowledge.NumBursts]infer.PerRate
	of       func(shape int) levels
}

// setAll sets the same probabilities for every index into Bursts.
func (p *pattern) setAll(at func(rate float64) float64) {
	for b := range p.affected {
		for r, rate := range infer.Grid {
			p.affected[b][r] = at(rate)
		}
	}
}

// troubled is a set of cylinders with the probability that k given ones of them show and the
// others do not.
type troubled struct {
	affected engine.Set
	by       []float64
}

// showsOn is the troubled set of one fault of a joint hypothesis at one moment.
func (a *Assessment) showsOn(i int, p *pattern, f *Fault, rate *infer.PerRate) troubled {
	w := a.weighing
	shape := w.shapeOf[f.track][f.track]
	t := troubled{affected: w.shapes[shape].at[i]}
	if a.Moments[i].Entry.Codes() != nil {
		t.affected = w.shapes[shape].first
	}
	size := t.affected.Len()
	t.by = make([]float64, size+1)
	add := func(weight, chance float64) {
		for k := range t.by {
			t.by[k] += weight * math.Pow(chance, float64(k)) * math.Pow(1-chance, float64(size-k))
		}
	}
	var at levels
	if p.of != nil {
		at = p.of(shape)
	}
	for r, weight := range rate {
		switch {
		case weight < 1e-6:
		case p.of == nil:
			add(weight, p.affected[w.shapes[shape].burst][r])
		default:
			for l, row := range knowledge.Levels {
				if row.Steps < 0 {
					add(weight*at[r][l], p.stray)
				} else {
					add(weight*at[r][l], p.affected[w.shapes[shape].burst][max(0, r-row.Steps)])
				}
			}
		}
	}
	return t
}

// unlikely is the probability, over all joint hypotheses, of the set of cylinders that showed or of any set as
// unlikely. A set that no joint hypothesis explains by itself counts as less likely than what came.
func (a *Assessment) unlikely(i int, joints []JointHypothesis, p pattern, came engine.Set) float64 {
	n := a.Engine.Cylinders
	type way struct {
		p  float64
		of []troubled
	}
	var all []way
	singles := map[engine.Set]int{} // alone, those that trouble the same are one
	total := 0.0
	for k := range joints {
		w := &joints[k]
		if w.P < 1e-7 {
			continue
		}
		total += w.P
		one := way{p: w.P}
		for j, f := range w.Faults {
			one.of = append(one.of, a.showsOn(i, &p, f, &w.Rates[j]))
		}
		if len(w.Faults) == 2 && one.of[0].affected&one.of[1].affected != 0 { // one rate for both
			one.of = one.of[:1]
		}
		if len(one.of) == 1 {
			at, ok := singles[one.of[0].affected]
			if ok {
				have := all[at]
				for x := range have.of[0].by {
					have.of[0].by[x] = (have.of[0].by[x]*have.p + one.of[0].by[x]*one.p) / (have.p + one.p)
				}
				all[at].p += one.p
				continue
			}
			singles[one.of[0].affected] = len(all)
		}
		all = append(all, one)
	}
	chance := func(shown engine.Set) float64 {
		sum := 0.0
		for _, w := range all {
			q, left := w.p, engine.Set(0)
			for _, t := range w.of {
				q *= t.by[(shown & t.affected).Len()]
				left |= t.affected
			}
			extra := (shown &^ left).Len()
			sum += q * math.Pow(p.stray, float64(extra)) * math.Pow(1-p.stray, float64(n-left.Len()-extra))
		}
		return sum / total
	}
	// The sets that may be likelier than what came: the empty set, each set that a joint hypothesis affects, and
	// those with one cylinder more or fewer. All others count as less likely.
	asked := map[engine.Set]bool{came: true}
	this, more := chance(came), 0.0
	ask := func(shown engine.Set) {
		if asked[shown] {
			return
		}
		asked[shown] = true
		if q := chance(shown); q > this*(1+1e-9) {
			more += q
		}
	}
	ask(0)
	for _, w := range all {
		var affected engine.Set
		for _, t := range w.of {
			affected |= t.affected
		}
		ask(affected)
		for _, c := range a.Engine.All() {
			ask(affected ^ engine.SetOf(c))
		}
	}
	return max(this, min(1, 1-more))
}
