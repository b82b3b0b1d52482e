package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/forbid"
)

// turning lists the steps for which the engine runs or is cranked. A swap belongs to them, since only a run
// shows what it did.
var turning = map[string]bool{
	CountMisfires: true, ReadTrims: true, FindCylinder: true, RunAfterMove: true, SwapCoil: true, SwapLead: true, SwapBoot: true, SwapPlug: true, SwapSplit: true,
	TrySpare: true, CheckFuel: true, CheckStopWire: true, CheckTiming: true, TestSpark: true, ReadKV: true, TestTrigger: true, TestInjector: true, TestCompress: true,
	TestExchange: true, TestWiggle: true, TestCrank: true, TestWatch: true, TestOverlay: true, CheckStopRun: true,
}

// Turns reports whether the engine runs or is cranked for a card. The repair by the worksheet does not turn it,
// the run that proves it does.
func (c Card) Turns() bool {
	if c.Step.ID == FixAndProve {
		return !c.Worksheet && !c.Finished
	}
	return turning[c.Step.ID]
}

// Forbidden is one step that a finding forbids.
type Forbidden struct {
	Step    string `json:"step"`
	Because string `json:"because"`
}

// ForbiddenSteps lists the steps that the findings of a job forbid, in the order of the catalogue.
func ForbiddenSteps(a *diagnose.Assessment) (all []Forbidden) {
	bans := forbid.Of(a.Moments)
	if len(bans) == 0 {
		return nil
	}
	for _, s := range Steps {
		if turning[s.ID] || s.ID == FixAndProve {
			all = append(all, Forbidden{s.ID, because(bans)})
		}
	}
	return all
}

func because(bans []forbid.Ban) string {
	words := make([]string, len(bans))
	for i, b := range bans {
		words[i] = fmt.Sprintf("%s (entry %d)", b.Because, b.Entry)
	}
	return strings.Join(words, "; ")
}

// stopCard is the card of a job in which the engine must not turn.
func stopCard(bans []forbid.Ban) Card {
	c := Card{Step: Find(StopEngine), Minutes: Find(StopEngine).Minutes, Target: string(engine.Whole), Ban: &bans[0]}
	c.Title = "Do not start the engine: " + bans[0].Because
	c.Do = bans[0].Lifts
	c.Why = fmt.Sprintf("Entry %d forbids every step that runs or cranks it. Record what was done, and the job goes on.", bans[0].Entry)
	if len(bans) > 1 {
		c.Why += fmt.Sprintf(" Also: %s.", because(bans[1:]))
	}
	return c
}

// applyBans takes the forbidden steps out of a plan. To end the danger comes first; what can be done with the
// engine off stands beside it.
func (p *Plan) applyBans(bans []forbid.Ban) {
	if len(bans) == 0 {
		return
	}
	switch {
	case p.Next.Closed, p.Next.Step.ID == SignVerdict:
	case p.Next.Worksheet:
		p.Next.Do = "Follow the worksheet with the engine off, and record what was renewed."
		p.Next.Why = "Do not start it before this is done: " + bans[0].Lifts
	default:
		if !p.Next.Turns() && !p.Next.Finished && p.Next.Step.ID != EndUnresolved {
			p.Alternatives = append([]Alternative{{Card: p.Next}}, p.Alternatives...)
		}
		p.Next, p.forced = stopCard(bans), true
	}
	p.Alternatives = slices.DeleteFunc(p.Alternatives, func(alt Alternative) bool { return alt.Card.Turns() })
	p.While = slices.DeleteFunc(p.While, func(m Meanwhile) bool { return m.Card.Turns() })
	p.steps = slices.DeleteFunc(p.steps, Card.Turns)
}
