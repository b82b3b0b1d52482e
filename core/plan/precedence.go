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
	"glenmist/core/unit"
)

// Precedence is a rule of common practice: in one situation, one step comes before others, whatever the expected costs
// are.
type Precedence struct {
	// When is the situation, First the step that comes first and Before the steps that wait for it, in words.
	When, First, Before string
	// Why is the reason: a sentence without its full stop.
	Why    string
	Source string

	// step returns the first step; ok is false if the situation does not hold or the step has been made.
	step func(a *diagnose.Assessment) (c Card, ok bool)
	// waits reports whether a card waits for the step.
	waits func(c *Card) bool
}

// Precedences lists the rules (C: common practice). The first that applies counts.
var Precedences []Precedence

func init() { // a variable initializer would refer to itself: the steps preview the plan, which reads this table
	exchange := func(c *Card) bool { return len(c.Parts) > 0 }
	Precedences = []Precedence{
		{"after a jolt or a kerb", "look at the coil's connector, push it home and wiggle it", "exchanges and compression",
			"A jolt shakes contacts loose", "C", contactFirst,
			func(c *Card) bool { return exchange(c) || c.Test == evidence.CompressionTest }},
		{"when it fails in the wet", "look at the plug's insulator and the boot or lead on it", "exchanges, compression and fuel pressure",
			"Water finds cracks and tracks, and both are visible", "C", insulatorFirst,
			func(c *Card) bool {
				return exchange(c) || c.Test == evidence.CompressionTest || c.Test == evidence.FuelPressure
			}},
		{"after a coil or lead was moved and the misfire stayed", "look at the plug, if it is the leading suspect", "spark test, kilovolts and further exchanges",
			"The plug is next in the path of the spark, and a look shows more than a test", "C", plugAfterStayed,
			func(c *Card) bool { return exchange(c) || c.Test == evidence.Spark || c.Test == evidence.Kilovolts }},
		{"on a magneto", "fit a known-good plug", "stop wire, air gap and spark test",
			"The plug is the likeliest fault and takes the least time", "C", plugOnMagneto,
			func(c *Card) bool {
				return c.Test == evidence.StopWireOff || c.Test == evidence.StopWireRun || c.Test == evidence.AirGapCheck || c.Test == evidence.Spark
			}},
		{"when several cylinders misfire and their bank runs lean", "let smoke into the intake, then read the fuel pressure", "exchanges",
			"A coil does not make several cylinders lean", "C", airFirst, exchange},
		{"when a permanent code is the only code", "count the misfires", "exchanges and looks",
			"A permanent code states that it misfired once, not that it does now", "C", countFirst,
			func(c *Card) bool { return exchange(c) || len(c.Look) > 0 }},
	}
	knowledge.Register(knowledge.TableOf[Precedence, struct{}]{
		Title: "Order of steps", In: knowledge.OfWork, Ships: Precedences,
		Describe: func(p *Precedence) knowledge.Row {
			return knowledge.Row{Of: unit.Capital(p.When), Says: p.First + ", before " + p.Before + ": " + unit.Lower(p.Why), Source: p.Source}
		},
	})
}

// applyPrecedence returns the step that comes before next by the first rule that applies, or next itself.
func applyPrecedence(a *diagnose.Assessment, shop Shop, next Card) Card {
	for _, rule := range Precedences {
		if !rule.waits(&next) {
			continue
		}
		if c, ok := rule.step(a); ok && shop.has(c.Step) {
			c.Why = rule.Why + ". " + unit.Capital(c.Why)
			return c
		}
	}
	return next
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

// lookAtPlug is the card of a look at the plug of a cylinder and the boot or lead on it; ok is false if the plug has been
// looked at.
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
