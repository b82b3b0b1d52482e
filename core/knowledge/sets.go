package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/fault"
	"glenmist/core/unit"
)

// CoincidentSet states how often a whole set is in a faulty state while the misfire has another cause. Parts of a set
// age alike, so six worn plugs are not six independent observations.
type CoincidentSet struct {
	Mode fault.ModeID
	// P is the probability of that, 0 to 1.
	P      float64
	Source string
}

// CoincidentSets lists the rows, for the modes of [fault.SetCauses] (C; judgement).
var CoincidentSets = []CoincidentSet{
	{fault.PlugWornGap, 0.12, "C: plugs past their distance run on most engines that misfire for another reason; judgement"},
	{fault.PlugWrong, 0.02, "C: many engines run on another kind; judgement"},
	{fault.PlugClosedGap, 0.005, "C; judgement"},
	{fault.PlugLoose, 0.004, "C; judgement"},
	{fault.LeadHighResistance, 0.05, "C: old leads read high and still fire; judgement"},
	{fault.LeadLeaking, 0.03, "C; judgement"},
	{fault.BootTracked, 0.03, "C: boots look aged long before they track; judgement"},
	{fault.CoilWeakLoad, 0.01, "C; judgement"},
	{fault.CoilCracked, 0.01, "C: hairlines in old cases; judgement"},
}

// Coincident returns the probability of a mode's row, or 0 if it has none.
func Coincident(mode fault.ModeID) float64 {
	if i := slices.IndexFunc(CoincidentSets, func(s CoincidentSet) bool { return s.Mode == mode }); i >= 0 {
		return CoincidentSets[i].P
	}
	return 0
}

var _ = Register(TableOf[CoincidentSet, struct{}]{
	Title: "Sets found faulty while something else is the cause", In: OfFaults, Ships: CoincidentSets,
	Describe: func(s *CoincidentSet) Row {
		return Row{Of: "A whole set: " + modeWords(fault.Keys{s.Mode}), Says: fmt.Sprintf("found so with another cause of the misfire: %.3g\u202f%%", 100*s.P), Source: s.Source}
	},
})

var _ = Register(TableOf[fault.SetCause, struct{}]{
	Title: "Faulty sets of parts", In: OfFaults, Ships: fault.SetCauses,
	Describe: func(s *fault.SetCause) Row {
		says := fmt.Sprintf("%.3g\u202f%% of jobs", 100*s.Share)
		if s.CanBePartial {
			says += "; in half of them only the misfiring parts are faulty"
		}
		return Row{Of: unit.Capital(s.Words), Says: says, Source: s.Source}
	},
})

var _ = Register(TableOf[fault.Handling, struct{}]{
	Title: "Faults caused by handling", In: OfFaults, Ships: fault.Handlings,
	Describe: func(h *fault.Handling) Row {
		return Row{Of: "Handled: " + modeWords(fault.Keys{h.Mode}), Says: fmt.Sprintf("caused in %.2g\u202f%% of the times", 100*h.Breaks), Source: h.Source}
	},
})
