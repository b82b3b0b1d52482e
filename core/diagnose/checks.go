package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// checkedBy returns the likelihood row of a test's answer for a fault, with the parts at some
// positions. more is an additional log ratio. abnormal is the probability that the fault shows
// in the test. when is the condition of the test.
func (a *Assessment) checkedBy(c evidence.Check, by tester, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (k likelihoodRow, more, abnormal float64, ok bool) {
	test, _ := evidence.FindTest(c.Test)
	if test.Of == evidence.OfItem && !a.bearsOn(test, c.Place, h, at) {
		return k, 0, 0, false
	}
	g, ok := a.gives(c, by, when, h, at)
	if !ok || knowledge.BeyondEnd[by.from].Covers(h.Mode.ID) {
		return k, 0, 0, false
	}
	k = g.row()
	k.events = knowledge.WatchedIn[c.Test]
	if knowledge.EveryEvent[c.Test].Covers(h.Mode.ID) {
		k.events = 0
	}
	if k.events > 0 || c.Test == evidence.Spark && a.FailsWhen != evidence.Load && a.FailsWhen != evidence.Snap {
		k.shop = a.comesAndGoes(when, h) // a tester's gap asks for as much as load does
	}
	if r, _ := test.Result(c.Result); test.Of == evidence.OfLeaks && r.Abnormal {
		more = math.Log(a.placed(c.Place, h) * float64(len(a.leaks)))
	}
	abnormal = 1 - g.mine[0]
	if clears[c.Test] { // the result clears what carried the spark, whatever else is faulty
		abnormal = -1
	}
	return k, more, abnormal, true
}

// clears lists the tests whose result applies to each fault of a pair separately. A spark with the stop wire off has passed
// through the coil, even if the stop wire is faulty too.
var clears = map[evidence.TestID]bool{evidence.StopWireOff: true}

// gives is the probability of a test's answer given a fault, with the parts at some positions; ok is false
// where its mode has no row.
func (a *Assessment) gives(c evidence.Check, by tester, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (g answerChances, ok bool) {
	mine, sound, levelled := a.chances(c.Test, inHeat(h.Mode.ID, when), h, at)
	if mine == nil {
		return g, false
	}
	test, _ := evidence.FindTest(c.Test)
	came := slices.IndexFunc(test.Results, func(r evidence.Result) bool { return r.ID == c.Result })
	g = answerChances{mine: mine, fits: make([]float64, len(mine))}
	if !levelled {
		g.turn = knowledge.RateAnswerOf(c.Test, "", h.Mode.ID)
	}
	g.fits[came] = 1
	if by.from != "" {
		through := by.gap()
		for i := range g.fits {
			g.fits[i] = through[i][came]
		}
	}
	for i, p := range sound {
		g.sound += p * g.fits[i]
	}
	if t := g.turn; t != nil && by.from != "" { // the sparks that are not missing are as strong as ever
		for _, i := range []int{t.Seldom, t.Often} {
			g.fits[i] = knowledge.Mistaken
			if i == came {
				g.fits[i] = 1 - 3*knowledge.Mistaken
			}
		}
	}
	return g, true
}

// inHeat is the mode that a fault shows as in a test: a coil that is weak when hot shows, when it is hot,
// what one shows that is weak under load.
func inHeat(mode fault.ModeID, when evidence.Condition) fault.ModeID {
	if mode == fault.CoilWeakHot && when == evidence.Hot {
		return fault.CoilWeakLoad
	}
	return mode
}

// chances are the probabilities of each answer of a test, with a fault that shows as a mode and without one;
// nil where the mode has no row. Kilovolts that are high or low on all cylinders alike do not differ from
// their siblings: levelled moves their probability to the normal answer.
func (a *Assessment) chances(test evidence.TestID, mode fault.ModeID, h *fault.Hypothesis, at part.Positions) (mine, sound []float64, levelled bool) {
	mine, sound = a.Beliefs.Test(test, mode), a.Beliefs.Test(test, "")
	if mine == nil {
		return nil, nil, false
	}
	if test == evidence.Kilovolts && a.Engine.Cylinders > 2 && h.Reaches(at) == a.Engine.Everything() {
		level := 0.0
		for _, p := range sound[:knowledge.KVJumps] {
			level += p
		}
		alone := mine[knowledge.KVJumps:]
		rest := 1.0
		for _, p := range alone {
			rest -= p
		}
		mine = slices.Clone(sound)
		for i := range knowledge.KVJumps {
			mine[i] *= rest / level
		}
		copy(mine[knowledge.KVJumps:], alone)
		return mine, sound, true
	}
	return mine, sound, false
}

// comesAndGoes reports whether a fault may be absent in a test that is made in a condition.
func (a *Assessment) comesAndGoes(when evidence.Condition, h *fault.Hypothesis) bool {
	return a.seenIn(when) < 1 && !a.Beliefs.Profile(h.Mode.ID).Alike
}

// seenIn returns the probability that a fault is present in a test in some condition. It is 1
// in the stated failing condition, and also if the fault fails at idle or no condition was
// stated.
func (a *Assessment) seenIn(when evidence.Condition) float64 {
	if a.FailsWhen == evidence.AnyCondition || a.FailsWhen == evidence.Idle || a.FailsWhen == when {
		return 1
	}
	return knowledge.InTheShop
}

// bearsOn reports whether the answer of a test depends on a fault: a part that is tested
// must be the faulty one; what cannot be tested alone must belong to an affected
// cylinder.
func (a *Assessment) bearsOn(t evidence.Test, place engine.Place, h *fault.Hypothesis, at part.Positions) bool {
	if t.ID == evidence.CoilResistance || t.ID == evidence.LeadResistance {
		return h.Includes(at.In(t.On, place))
	}
	feeds, _ := a.Engine.Feeds(place)
	return h.Reaches(at)&feeds != 0
}

// placed is the probability that a leak is located at a place, among all places where it could
// be located.
func (a *Assessment) placed(at engine.Place, h *fault.Hypothesis) float64 {
	places := a.leaks
	of, _ := a.Engine.Feeds(h.Place)
	sum, mine := 0.0, 0.0
	weigh := func(i engine.Item) float64 {
		switch {
		case i.Place == h.Place:
			return knowledge.LeakThere
		case i.Feeds&of != 0:
			return knowledge.LeakAround / float64(len(places))
		}
		return (1 - knowledge.LeakThere - knowledge.LeakAround) / float64(len(places))
	}
	for _, i := range places {
		sum += weigh(i)
		if i.Place == at {
			mine = weigh(i)
		}
	}
	return mine / sum
}

// fedBy is the cylinders that depend on the faulty item where it is.
func fedBy(h fault.Hypothesis, e engine.Engine, at part.Positions) engine.Set {
	if h.IsSet() {
		return h.Reaches(at)
	}
	if h.Tag != "" {
		return engine.SetOf(at.Feeds(h.Tag)...)
	}
	feeds, _ := e.Feeds(h.Place)
	return feeds
}
