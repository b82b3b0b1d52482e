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

// works is what can open a gate, in the order in which it is worth trying: a test is made
// at most so many times in all.
func worksFor(g gate.Gate, a *diagnose.Assessment, s diagnose.Suspect, gates []gate.Gate, times int) iter.Seq[Card] {
	return func(yield func(Card) bool) {
		made := func(id evidence.TestID, most int) (before int, more bool) {
			t, ok := evidence.FindTest(id)
			if !ok {
				return 0, true
			}
			place := engine.Whole
			if t.Of == evidence.OfItem {
				feeds, _ := a.Engine.Feeds(s.Place)
				place = gate.TestPlace(a, t, feeds.First())
			}
			if place == "" {
				return 0, true
			}
			before = gate.TestedTimes(a, t, place)
			return before, before >= most || yield(check(a, t, place))
		}
		before, more := made(g.Test, times)
		if more && g.Again != "" && before == 0 { // the shop could not make it
			_, more = made(g.Again, max(times, 2))
		}
		if !more {
			return
		}
		if unseen := unseen(g, a, 1); len(unseen) > 0 && !yield(lookTogether(a, unseen, gates)) {
			return
		}
		if p, last := gate.Cured(a, s); last >= 0 && p >= 0.5*s.P && runs(a, RunIn(a)) < mostRuns && !yield(countMisfires(a, RunIn(a))) {
			return // it was run again: is it gone for good?
		}
		if !g.Follows {
			if again := unseen(g, a, min(times, mostLooks)); len(again) > 0 {
				yield(lookTogether(a, again[:1], nil))
			}
			return
		}
		if d := a.LastDecode(); d != nil && d.Outcome == diagnose.Unclear && (s.Tag == "" || slices.Contains(d.Tags, s.Tag)) && runs(a, RunIn(a)) < mostRuns && !yield(countMisfires(a, RunIn(a))) {
			return
		}
		if back, ok := putBack(a); ok && (s.Tag == "" || back.Parts[1].Tag == s.Tag) && !yield(back) {
			return
		}
		if s.Tag == "" {
			clearIgnition(a, s, yield)
			return
		}
		if at := a.Now.Where(s.Tag); !s.Tag.IsSpare() && at != engine.Bench && moves(a, s.Tag) <= 1 {
			if !yield(swap(a, s.Tag)) {
				return
			}
		}
		for _, id := range g.Or {
			t, _ := evidence.FindTest(id)
			for _, c := range a.Now.Feeds(s.Tag) {
				if place := gate.TestPlace(a, t, c); place != "" && !gate.Tested(a, t, place) && !yield(check(a, t, place)) {
					return
				}
			}
		}
	}
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
			if t := a.Now.Serving(k, c); t != "" && !t.IsSpare() && moves(a, t) == 0 && !yield(swap(a, t)) {
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
