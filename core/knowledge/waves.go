package knowledge

import (
	"fmt"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// The weighed figures of a capture: firing kilovolts, the range of the peaks, missed sparks,
// burn time, spark line voltage, its slope, ringing.
const (
	WaveFiring = iota
	WaveSpread
	WaveMissed
	WaveBurn
	WaveLine
	WaveSlope
	WaveRinging
	// WaveFigures is the number of figures.
	WaveFigures
)

// waveFigureWords names the figures.
var waveFigureWords = [WaveFigures]string{"peak", "lowest to highest", "sparks missed", "burn", "line", "slope", "ringing"}

// WaveID identifies a shape.
type WaveID string

// The shapes.
const (
	WaveInLine           WaveID = "in-line"
	WaveWideGap          WaveID = "wide-gap"
	WaveSeriesResistance WaveID = "series-resistance"
	WaveSeriesGap        WaveID = "series-gap"
	WaveLean             WaveID = "lean"
	WaveShunt            WaveID = "shunt"
	WaveSmallGap         WaveID = "small-gap"
	WaveLittleCharge     WaveID = "little-charge"
	WaveFlashover        WaveID = "flashover"
	WaveJumps            WaveID = "jumps"
	WaveLittleEnergy     WaveID = "little-energy"
	WaveOpen             WaveID = "open"
	WaveNoBurn           WaveID = "no-burn"
	WaveNoRinging        WaveID = "no-ringing"
	WaveMissing          WaveID = "missing"
)

// Wave is one shape of a cylinder's events in a capture, relative to siblings of the same
// polarity. Figures are logarithms of ratios. Missed sparks are relative to a share of one in
// fifty. The slope is the difference per millisecond divided by the siblings' spark line
// voltage.
type Wave struct {
	ID     WaveID
	Words  string
	Answer evidence.ResultID
	// Silent is the share of cylinders with no event in the whole capture.
	Silent  float64
	Figures [WaveFigures]NormalComponent
	// Rises is the probability of each answer of the snap test: the kilovolts rise as much as
	// the others', more, or less, or its sparks fail.
	Rises  Answers
	Source string
}

// waves holds the shapes as rows of the measure of a capture.
type waves struct {
	shapes  []Wave
	numbers []*NumberRow
}

var waveTable = Register(TableOf[Wave, waves]{
	Title: "Captures: what each shape looks like", In: OfReadings, Ships: Waves,
	Describe: func(w *Wave) Row {
		var says []string
		for k, n := range w.Figures {
			if k == WaveSlope {
				says = append(says, fmt.Sprintf("%s %+.3g a ms, give or take %.3g", waveFigureWords[k], n.Centre, n.Spread))
			} else {
				says = append(says, waveFigureWords[k]+" "+n.timesExpected())
			}
		}
		return Row{Of: "A capture that shows " + w.Words, Says: "against the others: " + strings.Join(says, "; "), Source: w.Source}
	},
	Index: wavesOf,
})

func wavesOf(rows []Wave) waves {
	w := waves{shapes: rows}
	for i := range rows {
		w.numbers = append(w.numbers, &NumberRow{Measure: evidence.KVWave, Answer: rows[i].Answer, Over: rows[i].Silent, Figures: rows[i].Figures[:], Source: rows[i].Source})
	}
	return w
}

// WaveChance is how often a capture shows each shape, for some modes; no modes means any other fault, and none.
type WaveChance struct {
	Modes  fault.Keys
	Shapes Chances[WaveID]
	Source string
}

// RowID returns the row id.
func (c WaveChance) RowID() string { return "wave:" + orOther(c.Modes) }

// waveChanceTable holds the probabilities by mode, in the order of [Waves]; "" is any other
// fault, and none.
var waveChanceTable = Register(TableOf[WaveChance, map[fault.ModeID][]float64]{
	Title: "Captures: which faults show which shape", In: OfReadings, Ships: WaveChances,
	Describe: func(c *WaveChance) Row {
		return Row{ID: c.RowID(), Of: "A capture, when " + whenAtFault(c.Modes), Says: c.Shapes.says(waveWords, 0.02), Source: c.Source, Figures: c.Shapes.figures(waveWords)}
	},
	Copy: func(c *WaveChance) { copyChances(&c.Shapes) },
	Index: func(rows []WaveChance) map[fault.ModeID][]float64 {
		order := make([]WaveID, len(Waves))
		for i, w := range Waves {
			order[i] = w.ID
		}
		m := map[fault.ModeID][]float64{}
		for _, row := range rows {
			p := row.Shapes.In(order)
			if row.Modes == nil {
				m[""] = p
			}
			for _, mode := range fault.Catalogue {
				if m[mode.ID] == nil && (row.Modes == nil || row.Modes.Covers(mode.ID)) {
					m[mode.ID] = p
				}
			}
		}
		return m
	},
})

func waveWords(id WaveID) string {
	for _, w := range Waves {
		if w.ID == id {
			return w.Words
		}
	}
	return string(id)
}

// Shapes returns the shapes of a capture. The first is a sound cylinder.
func (b *Beliefs) Shapes() []Wave { return waveTable.Of(b).shapes }

// WaveChances returns the probability of each shape, in the order of [Beliefs.Shapes], for a
// mode; "" is any other fault, and none.
func (b *Beliefs) WaveChances(mode fault.ModeID) []float64 { return waveChanceTable.Of(b)[mode] }

// Waves lists the shapes (C; judgement). The first is a sound cylinder.
var Waves = []Wave{
	{WaveInLine, "nothing that stands out", evidence.InLine, 0.0002,
		[WaveFigures]NormalComponent{WaveFiring: {0, 0.12}, WaveSpread: {0.3, 0.14}, WaveMissed: {0, 0.3}, WaveBurn: {0, 0.15},
			WaveLine: {0, 0.1}, WaveSlope: {0, 0.15}, WaveRinging: {0, 0.25}},
		Answers{{evidence.RisesAlike, 0.915}, {evidence.RisesMore, 0.04}, {evidence.RisesLess, 0.04}, {evidence.FailsOnSnap, 0.005}},
		"C: cylinders within some 3 kV"},
	{WaveWideGap, "a wide gap", evidence.High, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {0.5, 0.25}, WaveSpread: {0.35, 0.3}, WaveMissed: {0.3, 0.7},
			WaveBurn: {-0.3, 0.3}, WaveLine: {0.35, 0.25}, WaveSlope: {0, 0.2}, WaveRinging: {0, 0.3}},
		Answers{{evidence.RisesAlike, 0.352}, {evidence.RisesMore, 0.484}, {evidence.RisesLess, 0.044}, {evidence.FailsOnSnap, 0.12}},
		"C: asks for more at every spark and burns shorter, at a higher line"},
	{WaveSeriesResistance, "resistance in series", evidence.High, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {0.4, 0.35}, WaveSpread: {0.4, 0.35}, WaveMissed: {0.3, 0.7},
			WaveBurn: {-0.4, 0.4}, WaveLine: {0.3, 0.35}, WaveSlope: {-2, 2}, WaveRinging: {-0.2, 0.4}},
		Answers{{evidence.RisesAlike, 0.36}, {evidence.RisesMore, 0.495}, {evidence.RisesLess, 0.045}, {evidence.FailsOnSnap, 0.1}},
		"C: the spark line falls steeply"},
	{WaveSeriesGap, "a gap in series", evidence.High, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {0.8, 0.35}, WaveSpread: {0.45, 0.35}, WaveMissed: {0.6, 1},
			WaveBurn: {-0.25, 0.35}, WaveLine: {0.1, 0.2}, WaveSlope: {-0.05, 0.25}, WaveRinging: {0, 0.35}},
		Answers{{evidence.RisesAlike, 0.36}, {evidence.RisesMore, 0.495}, {evidence.RisesLess, 0.045}, {evidence.FailsOnSnap, 0.1}},
		"C: an open lead is a second gap"},
	{WaveLean, "a lean or turbulent charge", evidence.High, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {0.28, 0.2}, WaveSpread: {0.4, 0.3}, WaveMissed: {0.2, 0.6},
			WaveBurn: {-0.3, 0.35}, WaveLine: {0.05, 0.15}, WaveSlope: {0.15, 0.25}, WaveRinging: {0, 0.3}},
		Answers{{evidence.RisesAlike, 0.768}, {evidence.RisesMore, 0.144}, {evidence.RisesLess, 0.048}, {evidence.FailsOnSnap, 0.04}},
		"C: the line rises or is ragged, and is short"},
	{WaveShunt, "a shunt across the gap", evidence.Low, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {-0.5, 0.4}, WaveSpread: {0.4, 0.3}, WaveMissed: {0.5, 1}, WaveBurn: {-0.4, 0.7},
			WaveLine: {-0.1, 0.2}, WaveSlope: {0, 0.3}, WaveRinging: {-0.2, 0.35}},
		Answers{{evidence.RisesAlike, 0.374}, {evidence.RisesMore, 0.038}, {evidence.RisesLess, 0.338}, {evidence.FailsOnSnap, 0.25}},
		"C: what is fouled leaks before it fires, and takes of the energy"},
	{WaveSmallGap, "a small gap", evidence.Low, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {-0.7, 0.35}, WaveSpread: {0.3, 0.3}, WaveMissed: {0.1, 0.5},
			WaveBurn: {0.2, 0.25}, WaveLine: {-0.25, 0.15}, WaveSlope: {0, 0.2}, WaveRinging: {0, 0.3}},
		Answers{{evidence.RisesAlike, 0.792}, {evidence.RisesMore, 0.099}, {evidence.RisesLess, 0.099}, {evidence.FailsOnSnap, 0.01}},
		"C: one low, steady, long burn"},
	{WaveLittleCharge, "little charge", evidence.Low, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {-0.45, 0.25}, WaveSpread: {0.3, 0.16}, WaveMissed: {0.1, 0.4},
			WaveBurn: {0.08, 0.18}, WaveLine: {-0.03, 0.1}, WaveSlope: {0, 0.15}, WaveRinging: {0, 0.25}},
		Answers{{evidence.RisesAlike, 0.343}, {evidence.RisesMore, 0.029}, {evidence.RisesLess, 0.608}, {evidence.FailsOnSnap, 0.02}},
		"C: little charge needs little"},
	{WaveFlashover, "flashes over to ground", evidence.Low, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {-0.4, 0.4}, WaveSpread: {0.5, 0.3}, WaveMissed: {0.2, 0.6},
			WaveBurn: {0.3, 0.25}, WaveLine: {-0.35, 0.15}, WaveSlope: {0.05, 0.2}, WaveRinging: {0, 0.3}},
		Answers{{evidence.RisesAlike, 0.336}, {evidence.RisesMore, 0.048}, {evidence.RisesLess, 0.576}, {evidence.FailsOnSnap, 0.04}},
		"C: it caps the peak, with a longer, flatter line"},
	{WaveJumps, "jumps from event to event", evidence.Jumping, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {-0.1, 0.3}, WaveSpread: {1.15, 0.45}, WaveMissed: {0.3, 0.8},
			WaveBurn: {0.05, 0.25}, WaveLine: {-0.1, 0.18}, WaveSlope: {0, 0.2}, WaveRinging: {0, 0.3}},
		Answers{{evidence.RisesAlike, 0.332}, {evidence.RisesMore, 0.048}, {evidence.RisesLess, 0.57}, {evidence.FailsOnSnap, 0.05}},
		"C: a path that should not be there"},
	{WaveLittleEnergy, "little energy", evidence.Low, 0.02,
		[WaveFigures]NormalComponent{WaveFiring: {-0.1, 0.4}, WaveSpread: {0.35, 0.35}, WaveMissed: {1, 1.4}, WaveBurn: {-1, 0.6},
			WaveLine: {-0.1, 0.2}, WaveSlope: {0.8, 2}, WaveRinging: {-0.1, 0.4}},
		Answers{{evidence.RisesAlike, 0.27}, {evidence.RisesMore, 0.03}, {evidence.RisesLess, 0.3}, {evidence.FailsOnSnap, 0.4}},
		"C: the line is short, and rises: little energy is left"},
	{WaveOpen, "as high as the coil gives, and no arc", evidence.High, 0.002,
		[WaveFigures]NormalComponent{WaveFiring: {0.9, 0.4}, WaveSpread: {0.3, 0.4}, WaveMissed: {3.2, 1}, WaveBurn: {-0.9, 0.6},
			WaveLine: {0.2, 0.5}, WaveSlope: {0, 1}, WaveRinging: {0, 0.6}},
		Answers{{evidence.RisesAlike, 0.315}, {evidence.RisesMore, 0.035}, {evidence.RisesLess, 0.35}, {evidence.FailsOnSnap, 0.3}},
		"C: an open circuit or a gap too wide"},
	{WaveNoBurn, "little, and no arc", evidence.Low, 0.1,
		[WaveFigures]NormalComponent{WaveFiring: {-0.3, 0.5}, WaveSpread: {0.4, 0.4}, WaveMissed: {3.2, 1}, WaveBurn: {-1, 1},
			WaveLine: {-0.1, 0.4}, WaveSlope: {0.8, 2}, WaveRinging: {-0.1, 0.6}},
		Answers{{evidence.RisesAlike, 0.25}, {evidence.RisesMore, 0.025}, {evidence.RisesLess, 0.225}, {evidence.FailsOnSnap, 0.5}},
		"C: what is needed is more than there is"},
	{WaveNoRinging, "hardly any ringing", evidence.Low, 0.02,
		[WaveFigures]NormalComponent{WaveFiring: {-0.4, 0.5}, WaveSpread: {0.3, 0.3}, WaveMissed: {1, 1.4}, WaveBurn: {-0.6, 0.7},
			WaveLine: {0, 0.25}, WaveSlope: {0, 0.4}, WaveRinging: {-1.3, 0.5}},
		Answers{{evidence.RisesAlike, 0.27}, {evidence.RisesMore, 0.03}, {evidence.RisesLess, 0.3}, {evidence.FailsOnSnap, 0.4}},
		"C: no ringing: shorted turns"},
	{WaveMissing, "sparks missing", evidence.Missing, 0.35,
		[WaveFigures]NormalComponent{WaveFiring: {-0.05, 0.3}, WaveSpread: {0.3, 0.3}, WaveMissed: {2.6, 1.2},
			WaveBurn: {-0.1, 0.3}, WaveLine: {0, 0.15}, WaveSlope: {0, 0.2}, WaveRinging: {-0.1, 0.4}},
		Answers{{evidence.RisesAlike, 0.68}, {evidence.RisesMore, 0.064}, {evidence.RisesLess, 0.056}, {evidence.FailsOnSnap, 0.2}},
		"C: no primary current, no event at all"},
}

// WaveChances lists the rows: what the trade says, corrected by [ShareFits].
var WaveChances = fittedWaveChances(tradeWaveChances)

// tradeWaveChances lists the rows (C; judgement).
var tradeWaveChances = []WaveChance{
	{fault.Keys{fault.PlugWornGap}, Chances[WaveID]{
		{WaveInLine, 0.16}, {WaveWideGap, 0.58}, {WaveSeriesResistance, 0.02}, {WaveSeriesGap, 0.05}, {WaveLean, 0.03},
		{WaveShunt, 0.005}, {WaveSmallGap, 0.005}, {WaveLittleCharge, 0.005}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.07}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: one high, steady"},
	{fault.Keys{fault.PlugClosedGap}, Chances[WaveID]{
		{WaveInLine, 0.12}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.005}, {WaveSeriesGap, 0.005}, {WaveLean, 0.005},
		{WaveShunt, 0.05}, {WaveSmallGap, 0.61}, {WaveLittleCharge, 0.1}, {WaveFlashover, 0.05}, {WaveJumps, 0.02},
		{WaveLittleEnergy, 0.005}, {WaveOpen, 0.005}, {WaveNoBurn, 0.005}, {WaveNoRinging, 0.005}, {WaveMissing, 0.005},
	}, "C: one low, steady"},
	{fault.Keys{fault.PlugWrong}, Chances[WaveID]{
		{WaveInLine, 0.31}, {WaveWideGap, 0.29}, {WaveSeriesResistance, 0.02}, {WaveSeriesGap, 0.02}, {WaveLean, 0.01},
		{WaveShunt, 0.18}, {WaveSmallGap, 0.05}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.02}, {WaveOpen, 0.02}, {WaveNoBurn, 0.02}, {WaveNoRinging, 0.005}, {WaveMissing, 0.005},
	}, "C: a copy burns away, one too cold fouls"},
	{fault.Keys{fault.PlugLoose}, Chances[WaveID]{
		{WaveInLine, 0.36}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.03},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.04}, {WaveLittleCharge, 0.44}, {WaveFlashover, 0.03}, {WaveJumps, 0.02},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.005}, {WaveNoRinging, 0.005}, {WaveMissing, 0.005},
	}, "C: less charge"},
	{fault.Keys{fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled}, Chances[WaveID]{
		{WaveInLine, 0.14}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.36}, {WaveSmallGap, 0.04}, {WaveLittleCharge, 0.03}, {WaveFlashover, 0.03}, {WaveJumps, 0.06},
		{WaveLittleEnergy, 0.12}, {WaveOpen, 0.01}, {WaveNoBurn, 0.14}, {WaveNoRinging, 0.01}, {WaveMissing, 0.02},
	}, "C: one low, steady"},
	{fault.Keys{fault.PlugCracked}, Chances[WaveID]{
		{WaveInLine, 0.2}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.05}, {WaveSmallGap, 0.02}, {WaveLittleCharge, 0.04}, {WaveFlashover, 0.35}, {WaveJumps, 0.26},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: it leaks inside its own shell"},
	{fault.Keys{fault.LeadHighResistance}, Chances[WaveID]{
		{WaveInLine, 0.14}, {WaveWideGap, 0.05}, {WaveSeriesResistance, 0.41}, {WaveSeriesGap, 0.15}, {WaveLean, 0.01},
		{WaveShunt, 0.01}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.02}, {WaveJumps, 0.08},
		{WaveLittleEnergy, 0.02}, {WaveOpen, 0.06}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.015},
	}, "C: resistance in series"},
	{fault.Keys{fault.LeadOpen}, Chances[WaveID]{
		{WaveInLine, 0.1}, {WaveWideGap, 0.04}, {WaveSeriesResistance, 0.26}, {WaveSeriesGap, 0.22}, {WaveLean, 0.01},
		{WaveShunt, 0.01}, {WaveSmallGap, 0.005}, {WaveLittleCharge, 0.005}, {WaveFlashover, 0.02}, {WaveJumps, 0.1},
		{WaveLittleEnergy, 0.02}, {WaveOpen, 0.18}, {WaveNoBurn, 0.015}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: a second gap, or an open circuit"},
	{fault.Keys{fault.CoilLeadOpen, fault.BootSpring, fault.RotorWorn, fault.CapTowerBurnt}, Chances[WaveID]{
		{WaveInLine, 0.13}, {WaveWideGap, 0.06}, {WaveSeriesResistance, 0.08}, {WaveSeriesGap, 0.44}, {WaveLean, 0.01},
		{WaveShunt, 0.01}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.02}, {WaveJumps, 0.1},
		{WaveLittleEnergy, 0.02}, {WaveOpen, 0.08}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.015},
	}, "C: a gap in series"},
	{fault.Keys{fault.AnyBoot, fault.LeadLeaking, fault.CoilLeadLeaking, fault.AnyCap, fault.AnyRotor, fault.AnyWell,
		fault.AnySeat}, Chances[WaveID]{
		{WaveInLine, 0.21}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.03}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.02}, {WaveLittleCharge, 0.04}, {WaveFlashover, 0.33}, {WaveJumps, 0.28},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: a path that should not be there"},
	{fault.Keys{fault.CoilCracked}, Chances[WaveID]{
		{WaveInLine, 0.25}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.02}, {WaveLittleCharge, 0.03}, {WaveFlashover, 0.32}, {WaveJumps, 0.24},
		{WaveLittleEnergy, 0.04}, {WaveOpen, 0.005}, {WaveNoBurn, 0.02}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: tracked inside or over its case"},
	{fault.Keys{fault.CoilPrimaryShorted, fault.CoilSecondaryShorted}, Chances[WaveID]{
		{WaveInLine, 0.14}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.1}, {WaveOpen, 0.01}, {WaveNoBurn, 0.07}, {WaveNoRinging, 0.55}, {WaveMissing, 0.01},
	}, "C: no ringing"},
	{fault.Keys{fault.CoilSecondaryOpen}, Chances[WaveID]{
		{WaveInLine, 0.17}, {WaveWideGap, 0.02}, {WaveSeriesResistance, 0.03}, {WaveSeriesGap, 0.06}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.02}, {WaveJumps, 0.08},
		{WaveLittleEnergy, 0.25}, {WaveOpen, 0.02}, {WaveNoBurn, 0.25}, {WaveNoRinging, 0.02}, {WaveMissing, 0.03},
	}, "C: it jumps inside, and little is left"},
	{fault.Keys{fault.CoilWeakHot, fault.CoilWeakLoad}, Chances[WaveID]{
		{WaveInLine, 0.42}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.34}, {WaveOpen, 0.01}, {WaveNoBurn, 0.08}, {WaveNoRinging, 0.01}, {WaveMissing, 0.02},
	}, "C: enough at idle, and little to spare"},
	{fault.Keys{fault.AnyFeed, fault.AnyGround, fault.AnyAirGap, fault.AnyModule}, Chances[WaveID]{
		{WaveInLine, 0.32}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.01}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.24}, {WaveOpen, 0.01}, {WaveNoBurn, 0.07}, {WaveNoRinging, 0.01}, {WaveMissing, 0.23},
	}, "C: fewer volts, or none"},
	{fault.Keys{fault.CoilPrimaryOpen, fault.AnyConnector, fault.AnyTrigger, fault.AnyDriver, fault.AnyPickup, fault.AnyStopWire},
		Chances[WaveID]{
			{WaveInLine, 0.36}, {WaveWideGap, 0.005}, {WaveSeriesResistance, 0.005}, {WaveSeriesGap, 0.01}, {WaveLean, 0.005},
			{WaveShunt, 0.005}, {WaveSmallGap, 0.005}, {WaveLittleCharge, 0.005}, {WaveFlashover, 0.005}, {WaveJumps, 0.02},
			{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.02}, {WaveNoRinging, 0.005}, {WaveMissing, 0.535},
		}, "C: no primary current, no event"},
	{fault.Keys{fault.AnyCompression}, Chances[WaveID]{
		{WaveInLine, 0.19}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.005}, {WaveSeriesGap, 0.005}, {WaveLean, 0.01},
		{WaveShunt, 0.02}, {WaveSmallGap, 0.04}, {WaveLittleCharge, 0.63}, {WaveFlashover, 0.03}, {WaveJumps, 0.02},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.01},
	}, "C: little charge needs little"},
	{fault.Keys{fault.InjectorLeaking}, Chances[WaveID]{
		{WaveInLine, 0.61}, {WaveWideGap, 0.01}, {WaveSeriesResistance, 0.005}, {WaveSeriesGap, 0.01}, {WaveLean, 0.02},
		{WaveShunt, 0.05}, {WaveSmallGap, 0.03}, {WaveLittleCharge, 0.16}, {WaveFlashover, 0.03}, {WaveJumps, 0.04},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.01}, {WaveNoRinging, 0.005}, {WaveMissing, 0.005},
	}, "C: rich needs less"},
	{fault.Keys{fault.AnyInjector, fault.AnyAir, fault.AnyFuel}, Chances[WaveID]{
		{WaveInLine, 0.42}, {WaveWideGap, 0.07}, {WaveSeriesResistance, 0.01}, {WaveSeriesGap, 0.03}, {WaveLean, 0.37},
		{WaveShunt, 0.01}, {WaveSmallGap, 0.01}, {WaveLittleCharge, 0.01}, {WaveFlashover, 0.01}, {WaveJumps, 0.03},
		{WaveLittleEnergy, 0.01}, {WaveOpen, 0.005}, {WaveNoBurn, 0.005}, {WaveNoRinging, 0.005}, {WaveMissing, 0.005},
	}, "C: lean needs more"},
	{nil, Chances[WaveID]{
		{WaveInLine, 0.9}, {WaveWideGap, 0.012}, {WaveSeriesResistance, 0.008}, {WaveSeriesGap, 0.01}, {WaveLean, 0.014},
		{WaveShunt, 0.01}, {WaveSmallGap, 0.008}, {WaveLittleCharge, 0.008}, {WaveFlashover, 0.008}, {WaveJumps, 0.01},
		{WaveLittleEnergy, 0.004}, {WaveOpen, 0.002}, {WaveNoBurn, 0.002}, {WaveNoRinging, 0.002}, {WaveMissing, 0.002},
	}, "C: secondary side good in this condition"},
}
