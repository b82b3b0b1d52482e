package knowledge

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/fault"
	"glenmist/core/infer"
)

// The bands of misfire rates in which severity is stated.
const (
	BandSlight = iota
	BandNowAndThen
	BandOften
	BandHalf
	BandMostly
	BandDead
	// NumBands is the number of bands.
	NumBands
)

// Bands holds the bounds of the bands, in misfires per firing event in the failing condition.
var Bands = [NumBands + 1]float64{infer.LeastRate, 0.01, 0.05, 0.2, 0.6, 0.9, infer.MostRate}

// bandWords describes the bands.
var bandWords = [NumBands]string{"less than 1 in 100", "up to 1 in 20", "up to 1 in 5", "up to 3 in 5", "up to 9 in 10", "dead"}

// ByBand holds the shares of the bands. They sum to 1.
type ByBand [NumBands]float64

// SeverityRow states the severity of some modes: the share of each band. The first row that
// covers a mode counts. For a mode without a row every band is equally likely.
type SeverityRow struct {
	Modes  fault.Keys
	Shares ByBand
	Source string
}

// RowID returns the row id.
func (s SeverityRow) RowID() string { return "severity:" + s.Modes.String() }

// severityTable holds the log prior of each rate of the grid by mode, relative to equal rates.
// All rates of a band are equally likely.
var severityTable = Register(TableOf[SeverityRow, map[fault.ModeID]*infer.PerRate]{
	Title: "How strongly they misfire", In: OfFaults, Ships: Severities,
	Describe: func(s *SeverityRow) Row {
		r := Row{ID: s.RowID(), Of: "How strongly it misfires: " + modeWords(s.Modes), Source: s.Source}
		var says []string
		for i := range s.Shares {
			says = append(says, fmt.Sprintf("%s: %.3g\u202f%%", bandWords[i], 100*s.Shares[i]))
			r.Figures = append(r.Figures, Figure{Words: bandWords[i], As: Percent, At: &s.Shares[i], Least: LeastChance, Most: 1, Share: true})
		}
		r.Says = strings.Join(says, ", ")
		return r
	},
	Index: func(rows []SeverityRow) map[fault.ModeID]*infer.PerRate {
		of := make([]*infer.PerRate, len(rows))
		for i, row := range rows {
			of[i] = onGrid(row.Shares)
		}
		all, alike := map[fault.ModeID]*infer.PerRate{}, &infer.PerRate{}
		for _, m := range fault.Catalogue {
			all[m.ID] = alike
			if i := slices.IndexFunc(rows, func(s SeverityRow) bool { return s.Modes.Covers(m.ID) }); i >= 0 {
				all[m.ID] = of[i]
			}
		}
		return all
	},
})

// Severity returns the log prior of each rate of the grid for a mode, relative to equal rates.
func (b *Beliefs) Severity(mode fault.ModeID) *infer.PerRate { return severityTable.Of(b)[mode] }

// onGrid spreads the shares of the bands over the rates of the grid.
func onGrid(shares ByBand) *infer.PerRate {
	band := func(rate float64) int {
		k := 0
		for k < len(shares)-1 && rate >= Bands[k+1] {
			k++
		}
		return k
	}
	var in [NumBands]float64
	for _, rate := range infer.Grid {
		in[band(rate)]++
	}
	sum := 0.0
	var s infer.PerRate
	for r, rate := range infer.Grid {
		k := band(rate)
		s[r] = shares[k] / in[k]
		sum += s[r]
	}
	for r := range s {
		s[r] = math.Log(s[r] * infer.Rates / sum)
	}
	return &s
}

// Severities lists the rows (C; judgement).
var Severities = []SeverityRow{
	{fault.Keys{fault.SomethingElse},
		ByBand{BandSlight: 0.13, BandNowAndThen: 0.21, BandOften: 0.28, BandHalf: 0.26, BandMostly: 0.06, BandDead: 0.06},
		"C: a dead cylinder lacks spark, fuel or compression, and what takes those away is in the list"},
	{fault.Keys{fault.AnyLeadOrder},
		ByBand{BandSlight: 0.04, BandNowAndThen: 0.07, BandOften: 0.07, BandHalf: 0.08, BandMostly: 0.09, BandDead: 0.65},
		"C: its spark comes at the wrong time, each time"},
	{fault.Keys{fault.AnyTrigger, fault.AnyDriver},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.22, BandOften: 0.21, BandHalf: 0.19, BandMostly: 0.12, BandDead: 0.19},
		"C: a poor joint misses now and then; a wire that has broken, or a driver that has burnt, is dead"},
	{fault.Keys{fault.AnyConnector, fault.AnyModule, fault.AnyPickup, fault.AnyStopWire, fault.CoilPrimaryOpen},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.25, BandOften: 0.25, BandHalf: 0.21, BandMostly: 0.12, BandDead: 0.10},
		"C: a contact that comes and goes misses now and then, and is seldom dead"},
	{fault.Keys{fault.AnyFeed, fault.AnyGround},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.17, BandOften: 0.17, BandHalf: 0.17, BandMostly: 0.14, BandDead: 0.28},
		"C: a poor one starves the coil, or comes and goes"},
	{shortfall,
		ByBand{BandSlight: 0.04, BandNowAndThen: 0.07, BandOften: 0.08, BandHalf: 0.10, BandMostly: 0.11, BandDead: 0.60},
		"C: where more is asked than the insulation or the winding gives, nearly every spark is lost"},
	{fault.Keys{fault.CoilSecondaryOpen},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.11, BandOften: 0.12, BandHalf: 0.15, BandMostly: 0.14, BandDead: 0.41},
		"C: it jumps inside, and still fires what asks for little"},
	{fault.Keys{fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled, fault.PlugWornGap, fault.PlugWrong,
		fault.CoilWeakLoad, fault.CoilWeakHot, fault.AnyAirGap},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.09, BandOften: 0.10, BandHalf: 0.11, BandMostly: 0.12, BandDead: 0.51},
		"C: so, and it comes by degrees"},
	{fault.Keys{fault.LeadHighResistance},
		ByBand{BandSlight: 0.20, BandNowAndThen: 0.26, BandOften: 0.24, BandHalf: 0.16, BandMostly: 0.07, BandDead: 0.07},
		"C: it burns weaker, and still lights most times"},
	{Breaks,
		ByBand{BandSlight: 0.13, BandNowAndThen: 0.19, BandOften: 0.19, BandHalf: 0.19, BandMostly: 0.16, BandDead: 0.14},
		"C: the spark jumps what it can: a second gap costs some of it"},
	{fault.Keys{fault.InjectorLeaking},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.14, BandOften: 0.16, BandHalf: 0.17, BandMostly: 0.17, BandDead: 0.29},
		"C: too rich, it lights most times unless it floods"},
	{fault.Keys{fault.AnyAir, fault.AnyFuel, fault.AnyInjector},
		ByBand{BandSlight: 0.04, BandNowAndThen: 0.07, BandOften: 0.10, BandHalf: 0.14, BandMostly: 0.17, BandDead: 0.48},
		"C: too lean or too rich to light, it lights seldom"},
	{fault.Keys{fault.AnyCompression, fault.PlugLoose, fault.PlugClosedGap, fault.AnyTiming},
		ByBand{BandSlight: 0.07, BandNowAndThen: 0.14, BandOften: 0.20, BandHalf: 0.26, BandMostly: 0.19, BandDead: 0.14},
		"C: it still lights now and then: a rough cylinder more often than a dead one"},
}
