package fault

import "glenmist/core/part"

// Handling is a fault that work on an item can cause.
type Handling struct {
	Mode ModeID
	// Breaks is the probability, 0 to 1, that handling the item once causes the fault.
	Breaks float64
	Source string
}

// Handlings lists the faults that handling causes (C; judgement: every workshop sees each of them, none in more than
// one job in fifty).
var Handlings = []Handling{
	{ConnectorLoose, 0.006, "C: pushed on and not latched; judgement"},
	{ConnectorCorroded, 0.002, "C: a pin bent or pushed back when it was plugged in; judgement"},
	{SeatNotHome, 0.01, "C: a coil, boot or lead not pressed home; judgement"},
	{BootTorn, 0.004, "C: an old boot that stuck to its plug; judgement"},
	{BootSpring, 0.002, "C: the spring stayed on the plug or was bent; judgement"},
	{LeadOpen, 0.006, "C: pulled by the lead and not by its boot; judgement"},
	{PlugCracked, 0.004, "C: the socket tilted; judgement"},
	{PlugLoose, 0.005, "C: not torqued; judgement"},
	{PlugClosedGap, 0.002, "C: dropped; judgement"},
	{ModulePoorContact, 0.006, "C: a blade bent; judgement"},
	{GroundPoor, 0.002, "C: a ground left off; judgement"},
	{CoilCracked, 0.001, "C: an old case that was pried out; judgement"},
}

// NewPartFaulty is the probability that a new part is faulty (C; judgement).
const NewPartFaulty = 0.015

var breaks = func() map[ModeID]float64 {
	m := map[ModeID]float64{}
	for _, h := range Handlings {
		m[h.Mode] = h.Breaks
	}
	return m
}()

// BrokenByTouch returns the probability that handling the item once causes the fault; 0 if it cannot.
func (m Mode) BrokenByTouch() float64 { return breaks[m.ID] }

// NewPart lists the faults that the new part in can have: those in of that concern the part out, with the new tag. Their
// priors sum to [NewPartFaulty].
func NewPart(out, in part.Tag, of []Hypothesis) (all []Hypothesis) {
	total := 0.0
	for _, h := range of {
		if h.Tag == out {
			total += h.Prior
		}
	}
	for _, h := range of {
		if h.Tag == out {
			h.Tag, h.Prior = in, NewPartFaulty*h.Prior/total
			all = append(all, h)
		}
	}
	return all
}
