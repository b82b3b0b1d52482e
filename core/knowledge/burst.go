package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/fault"
)

// Burst states how far the misfire rate of a kind of fault differs from run to run, and from cylinder to cylinder.
type Burst struct {
	// Modes are the modes it applies to. The last row applies to all others.
	Modes fault.Keys
	// Alpha is the first parameter of the beta distribution of one run's rate about the job's rate, above 0. The rate
	// of one run scatters by 1/√Alpha of its mean.
	Alpha  float64
	Source string
}

// The indices of [Bursts].
const (
	BurstContact = iota
	BurstUneven
	BurstSteady
	NumBursts
)

// Bursts lists the rows; the first that covers a mode counts. Misfires come in bursts, so a run of many events is
// worth less than as many independent draws. A contact that opens by shaking or heat misses thirty times in one run
// and nine hundred times in the next; a gap, a crack or a worn winding repeats itself.
var Bursts = [NumBursts]Burst{
	BurstContact: {fault.Keys{fault.AnyConnector, fault.AnyModule, fault.AnyTrigger, fault.AnyStopWire, fault.AnyFeed, fault.AnyGround, fault.AnyPickup, fault.AnySeat,
		fault.WellWater, fault.AnyNoFault}, 0.8,
		"C: the rate of a contact changes with every touch, by more than its mean; judgement"},
	BurstUneven: {fault.Keys{fault.AnyAir, fault.AnyFuel, fault.AnythingElse, fault.BootSpring, fault.LeadOpen, fault.CoilLeadOpen, fault.CoilPrimaryOpen}, 1.5,
		"C: what several cylinders share reaches each of them differently; a break in a part closes and opens; judgement"},
	BurstSteady: {nil, 8, "C: the rate of one run scatters by a third of its mean; judgement"},
}

// BurstOf returns the index into [Bursts] of a fault.
func BurstOf(h *fault.Hypothesis) int {
	if h.IsSet() { // the weakest of a set misfires many times as often as the next
		return BurstContact
	}
	mode := h.Mode.ID
	for i, row := range Bursts[:BurstSteady] {
		if row.Modes.Covers(mode) {
			return i
		}
	}
	return BurstSteady
}

var _ = Register(TableOf[Burst, struct{}]{
	Title: "How far a rate differs from run to run", In: OfFaults, Ships: slices.Clone(Bursts[:]),
	Describe: func(b *Burst) Row {
		of := "All other faults"
		if b.Modes != nil {
			of = modeWords(b.Modes)
		}
		return Row{Of: of, Says: fmt.Sprintf("first parameter of the beta distribution of one run's rate: %g", b.Alpha), Source: b.Source}
	},
})
