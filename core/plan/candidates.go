package plan

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// Candidates lists every step that could be done now, made concrete. What there is
// to move, to look at and to test comes from the layout.
func candidates(a *diagnose.Assessment) []Card {
	worst := a.Worst()
	cards := []Card{}
	if a.Engine.Scanned() && !read(a) {
		cards = append(cards, readCodes(a))
	}
	if a.Engine.Scanned() && !trimsRead(a) {
		cards = append(cards, readTrims(a, worst))
	}
	cards = append(cards, countingCards(a)...)
	if back, ok := putBack(a); ok {
		cards = append(cards, back)
	}
	for _, c := range suspectCylinders(a) {
		for _, card := range stepsAt(a, c, c == worst) {
			if !slices.ContainsFunc(cards, func(have Card) bool { return have.Title == card.Title }) {
				cards = append(cards, card)
			}
		}
	}
	if seen := capAndRotor(a); len(seen) > 0 {
		cards = append(cards, lookParts(a, seen))
	}
	return cards
}

// likeSuspicion is the least suspicion of a cylinder whose parts get candidates, as a share of the worst cylinder's
// (judgement).
const likeSuspicion = 0.5

// suspectCylinders lists the cylinders whose parts get candidates: the worst, and of the other suspected cylinders the
// most suspected for each access time. An accessible cylinder is then preferred to an equal one under a cover.
func suspectCylinders(a *diagnose.Assessment) []engine.Cylinder {
	worst := a.Worst()
	all := []engine.Cylinder{worst}
	minutes := func(c engine.Cylinder) float64 {
		_, m := a.Engine.Access(engine.At(c), a.Off)
		return m
	}
	order := a.Engine.All()
	slices.SortStableFunc(order, func(x, y engine.Cylinder) int { return cmp.Compare(a.Suspicion[y-1], a.Suspicion[x-1]) })
	for _, c := range order {
		known := slices.ContainsFunc(all, func(o engine.Cylinder) bool { return minutes(o) == minutes(c) })
		if !known && a.Suspicion[c-1] >= likeSuspicion*a.Suspicion[worst-1] {
			all = append(all, c)
		}
	}
	slices.SortStableFunc(all, func(x, y engine.Cylinder) int { return cmp.Compare(minutes(x), minutes(y)) })
	return all
}

// stepsAt lists the moves, looks and tests at one cylinder. At the worst cylinder, the most suspected part of each kind is
// moved, wherever it sits.
func stepsAt(a *diagnose.Assessment, c engine.Cylinder, worst bool) (cards []Card) {
	for _, k := range a.Engine.PartKinds() {
		t := a.Now.Serving(k, c)
		if worst {
			t = foremost(a, k, c)
		}
		// A spare is known to be good: there is nothing to learn from moving it.
		if t.IsOriginal() && moves(a, t) < mostMoves {
			cards = append(cards, swap(a, t))
		}
	}
	if split, ok := splitMove(a, c); ok && moves(a, split.Parts[0].Tag) < mostMoves {
		cards = append(cards, split)
	}
	if at := connectorOf(a, c); at != "" && len(gate.Findings(a, "", at)) == 0 {
		cards = append(cards, lookConnector(a, at))
	}
	for _, c := range inSeries(a, c) {
		if unseen := slices.DeleteFunc(plugAndLead(a, c), func(s evidence.Seen) bool { return len(gate.Findings(a, s.Tag, "")) > 0 }); len(unseen) > 0 {
			cards = append(cards, lookParts(a, unseen))
		}
	}
	for _, t := range evidence.TestsOf(a.Engine) {
		place := gate.TestPlace(a, t, c)
		if place != "" && !gate.Tested(a, t, place) {
			cards = append(cards, check(a, t, place))
		}
		if t.On != engine.Lead {
			continue
		}
		for _, c := range inSeries(a, c)[1:] {
			if place := engine.At(c); !gate.Tested(a, t, place) {
				cards = append(cards, check(a, t, place))
			}
		}
	}
	return cards
}

// countingCards lists the runs that count misfires, or that look for the cylinder.
func countingCards(a *diagnose.Assessment) (cards []Card) {
	// Zeroing the counters would wipe codes that nobody has read.
	if a.Engine.Scanned() && !read(a) || cylinderSeen(a) {
		return nil
	}
	for _, when := range conditions(a) {
		if runs(a, when) < mostRuns {
			cards = append(cards, countMisfires(a, when))
		}
	}
	return cards
}

// cylinderSeen reports whether a watch on an engine without counters has shown the misfiring cylinder for certain, and
// nothing has been moved or repaired since.
func cylinderSeen(a *diagnose.Assessment) bool {
	if a.Engine.Scanned() || a.Engine.Cylinders == 1 {
		return false
	}
	for _, m := range slices.Backward(a.Moments) {
		e := m.Entry
		if e.Move() != nil || e.Fit() != nil || e.Renewal() != nil {
			return false
		}
		if e.Watch() != nil {
			return len(e.Watch().Cylinders) > 0 && e.Certainty == evidence.Sure
		}
	}
	return false
}

// inSeries is a cylinder and those in series with it that seem to misfire too: a common cause can
// be at either.
func inSeries(a *diagnose.Assessment, c engine.Cylinder) []engine.Cylinder {
	all := []engine.Cylinder{c}
	for _, mate := range a.Engine.Circuit(c).List() {
		if mate != c && a.Suspicion[mate-1] >= busy {
			all = append(all, mate)
		}
	}
	return all
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

// read reports whether codes have been read at all. After a move the counts of the
// next run show the same sooner.
func read(a *diagnose.Assessment) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Codes() != nil })
}

func readCodes(a *diagnose.Assessment) Card {
	c := at(a, ReadCodes)
	c.Title, c.Target = "Read the trouble codes", string(engine.Whole)
	c.Do = "Read the stored and pending codes and write them all down, with the freeze frame, before anything is cleared."
	c.Why = "A misfire code names the cylinder to begin with. It never names a part."
	c.later = func(c *Card) {
		c.weigh(a, sets(a, func(w *diagnose.JointHypothesis) (engine.Set, float64) { return a.Affected(w, a.Now), 1 }, a.CodeSet, codesWords))
		c.keepLikeliest(a.Engine.Cylinders)
	}
	return c
}

// trimsRead reports whether trims have been read, alone or in a freeze frame.
func trimsRead(a *diagnose.Assessment) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Trims() != nil || m.Entry.Codes() != nil && m.Entry.Codes().Frame != nil && len(m.Entry.Codes().Frame.Trims) > 0
	})
}

// readTrims is reading the fuel trims; its outcomes are those of the bank with the most suspected
// cylinder.
func readTrims(a *diagnose.Assessment, worst engine.Cylinder) Card {
	bank := a.Engine.BankOf(worst)
	c := at(a, ReadTrims)
	c.Title, c.Target = "Read the fuel trims", string(engine.Whole)
	c.Do = "Engine warm, in closed loop: read short and long trim of each bank, and write them down."
	c.Why = "Trims that are far from nothing point at air or fuel before any coil is touched. A misfire alone leans them a little."
	c.later = func(c *Card) {
		of := ""
		if a.Engine.Banks() > 1 {
			of = fmt.Sprintf(" on bank %d", bank)
		}
		lean, rich := float64(trouble.WorthALook), -float64(trouble.WorthALook)
		c.weigh(a, []branch{
			{Outcome{ID: "in-range", Words: "Within 10 %" + of}, a.TrimBetween(bank, rich, lean)},
			{Outcome{ID: "lean", Words: "Lean, more than +10 %" + of}, a.TrimBetween(bank, lean, math.Inf(1))},
			{Outcome{ID: "rich", Words: "Rich, less than -10 %" + of}, a.TrimBetween(bank, math.Inf(-1), rich)},
		})
	}
	return c
}

// codesWords is the outcome that some cylinders have a misfire code.
func codesWords(s engine.Set) Outcome {
	if s == 0 {
		return Outcome{ID: "no-code", Words: "No misfire code", Record: evidence.Entry{Body: &evidence.Codes{}}}
	}
	var words []string
	codes := &evidence.Codes{}
	for _, cyl := range s.List() {
		code := trouble.MisfireOn(cyl)
		words = append(words, code.String())
		codes.Read = append(codes.Read, trouble.Reading{Code: code, State: trouble.Stored})
	}
	return Outcome{ID: "code-" + strings.Join(words, "-"), Words: unit.List(words), Record: evidence.Entry{Body: codes}}
}

// sets makes the branches of an observation of cylinders: one for each set that a joint
// hypothesis can affect, and one for the empty set. affected returns the affected set and its
// probability. shows is the probability that the misfire then shows.
func sets(a *diagnose.Assessment, affected func(*diagnose.JointHypothesis) (engine.Set, float64), shows likelihood, say func(engine.Set) Outcome) []branch {
	var all []engine.Set
	has := map[engine.Set]bool{}
	for i := range a.JointHypotheses {
		w := &a.JointHypotheses[i]
		if s, _ := affected(w); s != 0 && !has[s] {
			has[s] = true
			all = append(all, s)
		}
	}
	slices.SortFunc(all, func(x, y engine.Set) int {
		return cmp.Or(cmp.Compare(x.Len(), y.Len()), cmp.Compare(x.First(), y.First()), cmp.Compare(x, y))
	})
	var branches []branch
	for _, s := range all {
		branches = append(branches, branch{say(s), func(w *diagnose.JointHypothesis) float64 {
			if set, p := affected(w); set == s {
				return p * shows(w)
			}
			return 0
		}})
	}
	return append(branches, branch{say(0), func(w *diagnose.JointHypothesis) float64 {
		set, p := affected(w)
		if set == 0 {
			return 1
		}
		return 1 - p*shows(w)
	}})
}

func whereWords(s engine.Set) Outcome {
	if s == 0 {
		return Outcome{ID: "nowhere", Words: "Ran clean", Record: evidence.Entry{Body: &evidence.Watch{Cylinders: []engine.Cylinder{}}}}
	}
	ids := make([]string, 0, 2)
	for _, c := range s.List() {
		ids = append(ids, string(engine.At(c)))
	}
	return Outcome{ID: "on-" + strings.Join(ids, "-"), Words: "Misfire on " + s.String(),
		Record: evidence.Entry{Body: &evidence.Watch{Cylinders: s.List()}}}
}

// RunIn is the condition to run in: where the vehicle fails, or, where that is not known,
// where the misfire was seen last.
func RunIn(a *diagnose.Assessment) evidence.Condition {
	if a.FailsWhen != evidence.AnyCondition {
		return a.FailsWhen
	}
	for i := len(a.Moments) - 1; i >= 0; i-- {
		e := a.Moments[i].Entry
		if misfired(e) {
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
	if a.FailsWhen == evidence.AnyCondition && slices.Contains(a.Complaint.Signs, evidence.AlwaysThere) {
		return "as it stands: it is always there"
	}
	if a.FailsWhen == evidence.AnyCondition {
		return "in the condition where it fails"
	}
	return "in the condition where it fails: " + a.FailsWhen.Words()
}

// Limits of repetition (C; judgement): a fourth run in one condition adds nothing to three
// like ones, and a part that was moved away and back is not moved again.
const (
	mostRuns  = 3
	mostMoves = 3
	mostLooks = 2
	// mostForGate is how often a test is made in all when nothing else is left to do and a
	// verdict waits for it.
	mostForGate = 3
)

// runs is how often the engine has run in a condition as the parts sit now.
func runs(a *diagnose.Assessment, when evidence.Condition) int {
	n := 0
	for i := len(a.Moments) - 1; i >= 0; i-- {
		e := a.Moments[i].Entry
		if e.Move() != nil || e.Fit() != nil {
			break
		}
		if (e.Counters() != nil || e.Watch() != nil) && e.Condition == when {
			n++
		}
	}
	return n
}

// conditions are those in which a run may tell something: where the vehicle fails, and,
// where that is not known and a run stayed clean, those that ask more of the spark.
func conditions(a *diagnose.Assessment) []evidence.Condition {
	all := []evidence.Condition{RunIn(a)}
	ran := slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Counters() != nil || m.Entry.Watch() != nil })
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
	revolutions := runRevolutions
	if l := longerRun(a, when); l.Events > 0 {
		revolutions = 2 * l.Events
		c.Title, c.Minutes = "Run the engine longer", math.Ceil(l.Minutes)+1
		c.Do = fmt.Sprintf("Run the engine for %s firing events of each cylinder, about %.0f minutes at 700 rpm, %s. Then record the result.", unit.Thousands(l.Events), math.Ceil(l.Minutes), inCondition(a))
		c.Why = fmt.Sprintf("It ran without misfire for %s firing events. The longer run shows a misfire of one in %s events with 95 %% probability.", unit.Thousands(l.Clean), unit.Thousands(int(math.Round(1/l.Rate))))
	}
	if when != RunIn(a) {
		c.Title += ", " + when.Words()
		c.Do = strings.ReplaceAll(c.Do, inCondition(a), when.Words())
		c.Why = "Where it fails is not known, and it ran clean so far: try what asks more of the spark."
	}
	c.later = func(c *Card) {
		c.weigh(a, sets(a, func(w *diagnose.JointHypothesis) (engine.Set, float64) { return a.Affected(w, a.Now), 1 }, a.ChanceToShow(revolutions, when), func(s engine.Set) Outcome {
			o := whereWords(s)
			o.Record.Condition = when
			return o
		}))
		c.keepLikeliest(a.Engine.Cylinders)
	}
	return c
}
