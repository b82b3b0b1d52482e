package fault

import (
	"math"

	"glenmist/core/part"
)

// Age states how the age of a part changes the shares of its faults.
type Age struct {
	// From is the used fraction of the part's life, by distance or by years, whichever is
	// larger. The row applies from there up to the next row of the same modes.
	From float64
	// Modes are the ids or families of the modes; Factor multiplies their shares.
	Modes  Keys
	Factor float64
	Source string
}

var wearing = Keys{PlugWornGap}
var ageing = Keys{AnyCoil, AnyCoilLead, AnyLead, AnyBoot, AnyCap, AnyRotor, PlugCarbonFouled, PlugOilFouled}
var fitting = Keys{PlugWrong, PlugLoose, PlugClosedGap, PlugCracked}

// Ages lists the effect of age (C; judgement). Wear parts fail by wear, all parts fail
// slightly more often when old, and a part fitted recently may have been fitted badly. A part
// of unknown age or life has factor 1.
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

// Aged returns the factor that the age of its part gives to the mode's share; 1 if the age is
// not known.
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

// aged returns that factor for the part of a hypothesis.
func (c Complaint) aged(h *Hypothesis) float64 {
	used, known := c.Used[h.Tag]
	if !known {
		return 1
	}
	return h.Mode.Aged(used)
}

// Wear is the used fraction of the life of each part whose age is known.
type Wear map[part.Tag]float64
