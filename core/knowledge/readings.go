package knowledge

import (
	"slices"
	"strings"

	"glenmist/core/evidence"
)

// NormalComponent is a normal distribution of one figure of a reading: of the logarithm of its ratio to
// what is expected, or of the figure itself.
type NormalComponent struct{ Centre, Spread float64 }

// NumberRow is how the figures of a measure lie when the test that they belong to has one
// answer. A figure so speaks for every answer as far as it fits it, and no threshold parts
// them: what is believed of the answers themselves stands in the rows of the tests.
type NumberRow struct {
	Measure evidence.MeasureID
	Answer  evidence.ResultID
	// Over is the share of readings over range, Figures what the others show.
	Over    float64
	Figures []NormalComponent
	Source  string
	// Of are the modes that show the answer so; none are all that no row of the same answer names.
	Of []string
}

// RowID names the row of a reading.
func (r NumberRow) RowID() string {
	id := "reading:" + string(r.Measure) + "/" + string(r.Answer)
	if r.Of != nil {
		id += "/" + strings.Join(r.Of, "+")
	}
	return id
}

// FigureWords says what the k-th figure of a measure's rows is: of kilovolts not the lowest and highest
// themselves, but how far apart they are, and how far they rise.
func FigureWords(m evidence.Measure, k int) string {
	switch {
	case m.ID == evidence.KVSteady && k == 1:
		return "highest over lowest"
	case m.ID == evidence.KVSnap:
		return "rise on snap"
	}
	return m.Figures[min(k, len(m.Figures)-1)].Words
}

// leans are the modes that make a charge lean.
var leans = []string{"injector.clogged", "injector.electrical", "air", "fuel"}

// breaks are the modes that leave a second gap in the way of the spark.
var Breaks = []string{"lead.open", "coil-lead.open", "boot.spring", "rotor.worn", "cap.tower-burnt"}

// shows says that a mode shows an answer as the i-th of a measure's rows has it.
func Shows(rows []*NumberRow, i int, mode string) bool {
	if rows[i].Of != nil {
		return mode != "" && Matches(rows[i].Of, mode)
	}
	return mode == "" || !slices.ContainsFunc(rows, func(o *NumberRow) bool { return o.Of != nil && o.Answer == rows[i].Answer && Matches(o.Of, mode) })
}

// NumberRows lists them (C; judgement). The first row of a measure is what a sound one shows: where the
// trade has limits for sound ones its spread is a quarter of them, as that of a maker's range is.
var NumberRows = []NumberRow{
	{evidence.CoilPrimary, "in-line", 0.002, []NormalComponent{{0, 0.05}}, "C: like coils lie within some per cent", nil},
	{evidence.CoilPrimary, "open", 0.80, []NormalComponent{{1.8, 1.2}}, "C: no figure, or some times too high", nil},
	{evidence.CoilPrimary, "low", 0.001, []NormalComponent{{-0.5, 0.33}}, "C: shorted turns leave a share of it", nil},
	{evidence.CoilSecondary, "in-line", 0.002, []NormalComponent{{0, 0.065}}, "C: likewise", nil},
	{evidence.CoilSecondary, "open", 0.65, []NormalComponent{{2.0, 1.2}}, "C", nil},
	{evidence.CoilSecondary, "low", 0.001, []NormalComponent{{-0.5, 0.33}}, "C", nil},
	{evidence.PrimaryRamp, "in-line", 0, []NormalComponent{{0, 0.06}, {0, 0.08}}, "C", nil},
	{evidence.PrimaryRamp, "open", 0, []NormalComponent{{-1.5, 1.2}, {-0.8, 0.8}}, "C: little current, or none", nil},
	{evidence.PrimaryRamp, "low", 0, []NormalComponent{{0.15, 0.25}, {0.55, 0.35}}, "C: shorted turns begin with a jump", nil},
	{evidence.LeadOhms, "in-line", 0.002, []NormalComponent{{0, 0.12}}, "C: by length and kind", nil},
	{evidence.LeadOhms, "open", 0.50, []NormalComponent{{1.7, 1.1}}, "C", nil},
	{evidence.CoilLeadOhms, "in-line", 0.002, []NormalComponent{{0, 0.12}}, "C", nil},
	{evidence.CoilLeadOhms, "open", 0.50, []NormalComponent{{1.7, 1.1}}, "C", nil},
	{evidence.PlugOhms, "in-line", 0.005, []NormalComponent{{0, 0.15}}, "C", nil},
	{evidence.PlugOhms, "other", 0.10, []NormalComponent{{0, 1.2}}, "C: another resistor, or none", nil},
	{evidence.SpringOhms, "sound", 0.003, []NormalComponent{{0, 0.36}}, "C: below one ohm", nil},
	{evidence.SpringOhms, "bad", 0.65, []NormalComponent{{3, 1.5}}, "C", nil},
	{evidence.FeedDrop, "there", 0, []NormalComponent{{0.22, 0.12}}, "C: some tenths of a volt are lost in any feed", nil},
	{evidence.FeedDrop, "feed", 0, []NormalComponent{{3.5, 2.5}}, "C", nil},
	{evidence.GroundDrop, "there", 0, []NormalComponent{{0.05, 0.03}}, "C: a tenth of a volt is much for a ground", nil},
	{evidence.GroundDrop, "ground", 0, []NormalComponent{{2, 1.5}}, "C", nil},
	{evidence.WireOhms, "sound", 0.002, []NormalComponent{{0, 0.36}}, "C: below one ohm", nil},
	{evidence.WireOhms, "bad", 0.75, []NormalComponent{{3, 1.5}}, "C", nil},
	{evidence.AirGapLegs, "right", 0, []NormalComponent{{0, 0.08}}, "C: within the maker’s range", nil},
	{evidence.AirGapLegs, "wide", 0, []NormalComponent{{0.9, 0.4}}, "C", nil},
	{evidence.StarterCurrent, "in-line", 0, []NormalComponent{{0, 0.03}}, "C: humps alike, as compression is", nil},
	{evidence.StarterCurrent, "low", 0, []NormalComponent{{-0.6, 0.3}}, "C", nil},
	{evidence.CompressionDry, "in-line", 0, []NormalComponent{{0, 0.035}}, "C: cylinders within a tenth or so", nil},
	{evidence.CompressionDry, "low", 0, []NormalComponent{{-0.7, 0.35}}, "C", nil},
	{evidence.CompressionWet, "stays", 0, []NormalComponent{{0.04, 0.05}}, "C: oil takes up some room", nil},
	{evidence.CompressionWet, "rises", 0, []NormalComponent{{0.28, 0.13}}, "C: it seals the rings for a while", nil},
	{evidence.LeakDownLoss, "tight", 0, []NormalComponent{{0, 0.1}}, "C: as the rule of thumb has it, and no more", nil},
	{evidence.LeakDownLoss, "valve", 0, []NormalComponent{{1.6, 0.5}}, "C", nil},
	{evidence.LeakDownLoss, "rings", 0, []NormalComponent{{1.4, 0.5}}, "C", nil},
	{evidence.LeakDownLoss, "gasket", 0, []NormalComponent{{1.6, 0.5}}, "C", nil},
	{evidence.InjectorOhms, "in-line", 0.002, []NormalComponent{{0, 0.02}}, "C", nil},
	{evidence.InjectorOhms, "odd", 0.40, []NormalComponent{{0, 0.7}}, "C: open, or shorted turns", nil},
	{evidence.KVSteady, "in-line", 0.0005, []NormalComponent{{0, 0.075}, {0.31, 0.08}}, "C: cylinders within 3 kV of each other, of some 10, and each a third about its own", nil},
	{evidence.KVSteady, "high", 0, []NormalComponent{{0.7, 0.26}, {0.33, 0.2}}, "C: one high, steady; as wide as a gap wears, by the law of breakdown", nil},
	{evidence.KVSteady, "low", 0.01, []NormalComponent{{-0.6, 0.3}, {0.33, 0.2}}, "C: one low, steady", nil},
	{evidence.KVSteady, "jumping", 0.01, []NormalComponent{{-0.05, 0.4}, {1.3, 0.5}}, "C: jumps from event to event", nil},
	{evidence.KVSteady, "jumping", 0.35, []NormalComponent{{-0.05, 0.3}, {2.5, 1}}, "C: whole sparks missing among sound ones, and no kilovolts to speak of where most are", MissesSome},
	{evidence.KVSteady, "high", 0, []NormalComponent{{0.28, 0.12}, {0.33, 0.2}}, "C: lean asks for a fifth to a third more, at every spark", leans},
	{evidence.KVSteady, "high", 0, []NormalComponent{{0.9, 0.35}, {0.33, 0.2}}, "C: a break has to be jumped on top of the plug", Breaks},
	{evidence.KVSteady, "low", 0.01, []NormalComponent{{-0.5, 0.32}, {0.4, 0.2}}, "C: what gives way before the plug does may give way just before it", shortfall},
	{evidence.KVSteady, "low", 0.01, []NormalComponent{{-1.1, 0.4}, {0.33, 0.2}}, "C: a third of the gap, or less, by the law of breakdown", []string{"plug.closed-gap"}},
	{evidence.KVSnap, "alike", 0, []NormalComponent{{0, 0.15}}, "C: all rise alike", nil},
	{evidence.KVSnap, "more", 0, []NormalComponent{{0.45, 0.25}}, "C: rises far more than the others", nil},
	{evidence.KVSnap, "less", 0, []NormalComponent{{-0.55, 0.3}}, "C: does not rise", nil},
	{evidence.FuelBar, "in-range", 0, []NormalComponent{{0, 0.025}}, "C: the regulator holds it", nil},
	{evidence.FuelBar, "low", 0, []NormalComponent{{-0.6, 0.35}}, "C", nil},
}

// OwnRows are what is believed of measures that belong to no test with a plain answer, in
// the order of their number rows (C; judgement). A mode named in none shows as a sound one.
var OwnRows = []struct {
	Measure evidence.MeasureID
	Modes   []string
	Chance  []float64
	Source  string
}{
	{evidence.PlugOhms, []string{"plug.wrong"}, []float64{0.70, 0.30}, "C"},
	{evidence.PlugOhms, nil, []float64{0.96, 0.04}, "C"},
	{evidence.SpringOhms, []string{"boot.spring"}, []float64{0.20, 0.80}, "C: contact comes and goes"},
	{evidence.SpringOhms, nil, []float64{0.97, 0.03}, "C"},
	{evidence.KVSnap, []string{"plug.worn-gap", "lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor.worn"}, []float64{0.40, 0.55, 0.05}, "C: a wide gap or resistance asks for far more under load"},
	{evidence.KVSnap, []string{"compression"}, []float64{0.35, 0.03, 0.62}, "C: little charge, little rise"},
	{evidence.KVSnap, []string{"plug.cracked", "boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well", "seat"}, []float64{0.35, 0.05, 0.60}, "C: insulation gives way first"},
	{evidence.KVSnap, []string{"coil.weak-load", "coil.weak-hot", "coil.cracked"}, []float64{0.45, 0.05, 0.50}, "C: the coil has no more to give"},
	{evidence.KVSnap, nil, []float64{0.92, 0.04, 0.04}, "C"},
	{evidence.CompressionWet, []string{"compression.rings"}, []float64{0.15, 0.85}, "C"},
	{evidence.CompressionWet, []string{"compression"}, []float64{0.92, 0.08}, "C"},
	{evidence.CompressionWet, nil, []float64{0.92, 0.08}, "C"},
}

// kvModes are what kilovolts have anything to say of: all that has a row in their test.
var kvModes = []string{"plug", "lead", "coil-lead", "boot", "rotor", "cap", "well", "seat", "coil", "connector", "module", "feed", "ground", "trigger", "driver", "pickup", "stop-wire", "air-gap", "compression", "injector", "air", "fuel"}

// showsIn lists the modes that the figures of a measure show: of a fault of another kind
// they are those of a sound one, whatever the whole test would say.
var ShowsIn = map[evidence.MeasureID][]string{
	evidence.CoilPrimary:    {"coil.primary-open", "coil.primary-shorted"},
	evidence.CoilSecondary:  {"coil.secondary-open", "coil.secondary-shorted", "coil.weak-load"},
	evidence.PrimaryRamp:    {"coil.primary-open", "coil.primary-shorted"},
	evidence.LeadOhms:       {"lead"},
	evidence.CoilLeadOhms:   {"coil-lead.open"},
	evidence.PlugOhms:       {"plug.wrong"},
	evidence.SpringOhms:     {"boot.spring"},
	evidence.FeedDrop:       {"feed"},
	evidence.GroundDrop:     {"ground"},
	evidence.WireOhms:       {"trigger", "connector"},
	evidence.AirGapLegs:     {"air-gap"},
	evidence.StarterCurrent: {"compression", "plug.loose"},
	evidence.CompressionDry: {"compression", "plug.loose"},
	evidence.CompressionWet: {"compression"},
	evidence.LeakDownLoss:   {"compression"},
	evidence.InjectorOhms:   {"injector.electrical"},
	evidence.FuelBar:        {"fuel"},
	evidence.KVSteady:       kvModes,
	evidence.KVWave:         kvModes,
	evidence.KVSnap:         {"plug", "lead", "coil-lead", "boot", "rotor", "cap", "well", "seat", "coil", "compression"},
}

// numberRows is NumberRows by measure; the first of each is what a sound one shows.
var ReadingRows = func() map[evidence.MeasureID][]*NumberRow {
	m := map[evidence.MeasureID][]*NumberRow{}
	for i := range Waves {
		m[evidence.KVWave] = append(m[evidence.KVWave], &NumberRow{evidence.KVWave, Waves[i].Answer, Waves[i].Silent, Waves[i].Figures[:], Waves[i].Source, nil})
	}
	for i := range NumberRows {
		m[NumberRows[i].Measure] = append(m[NumberRows[i].Measure], &NumberRows[i])
	}
	return m
}()

// whole lists the measures that answer all of their test; the others a part of it.
func AnswersWholeTest(id evidence.MeasureID) bool {
	return !slices.Contains([]evidence.MeasureID{evidence.FeedDrop, evidence.GroundDrop, evidence.InjectorOhms, evidence.PrimaryRamp, evidence.CoilPrimary, evidence.PlugOhms, evidence.SpringOhms, evidence.CompressionWet, evidence.KVSnap}, id)
}

// bySiblings are the figures of a measure, by their bits, that are held against those of the
// other cylinders.
var BySiblings = map[evidence.MeasureID]uint8{evidence.KVSteady: 1, evidence.KVSnap: 1, evidence.KVWave: 1 | 1<<3 | 1<<4 | 1<<5 | 1<<6}

func MeasureTest(id evidence.MeasureID) evidence.TestID {
	m, _ := evidence.FindMeasure(id)
	return m.Test
}
