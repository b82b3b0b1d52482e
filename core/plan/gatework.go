package plan

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// forGate is the next work for the gates that are still shut, if there is any that has
// not been done: a test, at most so many times, a look, or a move.
func forGate(a *diagnose.Assessment, lead diagnose.Suspect, gates []Gate, times int) (c Card, ok bool) {
	for _, g := range gates {
		if g.Met {
			continue
		}
		if c, ok = g.work(a, lead, gates, times); ok {
			c.Why = "The verdict waits for it: " + list(needs(gates)) + "."
			return c, true
		}
	}
	return c, false
}

// work is what opens a gate: a test is made at most so many times in all.
func (g Gate) work(a *diagnose.Assessment, s diagnose.Suspect, gates []Gate, times int) (Card, bool) {
	if t, ok := evidence.FindTest(g.Test); ok {
		place := engine.Whole
		if t.Of == evidence.OfItem {
			feeds, _ := a.Engine.Feeds(s.Place)
			place = testPlace(a, t, feeds.First())
		}
		if place != "" && testedTimes(a, t, place) < times {
			return check(a, t, place), true
		}
	}
	looked := func(times int) []evidence.Seen {
		return slices.DeleteFunc(slices.Clone(g.Look), func(item evidence.Seen) bool { return len(findings(a, item.Tag, item.Place)) >= times })
	}
	if unseen := looked(1); len(unseen) > 0 {
		if unseen[0].Place != "" {
			return lookConnector(a, unseen[0].Place), true
		}
		// Plug and boot or lead are looked at together.
		for _, other := range gates {
			for _, item := range other.Look {
				if !other.Met && item.Tag != "" && item.Tag != unseen[0].Tag && len(unseen) < 2 && len(findings(a, item.Tag, "")) == 0 {
					unseen = append(unseen, item)
				}
			}
		}
		return lookParts(a, unseen[:min(2, len(unseen))]), true
	}
	if p, last := cured(a, s); last >= 0 && p >= 0.5*s.P && runs(a, RunIn(a)) < mostRuns {
		return countMisfires(a, RunIn(a)), true // run it again: is it gone for good?
	}
	if !g.Follows {
		if again := looked(min(times, mostLooks)); len(again) > 0 && again[0].Place != "" {
			return lookConnector(a, again[0].Place), true
		} else if len(again) > 0 {
			return lookParts(a, again[:1]), true
		}
		return Card{}, false
	}
	if d := a.LastDecode(); d != nil && d.Outcome == diagnose.Unclear && (s.Tag == "" || slices.Contains(d.Tags, s.Tag)) && runs(a, RunIn(a)) < mostRuns {
		return countMisfires(a, RunIn(a)), true
	}
	if back, ok := putBack(a); ok && (s.Tag == "" || back.Parts[1].Tag == s.Tag) {
		return back, true
	}
	if s.Tag != "" {
		if at := a.Now.Where(s.Tag); !s.Tag.IsSpare() && at != engine.Bench && moves(a, s.Tag) <= 1 {
			return swap(a, s.Tag), true
		}
		for _, id := range g.Or {
			t, _ := evidence.FindTest(id)
			for _, c := range a.Now.Feeds(s.Tag) {
				if place := testPlace(a, t, c); place != "" && !tested(a, t, place) {
					return check(a, t, place), true
				}
			}
		}
		return Card{}, false
	}
	feeds, _ := a.Engine.Feeds(s.Place)
	for _, k := range sparkKinds(a, s.Place) {
		for _, c := range feeds.List() {
			if t := a.Now.Serving(k, c); t != "" && !t.IsSpare() && moves(a, t) == 0 && !slices.ContainsFunc(feeds.List(), func(c engine.Cylinder) bool { return stayed(a, k, c) }) {
				return swap(a, t), true
			}
		}
	}
	return Card{}, false
}

// moves is how often a part has been moved.
func moves(a *diagnose.Assessment, t part.Tag) int {
	n := 0
	for _, m := range a.Moments {
		if m.Entry.Move != nil && slices.ContainsFunc(m.Entry.Move.Parts, func(r part.Relocation) bool { return r.Tag == t }) {
			n++
		}
	}
	return n
}

func needs(gates []Gate) []string {
	var words []string
	for _, g := range gates {
		if !g.Met {
			words = append(words, g.Needs)
		}
	}
	return words
}
