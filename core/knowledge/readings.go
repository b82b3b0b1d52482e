package knowledge

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/unit"
)

// NumberRow is the distribution of the figures of a measure, given one answer of its test.
// There is no threshold between answers. The probabilities of the answers are in the rows of
// the tests.
type NumberRow struct {
	Measure evidence.MeasureID
	Answer  evidence.ResultID
	// Over is the share of readings over range. Figures describes the others.
	Over    float64
	Figures []NormalComponent
	Source  string
	// Of selects the modes of the row; nil means all modes without a row of the same answer.
	Of fault.Keys
}

// RowID returns the row id.
func (r NumberRow) RowID() string {
	id := "reading:" + string(r.Measure) + "/" + string(r.Answer)
	if r.Of != nil {
		id += "/" + r.Of.String()
	}
	return id
}

// numberTable holds the rows of a measure. The first is a sound item. For a capture the rows
// are its shapes, in the order of [Waves].
var numberTable = Register(TableOf[NumberRow, map[evidence.MeasureID][]*NumberRow]{
	Title: "Readings, as factors of what is expected", In: OfReadings, Ships: NumberRows,
	Describe: describeNumber,
	Copy:     func(r *NumberRow) { r.Figures = slices.Clone(r.Figures) },
	Index: func(rows []NumberRow) map[evidence.MeasureID][]*NumberRow {
		m := map[evidence.MeasureID][]*NumberRow{}
		for i := range rows {
			m[rows[i].Measure] = append(m[rows[i].Measure], &rows[i])
		}
		return m
	},
})

func describeNumber(r *NumberRow) Row {
	m, _ := evidence.FindMeasure(r.Measure)
	as := Factor
	if m.Loaded || m.Degrees {
		as = Plain
	}
	figures := []Figure{{Words: "Over range", As: Percent, At: &r.Over, Least: 0, Most: 1 - LeastChance}}
	var says []string
	for k := range r.Figures {
		n, words := &r.Figures[k], figureWords(m, k)
		figures = append(figures, n.figures(unit.Capital(words), as)...)
		switch {
		case m.Degrees:
			says = append(says, fmt.Sprintf("%s %.3g° off the maker's, give or take %.3g°", words, n.Centre, n.Spread))
		case m.Loaded:
			says = append(says, fmt.Sprintf("%s %.3g V lost, give or take %.3g V", words, n.Centre, n.Spread))
		default:
			says = append(says, words+" "+n.timesExpected())
		}
	}
	if r.Over > 0 {
		over := "over range"
		if r.Measure == evidence.KVSteady {
			over = "no kilovolts to speak of"
		}
		says = append(says, fmt.Sprintf("%s %.3g\u202f%%", over, 100*r.Over))
	}
	of := m.Words + ", when it is: " + answerWords(m.Test, r.Answer)
	if r.Of != nil {
		of += ", of " + modeWords(r.Of)
	}
	return Row{ID: r.RowID(), Of: of, Says: strings.Join(says, "; "), Source: r.Source, Figures: figures}
}

// figureWords names figure k of a measure's rows. For kilovolts these are the spread of the
// values and the rise on snap, not the lowest and highest values.
func figureWords(m evidence.Measure, k int) string {
	switch {
	case m.ID == evidence.KVSteady && k == 1:
		return "highest over lowest"
	case m.Snap():
		return [...]string{"rise on snap", "burn on snap", "sparks missed on snap"}[k]
	}
	return m.Figures[min(k, len(m.Figures)-1)].Words
}

// Numbers returns the rows of a measure. The first is a sound item.
func (b *Beliefs) Numbers(id evidence.MeasureID) []*NumberRow {
	if id == evidence.KVWave {
		return waveTable.Of(b).numbers
	}
	return numberTable.Of(b)[id]
}

// Shows reports whether a mode, or "" for a sound item, has the distribution of row i.
func Shows(rows []*NumberRow, i int, mode fault.ModeID) bool {
	if rows[i].Of != nil {
		return mode != "" && rows[i].Of.Covers(mode)
	}
	return mode == "" || !slices.ContainsFunc(rows, func(o *NumberRow) bool { return o.Of != nil && o.Answer == rows[i].Answer && o.Of.Covers(mode) })
}

// MeasureRow holds the answers of a measure that belongs to no plain test. Without modes it
// applies to all other faults and to sound items.
type MeasureRow struct {
	Measure evidence.MeasureID
	Modes   fault.Keys
	Answers Answers
	Source  string
}

// RowID returns the row id.
func (r MeasureRow) RowID() string { return "measure:" + string(r.Measure) + "/" + orOther(r.Modes) }

// measureTable holds the rows of a measure. The first that covers a mode counts.
var measureTable = Register(TableOf[MeasureRow, map[evidence.MeasureID][]MeasureRow]{
	Title: "Measures without a plain test", In: OfReadings, Ships: MeasureRows,
	Describe: func(r *MeasureRow) Row {
		m, _ := evidence.FindMeasure(r.Measure)
		words := func(id evidence.ResultID) string { return string(id) }
		return Row{Of: m.Words + ", when " + whenAtFault(r.Modes), Says: r.Answers.says(words, 0), Source: r.Source}
	},
	Index: func(rows []MeasureRow) map[evidence.MeasureID][]MeasureRow {
		m := map[evidence.MeasureID][]MeasureRow{}
		for _, r := range rows {
			m[r.Measure] = append(m[r.Measure], r)
		}
		return m
	},
})

// Answers returns the probability of each answer of a measure, in the order of its rows, for a
// mode; "" is a sound item.
func (b *Beliefs) Answers(id evidence.MeasureID, mode fault.ModeID) []float64 {
	if mode != "" && !ShowsIn[id].Covers(mode) {
		mode = ""
	}
	if id == evidence.KVWave {
		return b.WaveChances(mode)
	}
	rows := b.Numbers(id)
	for _, own := range measureTable.Of(b)[id] {
		if own.Modes == nil || mode != "" && own.Modes.Covers(mode) {
			chance := make([]float64, len(rows))
			for i, row := range rows {
				chance[i] = own.Answers.At(row.Answer)
			}
			return chance
		}
	}
	m, _ := evidence.FindMeasure(id)
	sound := b.Test(m.Test, "")
	mine := b.Test(m.Test, mode)
	if mine == nil {
		mine = sound
	}
	answers := results(m.Test)
	chance := make([]float64, len(rows))
	rest := 1.0
	hides := 1.0 // how often a fault gives the normal answer, relative to a sound item
	if k := slices.Index(answers, rows[0].Answer); k >= 0 {
		hides = min(1, mine[k]/sound[k])
	}
	for i, row := range rows {
		k := slices.Index(answers, row.Answer)
		if k >= 0 && Shows(rows, i, mode) {
			chance[i] = mine[k]
			if i > 0 { // an abnormal reading of such an item is a false alarm
				chance[i] -= (1 - misread) * min(mine[k], hides*sound[k])
			}
		}
		rest -= chance[i]
	}
	chance[0] += rest // an answer that the figures cannot give looks normal in them
	return chance
}

// leans lists the modes that make a charge lean.
var leans = fault.Keys{fault.InjectorClogged, fault.InjectorElectrical, fault.AnyAir, fault.AnyFuel}

// Breaks lists the modes that put a second gap in the path of the spark.
var Breaks = fault.Keys{fault.LeadOpen, fault.CoilLeadOpen, fault.BootSpring, fault.RotorWorn, fault.CapTowerBurnt}

// NumberRows lists the rows (C; judgement). The first row of a measure is a sound item. Where
// the trade has limits for sound items, the spread is a quarter of the range, as for a maker's
// range.
var NumberRows = []NumberRow{
	{evidence.CoilPrimary, evidence.InLine, 0.002, []NormalComponent{{0, 0.05}}, "C: like coils lie within some per cent", nil},
	{evidence.CoilPrimary, evidence.OpenCircuit, 0.8, []NormalComponent{{1.8, 1.2}}, "C: no figure, or some times too high", nil},
	{evidence.CoilPrimary, evidence.Low, 0.001, []NormalComponent{{-0.5, 0.33}}, "C: shorted turns leave a share of it", nil},
	{evidence.CoilSecondary, evidence.InLine, 0.002, []NormalComponent{{0, 0.065}}, "C: likewise", nil},
	{evidence.CoilSecondary, evidence.OpenCircuit, 0.65, []NormalComponent{{2, 1.2}}, "C", nil},
	{evidence.CoilSecondary, evidence.Low, 0.001, []NormalComponent{{-0.5, 0.33}}, "C", nil},
	{evidence.PrimaryRamp, evidence.InLine, 0, []NormalComponent{{0, 0.06}, {0, 0.08}}, "C", nil},
	{evidence.PrimaryRamp, evidence.OpenCircuit, 0, []NormalComponent{{-1.5, 1.2}, {-0.8, 0.8}},
		"C: little current, or none", nil},
	{evidence.PrimaryRamp, evidence.Low, 0, []NormalComponent{{0.15, 0.25}, {0.55, 0.35}},
		"C: shorted turns begin with a jump", nil},
	{evidence.LeadOhms, evidence.InLine, 0.002, []NormalComponent{{0, 0.12}}, "C: by length and kind", nil},
	{evidence.LeadOhms, evidence.OpenCircuit, 0.5, []NormalComponent{{1.7, 1.1}}, "C", nil},
	{evidence.CoilLeadOhms, evidence.InLine, 0.002, []NormalComponent{{0, 0.12}}, "C", nil},
	{evidence.CoilLeadOhms, evidence.OpenCircuit, 0.5, []NormalComponent{{1.7, 1.1}}, "C", nil},
	{evidence.PlugOhms, evidence.InLine, 0.005, []NormalComponent{{0, 0.15}}, "C", nil},
	{evidence.PlugOhms, evidence.AnotherOne, 0.1, []NormalComponent{{0, 1.2}}, "C: another resistor, or none", nil},
	{evidence.SpringOhms, evidence.TestsSound, 0.003, []NormalComponent{{0, 0.36}}, "C: below one ohm", nil},
	{evidence.SpringOhms, evidence.TestsBad, 0.65, []NormalComponent{{3, 1.5}}, "C", nil},
	{evidence.FeedDrop, evidence.AllThere, 0, []NormalComponent{{0.22, 0.12}},
		"C: some tenths of a volt are lost in any feed", nil},
	{evidence.FeedDrop, evidence.FeedLow, 0, []NormalComponent{{3.5, 2.5}}, "C", nil},
	{evidence.GroundDrop, evidence.AllThere, 0, []NormalComponent{{0.05, 0.03}},
		"C: a tenth of a volt is much for a ground", nil},
	{evidence.GroundDrop, evidence.GroundDrops, 0, []NormalComponent{{2, 1.5}}, "C", nil},
	{evidence.WireOhms, evidence.TestsSound, 0.002, []NormalComponent{{0, 0.36}}, "C: below one ohm", nil},
	{evidence.WireOhms, evidence.TestsBad, 0.75, []NormalComponent{{3, 1.5}}, "C", nil},
	{evidence.AirGapLegs, evidence.AsItShould, 0, []NormalComponent{{0, 0.08}}, "C: within the maker’s range", nil},
	{evidence.AirGapLegs, evidence.TooWide, 0, []NormalComponent{{0.9, 0.4}}, "C", nil},
	{evidence.BaseTiming, evidence.AsItShould, 0, []NormalComponent{{0, 1.2}}, "C: a lamp is read to a degree or so", nil},
	{evidence.BaseTiming, evidence.OffItsMark, 0, []NormalComponent{{0, 12}}, "C: a loose clamp some degrees, a tooth 20 to 60 of the crank", nil},
	{evidence.StarterCurrent, evidence.InLine, 0, []NormalComponent{{0, 0.03}}, "C: humps alike, as compression is", nil},
	{evidence.StarterCurrent, evidence.Low, 0, []NormalComponent{{-0.6, 0.3}}, "C", nil},
	{evidence.CompressionDry, evidence.InLine, 0, []NormalComponent{{0, 0.035}}, "C: cylinders within a tenth or so", nil},
	{evidence.CompressionDry, evidence.Low, 0, []NormalComponent{{-0.7, 0.35}}, "C", nil},
	{evidence.CompressionWet, evidence.Stays, 0, []NormalComponent{{0.04, 0.05}}, "C: oil takes up some room", nil},
	{evidence.CompressionWet, evidence.Rises, 0, []NormalComponent{{0.28, 0.13}}, "C: it seals the rings for a while", nil},
	{evidence.LeakDownLoss, evidence.Tight, 0, []NormalComponent{{0, 0.1}}, "C: as the rule of thumb has it, and no more", nil},
	{evidence.LeakDownLoss, evidence.PastValve, 0, []NormalComponent{{1.6, 0.5}}, "C", nil},
	{evidence.LeakDownLoss, evidence.PastRings, 0, []NormalComponent{{1.4, 0.5}}, "C", nil},
	{evidence.LeakDownLoss, evidence.PastGasket, 0, []NormalComponent{{1.6, 0.5}}, "C", nil},
	{evidence.InjectorOhms, evidence.InLine, 0.002, []NormalComponent{{0, 0.02}}, "C", nil},
	{evidence.InjectorOhms, evidence.UnlikeOthers, 0.4, []NormalComponent{{0, 0.7}}, "C: open, or shorted turns", nil},
	{evidence.KVSteady, evidence.InLine, 0.0005, []NormalComponent{{0, 0.075}, {0.31, 0.08}},
		"C: cylinders within 3 kV of each other, of some 10, and each a third about its own", nil},
	{evidence.KVSteady, evidence.High, 0, []NormalComponent{{0.7, 0.26}, {0.33, 0.2}},
		"C: one high, steady; as wide as a gap wears, by the law of breakdown", nil},
	{evidence.KVSteady, evidence.Low, 0.01, []NormalComponent{{-0.6, 0.3}, {0.33, 0.2}}, "C: one low, steady", nil},
	{evidence.KVSteady, evidence.Jumping, 0.01, []NormalComponent{{-0.05, 0.4}, {1.3, 0.5}}, "C: jumps from event to event", nil},
	{evidence.KVSteady, evidence.Missing, 0.35, []NormalComponent{{-0.05, 0.3}, {2.5, 1}},
		"C: whole sparks missing among sound ones, and no kilovolts to speak of where most are", nil},
	{evidence.KVSteady, evidence.High, 0, []NormalComponent{{0.28, 0.12}, {0.33, 0.2}},
		"C: lean asks for a fifth to a third more, at every spark", leans},
	{evidence.KVSteady, evidence.High, 0, []NormalComponent{{0.9, 0.35}, {0.33, 0.2}},
		"C: a break has to be jumped on top of the plug", Breaks},
	{evidence.KVSteady, evidence.Low, 0.01, []NormalComponent{{-0.5, 0.32}, {0.4, 0.2}},
		"C: what gives way before the plug does may give way just before it", shortfall},
	{evidence.KVSteady, evidence.Low, 0.01, []NormalComponent{{-1.1, 0.4}, {0.33, 0.2}},
		"C: a third of the gap, or less, by the law of breakdown", fault.Keys{fault.PlugClosedGap}},
	{evidence.KVSnap, evidence.RisesAlike, 0, []NormalComponent{{0, 0.15}}, "C: all rise alike", nil},
	{evidence.KVSnap, evidence.RisesMore, 0, []NormalComponent{{0.45, 0.25}}, "C: rises far more than the others", nil},
	{evidence.KVSnap, evidence.RisesLess, 0, []NormalComponent{{-0.55, 0.3}}, "C: does not rise", nil},
	{evidence.KVSnapWave, evidence.RisesAlike, 0, []NormalComponent{{0, 0.15}, {0, 0.2}, {0.1, 0.9}}, "C: all rise alike", nil},
	{evidence.KVSnapWave, evidence.RisesMore, 0, []NormalComponent{{0.45, 0.25}, {-0.3, 0.4}, {0.3, 0.7}}, "C: rises far more than the others, and burns shorter", nil},
	{evidence.KVSnapWave, evidence.RisesLess, 0, []NormalComponent{{-0.55, 0.3}, {0.1, 0.4}, {0.2, 0.6}}, "C: does not rise", nil},
	{evidence.KVSnapWave, evidence.FailsOnSnap, 0.02, []NormalComponent{{-0.25, 0.3}, {-0.9, 0.7}, {2.8, 1}}, "C: sparks miss or burn short when more is asked", nil},
	{evidence.FuelBar, evidence.InRange, 0, []NormalComponent{{0, 0.025}}, "C: the regulator holds it", nil},
	{evidence.FuelBar, evidence.Low, 0, []NormalComponent{{-0.6, 0.35}}, "C", nil},
}

// MeasureRows lists the rows; those of a snap in a capture are corrected by [ShareFits]. A mode without a row shows as a sound
// item.
var MeasureRows = fittedMeasures(tradeMeasures)

// tradeMeasures lists the rows (C; judgement).
var tradeMeasures = []MeasureRow{
	{evidence.PlugOhms, fault.Keys{fault.PlugWrong},
		Answers{{evidence.InLine, 0.7}, {evidence.AnotherOne, 0.3}}, "C"},
	{evidence.PlugOhms, nil,
		Answers{{evidence.InLine, 0.96}, {evidence.AnotherOne, 0.04}}, "C"},
	{evidence.SpringOhms, fault.Keys{fault.BootSpring},
		Answers{{evidence.TestsSound, 0.2}, {evidence.TestsBad, 0.8}}, "C: contact comes and goes"},
	{evidence.SpringOhms, nil,
		Answers{{evidence.TestsSound, 0.97}, {evidence.TestsBad, 0.03}}, "C"},
	{evidence.KVSnap, fault.Keys{fault.PlugWornGap, fault.LeadOpen, fault.LeadHighResistance, fault.CoilLeadOpen,
		fault.BootSpring, fault.RotorWorn},
		Answers{{evidence.RisesAlike, 0.4}, {evidence.RisesMore, 0.55}, {evidence.RisesLess, 0.05}},
		"C: a wide gap or resistance asks for far more under load"},
	{evidence.KVSnap, fault.Keys{fault.AnyCompression},
		Answers{{evidence.RisesAlike, 0.35}, {evidence.RisesMore, 0.03}, {evidence.RisesLess, 0.62}},
		"C: little charge, little rise"},
	{evidence.KVSnap, fault.Keys{fault.PlugCracked, fault.AnyBoot, fault.LeadLeaking, fault.CoilLeadLeaking, fault.AnyCap,
		fault.AnyRotor, fault.AnyWell, fault.AnySeat},
		Answers{{evidence.RisesAlike, 0.35}, {evidence.RisesMore, 0.05}, {evidence.RisesLess, 0.6}},
		"C: insulation gives way first"},
	{evidence.KVSnap, fault.Keys{fault.CoilWeakLoad, fault.CoilWeakHot, fault.CoilCracked},
		Answers{{evidence.RisesAlike, 0.45}, {evidence.RisesMore, 0.05}, {evidence.RisesLess, 0.5}},
		"C: the coil has no more to give"},
	{evidence.KVSnap, nil,
		Answers{{evidence.RisesAlike, 0.92}, {evidence.RisesMore, 0.04}, {evidence.RisesLess, 0.04}}, "C"},
	{evidence.KVSnapWave, fault.Keys{fault.PlugWornGap, fault.LeadOpen, fault.LeadHighResistance, fault.CoilLeadOpen,
		fault.BootSpring, fault.RotorWorn},
		Answers{{evidence.RisesAlike, 0.32}, {evidence.RisesMore, 0.56}, {evidence.RisesLess, 0.05}, {evidence.FailsOnSnap, 0.07}},
		"C: a wide gap or resistance asks for far more under load"},
	{evidence.KVSnapWave, fault.Keys{fault.AnyCompression},
		Answers{{evidence.RisesAlike, 0.35}, {evidence.RisesMore, 0.03}, {evidence.RisesLess, 0.6}, {evidence.FailsOnSnap, 0.02}},
		"C: little charge, little rise"},
	{evidence.KVSnapWave, fault.Keys{fault.PlugCracked, fault.AnyBoot, fault.LeadLeaking, fault.CoilLeadLeaking, fault.AnyCap,
		fault.AnyRotor, fault.AnyWell, fault.AnySeat},
		Answers{{evidence.RisesAlike, 0.35}, {evidence.RisesMore, 0.05}, {evidence.RisesLess, 0.56}, {evidence.FailsOnSnap, 0.04}},
		"C: insulation gives way first"},
	{evidence.KVSnapWave, fault.Keys{fault.CoilWeakLoad, fault.CoilWeakHot, fault.CoilCracked},
		Answers{{evidence.RisesAlike, 0.25}, {evidence.RisesMore, 0.05}, {evidence.RisesLess, 0.25}, {evidence.FailsOnSnap, 0.45}},
		"C: the coil has no more to give"},
	{evidence.KVSnapWave, fault.Keys{fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled, fault.CoilPrimaryShorted,
		fault.CoilSecondaryShorted, fault.CoilSecondaryOpen},
		Answers{{evidence.RisesAlike, 0.4}, {evidence.RisesMore, 0.05}, {evidence.RisesLess, 0.25}, {evidence.FailsOnSnap, 0.3}},
		"C: what leaks away is missing under load"},
	{evidence.KVSnapWave, fault.Keys{fault.AnyFeed, fault.AnyGround, fault.AnyModule, fault.AnyConnector, fault.AnyTrigger,
		fault.AnyDriver, fault.AnyPickup, fault.AnyAirGap, fault.AnyStopWire, fault.CoilPrimaryOpen},
		Answers{{evidence.RisesAlike, 0.64}, {evidence.RisesMore, 0.04}, {evidence.RisesLess, 0.12}, {evidence.FailsOnSnap, 0.2}},
		"C: less charge under load, or none"},
	{evidence.KVSnapWave, fault.Keys{fault.PlugWrong},
		Answers{{evidence.RisesAlike, 0.68}, {evidence.RisesMore, 0.14}, {evidence.RisesLess, 0.06}, {evidence.FailsOnSnap, 0.12}},
		"C: a copy burns away, one too cold fouls"},
	{evidence.KVSnapWave, fault.Keys{fault.PlugClosedGap, fault.PlugLoose},
		Answers{{evidence.RisesAlike, 0.8}, {evidence.RisesMore, 0.06}, {evidence.RisesLess, 0.12}, {evidence.FailsOnSnap, 0.02}},
		"C: less is asked at every spark"},
	{evidence.KVSnapWave, fault.Keys{fault.AnyInjector, fault.AnyAir, fault.AnyFuel},
		Answers{{evidence.RisesAlike, 0.8}, {evidence.RisesMore, 0.12}, {evidence.RisesLess, 0.05}, {evidence.FailsOnSnap, 0.03}},
		"C: lean needs more"},
	{evidence.KVSnapWave, nil,
		Answers{{evidence.RisesAlike, 0.925}, {evidence.RisesMore, 0.035}, {evidence.RisesLess, 0.035}, {evidence.FailsOnSnap, 0.005}}, "C"},
	{evidence.CompressionWet, fault.Keys{fault.CompressionRings},
		Answers{{evidence.Stays, 0.15}, {evidence.Rises, 0.85}}, "C"},
	{evidence.CompressionWet, fault.Keys{fault.AnyCompression},
		Answers{{evidence.Stays, 0.92}, {evidence.Rises, 0.08}}, "C"},
	{evidence.CompressionWet, nil,
		Answers{{evidence.Stays, 0.92}, {evidence.Rises, 0.08}}, "C"},
}

// kvModes lists the modes that kilovolts depend on: those with a row in their test.
var kvModes = fault.Keys{fault.AnyPlug, fault.AnyLead, fault.AnyCoilLead, fault.AnyBoot, fault.AnyRotor, fault.AnyCap, fault.AnyWell, fault.AnySeat, fault.AnyCoil, fault.AnyConnector, fault.AnyModule, fault.AnyFeed, fault.AnyGround, fault.AnyTrigger, fault.AnyDriver, fault.AnyPickup, fault.AnyStopWire, fault.AnyAirGap, fault.AnyCompression, fault.AnyInjector, fault.AnyAir, fault.AnyFuel}

// ShowsIn lists the modes that the figures of a measure can show. Other faults read as sound,
// whatever the whole test would answer.
var ShowsIn = map[evidence.MeasureID]fault.Keys{
	evidence.CoilPrimary:    {fault.CoilPrimaryOpen, fault.CoilPrimaryShorted},
	evidence.CoilSecondary:  {fault.CoilSecondaryOpen, fault.CoilSecondaryShorted, fault.CoilWeakLoad},
	evidence.PrimaryRamp:    {fault.CoilPrimaryOpen, fault.CoilPrimaryShorted},
	evidence.LeadOhms:       {fault.AnyLead},
	evidence.CoilLeadOhms:   {fault.CoilLeadOpen},
	evidence.PlugOhms:       {fault.PlugWrong},
	evidence.SpringOhms:     {fault.BootSpring},
	evidence.FeedDrop:       {fault.AnyFeed},
	evidence.GroundDrop:     {fault.AnyGround},
	evidence.WireOhms:       {fault.AnyTrigger, fault.AnyConnector},
	evidence.AirGapLegs:     {fault.AnyAirGap},
	evidence.BaseTiming:     {fault.AnyTiming},
	evidence.StarterCurrent: {fault.AnyCompression, fault.PlugLoose},
	evidence.CompressionDry: {fault.AnyCompression, fault.PlugLoose},
	evidence.CompressionWet: {fault.AnyCompression},
	evidence.LeakDownLoss:   {fault.AnyCompression},
	evidence.InjectorOhms:   {fault.InjectorElectrical},
	evidence.FuelBar:        {fault.AnyFuel},
	evidence.KVSteady:       kvModes,
	evidence.KVWave:         kvModes,
	evidence.KVSnap:         {fault.AnyPlug, fault.AnyLead, fault.AnyCoilLead, fault.AnyBoot, fault.AnyRotor, fault.AnyCap, fault.AnyWell, fault.AnySeat, fault.AnyCoil, fault.AnyCompression},
	evidence.KVSnapWave:     kvModes,
}

// AnswersWholeTest reports whether a measure answers all of its test instead of a part.
func AnswersWholeTest(id evidence.MeasureID) bool {
	return !slices.Contains([]evidence.MeasureID{evidence.FeedDrop, evidence.GroundDrop, evidence.InjectorOhms, evidence.PrimaryRamp, evidence.CoilPrimary, evidence.PlugOhms, evidence.SpringOhms, evidence.CompressionWet, evidence.KVSnap, evidence.KVSnapWave}, id)
}

// BySiblings holds the figures of a measure, as bits, that are compared with the other
// cylinders.
var BySiblings = map[evidence.MeasureID]uint8{evidence.KVSteady: 1, evidence.KVSnap: 1, evidence.KVSnapWave: 1 | 1<<1, evidence.KVWave: 1 | 1<<3 | 1<<4 | 1<<5 | 1<<6}

// MeasureTest returns the test that a measure answers.
func MeasureTest(id evidence.MeasureID) evidence.TestID {
	m, _ := evidence.FindMeasure(id)
	return m.Test
}
