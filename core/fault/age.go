package fault

import (
	"math"

	"glenmist/core/part"
)

// Age is how the age of a part shifts what can be wrong with it.
type Age struct {
	// From is the share of its life, by distance or by years, whichever is further on,
	// from which the row holds; it holds up to the next row of the same modes.
	From float64
	// Modes are ids or the first parts of them; Factor multiplies their shares.
	Modes  Keys
	Factor float64
	Source string
}

var wearing = Keys{PlugWornGap}
var ageing = Keys{AnyCoil, AnyCoilLead, AnyLead, AnyBoot, AnyCap, AnyRotor, PlugCarbonFouled, PlugOilFouled}
var fitting = Keys{PlugWrong, PlugLoose, PlugClosedGap, PlugCracked}

// Ages is what is believed of age (C; judgement: wear parts fail by wear, all parts
// fail a little more often when old, and what was fitted lately was perhaps fitted
// badly). A part whose age or life is not known is shifted by nothing.
var Ages = []Age{
	{0, wearing, 0.15, "C: a new plug is not worn; judgement"},
	{0.3, wearing, 0.5, "C; judgement"},
	{0.7, wearing, 1, "C; judgement"},
	{1, wearing, 2.5, "C: past its distance or years; judgement"},
	{1.5, wearing, 4, "C; judgement"},
	{0, ageing, 0.8, "C; judgement"},
	{0.5, ageing, 1, "C; judgement"},
	{1, ageing, 1.5, "C: insulation ages; judgement"},
	{0, fitting, 3, "C: fitted lately: dropped, cross-threaded, not torqued, a copy; judgement"},
	{0.1, fitting, 1, "C; judgement"},
}

// Aged is what the age of its part makes of a mode's share: 1 where it is not known.
func (m Mode) Aged(used float64) float64 {
	f := 1.0
	if math.IsNaN(used) {
		return f
	}
	for _, row := range Ages {
		if used >= row.From && row.Modes.Covers(m.ID) {
			f = row.Factor
		}
	}
	return f
}

// aged is that for the part of a hypothesis.
func (c Complaint) aged(h *Hypothesis) float64 {
	used, known := c.Used[h.Tag]
	if !known {
		return 1
	}
	return h.Mode.Aged(used)
}

// Wear is how much of the life of each part has passed, where that is known.
type Wear map[part.Tag]float64
