package plan

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// candidates lists every step that could be done now, made concrete. What there is
// to move, to look at and to test comes from the layout.
func candidates(a *diagnose.Assessment) []Card {
	worst := a.Worst()
	cards := []Card{}
	if a.Engine.Scanned() && !read(a) {
		cards = append(cards, readCodes(a))
	}
	for _, when := range conditions(a) {
		if a.Engine.Scanned() && !read(a) {
			break // zeroing the counters would wipe codes that nobody has read
		}
		if runs(a, when) >= mostRuns {
			continue
		}
		cards = append(cards, countMisfires(a, when))
	}
	if back, ok := putBack(a); ok {
		cards = append(cards, back)
	}
	for _, k := range a.Engine.PartKinds() {
		// A spare is known to be good: there is nothing to learn from moving it.
		if t := foremost(a, k, worst); !t.IsSpare() && moves(a, t) < mostMoves {
			cards = append(cards, swap(a, t))
		}
	}
	if split, ok := splitMove(a, worst); ok && moves(a, split.Parts[0].Tag) < mostMoves {
		cards = append(cards, split)
	}
	if at := connectorOf(a, worst); at != "" && len(findings(a, "", at)) == 0 {
		cards = append(cards, lookConnector(a, at))
	}
	if seen := plugAndLead(a, worst); len(seen) > 0 && !slices.ContainsFunc(seen, func(s evidence.Seen) bool { return len(findings(a, s.Tag, "")) > 0 }) {
		cards = append(cards, lookParts(a, seen))
	} else if unseen := slices.DeleteFunc(slices.Clone(seen), func(s evidence.Seen) bool { return len(findings(a, s.Tag, "")) > 0 }); len(unseen) > 0 {
		cards = append(cards, lookParts(a, unseen))
	}
	if seen := capAndRotor(a); len(seen) > 0 {
		cards = append(cards, lookParts(a, seen))
	}
	for _, t := range evidence.TestsOf(a.Engine) {
		place := testPlace(a, t, worst)
		if place != "" && !tested(a, t, place) {
			cards = append(cards, check(a, t, place))
		}
	}
	return cards
}

// foremost is the part of a kind, in the engine, that is most suspected; among
// equals the one that serves the worst cylinder.
func foremost(a *diagnose.Assessment, k engine.Kind, worst engine.Cylinder) part.Tag {
	best := a.Now.Serving(k, worst)
	most := partP(a, best)
	for _, at := range a.Now.All() {
		if at.Kind != k || at.At == engine.Bench {
			continue
		}
		if p := partP(a, at.Tag); p > most+1e-9 {
			best, most = at.Tag, p
		}
	}
	return best
}

// read says whether the codes have been read at all. After a move the counters of
// the next run tell sooner what codes would tell.
func read(a *diagnose.Assessment) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Codes != nil })
}

// testPlace is where a test is best made now, or "" where it cannot be.
func testPlace(a *diagnose.Assessment, t evidence.Test, worst engine.Cylinder) engine.Place {
	if t.Of != evidence.OfItem {
		return engine.Whole
	}
	if t.ID == evidence.CoilResistance && a.Engine.Wires > 2 && a.Engine.Ignition == engine.CoilOnPlug {
		return "" // an igniter inside: nothing can be measured
	}
	for _, item := range a.Engine.Items() {
		if item.Kind == t.On && item.Feeds.Has(worst) {
			return item.Place
		}
	}
	return ""
}

// tested says whether a test has been made at a place, with what sits there now.
func tested(a *diagnose.Assessment, t evidence.Test, place engine.Place) bool {
	return testedTimes(a, t, place) > 0
}

// testedTimes is how often.
func testedTimes(a *diagnose.Assessment, t evidence.Test, place engine.Place) int {
	n := 0
	for _, m := range a.Moments {
		c := m.Entry.Check
		if c != nil && c.Test == t.ID && (t.Of != evidence.OfItem || c.Place == place && m.At.In(t.On, place) == a.Now.In(t.On, place)) {
			n++
		}
	}
	return n
}

func readCodes(a *diagnose.Assessment) Card {
	c := at(a, ReadCodes)
	c.Title, c.Target = "Read the trouble codes", string(engine.Whole)
	c.Do = "Read the stored and pending codes and write them all down, with the freeze frame, before anything is cleared."
	c.Why = "A misfire code names the cylinder to begin with. It never names a part."
	c.later = func(c *Card) {
		c.weigh(a, sets(a, func(w *diagnose.World) (engine.Set, float64) { return a.Afflicts(w, a.Now), 1 }, a.CodeSet, codesWords))
		c.fewer()
	}
	return c
}

// codesWords is the outcome that some cylinders have a misfire code.
func codesWords(s engine.Set) Outcome {
	if s == 0 {
		return Outcome{ID: "no-code", Words: "No misfire code", Record: evidence.Entry{Codes: &evidence.Codes{}}}
	}
	var words []string
	codes := &evidence.Codes{}
	for _, cyl := range s.List() {
		code := trouble.MisfireOn(cyl)
		words = append(words, code.String())
		codes.Read = append(codes.Read, trouble.Reading{Code: code, State: trouble.Stored})
	}
	return Outcome{ID: "code-" + strings.Join(words, "-"), Words: list(words), Record: evidence.Entry{Codes: codes}}
}

// sets makes the branches of what shows on some cylinders: one for each set that a
// world can trouble, and one for nothing. sick is the set that a world troubles,
// and how surely; shows is the chance that it then shows.
func sets(a *diagnose.Assessment, sick func(*diagnose.World) (engine.Set, float64), shows likelihood, say func(engine.Set) Outcome) []branch {
	var all []engine.Set
	has := map[engine.Set]bool{}
	for i := range a.Worlds {
		w := &a.Worlds[i]
		if s, _ := sick(w); s != 0 && !has[s] {
			has[s] = true
			all = append(all, s)
		}
	}
	slices.SortFunc(all, func(x, y engine.Set) int {
		return cmp.Or(cmp.Compare(x.Len(), y.Len()), cmp.Compare(x.First(), y.First()), cmp.Compare(x, y))
	})
	var branches []branch
	for _, s := range all {
		branches = append(branches, branch{say(s), func(w *diagnose.World) float64 {
			if set, p := sick(w); set == s {
				return p * shows(w)
			}
			return 0
		}})
	}
	return append(branches, branch{say(0), func(w *diagnose.World) float64 {
		set, p := sick(w)
		if set == 0 {
			return 1
		}
		return 1 - p*shows(w)
	}})
}

func whereWords(s engine.Set) Outcome {
	if s == 0 {
		return Outcome{ID: "nowhere", Words: "Ran clean", Record: evidence.Entry{Watch: &evidence.Watch{Cylinders: []engine.Cylinder{}}}}
	}
	ids := make([]string, 0, 2)
	for _, c := range s.List() {
		ids = append(ids, string(engine.At(c)))
	}
	return Outcome{ID: "on-" + strings.Join(ids, "-"), Words: "Misfire on " + s.String(),
		Record: evidence.Entry{Watch: &evidence.Watch{Cylinders: s.List()}}}
}

// RunIn is the condition to run in: where the vehicle fails, or, where that is not known,
// where the misfire was seen last.
func RunIn(a *diagnose.Assessment) evidence.Condition {
	if a.FailsWhen != evidence.AnyCondition {
		return a.FailsWhen
	}
	for i := len(a.Moments) - 1; i >= 0; i-- {
		e := a.Moments[i].Entry
		if e.Watch != nil && len(e.Watch.Cylinders) > 0 || e.Counters != nil && slices.Max(e.Counters.Counts) >= 2*diagnose.Enough {
			return e.Condition
		}
	}
	return evidence.AnyCondition
}

// inCondition says in which condition to run.
func inCondition(a *diagnose.Assessment) string {
	if when := RunIn(a); when != a.FailsWhen {
		return "in the condition where it showed: " + when.Words()
	}
	if a.FailsWhen == evidence.AnyCondition {
		return "in the condition where it fails"
	}
	return "in the condition where it fails: " + a.FailsWhen.Words()
}

// What is proposed again (C; judgement): three runs alike in one condition tell what a
// fourth would, and a part that has gone out and come back has told what it can.
const (
	mostRuns  = 3
	mostMoves = 3
	mostTests = 2
)

// runs is how often the engine has run in a condition as the parts sit now.
func runs(a *diagnose.Assessment, when evidence.Condition) int {
	n := 0
	for i := len(a.Moments) - 1; i >= 0; i-- {
		e := a.Moments[i].Entry
		if e.Move != nil || e.Fit != nil {
			break
		}
		if (e.Counters != nil || e.Watch != nil) && e.Condition == when {
			n++
		}
	}
	return n
}

// conditions are those in which a run may tell something: where the vehicle fails, and,
// where that is not known and a run stayed clean, those that ask more of the spark.
func conditions(a *diagnose.Assessment) []evidence.Condition {
	all := []evidence.Condition{RunIn(a)}
	ran := slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Counters != nil || m.Entry.Watch != nil })
	if a.FailsWhen == evidence.AnyCondition && ran && a.Sick() == 0 && RunIn(a) == evidence.AnyCondition {
		all = append(all, evidence.Load, evidence.Hot, evidence.Wet, evidence.Cold)
	}
	return all
}

func countMisfires(a *diagnose.Assessment, when evidence.Condition) Card {
	c := at(a, CountMisfires)
	c.Title, c.Target = "Count the misfires of each cylinder", string(engine.Whole)
	c.Do = fmt.Sprintf("Zero the misfire counters and run the engine for five minutes %s. Then write down the count of each cylinder.", inCondition(a))
	c.Why = "Counts show which cylinder it is and how strong the misfire is, so that a later run can be compared with this one."
	if !a.Engine.Scanned() {
		places := []engine.Place{}
		for _, cyl := range a.Engine.All() {
			places = append(places, engine.At(cyl))
		}
		c = at(a, FindCylinder, places...)
		c.Title, c.Target = "Find which cylinder does not pull", string(engine.Whole)
		c.Do = fmt.Sprintf("Run the engine %s. Take the spark from one cylinder after the other, into a grounded tester: the one that makes no difference is the one.", inCondition(a))
		c.Why = "There is no control unit to ask, so the engine itself has to show it."
		if a.Engine.Cylinders == 1 {
			c.Step.Words, c.Title = "Run it and watch", "Run it: does it misfire now?"
			c.Step.Tools, c.Step.Cautions = nil, Find(RunAfterMove).Cautions
			c.Minutes, c.Covers = Find(RunAfterMove).Minutes, nil
			c.Do = fmt.Sprintf("Run the engine for five minutes %s, or crank it if it does not start. Does it misfire?", inCondition(a))
			c.Why = "What is seen now is what a later run is compared with."
		}
	}
	c.Condition = when
	if when != RunIn(a) {
		c.Title += ", " + when.Words()
		c.Do = strings.ReplaceAll(c.Do, inCondition(a), when.Words())
		c.Why = "Where it fails is not known, and it ran clean so far: try what asks more of the spark."
	}
	c.later = func(c *Card) {
		c.weigh(a, sets(a, func(w *diagnose.World) (engine.Set, float64) { return a.Afflicts(w, a.Now), 1 }, a.Shown(runRevolutions, when), func(s engine.Set) Outcome {
			o := whereWords(s)
			o.Record.Condition = when
			return o
		}))
		c.fewer()
	}
	return c
}

// after says what a world troubles when some parts have moved, and how surely: a
// touch may have cured it.
func after(a *diagnose.Assessment, parts []part.Relocation) (func(*diagnose.World) (engine.Set, float64), part.Positions) {
	next, err := a.Now.Move(parts)
	if err != nil {
		return func(*diagnose.World) (engine.Set, float64) { return 0, 1 }, a.Now
	}
	hands := diagnose.Handled(a.Engine, evidence.Moment{Entry: evidence.Entry{Move: &evidence.Move{Parts: parts}}, Before: a.Now, At: next})
	return func(w *diagnose.World) (engine.Set, float64) {
		return a.AfterTouch(w, hands, next)
	}, next
}

// way is parts that go from some cylinders to others in a move.
type way struct {
	id, parts string
	from, to  engine.Set
}

// told makes the outcomes of the run after a move: it followed one of the ways, it
// stayed, it is gone, or it is elsewhere.
func told(a *diagnose.Assessment, ways []way, sick func(*diagnose.World) (engine.Set, float64)) []branch {
	from := engine.Set(0)
	for _, w := range ways {
		from |= w.from
	}
	shows := a.Shown(runRevolutions, RunIn(a))
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
		return func(w *diagnose.World) float64 {
			s, p := sick(w)
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
		return evidence.Entry{Watch: &evidence.Watch{Cylinders: cylinders}}
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

// swapSteps says which step moves a kind of part.
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
	sick, next := after(a, c.Parts)
	c.Condition = RunIn(a)
	c.later = func(c *Card) {
		c.weigh(a, told(a, []way{{string(diagnose.Followed), t.Words(), from, engine.SetOf(next.Feeds(t)...)}}, sick))
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

// Foretell says how the run after some relocations can turn out, before they are
// made; nothing when they cannot be made.
func Foretell(a *diagnose.Assessment, parts []part.Relocation) []Outcome {
	next, err := a.Now.Move(parts)
	if err != nil {
		return nil
	}
	sick, _ := after(a, parts)
	// What was asked about is what the most suspected of the parts serves.
	var lead engine.Set
	most := -1.0
	for _, r := range parts {
		from := engine.SetOf(a.Now.Feeds(r.Tag)...)
		if p := partP(a, r.Tag); p > most && (from != 0 || !r.Tag.IsSpare()) {
			most, lead = p, from
		}
	}
	var ways []way
	for _, r := range parts {
		from, to := engine.SetOf(a.Now.Feeds(r.Tag)...), engine.SetOf(next.Feeds(r.Tag)...)
		if from != lead || from == 0 && r.Tag.IsSpare() {
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
	c.weigh(a, told(a, ways, sick))
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
	sick, next := after(a, c.Parts)
	own := engine.SetOf(worst)
	c.later = func(c *Card) {
		c.weigh(a, told(a, []way{
			{"followed-" + string(upper), first.Words(), own, engine.SetOf(next.Feeds(first)...)},
			{"followed-plug", plug.Words(), own, engine.SetOf(next.Feeds(plug)...)},
		}, sick))
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
	if t.IsSpare() || a.Now.Where(t) != engine.Bench || moves(a, t) > mostMoves {
		return Card{}, false
	}
	in := a.Now.In(t.Kind(), t.Home())
	c := at(a, PutBack, t.Home())
	c.Title, c.Target, c.Cylinder = "Put "+t.Words()+" back: does the misfire come back?", t.Words(), d.From.First()
	c.Parts = []part.Relocation{{Tag: in, To: engine.Bench}, {Tag: t, To: t.Home()}}
	c.Partner = Partner{Place: engine.Bench, Spare: in}
	c.Do = fmt.Sprintf("Take %s out again and put %s back to %s.%s Run it %s.", in.Words(), t.Words(), t.Home(), clearing(a), inCondition(a))
	c.Why = "Without it the engine ran clean, which touching a connector, boot or seat can do as well. If the misfire comes back with the old part, that part it is."
	sick, next := after(a, c.Parts)
	c.later = func(c *Card) {
		c.weigh(a, told(a, []way{{string(diagnose.Followed), t.Words(), 0, engine.SetOf(next.Feeds(t)...)}}, sick))
	}
	return c, true
}

// connectorOf is the place of the coil connector that cylinder c depends on, or "".
func connectorOf(a *diagnose.Assessment, c engine.Cylinder) engine.Place {
	for _, item := range a.Engine.Series(c) {
		if item.Kind == engine.Connector {
			return item.Place
		}
	}
	return ""
}

func lookConnector(a *diagnose.Assessment, place engine.Place) Card {
	item := evidence.Seen{Place: place}
	c := at(a, LookConnector, place)
	feeds, _ := a.Engine.Feeds(place)
	c.Target, c.Cylinder, c.Look = "connector "+string(place), feeds.First(), []evidence.Seen{item}
	c.Title = fmt.Sprintf("Look at the connector of %s", place)
	c.Do = fmt.Sprintf("Ignition off. Unlatch the coil connector of %s, look at pins and lock, and push it home until it clicks.", place)
	c.Why = "It costs little, and a poor contact is cured at once. A clean look clears it only in part."
	c.later = func(c *Card) {
		var branches []branch
		for _, row := range evidence.FindingsOn(engine.Connector) {
			branches = append(branches, finding(a, item, row))
		}
		c.weigh(a, branches)
	}
	return c
}

func finding(a *diagnose.Assessment, item evidence.Seen, row evidence.FindingWords) branch {
	item.Finding = row.Finding
	return branch{Outcome{ID: string(row.Finding), Words: row.Words,
		Record: evidence.Entry{Look: &evidence.Look{Items: []evidence.Seen{item}}}},
		a.Finding(item)}
}

// plugAndLead lists the plug, and the boot or lead on it, of a cylinder.
func plugAndLead(a *diagnose.Assessment, c engine.Cylinder) []evidence.Seen {
	var seen []evidence.Seen
	for _, k := range []engine.Kind{engine.Plug, engine.Boot, engine.Lead} {
		if t := a.Now.Serving(k, c); t != "" {
			seen = append(seen, evidence.Seen{Tag: t})
		}
	}
	return seen
}

// capAndRotor lists cap, rotor and coil lead where they have not been looked at.
func capAndRotor(a *diagnose.Assessment) []evidence.Seen {
	var seen []evidence.Seen
	for _, k := range []engine.Kind{engine.Cap, engine.Rotor, engine.CoilLead} {
		if t := a.Now.Serving(k, 1); t != "" && len(findings(a, t, "")) == 0 {
			seen = append(seen, evidence.Seen{Tag: t})
		}
	}
	return seen
}

// lookParts is a look at some parts at once. The outcomes that can be tapped are
// that all look sound, or that one shows something odd while the others are sound.
func lookParts(a *diagnose.Assessment, items []evidence.Seen) Card {
	var names, where []string
	var places []engine.Place
	id := LookCapRotor
	for _, item := range items {
		place := a.Now.Where(item.Tag)
		names = append(names, item.Tag.Words())
		if !slices.Contains(places, place) {
			places = append(places, place)
		}
		where = append(where, item.Tag.Words()+" "+part.At(place))
		switch item.Tag.Kind() {
		case engine.Boot:
			id = LookPlugBoot
		case engine.Lead, engine.Plug:
			if id != LookPlugBoot {
				id = LookPlugLead
			}
		}
	}
	if id == LookPlugLead && slices.Contains(a.Engine.PartKinds(), engine.Boot) {
		id = LookPlugBoot
	}
	c := at(a, id, places...)
	feeds := a.Now.Feeds(items[0].Tag)
	c.Target, c.Look = list(names), items
	if len(feeds) > 0 {
		c.Cylinder = feeds[0]
	}
	c.Title = "Look at " + list(names)
	c.Do = "Look at " + list(where) + ": " + lookFor(items) + "."
	c.Why = "A crack, a track or a wide gap shows at once; a clean look clears only in part."
	c.later = func(c *Card) { c.weigh(a, looks(a, items)) }
	return c
}

// looks makes the branches of a look at some parts.
func looks(a *diagnose.Assessment, items []evidence.Seen) []branch {
	sound := make([]evidence.Seen, len(items))
	for i, item := range items {
		item.Finding = evidence.FindingsOn(item.Tag.Kind())[0].Finding
		sound[i] = item
	}
	found := map[evidence.Seen][]float64{} // the chance of each finding, by world
	chance := func(seen []evidence.Seen) likelihood {
		var of [][]float64
		for _, s := range seen {
			if found[s] == nil {
				likely := a.Finding(s)
				found[s] = make([]float64, len(a.Worlds))
				for i := range a.Worlds {
					found[s][i] = likely(&a.Worlds[i])
				}
			}
			of = append(of, found[s])
		}
		return func(w *diagnose.World) float64 {
			p := 1.0
			for _, chances := range of {
				p *= chances[w.Index]
			}
			return p
		}
	}
	all := map[int]string{1: "Looks sound", 2: "Both look sound"}[len(items)]
	if all == "" {
		all = "All look sound"
	}
	branches := []branch{{Outcome{ID: "all-sound", Words: all, Record: evidence.Entry{Look: &evidence.Look{Items: sound}}}, chance(sound)}}
	for i, item := range items {
		for _, row := range evidence.FindingsOn(item.Tag.Kind())[1:] {
			seen := slices.Clone(sound)
			seen[i].Finding = row.Finding
			words := unit.Capital(string(item.Tag.Kind())) + " " + row.Short
			if others := kindsOf(slices.Delete(slices.Clone(items), i, i+1)); len(others) > 0 {
				words += ", " + list(others) + " sound"
			}
			branches = append(branches, branch{Outcome{ID: string(row.Finding), Words: words,
				Record: evidence.Entry{Look: &evidence.Look{Items: seen}}}, chance(seen)})
		}
	}
	if len(items) > 1 {
		branches = append(branches, branch{Outcome{ID: "several-odd", Words: "More than one looks odd", Means: "enter each in full"}, nil})
	}
	return branches
}

func kindsOf(items []evidence.Seen) []string {
	var words []string
	for _, item := range items {
		words = append(words, string(item.Tag.Kind()))
	}
	return words
}

// lookFor says what to look for on each kind.
func lookFor(items []evidence.Seen) string {
	words := map[engine.Kind]string{
		engine.Plug: "gap, insulator and nose of the plug", engine.Boot: "inside of the boot and its spring",
		engine.Lead: "the lead along its way and inside both ends", engine.Cap: "tracks and towers inside the cap",
		engine.Rotor: "the rotor's tip and under it", engine.CoilLead: "both ends of the coil lead",
	}
	var all []string
	for _, item := range items {
		all = append(all, words[item.Tag.Kind()])
	}
	return strings.Join(all, "; ")
}

// check is a test with a plain answer, made at a place.
func check(a *diagnose.Assessment, t evidence.Test, place engine.Place) Card {
	c := at(a, checkSteps[t.ID])
	if t.Of == evidence.OfItem {
		c = at(a, checkSteps[t.ID], place)
	}
	c.Title, c.Target, c.Test, c.Place = c.Step.Words, string(place), t.ID, place
	c.Do, c.Why = checkDo[t.ID], checkWhy[t.ID]
	if t.Of == evidence.OfItem {
		feeds, _ := a.Engine.Feeds(place)
		c.Cylinder = feeds.First()
		c.Target = string(t.On) + " " + string(place)
		c.Title += ", " + place.String()
		if tag := a.Now.In(t.On, place); tag != "" && t.On != engine.Plug {
			c.Target = tag.Words()
			c.Title = c.Step.Words + " " + string(tag)
		}
	}
	c.later = func(c *Card) {
		c.weigh(a, answers(a, t, place))
		c.fewer()
	}
	return c
}

// answers makes the branches of a test.
func answers(a *diagnose.Assessment, t evidence.Test, place engine.Place) []branch {
	var branches []branch
	add := func(r evidence.Result, place engine.Place, id, words string) {
		answer := evidence.Check{Test: t.ID, Place: place, Result: r.ID}
		branches = append(branches, branch{Outcome{ID: id, Words: unit.Capital(words), Record: evidence.Entry{Check: &answer}},
			a.Answer(answer)})
	}
	for _, r := range t.Results {
		if t.Of != evidence.OfLeaks || !r.Odd {
			add(r, place, string(r.ID), r.Words)
			continue
		}
		for _, leak := range t.Places(a.Engine) {
			add(r, leak, string(r.ID)+"-"+string(leak), r.Words+" at "+leak.String())
		}
	}
	return branches
}

var checkDo = map[evidence.TestID]string{
	evidence.Smoke:            "Engine off. Close the intake, let smoke in at low pressure, and look where it comes out: manifold, hoses, injector seats.",
	evidence.FuelPressure:     "Measure the fuel pressure at rest, running and under load, and the volume it delivers in the time the maker says.",
	evidence.StopWireOff:      "Plug out, grounded tester on. Take the stop wire off the coil and crank: does it spark now?",
	evidence.AirGapCheck:      "Turn the magnets to the coil and try the feeler at both legs. Set it a leg at a time, in small steps, and measure again after tightening.",
	evidence.LeadRouting:      "Start at the tower of cylinder 1 and follow each lead to its plug, in firing order and the sense in which the rotor turns.",
	evidence.Spark:            "Put a tester with a wide gap in place of the plug, or the in-line lamp, and crank or run. The wider the gap, the more it proves.",
	evidence.Kilovolts:        "Clamp each cylinder in turn, at idle and on a snap of the throttle, and compare it with the others.",
	evidence.CoilResistance:   "Subtract the meter's leads. Read primary and secondary, and those of the other coils, at one temperature.",
	evidence.LeadResistance:   "Read the lead and its siblings by length, and wiggle it while you read.",
	evidence.TriggerPulse:     "Feed loaded and while cranking, ground as a voltage drop, then the trigger pulse while cranking.",
	evidence.InjectorTest:     "Listen, measure its resistance against the others, and exchange it where that is quick.",
	evidence.InjectorExchange: "Let the pressure off, exchange the injector with one of a cylinder that runs well, new seals, and run it: did the misfire go along?",
	evidence.WireTest:         "Unplug both ends. Measure the trigger wire from end to end, then to ground and to its neighbours, while it is bent along its run.",
	evidence.Wiggle:           "Engine running, with the misfire there: push, pull and bend the connector and the first hand's breadth of its wires. Does it come or go?",
	evidence.LeakDown:         "Piston at the top of compression, both valves closed: air in, read the loss, and listen where it comes out.",
	evidence.CrankSignal:      "Scope on the pickup while cranking: height, shape, dropouts; wiggle the wire.",
	evidence.CompressionTest:  "Crank with fuel and ignition off, and compare the humps of the starter current; or a gauge in each.",
	evidence.TimingLamp:       "Warm, idle low, control input off as the maker says: lamp on cylinder 1, read the mark.",
}

var checkWhy = map[evidence.TestID]string{
	evidence.Smoke:            "Several cylinders, or lean trims, point at unmetered air before any coil is touched.",
	evidence.FuelPressure:     "What is not air can be fuel: low pressure leans out all cylinders.",
	evidence.StopWireOff:      "A shorted stop wire or switch looks like a dead coil: isolate it first.",
	evidence.AirGapCheck:      "A wide gap weakens the spark and costs nothing to put right.",
	evidence.LeadRouting:      "Two exchanged leads make exactly two cylinders misfire, and it costs only a look.",
	evidence.Spark:            "No spark or a weak one points upstream of the plug. A good one at idle clears nothing that fails hot or under load.",
	evidence.Kilovolts:        "It tells inside the chamber from outside it in a minute, without taking anything apart.",
	evidence.CoilResistance:   "An open or a clear short condemns; a pass is weak evidence.",
	evidence.LeadResistance:   "A fail is strong, a pass is weak.",
	evidence.TriggerPulse:     "It tells feed, ground and trigger apart; the driver is suspect last.",
	evidence.InjectorTest:     "With the ignition of that cylinder cleared, fuel comes next.",
	evidence.InjectorExchange: "What goes with the injector is the injector.",
	evidence.WireTest:         "It tells the wire from the driver behind it, and the driver is dear.",
	evidence.Wiggle:           "A contact that looks clean can still be poor; moving it shows that.",
	evidence.LeakDown:         "It says not only that a cylinder leaks, but where.",
	evidence.CrankSignal:      "A weak pickup and a bad trigger wire look alike at the coil: this parts them.",
	evidence.CompressionTest:  "A minute with a clamp tells whether the cylinder itself is to blame.",
	evidence.TimingLamp:       "Timing that is off makes all cylinders weak.",
}
