package fault

import (
	"glenmist/core/engine"
	"glenmist/core/part"
)

// TwoFaults is the share of misfire jobs that have two faults at once (C;
// judgement: one in twenty). More than two are not told apart from two.
const TwoFaults = 0.05

// Cause states that two faults come together more often than chance has it: one
// brings about the other.
type Cause struct {
	// First and Second are ids of modes or the first parts of them.
	First, Second string
	// Times is how much likelier the two are together, where they serve a cylinder
	// in common, than if they had nothing to do with each other.
	Times  float64
	Source string
}

// Causes lists the pairs of the trade (C; figures by judgement).
var Causes = []Cause{
	{"plug.worn-gap", "coil.breakdown", 8, "C: a wide gap overworks its coil"},
	{"plug.worn-gap", "boot.leaking", 3, "C: what the plug does not take goes through the boot"},
	{"plug.worn-gap", "lead.leaking", 3, "C: likewise through the lead"},
	{"plug.worn-gap", "rotor.leaking", 3, "C: likewise through the rotor"},
	{"plug.worn-gap", "cap.tracked", 3, "C: likewise over the cap"},
	{"plug.cracked", "boot.leaking", 10, "C: the boot carries the other half of the track"},
	{"plug.cracked", "lead.leaking", 5, "C: likewise the end of the lead"},
	{"lead.open", "coil.breakdown", 8, "C: an open lead kills its coil"},
	{"coil-lead.open", "coil.breakdown", 5, "C: likewise the coil lead"},
	{"boot.leaking", "coil.breakdown", 3, "C: oil in the well swells the boot and reaches the coil"},
	{"compression.low", "plug.fouled", 4, "C: oil past rings or guides fouls the plug"},
	{"rotor.leaking", "cap.tower-burnt", 4, "C: they wear together"},
	{"plug.fouled", "coil.breakdown", 2, "C: a weak spark leaves soot"},
}

// Together is how much likelier two faults are at once than by chance: 0 where they
// cannot be, since they are two modes of one item or one of them is none. common says
// that they serve a cylinder in common.
func Together(a, b *Hypothesis, common bool) float64 {
	switch {
	case !a.Pairs(), !b.Pairs(), a.Tag != "" && a.Tag == b.Tag, a.Tag == "" && b.Tag == "" && a.Mode.Unit == b.Mode.Unit && a.Place == b.Place:
		return 0
	case common:
		for i := range Causes {
			c := &Causes[i]
			if a.Mode.is(c.First) && b.Mode.is(c.Second) || a.Mode.is(c.Second) && b.Mode.is(c.First) {
				return c.Times
			}
		}
	}
	return 1
}

// Pairs says whether the fault can be one of two.
func (h *Hypothesis) Pairs() bool { return h.Mode.Unit != Else && h.Mode.Unit != NoFault }

// Serves is the cylinders that depend on what is at fault, where it belongs.
func (h *Hypothesis) Serves(home part.Positions) engine.Set {
	if h.Tag != "" {
		return engine.SetOf(home.Feeds(h.Tag)...)
	}
	if h.Pair != 0 {
		return h.Pair
	}
	return h.fixed
}
