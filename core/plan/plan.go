package plan

import (
	"cmp"
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/unit"
)

// Condemn is the probability a repair unit must reach before a verdict on it
// can be signed (judgement: one wrong part in ten is too many to buy on less).
const Condemn = 0.90

// RuledOut is the probability below which a unit counts as cleared (judgement).
const RuledOut = 0.02

// Plan is what to do next, and what stands in the way of a verdict.
type Plan struct {
	Next Card
	// Alternatives are the next best steps, with what each costs against Next.
	Alternatives []Alternative
	// Gates stand before condemning the leading suspect.
	Gates []Gate
	// Verdict can be signed when it is not nil.
	Verdict *evidence.Verdict

	forced bool
}

// Alternative is a step that could be done instead.
type Alternative struct {
	Card Card
	// ExtraCost is in minutes: how much longer this step takes to tell as much
	// as the next step tells. Where the next step is not a question of what it
	// tells (a run after a move, a gate, a signature) it is all of this step's
	// minutes, which come on top.
	ExtraCost float64
}

// For plans a job from its assessment.
func For(j job.Job, a *diagnose.Assessment) Plan {
	var p Plan
	lead := a.Suspects[slices.IndexFunc(a.Suspects, diagnose.Suspect.Real)]
	p.Gates = Gates(a, lead)
	cards := candidates(a)
	slices.SortStableFunc(cards, func(x, y Card) int { return cmp.Compare(y.PerMinute(), x.PerMinute()) })
	signed, isSigned := j.Signed()
	ripe := lead.P >= Condemn
	_, _, gateWork := openWork(p.Gates)
	p.forced = true
	switch d := a.LastDecode(); {
	case isSigned:
		p.Next = prove(a, signed)
	case d != nil && d.Outcome == diagnose.Waiting:
		p.Next = runAfterMove(a, *d)
	case ripe && AllMet(p.Gates):
		v := verdict(a, lead)
		p.Verdict = &v
		p.Next = sign(v)
	case ripe && gateWork:
		p.Next = forGate(a, lead, p.Gates)
	default:
		p.Next, p.forced = cards[0], false
	}
	for _, c := range cards {
		if c.Step.ID == p.Next.Step.ID && c.Target == p.Next.Target || len(p.Alternatives) == 2 {
			continue
		}
		extra := c.Minutes
		if p.Next.Step.ID == cards[0].Step.ID && c.Bits > 0 {
			extra = p.Next.Bits/c.PerMinute() - p.Next.Minutes
		}
		p.Alternatives = append(p.Alternatives, Alternative{c, extra})
	}
	return p
}

// Forced says that the next step is no matter of choice: a run after a move, a
// gate, a signature or the repair.
func (p Plan) Forced() bool { return p.forced }

// Candidates lists every step that could be done now, made concrete.
func Candidates(a *diagnose.Assessment) []Card { return candidates(a) }

func verdict(a *diagnose.Assessment, s diagnose.Suspect) evidence.Verdict {
	v := evidence.Verdict{Unit: s.Key(), P: s.P}
	for _, t := range s.With {
		v.With = append(v.With, t.Words())
	}
	v.Cleared = Cleared(a)
	return v
}

// Cleared lists the units of the cylinders in question that evidence has ruled
// out.
func Cleared(a *diagnose.Assessment) []string {
	var asked engine.Set
	for _, d := range a.Decodes {
		switch d.Outcome { // a clean run rules nothing out
		case diagnose.Followed, diagnose.Stayed, diagnose.Both:
			asked |= d.From | d.To
		}
	}
	if len(a.Decodes) == 0 {
		asked = engine.SetOf(a.Worst())
	}
	var names []string
	for _, s := range a.Suspects {
		place := s.Place
		if s.Tag != "" {
			place = s.Tag.Home()
		}
		feeds, ok := a.Engine.Feeds(place)
		if ok && feeds&asked != 0 && s.Real() && s.P < RuledOut && s.P < s.Prior {
			names = append(names, s.Key())
		}
	}
	slices.Sort(names)
	return names
}

func sign(v evidence.Verdict) Card {
	return Card{Step: Find(SignVerdict), Minutes: Find(SignVerdict).Minutes, Title: "Sign the verdict: " + evidence.UnitWords(v.Unit), Target: v.Unit,
		Do:  fmt.Sprintf("Sign: %s is at fault, at %s.", evidence.UnitWords(v.Unit), unit.Percent(v.P)),
		Why: "It stands at the required certainty, and every gate before it is met."}
}

func prove(a *diagnose.Assessment, e evidence.Entry) Card {
	v := e.Verdict
	what := evidence.UnitWords(v.Unit)
	if len(v.With) > 0 {
		what += " with " + list(v.With)
	}
	return Card{Step: Find(FixAndProve), Minutes: Find(FixAndProve).Minutes, Title: "Put " + evidence.UnitWords(v.Unit) + " right, then prove it", Target: v.Unit,
		Do: fmt.Sprintf("Renew or put right %s.%s%s Run it %s.", what, onAgain(a), clearing(a), inCondition(a)),
		Why: "A verdict is a judgement. It is proven by clean running where the misfire was, and a smooth idle alone does not do that." +
			" If a sound part was only borrowed for the test, put it back where it came from."}
}

// onAgain names the covers that are off, with the gaskets they need.
func onAgain(a *diagnose.Assessment) string {
	if len(a.Off) == 0 {
		return ""
	}
	var gaskets []string
	for _, name := range a.Off {
		c, _ := a.Engine.Cover(name)
		gaskets = append(gaskets, c.Gaskets...)
	}
	s := " Start it before the covers go back on: " + list(a.Off) + "."
	if len(gaskets) > 0 {
		s += " New for them: " + list(gaskets) + "."
	}
	return s
}

// runAfterMove asks for the run that says what a move did; the outcomes can be
// recorded with one tap.
func runAfterMove(a *diagnose.Assessment, d diagnose.Decode) Card {
	c := at(a, RunAfterMove)
	c.Title, c.Target, c.Cylinder = "Run it: where is the misfire now?", string(engine.Whole), d.To.First()
	cleared := "Run"
	if a.Engine.Scanned() {
		cleared = "With the codes cleared and the counters at zero, run"
	}
	c.Do = fmt.Sprintf("%s the engine for five minutes %s. Where is the misfire now?", cleared, inCondition(a))
	var ways []way
	var went []string
	for _, w := range d.Ways {
		id := string(diagnose.Followed)
		if len(d.Ways) > 1 {
			id += "-" + string(w.Tags[0].Kind())
		}
		ways = append(ways, way{id, w.Parts(), w.From, w.To})
		from := "from " + w.From.String()
		if w.From == 0 {
			from = "from the bench"
		}
		went = append(went, fmt.Sprintf("%s %s to %s", w.Parts(), from, w.Place))
	}
	c.Why = fmt.Sprintf("Since the move of %s nothing has been observed. Only a run tells whether the misfire went along.", list(went))
	c.weigh(a, told(a, ways, func(w *diagnose.World) (engine.Set, float64) { return a.Afflicts(w, a.Now), 1 }))
	return c
}

// openWork is the looks and the tests that open the gates which are still shut; ok
// is false when something else must be done first.
func openWork(gates []Gate) (look []evidence.Seen, tests []evidence.TestID, ok bool) {
	for _, g := range gates {
		switch {
		case g.Met:
		case g.Test != "":
			tests = append(tests, g.Test)
		case len(g.Look) == 0:
			return nil, nil, false
		default:
			look = append(look, g.Look...)
		}
	}
	return look, tests, len(look)+len(tests) > 0
}

// forGate is the look or the test that opens the gates which are still shut.
func forGate(a *diagnose.Assessment, lead diagnose.Suspect, gates []Gate) Card {
	look, tests, _ := openWork(gates)
	var c Card
	switch {
	case len(tests) > 0:
		t, _ := evidence.FindTest(tests[0])
		place := engine.Whole
		if t.Of == evidence.OfItem {
			feeds, _ := a.Engine.Feeds(lead.Place)
			place = testPlace(a, t, feeds.First())
		}
		c = check(a, t, place)
	case look[0].Place != "":
		c = lookConnector(a, look[0].Place)
	default:
		// Plug and boot or lead of one cylinder are looked at together.
		var together []evidence.Seen
		for _, item := range look {
			if item.Tag != "" && len(together) < 2 {
				together = append(together, item)
			}
		}
		c = lookParts(a, together)
	}
	c.Why = "The verdict waits for it: " + list(needs(gates)) + "."
	return c
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

// Sign makes the entry that signs the verdict, or says what still stands in the
// way.
func (p Plan) Sign() (evidence.Entry, error) {
	if p.Verdict == nil {
		expected := fmt.Sprintf("a suspect at %s or more with every gate met", unit.Percent(Condemn))
		got := "none that likely yet"
		if open := needs(p.Gates); len(open) > 0 {
			got = "still open: " + list(open)
		}
		return evidence.Entry{}, invalid.Errors{{Field: "verdict", Expected: expected, Got: got}}
	}
	v := *p.Verdict
	return evidence.Entry{Verdict: &v}, nil
}
