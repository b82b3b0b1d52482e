// Package pattern describes what the misfiring cylinders have in common, what that points to
// and why, and where to look first.
package pattern

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/trouble"
)

// Shape is what the cylinders have in common.
type Shape string

// The shapes.
const (
	None       Shape = "none"
	Unnamed    Shape = "unnamed"    // a misfire that names no cylinder
	One        Shape = "one"        // one cylinder
	CoilPair   Shape = "coil-pair"  // both of one wasted-spark coil
	Companions Shape = "companions" // half the firing order apart, with coils of their own
	CapPair    Shape = "cap-pair"   // next to each other in firing order on a distributor
	InTurn     Shape = "in-turn"    // next to each other in firing order, elsewhere
	Beside     Shape = "beside"     // next to each other in the block
	Bank       Shape = "bank"       // all of one bank
	All        Shape = "all"        // all of them
	Several    Shape = "several"    // several with nothing in common
)

// Row is one pattern with its interpretation. Lean and Rich are added according to the trims.
type Row struct {
	Shape Shape
	// Layouts restricts the row to some layouts; empty means any.
	Layouts []engine.Ignition
	// Mixture is the result of the trims; empty means any.
	Mixture trouble.Mixture
	// Points names the likely causes, the most likely first, and why.
	Points string
	Why    string
	// First is where to look first.
	First  string
	Source string
}

const (
	table3 = "C: layouts of the ignition"
	table4 = "C: complaint"
)

var oneEach = []engine.Ignition{engine.CoilOnPlug, engine.CoilNearPlug}

// Rows lists the patterns. The first row that applies counts.
var Rows = []Row{
	{Unnamed, nil, trouble.Lean, "unmetered air, then fuel pressure", "fuel is being added and no cylinder is named", "smoke test, then fuel pressure", table4},
	{Unnamed, nil, "", "a slight misfire, or one that wanders", "a code that names no cylinder was set by several cylinders, or by few misfires", "the misfire counters of each cylinder", table4},
	{Several, nil, trouble.Lean, "unmetered air, then fuel pressure", "several cylinders misfire and fuel is being added: too much air or too little fuel for all of them", "smoke test, then fuel pressure; no coil is touched before", table4},
	{All, nil, trouble.Lean, "unmetered air, then fuel pressure", "all cylinders misfire and fuel is being added", "smoke test, then fuel pressure; no coil is touched before", table4},
	{Bank, nil, trouble.Lean, "an air leak of that bank, then fuel pressure", "one bank is short of fuel for its air", "smoke test at that bank's intake, then fuel pressure; no coil is touched before", table4},
	{All, nil, trouble.Rich, "too much fuel or too little spark for all", "fuel is being taken away", "fuel pressure, air filter, what feeds all coils", table4},
	{All, []engine.Ignition{engine.Distributor}, "", "coil, coil lead, rotor, pickup, base timing", "all cylinders depend on them", "the coil's lead and the inside of the cap", table3},
	{All, []engine.Ignition{engine.Magneto}, "", "stop wire, plug, air gap, coil", "the stop wire can short the coil at any moment", "a known-good plug, then the stop wire off its coil, with its caution", table3},
	{All, []engine.Ignition{engine.SingleCoil}, "", "plug, lead, coil, pickup or box", "one coil feeds the one plug", "a known-good plug, then the lead", table3},
	{All, nil, "", "fuel, air, what feeds all coils, or a set of worn plugs or leads", "all cylinders share them", "fuel pressure, trims, feed of the coils; the age of the plugs", table3},
	{Bank, nil, trouble.Rich, "fuel or exhaust of that bank", "fuel is being taken away there", "the trims of both banks side by side", table4},
	{Bank, nil, "", "air, fuel or exhaust of that bank, or the feed of its coils", "a bank shares its intake side and its sensor", "trims of both banks, feed of that bank's coils", table3},
	{CoilPair, nil, "", "both branches of that coil, its trigger, then the coil", "the two plugs are in series through the coil: an open in either lead or plug can starve both", "leads and plugs of both cylinders, before the coil", table3},
	{CapPair, nil, "", "cross-fire between two towers of the cap, or a tracked cap", "their towers stand beside each other in the cap", "the inside of the cap, with a lamp", table3},
	{Beside, nil, "", "what two neighbours share: head gasket between them, an intake leak, coolant or oil", "they stand side by side in the block", "compression of both, before any coil", table3},
	{Companions, oneEach, "", "two faults, or a signal that confuses companions", "each has a coil of its own, so the ignition does not join them", "the cam signal and the counters again", table3},
	{Companions, []engine.Ignition{engine.Distributor}, "", "two leads exchanged", "exactly two misfire and the cap does not put them side by side", "the leads against the firing order", table3},
	{InTurn, nil, "", "counts put on the wrong cylinder, or two faults", "the crank signal hardly separates two that fire in turn", "the counters again, on a smooth road", table3},
	{One, oneEach, "", "coil, boot or lead, plug, then injector and compression", "each of them serves one cylinder", "connector and boot, then an exchange of the coil", table3},
	{One, []engine.Ignition{engine.WastedSpark}, "", "its own plug or lead, then injector and compression; the coil last", "its companion runs well on the same coil", "plug and lead of that cylinder", table3},
	{One, []engine.Ignition{engine.Distributor}, "", "its lead, plug or tower, then compression", "what all share works for the others", "its lead and its tower in the cap", table3},
	{One, nil, "", "plug and boot, then coil and compression", "each of them serves one cylinder", "a known-good plug", table3},
	{Several, []engine.Ignition{engine.Distributor}, "", "two leads exchanged, or a tracked cap", "they share the cap and the routing of the leads", "the leads against the firing order, the cap with a lamp", table3},
	{Several, nil, "", "worn plugs all round, or two faults", "nothing joins them", "the age of the plugs, then the worst cylinder alone", table3},
}

// Pattern is what the cylinders of one job have in common.
type Pattern struct {
	Row
	// Cylinders misfire according to codes and counts; Banks have lean or rich trims.
	Cylinders engine.Set
	Banks     map[int]trouble.Mixture
	// Circuits lists the codes to follow first.
	Circuits []trouble.Code
	// Caution is set if the pattern is no proof.
	Caution string
	// ran is true if the engine ran since the last move; otherwise codes alone were read.
	ran bool
}

// Of finds the pattern of the valid entries: those since the last move if there is a run
// since, otherwise all before it. ok is false if nothing was read or counted.
func Of(e engine.Engine, moments []evidence.Moment) (p Pattern, ok bool) {
	p.Banks = map[int]trouble.Mixture{}
	last := -1
	for _, m := range moments {
		if m.Entry.Codes() != nil || m.Entry.Counters() != nil || m.Entry.Watch() != nil {
			last = m.Epoch
		}
	}
	if last < 0 {
		return p, false
	}
	var coded, counted, sound engine.Set
	random := false
	for _, m := range moments {
		switch {
		case m.Entry.Trims() != nil:
			p.mixture(m.Entry.Trims().Banks)
		case m.Epoch != last:
		case m.Entry.Codes() != nil:
			for _, r := range m.Entry.Codes().Read {
				if c, is := r.Code.MisfireCylinder(); is {
					coded |= engine.SetOf(c)
				}
				random = random || r.Code == trouble.RandomMisfire
				if _, _, is := r.Code.Circuit(e); is && !slices.Contains(p.Circuits, r.Code) {
					p.Circuits = append(p.Circuits, r.Code)
				}
				if bank, lean, is := r.Code.Mixture(); is {
					p.Banks[bank] = map[bool]trouble.Mixture{true: trouble.Lean, false: trouble.Rich}[lean]
				}
			}
			if f := m.Entry.Codes().Frame; f != nil {
				p.mixture(f.Trims)
			}
		case m.Entry.Counters() != nil:
			p.ran = true
			counted = misfiring(*m.Entry.Counters())
			sound = e.Everything() &^ counted
		case m.Entry.Watch() != nil:
			p.ran = true
			counted, sound = engine.SetOf(m.Entry.Watch().Cylinders...), 0
		}
	}
	p.Cylinders = coded&^sound | counted
	p.Row = row(e, shape(e, p.Cylinders, random), p.worst())
	if p.Cylinders.Len() == 1 && p.Banks[e.BankOf(p.Cylinders.First())] == trouble.Lean {
		p.Caution = "Lean trims may be the effect of the misfire: unburnt air reaches the sensor."
	}
	return p, true
}

// misfiring returns the cylinders whose counts show a misfire (C; judgement): a count
// significantly above the rest, or at least one in a hundred, and cylinders near the worst.
func misfiring(c evidence.Counters) engine.Set {
	var sick engine.Set
	worst := 0
	all := trouble.Standings(c.Counts, c.Revolutions)
	for _, s := range all {
		if s.Abnormal() || s.Count >= least && (s.RestOf == 0 || s.Rate() >= 0.01) {
			sick |= engine.SetOf(s.Cylinder)
			worst = max(worst, s.Count)
		}
	}
	for _, s := range all {
		if sick != 0 && s.Count >= least && 3*s.Count >= worst {
			sick |= engine.SetOf(s.Cylinder)
		}
	}
	return sick
}

// least is the fewest misfires that count as a sign.
const least = 3

func (p *Pattern) mixture(trims []trouble.Trim) {
	for _, t := range trims {
		if m := t.Mixture(); m != trouble.Even {
			p.Banks[t.Bank] = m
		}
	}
}

// worst is the mixture that is said of the whole.
func (p Pattern) worst() trouble.Mixture {
	for _, m := range []trouble.Mixture{trouble.Lean, trouble.Rich} {
		for _, have := range p.Banks {
			if have == m {
				return m
			}
		}
	}
	return trouble.Even
}

func shape(e engine.Engine, s engine.Set, random bool) Shape {
	first := s.First()
	second := (s &^ engine.SetOf(first)).First()
	mate, paired := e.Companion(first)
	switch {
	case s == 0 && random:
		return Unnamed
	case s == 0:
		return None
	case s == e.Everything():
		return All
	case s.Len() == 1:
		return One
	case s.Len() == 2 && e.Circuit(first) == s:
		return CoilPair
	case s.Len() == 2 && slices.Contains(e.FiringNeighbours(first), second) && e.Ignition == engine.Distributor:
		return CapPair
	case s.Len() == 2 && slices.Contains(e.Neighbours(first), second):
		return Beside
	case s.Len() == 2 && paired && mate == second:
		return Companions
	case e.Banks() == 2 && (s == e.BankSet(1) || s == e.BankSet(2)):
		return Bank
	case s.Len() == 2 && slices.Contains(e.FiringNeighbours(first), second):
		return InTurn
	}
	return Several
}

func row(e engine.Engine, s Shape, m trouble.Mixture) Row {
	for _, r := range Rows {
		if r.Shape == s && (len(r.Layouts) == 0 || slices.Contains(r.Layouts, e.Ignition)) && (r.Mixture == "" || r.Mixture == m) {
			return r
		}
	}
	return Row{Shape: s}
}

// Title returns the pattern in a few words.
func (p Pattern) Title(e engine.Engine) string {
	s := map[Shape]string{
		None: map[bool]string{false: "No misfire code was read", true: "The last run showed no misfire"}[p.ran], Unnamed: "A misfire that names no cylinder", All: "All cylinders",
		CoilPair: "Both cylinders of one coil", Companions: "Two companions", CapPair: "Neighbours in the distributor cap",
		InTurn: "Two that fire one after the other", Beside: "Two neighbours in the block", Several: "Several cylinders",
	}[p.Shape]
	switch p.Shape {
	case One:
		s = "One cylinder"
	case Bank:
		s = fmt.Sprintf("All of bank %d", e.BankOf(p.Cylinders.First()))
	case All:
		if e.Cylinders == 1 {
			s = "Its only cylinder"
		}
	}
	if p.Shape != None && p.Shape != Unnamed && p.Shape != All {
		s += ": " + strings.TrimPrefix(strings.TrimPrefix(p.Cylinders.String(), "cylinders "), "cylinder ")
	}
	for bank := 1; bank <= 2; bank++ {
		if m, ok := p.Banks[bank]; ok {
			s += fmt.Sprintf(", bank %d %s", bank, m)
		}
	}
	return s
}
