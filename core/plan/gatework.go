package plan

import (
	"iter"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// forGate returns the next work for the shut gates: a test, a look, or a move. It skips what
// was done often enough and what the workshop has no tools for.
func (shop Shop) forGate(a *diagnose.Assessment, lead diagnose.Suspect, gates []gate.Gate, times int) (Card, bool) {
	for _, g := range gates {
		if g.Met {
			continue
		}
		for c := range worksFor(g, a, lead, gates, times) {
			if shop.has(c.Step) {
				c.Why = "The verdict waits for it: " + unit.List(gate.Needs(gates)) + "."
				return c, true
			}
		}
	}
	return Card{}, false
}

// worksFor lists the work that can open a gate, in the order in which it is worth trying. A
// test is made at most times times in all.
func worksFor(g gate.Gate, a *diagnose.Assessment, s diagnose.Suspect, gates []gate.Gate, times int) iter.Seq[Card] {
	w := gateWork{g: g, a: a, s: s, gates: gates, times: times}
	kinds := []func(yield func(Card) bool) bool{w.tests, w.looks, w.runs, w.again, w.moves, w.others}
	return func(yield func(Card) bool) {
		for _, works := range kinds {
			if !works(yield) {
				return
			}
		}
	}
}

// gateWork is the search for the work of one gate. Each of its methods passes the work of one
// kind to yield, and reports whether the search goes on.
type gateWork struct {
	g     gate.Gate
	a     *diagnose.Assessment
	s     diagnose.Suspect
	gates []gate.Gate
	times int
}

// tests passes on the gate's test, or another that is repeated if the workshop cannot make it.
func (w gateWork) tests(yield func(Card) bool) bool {
	before, more := w.test(w.g.Test, w.times, yield)
	if more && w.g.Again != "" && before == 0 {
		_, more = w.test(w.g.Again, max(w.times, 2), yield)
	}
	return more
}

// test passes on a test unless it was made most times; before is how often it was made.
func (w gateWork) test(id evidence.TestID, most int, yield func(Card) bool) (before int, more bool) {
	t, ok := evidence.FindTest(id)
	if !ok {
		return 0, true
	}
	place := engine.Whole
	if t.Of == evidence.OfItem {
		feeds, _ := w.a.Engine.Feeds(w.s.Place)
		place = gate.TestPlace(w.a, t, feeds.First())
	}
	if place == "" {
		return 0, true
	}
	before = gate.TestedTimes(w.a, t, place)
	return before, before >= most || yield(check(w.a, t, place))
}

func (w gateWork) looks(yield func(Card) bool) bool {
	unseen := unseen(w.g, w.a, 1)
	return len(unseen) == 0 || yield(lookTogether(w.a, unseen, w.gates))
}

// runs passes on a run after a probable cure by handling: is the misfire gone for good?
func (w gateWork) runs(yield func(Card) bool) bool {
	p, last := gate.Cured(w.a, w.s)
	return last < 0 || p < 0.5*w.s.P || w.run(yield)
}

// run passes on one more run, unless enough were made.
func (w gateWork) run(yield func(Card) bool) bool {
	return runs(w.a, RunIn(w.a)) >= mostRuns || yield(countMisfires(w.a, RunIn(w.a)))
}

// again passes on a second look if no move can meet the gate. The search ends there.
func (w gateWork) again(yield func(Card) bool) bool {
	if w.g.Follows {
		return true
	}
	if again := unseen(w.g, w.a, min(w.times, mostLooks)); len(again) > 0 {
		yield(lookTogether(w.a, again[:1], nil))
	}
	return false
}

// moves passes on a run after an unclear move, the way back, or an exchange. For a place it
// passes on what clears its ignition, and the search ends.
func (w gateWork) moves(yield func(Card) bool) bool {
	a, s := w.a, w.s
	if d := a.LastDecode(); d != nil && d.Outcome == diagnose.Unclear && (s.Tag == "" || slices.Contains(d.Tags, s.Tag)) && !w.run(yield) {
		return false
	}
	if back, ok := putBack(a); ok && (s.Tag == "" || back.Parts[1].Tag == s.Tag) && !yield(back) {
		return false
	}
	if s.Tag == "" {
		clearIgnition(a, s, yield)
		return false
	}
	fitted := s.Tag.IsOriginal() && a.Now.Where(s.Tag) != engine.Bench
	return !fitted || moves(a, s.Tag) > 1 || yield(swap(a, s.Tag))
}

// others passes on the tests that can meet the gate in place of a move.
func (w gateWork) others(yield func(Card) bool) bool {
	for _, id := range w.g.Or {
		t, _ := evidence.FindTest(id)
		for _, c := range w.a.Now.Feeds(w.s.Tag) {
			if place := gate.TestPlace(w.a, t, c); place != "" && !gate.Tested(w.a, t, place) && !yield(check(w.a, t, place)) {
				return false
			}
		}
	}
	return true
}

// unseen is what a gate wants looked at and has been seen fewer than some times.
func unseen(g gate.Gate, a *diagnose.Assessment, times int) []evidence.Seen {
	return slices.DeleteFunc(slices.Clone(g.Look), func(item evidence.Seen) bool { return len(gate.Findings(a, item.Tag, item.Place)) >= times })
}

// lookTogether is a look at the first of some items, and at one more that another gate
// waits for: plug and boot or lead are looked at together.
func lookTogether(a *diagnose.Assessment, unseen []evidence.Seen, gates []gate.Gate) Card {
	if unseen[0].Place != "" {
		return lookConnector(a, unseen[0].Place)
	}
	for _, other := range gates {
		for _, item := range other.Look {
			if !other.Met && item.Tag != "" && item.Tag != unseen[0].Tag && len(unseen) < 2 && len(gate.Findings(a, item.Tag, "")) == 0 {
				unseen = append(unseen, item)
			}
		}
	}
	return lookParts(a, unseen[:min(2, len(unseen))])
}

// clearIgnition moves what clears the ignition of a place, a part of each kind.
func clearIgnition(a *diagnose.Assessment, s diagnose.Suspect, yield func(Card) bool) {
	feeds, _ := a.Engine.Feeds(s.Place)
	for _, k := range gate.SparkKinds(a, s.Place) {
		if slices.ContainsFunc(feeds.List(), func(c engine.Cylinder) bool { return gate.Stayed(a, k, c) }) {
			continue
		}
		for _, c := range feeds.List() {
			if t := a.Now.Serving(k, c); t != "" && t.IsOriginal() && moves(a, t) == 0 && !yield(swap(a, t)) {
				return
			}
		}
	}
}

// moves is how often a part has been moved; a boot that rode on its coil was not asked.
func moves(a *diagnose.Assessment, t part.Tag) int {
	n := 0
	for _, m := range a.Moments {
		if m.Entry.Move() != nil && slices.ContainsFunc(m.Entry.Move().Parts, func(r part.Relocation) bool { return r.Tag == t }) && !ridesIn(m.Entry.Move().Parts, t) {
			n++
		}
	}
	return n
}

// ridesIn reports whether a boot moves in the company of the coil of its home.
func ridesIn(parts []part.Relocation, t part.Tag) bool {
	return t.Kind() == engine.Boot && slices.ContainsFunc(parts, func(r part.Relocation) bool { return r.Tag == part.Of(engine.Coil, t.Home()) })
}
