package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/fault"
)

// Burst is the variation of the misfire rate of a kind of fault between runs and cylinders.
type Burst struct {
	// Modes are the modes it applies to. The last row applies to all others.
	Modes fault.Keys
	// Alpha is the first parameter of the beta distribution of the rate in one run, above 0. Its mean is the rate of the
	// job; the standard deviation is about mean/√Alpha.
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

// Bursts lists the rows; the first that covers a mode counts. Misfires come in bursts, so many events carry less
// information than as many independent draws. A contact that opens by vibration or heat misses thirty times in one run
// and nine hundred times in the next. A gap, a crack or a weak winding misses at a steady rate.
var Bursts = [NumBursts]Burst{
	BurstContact: {fault.Keys{fault.AnyConnector, fault.AnyModule, fault.AnyTrigger, fault.AnyStopWire, fault.AnyFeed, fault.AnyGround, fault.AnyPickup, fault.AnySeat,
		fault.WellWater, fault.AnyNoFault}, 0.8,
		"C: the rate of a contact changes with every touch, by more than its mean; judgement"},
	BurstUneven: {fault.Keys{fault.AnyAir, fault.AnyFuel, fault.AnythingElse, fault.BootSpring, fault.LeadOpen, fault.CoilLeadOpen, fault.CoilPrimaryOpen}, 1.5,
		"C: a common supply reaches the cylinders differently; a break in a part closes and opens; judgement"},
	BurstSteady: {nil, 8, "C: the rate of one run scatters by a third of its mean; judgement"},
}

// BurstOf returns the index into [Bursts] of a fault.
func BurstOf(h *fault.Hypothesis) int {
	if h.IsSet() { // the weakest part of a set misfires much more often than the next
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
	Title: "Variation of the misfire rate between runs", In: OfFaults, Ships: slices.Clone(Bursts[:]),
	Describe: func(b *Burst) Row {
		of := "All other faults"
		if b.Modes != nil {
			of = modeWords(b.Modes)
		}
		return Row{Of: of, Says: fmt.Sprintf("first parameter of the beta distribution of one run's rate: %g", b.Alpha), Source: b.Source}
	},
})
