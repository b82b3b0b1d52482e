package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// after is the set of cylinders that a joint hypothesis affects when some parts have moved, with its
// probability: handling may have cured the fault.
func after(a *diagnose.Assessment, parts []part.Relocation) (func(*diagnose.JointHypothesis) (engine.Set, float64), part.Positions) {
	next, err := a.Now.Move(parts)
	if err != nil {
		return func(*diagnose.JointHypothesis) (engine.Set, float64) { return 0, 1 }, a.Now
	}
	hands := diagnose.Handled(a.Engine, evidence.Moment{Entry: evidence.Entry{Body: &evidence.Move{Parts: parts}}, Before: a.Now, At: next})
	return func(w *diagnose.JointHypothesis) (engine.Set, float64) {
		return a.AfterTouch(w, hands, next)
	}, next
}

// way is parts that go from some cylinders to others in a move.
type way struct {
	id, parts string
	from, to  engine.Set
}

// outcomesOfMove makes the outcomes of the run after a move: the misfire followed one of the ways, it
// stayed, it is gone, or it is elsewhere.
func outcomesOfMove(a *diagnose.Assessment, ways []way, affected func(*diagnose.JointHypothesis) (engine.Set, float64)) []branch {
	from := engine.Set(0)
	for _, w := range ways {
		from |= w.from
	}
	shows := a.ChanceToShow(runRevolutions, RunIn(a))
	kind := func(s engine.Set) int { // of the outcome: a way, then stayed, gone, elsewhere
		for i, w := range ways {
			if s != 0 && s&^w.to == 0 && s&from == 0 {
				return i
			}
		}
		switch {
		case s == 0:
			return len(ways) + 1
		case s&^from == 0:
			return len(ways)
		}
		return len(ways) + 2
	}
	chance := func(k int) likelihood {
		return func(w *diagnose.JointHypothesis) float64 {
			s, p := affected(w)
			p *= shows(w)
			switch {
			case s == 0 && k == len(ways)+1:
				return 1
			case s == 0:
				return 0
			case k == len(ways)+1:
				return 1 - p
			case kind(s) == k:
				return p
			}
			return 0
		}
	}
	record := func(s engine.Set) evidence.Entry {
		cylinders := s.List()
		if cylinders == nil {
			cylinders = []engine.Cylinder{}
		}
		return evidence.Entry{Body: &evidence.Watch{Cylinders: cylinders}}
	}
	var out []branch
	bench := true
	for i, w := range ways {
		if w.to&^from == 0 {
			continue
		}
		bench = false
		words := fmt.Sprintf("Followed: now on %s", w.to)
		if from == 0 {
			words = fmt.Sprintf("Came back: on %s", w.to)
		} else if len(ways) > 1 {
			words = fmt.Sprintf("Followed %s: now on %s", w.parts, w.to)
		}
		out = append(out, branch{Outcome{ID: w.id, Words: words, Record: record(w.to)}, chance(i)})
	}
	if from != 0 {
		out = append(out, branch{Outcome{ID: string(diagnose.Stayed), Words: fmt.Sprintf("Stayed: still on %s", from), Record: record(from)}, chance(len(ways))})
	}
	gone := Outcome{ID: string(diagnose.Gone), Words: "Gone: ran clean", Means: "proves nothing: run longer, look at connector and seat", Record: record(0)}
	switch {
	case from == 0:
		gone.Words, gone.Means = "Still clean", "it was cured by touching, or it comes and goes"
	case bench:
		gone.Means = "put the old part back: if the misfire returns, that part it is"
	}
	out = append(out, branch{gone, chance(len(ways) + 1)})
	return append(out, branch{Outcome{ID: string(diagnose.Elsewhere), Words: "Elsewhere, or on more than these",
		Means: "something else was disturbed in the work, or it is no fault of one part"}, chance(len(ways) + 2)})
}

// swapSteps states which step moves a kind of part.
var swapSteps = map[engine.Kind]string{engine.Coil: SwapCoil, engine.Lead: SwapLead, engine.Boot: SwapBoot, engine.Plug: SwapPlug}

// companions lists what goes along when a part of a kind moves: the boot stays on
// its coil.
func companions(a *diagnose.Assessment, k engine.Kind) []engine.Kind {
	if k == engine.Coil && a.Engine.OwnCoils() && slices.Contains(a.Engine.PartKinds(), engine.Boot) {
		return []engine.Kind{engine.Coil, engine.Boot}
	}
	return []engine.Kind{k}
}

// swap makes an exchange of a part with the best partner, or with a spare.
func swap(a *diagnose.Assessment, t part.Tag) Card {
	k, home := t.Kind(), a.Now.Where(t)
	p := partner(a, t)
	from := engine.SetOf(a.Now.Feeds(t)...)
	var c Card
	if p.Place == engine.Bench {
		c = at(a, TrySpare, home)
		if k == engine.Plug {
			c.Step.Tools = append([]string{"plug socket", "torque wrench"}, c.Step.Tools...)
		}
		c.Parts = a.Now.Replace(t, p.Spare)
		c.Title = fmt.Sprintf("Try a known-good %s at %s", k, from)
		if from == a.Engine.Everything() && from.Len() > 1 {
			c.Title = fmt.Sprintf("Try a known-good %s", k)
		}
		c.Do = fmt.Sprintf("Tag %s and lay it on the bench; fit the spare, tagged %s. Run it %s.", t.Words(), p.Spare, inCondition(a))
	} else {
		c = at(a, swapSteps[k], home, p.Place)
		kinds := companions(a, k)
		c.Parts = a.Now.Swap(home, p.Place, kinds...)
		what := t.Words()
		if len(kinds) > 1 {
			what += " with " + a.Now.In(kinds[1], home).Words()
		}
		c.Title = fmt.Sprintf("Move %s to %s", t.Words(), p.Place)
		c.Do = fmt.Sprintf("Tag both. Move %s to %s; %s comes to %s.%s Run it %s.",
			what, p.Place, a.Now.In(k, p.Place).Words(), home, clearing(a), inCondition(a))
	}
	c.Target, c.Cylinder, c.Partner = t.Words(), from.First(), p
	c.Why = fmt.Sprintf("A fault of the %s goes with it; any other stays on %s. Why %s: %s.", k, from, placeWords(p), strings.Join(p.Why, "; "))
	c.onTheWay(a, t)
	affected, next := after(a, c.Parts)
	c.Condition = RunIn(a)
	c.later = func(c *Card) {
		c.weigh(a, outcomesOfMove(a, []way{{string(diagnose.Followed), t.Words(), from, engine.SetOf(next.Feeds(t)...)}}, affected))
		c.splitByLook(a)
	}
	return c
}

func placeWords(p Partner) string {
	if p.Place == engine.Bench {
		return "a spare"
	}
	return p.Place.String()
}

func clearing(a *diagnose.Assessment) string {
	if a.Engine.Scanned() {
		return " Clear the codes, zero the counters."
	}
	return ""
}

// Foretell lists the possible outcomes of the run after some relocations; none when they
// cannot be made.
func Foretell(a *diagnose.Assessment, parts []part.Relocation) []Outcome {
	next, err := a.Now.Move(parts)
	if err != nil {
		return nil
	}
	affected, _ := after(a, parts)
	// The move asks about the cylinders that the most suspected part serves.
	var lead engine.Set
	most := -1.0
	for _, r := range parts {
		from := engine.SetOf(a.Now.Feeds(r.Tag)...)
		if p := partP(a, r.Tag); p > most && (from != 0 || r.Tag.IsOriginal()) {
			most, lead = p, from
		}
	}
	var ways []way
	for _, r := range parts {
		from, to := engine.SetOf(a.Now.Feeds(r.Tag)...), engine.SetOf(next.Feeds(r.Tag)...)
		if from != lead || from == 0 && !r.Tag.IsOriginal() {
			continue
		}
		same := slices.IndexFunc(ways, func(w way) bool { return w.to == to })
		if same < 0 {
			ways = append(ways, way{string(diagnose.Followed) + "-" + string(r.Tag), r.Tag.Words(), from, to})
		} else {
			ways[same].parts += " with " + r.Tag.Words()
		}
	}
	c := Card{}
	c.weigh(a, outcomesOfMove(a, ways, affected))
	return c.Outcomes
}

// partP is the probability that a part is at fault.
func partP(a *diagnose.Assessment, t part.Tag) float64 {
	p := 0.0
	for _, s := range a.Suspects {
		for _, sh := range s.Shares {
			if sh.Hypothesis.Tag == t {
				p += sh.P
			}
		}
	}
	return p
}

// splitMove takes two parts of the worst cylinder to two others in one go.
func splitMove(a *diagnose.Assessment, worst engine.Cylinder) (Card, bool) {
	upper := engine.Coil
	if !a.Engine.OwnCoils() {
		upper = engine.Lead
	}
	if a.Engine.Cylinders < 3 || !slices.Contains(a.Engine.PartKinds(), upper) {
		return Card{}, false
	}
	home := engine.At(worst)
	first, plug := a.Now.In(upper, home), a.Now.In(engine.Plug, home)
	p := partner(a, first)
	q := partner(a, plug, p.Place)
	if p.Place == engine.Bench || q.Place == engine.Bench {
		return Card{}, false
	}
	c := at(a, SwapSplit, home, p.Place, q.Place)
	c.Parts = append(a.Now.Swap(home, p.Place, companions(a, upper)...), a.Now.Swap(home, q.Place, engine.Plug)...)
	c.Target, c.Cylinder, c.Partner, c.Second = first.Words()+" and "+plug.Words(), worst, p, q
	c.Title = fmt.Sprintf("Move %s to %s and %s to %s", first.Words(), p.Place, plug.Words(), q.Place)
	c.Do = fmt.Sprintf("Tag all. Exchange %s with that of %s, and %s with that of %s, in one go.%s Run it %s.",
		first.Words(), p.Place, plug.Words(), q.Place, clearing(a), inCondition(a))
	c.Why = fmt.Sprintf("One run tells %s, plug, or neither. It pays where getting there costs more than the parts; one at a time is never ambiguous. Why %s: %s. Why %s: %s.",
		upper, p.Place, strings.Join(p.Why, "; "), q.Place, strings.Join(q.Why, "; "))
	c.onTheWay(a, first, plug)
	affected, next := after(a, c.Parts)
	own := engine.SetOf(worst)
	c.later = func(c *Card) {
		c.weigh(a, outcomesOfMove(a, []way{
			{"followed-" + string(upper), first.Words(), own, engine.SetOf(next.Feeds(first)...)},
			{"followed-plug", plug.Words(), own, engine.SetOf(next.Feeds(plug)...)},
		}, affected))
		c.splitByLook(a)
	}
	return c, true
}

// putBack puts a part back that was taken out and with which the misfire went.
func putBack(a *diagnose.Assessment) (Card, bool) {
	d := a.LastDecode()
	if d == nil || d.Outcome != diagnose.Gone && d.Outcome != diagnose.Unclear || !d.OnBench() {
		return Card{}, false
	}
	t := d.Tags[0]
	if !t.IsOriginal() || a.Now.Where(t) != engine.Bench || a.Now.Renewed(t) || moves(a, t) > mostMoves {
		return Card{}, false
	}
	in := a.Now.In(t.Kind(), t.Home())
	c := at(a, PutBack, t.Home())
	c.Title, c.Target, c.Cylinder = "Put "+t.Words()+" back: does the misfire come back?", t.Words(), d.From.First()
	c.Parts = []part.Relocation{{Tag: in, To: engine.Bench}, {Tag: t, To: t.Home()}}
	c.Partner = Partner{Place: engine.Bench, Spare: in}
	c.Do = fmt.Sprintf("Take %s out again and put %s back to %s.%s Run it %s.", in.Words(), t.Words(), t.Home(), clearing(a), inCondition(a))
	c.Why = "Without it the engine ran clean, which touching a connector, boot or seat can do as well. If the misfire comes back with the old part, that part it is."
	affected, next := after(a, c.Parts)
	c.later = func(c *Card) {
		c.weigh(a, outcomesOfMove(a, []way{{string(diagnose.Followed), t.Words(), 0, engine.SetOf(next.Feeds(t)...)}}, affected))
	}
	return c, true
}
