package plan

import (
	"maps"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/knowledge"
	"glenmist/core/pattern"
	"glenmist/core/trouble"
)

// Precedence is one rule of the trade about what is done first. The planner weighs minutes and probabilities; these rules
// hold where experience has settled the order.
type Precedence struct {
	// When states in words when the rule holds, First what is done, Before what has to wait.
	When, First, Before string
	Source              string

	// first is the step, if the rule holds and the step has not been made; before reports whether a card has to wait.
	first  func(a *diagnose.Assessment) (Card, bool)
	before func(c *Card) bool
}

// Precedences lists the rules (C: common practice). The first that applies counts.
var Precedences []Precedence

func init() { // its functions come back to it
	Precedences = []Precedence{
		{"after a jolt or a kerb", "push the coil's connector home, look at it, and wiggle it", "exchanges and compression", "C: what a jolt does is shake a contact loose",
			contactFirst, func(c *Card) bool { return len(c.Parts) > 0 || c.Test == evidence.CompressionTest }},
		{"when it fails in the wet", "look at the plug's insulator and at what sits on it", "exchanges, compression and fuel pressure", "C: water finds a crack or a track, and both can be seen",
			insulatorFirst, func(c *Card) bool {
				return len(c.Parts) > 0 || c.Test == evidence.CompressionTest || c.Test == evidence.FuelPressure
			}},
		{"after a coil or lead was moved and the misfire stayed", "look at the plug, if it is the likeliest", "spark test, kilovolts and further exchanges", "C: the plug is the next in the path, and a look tells more than a test",
			plugAfterStayed, func(c *Card) bool {
				return len(c.Parts) > 0 || c.Test == evidence.Spark || c.Test == evidence.Kilovolts
			}},
		{"on a magneto", "try a known-good plug", "stop wire, air gap and spark test", "C: it is a minute's work, and the likeliest",
			plugOnMagneto, func(c *Card) bool {
				return c.Test == evidence.StopWireOff || c.Test == evidence.StopWireRun || c.Test == evidence.AirGapCheck || c.Test == evidence.Spark
			}},
		{"when several cylinders misfire and their bank runs lean", "smoke into the intake, then the fuel pressure", "exchanges", "C: what leans them all is no coil",
			airFirst, func(c *Card) bool { return len(c.Parts) > 0 }},
		{"when a permanent code is all there is", "count the misfires", "exchanges and looks", "C: a permanent code says what was, and not what is",
			countFirst, func(c *Card) bool { return len(c.Parts) > 0 || len(c.Look) > 0 }},
	}
	knowledge.Register(knowledge.TableOf[Precedence, struct{}]{
		Title: "What is done first", In: knowledge.OfWork, Ships: Precedences,
		Describe: func(p *Precedence) knowledge.Row {
			return knowledge.Row{Of: "What is done first " + p.When, Says: p.First + ", before " + p.Before, Source: p.Source}
		},
	})
}

// precedent replaces a step that has to wait by the one that the trade makes first.
func precedent(a *diagnose.Assessment, shop Shop, next Card) Card {
	for _, rule := range Precedences {
		if !rule.before(&next) {
			continue
		}
		if c, ok := rule.first(a); ok && shop.has(c.Step) {
			c.Why = rule.Source[len("C: "):] + ". " + c.Why
			c.Why = capital(c.Why)
			return c
		}
	}
	return next
}

func capital(s string) string {
	if s == "" || s[0] < 'a' || s[0] > 'z' {
		return s
	}
	return string(s[0]-'a'+'A') + s[1:]
}

func contactFirst(a *diagnose.Assessment) (Card, bool) {
	if !slices.Contains(a.Complaint.Signs, evidence.AfterJolt) || !a.NamesCylinder() {
		return Card{}, false
	}
	at := connectorOf(a, a.Worst())
	if at == "" {
		return Card{}, false
	}
	if len(gate.Findings(a, "", at)) == 0 {
		return lookConnector(a, at), true
	}
	wiggle, _ := evidence.FindTest(evidence.Wiggle)
	if place := gate.TestPlace(a, wiggle, a.Worst()); place != "" && !gate.Tested(a, wiggle, place) {
		return check(a, wiggle, place), true
	}
	return Card{}, false
}

func insulatorFirst(a *diagnose.Assessment) (Card, bool) {
	if a.FailsWhen != evidence.Wet || !a.NamesCylinder() {
		return Card{}, false
	}
	return lookAtPlug(a, a.Worst())
}

// lookAtPlug is a look at the plug of a cylinder and what sits on it, if the plug has not been looked at.
func lookAtPlug(a *diagnose.Assessment, c engine.Cylinder) (Card, bool) {
	unseen := slices.DeleteFunc(plugAndLead(a, c), func(s evidence.Seen) bool { return len(gate.Findings(a, s.Tag, "")) > 0 })
	if !slices.ContainsFunc(unseen, func(s evidence.Seen) bool { return s.Tag.Kind() == engine.Plug }) {
		return Card{}, false
	}
	return lookParts(a, unseen), true
}

func plugAfterStayed(a *diagnose.Assessment) (Card, bool) {
	d := a.LastDecode()
	if d == nil || d.Outcome != diagnose.Stayed || d.From.Len() != 1 || len(d.Tags) == 0 || d.Tags[0].Kind() == engine.Plug {
		return Card{}, false
	}
	plug := a.Now.Serving(engine.Plug, d.From.First())
	if lead := a.Suspects[0]; lead.Unit != engine.Plug || lead.Tag != plug {
		return Card{}, false
	}
	return lookAtPlug(a, d.From.First())
}

func plugOnMagneto(a *diagnose.Assessment) (Card, bool) {
	if a.Engine.Ignition != engine.Magneto {
		return Card{}, false
	}
	plug := a.Now.Serving(engine.Plug, a.Worst())
	if !plug.IsOriginal() || moves(a, plug) > 0 || len(gate.Findings(a, plug, "")) > 0 || partP(a, plug) < fault.TwoFaults {
		return Card{}, false
	}
	c := swap(a, plug)
	return c, c.Partner.Place == engine.Bench
}

func airFirst(a *diagnose.Assessment) (Card, bool) {
	p, ok := pattern.Of(a.Engine, a.Moments)
	lean := slices.ContainsFunc(slices.Collect(maps.Values(p.Banks)), func(m trouble.Mixture) bool { return m == trouble.Lean })
	if !ok || !lean || p.Shape != pattern.All && p.Shape != pattern.Several && p.Shape != pattern.Bank {
		return Card{}, false
	}
	for _, id := range []evidence.TestID{evidence.Smoke, evidence.FuelPressure} {
		t, _ := evidence.FindTest(id)
		if !gate.Tested(a, t, engine.Whole) {
			return check(a, t, engine.Whole), true
		}
	}
	return Card{}, false
}

func countFirst(a *diagnose.Assessment) (Card, bool) {
	permanent, other := false, false
	for _, m := range a.Moments {
		switch {
		case m.Entry.Counters() != nil, m.Entry.Watch() != nil:
			return Card{}, false
		case m.Entry.Codes() != nil:
			for _, r := range m.Entry.Codes().Read {
				if _, misfire := r.Code.MisfireCylinder(); misfire || r.Code == trouble.RandomMisfire {
					permanent, other = permanent || r.State == trouble.Permanent, other || r.State != trouble.Permanent
				}
			}
		}
	}
	if !permanent || other {
		return Card{}, false
	}
	return countMisfires(a, RunIn(a)), true
}
