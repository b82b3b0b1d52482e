package fault

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// TwoFaults is the share of misfire jobs with two faults at once (C; judgement: one in
// twenty). Three or more faults are not distinguished from two.
const TwoFaults = 0.05

// Cause states that two faults occur together more often than by chance, because one causes
// the other.
type Cause struct {
	// First and Second select the modes.
	First, Second Key
	// Times is the ratio of the joint probability to that of independent faults, where both
	// serve a common cylinder.
	Times  float64
	Source string
}

// Causes lists the causal pairs known in the trade (C; figures by judgement).
var Causes = []Cause{
	{PlugWornGap, AnyCoil, 8, "C: a wide gap overworks its coil"},
	{PlugWornGap, BootTracked, 3, "C: what the plug does not take goes through the boot"},
	{PlugWornGap, LeadLeaking, 3, "C: likewise through the lead"},
	{PlugWornGap, RotorLeaking, 3, "C: likewise through the rotor"},
	{PlugWornGap, CapTracked, 3, "C: likewise over the cap"},
	{PlugCracked, BootTracked, 10, "C: the boot carries the other half of the track"},
	{PlugCracked, LeadLeaking, 5, "C: likewise the end of the lead"},
	{LeadOpen, AnyCoil, 8, "C: an open lead kills its coil"},
	{CoilLeadOpen, AnyCoil, 5, "C: likewise the coil lead"},
	{WellOil, BootSwollen, 12, "C: oil in the well swells the boot"},
	{WellOil, BootTracked, 4, "C: and carries the spark past it"},
	{WellOil, CoilCracked, 4, "C: and reaches the coil"},
	{WellWater, BootTracked, 4, "C: a wet well tracks"},
	{WellWater, ConnectorCorroded, 3, "C: water stands in both"},
	{AnyBoot, AnyCoil, 3, "C: a boot that leaks, or a spring that does not touch, overworks the coil"},
	{CoilPrimaryShorted, DriverDead, 6, "C: too much current kills the driver"},
	{CompressionRings, PlugOilFouled, 8, "C: oil past the rings fouls the plug"},
	{CompressionValve, PlugOilFouled, 4, "C: likewise past a guide"},
	{InjectorLeaking, PlugCarbonFouled, 6, "C: rich, so sooty"},
	{InjectorLeaking, PlugFuelFouled, 6, "C: rich, so wet"},
	{AnyRotor, CapTowerBurnt, 4, "C: they wear together"},
	{PlugCarbonFouled, AnyCoil, 2, "C: a weak spark leaves soot"},
}

// Together returns the ratio of the joint probability of two faults to that of independent
// faults. It is 0 for two modes of one item, and if one of them is no fault. common is true if
// they serve a common cylinder.
func Together(a, b *Hypothesis, common bool) float64 {
	switch {
	case !a.Pairs(), !b.Pairs(), a.Tag != "" && a.Tag == b.Tag, a.Tag == "" && b.Tag == "" && a.Mode.Unit == b.Mode.Unit && a.Place == b.Place:
		return 0
	case common:
		return causes[a.row][b.row]
	}
	return 1
}

// causes holds [Causes] by catalogue index. The first row that applies counts.
var causes = func() [][]float64 {
	m := make([][]float64, len(Catalogue))
	for i := range Catalogue {
		m[i] = make([]float64, len(Catalogue))
		for k := range Catalogue {
			a, b := &Catalogue[i], &Catalogue[k]
			m[i][k] = 1
			if at := slices.IndexFunc(Causes, func(c Cause) bool {
				return c.First.Covers(a.ID) && c.Second.Covers(b.ID) || c.Second.Covers(a.ID) && c.First.Covers(b.ID)
			}); at >= 0 {
				m[i][k] = Causes[at].Times
			}
		}
	}
	return m
}()

// Pairs reports whether the fault can be one of two independent faults. A set of parts cannot.
func (h *Hypothesis) Pairs() bool {
	return h.Mode.Unit != Else && h.Mode.Unit != NoFault && !h.IsSet()
}

// Serves returns the cylinders that depend on the faulty item at its home position.
func (h *Hypothesis) Serves(home part.Positions) engine.Set {
	if h.Tag != "" {
		return engine.SetOf(home.Feeds(h.Tag)...)
	}
	if h.IsSet() {
		return h.Set
	}
	if h.Pair != 0 {
		return h.Pair
	}
	return h.fixed
}
