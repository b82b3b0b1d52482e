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
	"glenmist/core/part"
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
	switch d := a.LastDecode(); {
	case isSigned:
		p.Next = prove(signed)
	case d != nil && d.Outcome == diagnose.Waiting:
		p.Next = runAfterMove(a, *d)
	case ripe && AllMet(p.Gates):
		v := verdict(a, lead)
		p.Verdict = &v
		p.Next = sign(v)
	case ripe && openLook(p.Gates) != nil:
		p.Next = lookForGate(a, p.Gates)
	default:
		p.Next = cards[0]
	}
	for _, c := range cards {
		if c.Step.ID == p.Next.Step.ID || len(p.Alternatives) == 2 {
			continue
		}
		extra := c.Step.Minutes
		if p.Next.Step.ID == cards[0].Step.ID && c.Bits > 0 {
			extra = p.Next.Bits/c.PerMinute() - p.Next.Step.Minutes
		}
		p.Alternatives = append(p.Alternatives, Alternative{c, extra})
	}
	return p
}

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
	asked := map[engine.Cylinder]bool{}
	for _, d := range a.Decodes {
		asked[d.From] = true
	}
	if len(asked) == 0 {
		asked[a.Worst()] = true
	}
	var names []string
	for _, s := range a.Suspects {
		c, ok := s.Place.Cylinder()
		if s.Tag != "" {
			_, c, ok = s.Tag.Split()
		}
		if ok && asked[c] && s.Real() && s.P < RuledOut && s.P < s.Prior {
			names = append(names, s.Key())
		}
	}
	slices.Sort(names)
	return names
}

func sign(v evidence.Verdict) Card {
	return Card{Step: Find(SignVerdict), Title: "Sign the verdict: " + evidence.UnitWords(v.Unit), Target: v.Unit,
		Do:  fmt.Sprintf("Sign: %s is at fault, at %s.", evidence.UnitWords(v.Unit), unit.Percent(v.P)),
		Why: "It stands at the required certainty, and every gate before it is met."}
}

func prove(e evidence.Entry) Card {
	v := e.Verdict
	what := evidence.UnitWords(v.Unit)
	if len(v.With) > 0 {
		what += " with " + list(v.With)
	}
	return Card{Step: Find(FixAndProve), Title: "Put " + evidence.UnitWords(v.Unit) + " right, then prove it", Target: v.Unit,
		Do: fmt.Sprintf("Renew or put right %s. Then clear the codes, zero the counters and run it in the condition where it failed.", what),
		Why: "A verdict is a judgement. It is proven by clean running where the misfire was, and a smooth idle alone does not do that." +
			" If a sound part was only borrowed for the test, put it back where it came from."}
}

// runAfterMove asks for the run that says what a move did; the outcomes can be
// recorded with one tap.
func runAfterMove(a *diagnose.Assessment, d diagnose.Decode) Card {
	c := Card{Step: Find(RunAfterMove), Title: "Run it: where is the misfire now?", Target: string(engine.Whole), Cylinder: d.To,
		Do:  fmt.Sprintf("With the codes cleared and the counters at zero, run the engine for five minutes %s. Where is the misfire now?", inCondition(a)),
		Why: fmt.Sprintf("Since the move of %s from cylinder %d to cylinder %d nothing has been observed. Only a run tells whether the misfire went along.", d.Parts(), d.From, d.To)}
	c.weigh(a, told(where(a, now(a)), d.From, d.To, a.Engine.Cylinders))
	return c
}

func openLook(gates []Gate) []evidence.Seen {
	var look []evidence.Seen
	for _, g := range gates {
		if g.Met {
			continue
		}
		if len(g.Look) == 0 {
			return nil // something else must be done first
		}
		look = append(look, g.Look...)
	}
	return look
}

// lookForGate is the look that opens the gates which are still shut.
func lookForGate(a *diagnose.Assessment, gates []Gate) Card {
	look := openLook(gates)
	var c Card
	switch {
	case len(look) == 1 && look[0].Place != "":
		at, _ := look[0].Place.Cylinder()
		c = lookConnector(a, at)
	default:
		var plug, boot part.Tag
		for _, item := range look {
			if item.Tag.Kind() == part.Plug {
				plug = item.Tag
			} else if item.Tag != "" {
				boot = item.Tag
			}
		}
		// Where only one of the two is asked for, the other is at hand as well.
		if plug == "" {
			plug = a.Now.In(part.Plug, a.Now.Where(boot))
		}
		if boot == "" {
			boot = a.Now.In(part.Boot, a.Now.Where(plug))
		}
		c = lookPlugBoot(a, plug, boot)
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
