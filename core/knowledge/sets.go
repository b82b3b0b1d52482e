package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/fault"
	"glenmist/core/unit"
)

// InnocentSet states how often the parts of a kind are all found in a state on an engine whose misfire has another cause.
// Sets age alike: six worn plugs are no six witnesses.
type InnocentSet struct {
	Mode fault.ModeID
	// P is the probability, 0 to 1.
	P      float64
	Source string
}

// InnocentSets lists the rows (C; judgement).
var InnocentSets = []InnocentSet{
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

// Innocent returns the row's probability, or 0 for a mode that has none.
func Innocent(mode fault.ModeID) float64 {
	if i := slices.IndexFunc(InnocentSets, func(s InnocentSet) bool { return s.Mode == mode }); i >= 0 {
		return InnocentSets[i].P
	}
	return 0
}

var _ = Register(TableOf[InnocentSet, struct{}]{
	Title: "Sets that are no cause", In: OfFaults, Ships: InnocentSets,
	Describe: func(s *InnocentSet) Row {
		return Row{Of: "A whole set: " + modeWords(fault.Keys{s.Mode}), Says: fmt.Sprintf("found so while something else is at fault: %.3g\u202f%%", 100*s.P), Source: s.Source}
	},
})

var _ = Register(TableOf[fault.SetCause, struct{}]{
	Title: "Sets of parts at fault together", In: OfFaults, Ships: fault.SetCauses,
	Describe: func(s *fault.SetCause) Row {
		says := fmt.Sprintf("%.3g\u202f%% of jobs", 100*s.Share)
		if s.Some {
			says += "; as often only those that misfire"
		}
		return Row{Of: unit.Capital(s.Words), Says: says, Source: s.Source}
	},
})

var _ = Register(TableOf[fault.Handling, struct{}]{
	Title: "What handling leaves behind", In: OfFaults, Ships: fault.Handlings,
	Describe: func(h *fault.Handling) Row {
		return Row{Of: "Handled: " + modeWords(fault.Keys{h.Mode}), Says: fmt.Sprintf("left behind %.2g\u202f%% of the times", 100*h.Breaks), Source: h.Source}
	},
})
