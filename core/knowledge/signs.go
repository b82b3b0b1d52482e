package knowledge

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/fault"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// Bearings of a plug that show only in a full reading: the part on the plug has left a mark.
const (
	UnderTrack Bearing = "its boot or lead is tracked"
	UnderWet   Bearing = "its well holds oil or water"
)

// SignRow is the probability of each sign of an aspect on a plug of one bearing. An aspect
// without a row looks as on a sound plug of the set.
type SignRow struct {
	Bearing Bearing
	// Aspect is the id of one of [plug.Aspects].
	Aspect string
	Signs  PlugSigns
	Source string
}

// RowID returns the row id.
func (r SignRow) RowID() string { return "sign:" + string(r.Bearing) + "/" + r.Aspect }

func (r *SignRow) signWords(s plug.Sign) string {
	a, _ := plug.FindAspect(r.Aspect)
	if i := a.Index(s); i >= 0 {
		return a.Signs[i].Short
	}
	return string(s)
}

// chances returns the probabilities in the order of the aspect's signs.
func (r *SignRow) chances() []float64 {
	a, _ := plug.FindAspect(r.Aspect)
	order := make([]plug.Sign, len(a.Signs))
	for i, s := range a.Signs {
		order[i] = s.Sign
	}
	return r.Signs.In(order)
}

// signTable holds the probability of each sign by bearing and aspect.
var signTable = Register(TableOf[SignRow, map[Bearing]map[string][]float64]{
	Title: "Plugs read in full", In: OfLooks, Ships: slices.Concat(SoundSigns, Signs),
	Describe: func(r *SignRow) Row {
		capital := func(s plug.Sign) string { return unit.Capital(r.signWords(s)) }
		return Row{ID: r.RowID(), Of: "Plug read in full, " + r.Aspect + ", when " + string(r.Bearing), Says: r.Signs.says(r.signWords, 0), Source: r.Source, Figures: r.Signs.figures(capital)}
	},
	Copy: func(r *SignRow) { copyChances(&r.Signs) },
	Index: func(rows []SignRow) map[Bearing]map[string][]float64 {
		m := map[Bearing]map[string][]float64{}
		for _, r := range rows {
			if m[r.Bearing] == nil {
				m[r.Bearing] = map[string][]float64{}
			}
			m[r.Bearing][r.Aspect] = r.chances()
		}
		return m
	},
})

// SetRow is one common look of a whole set of sound plugs. Plugs of one set wear and colour
// alike.
type SetRow struct {
	Words string
	// Share is the fraction of sets with this look.
	Share float64
	// Gap is the mean log ratio of the gaps to the expected gap.
	Gap    float64
	Signs  []SignRow
	Source string
}

// setTable holds the signs of each of [Sets] by aspect.
var setTable = Register(TableOf[SetRow, []map[string][]float64]{
	Title: "Sets of plugs", In: OfLooks, Ships: Sets,
	Describe: func(s *SetRow) Row {
		says := "gaps " + unit.Times(math.Exp(s.Gap)) + " what is expected"
		for i := range s.Signs {
			r := &s.Signs[i]
			says += "; " + r.Aspect + ": " + r.Signs.says(r.signWords, 0)
		}
		return Row{Of: fmt.Sprintf("A set of plugs %s: %.3g\u202f%% of the sets", s.Words, 100*s.Share), Says: says, Source: s.Source}
	},
	Index: func(rows []SetRow) []map[string][]float64 {
		all := make([]map[string][]float64, len(rows))
		for i, s := range rows {
			all[i] = map[string][]float64{}
			for k := range s.Signs {
				all[i][s.Signs[k].Aspect] = s.Signs[k].chances()
			}
		}
		return all
	},
})

// GapRow is the distribution of the log ratio of a gap to the expected gap, for one bearing.
type GapRow struct {
	Bearing Bearing
	NormalComponent
	Source string
}

// RowID returns the row id.
func (g GapRow) RowID() string { return "gap:" + string(g.Bearing) }

var gapTable = Register(TableOf[GapRow, map[Bearing]NormalComponent]{
	Title: "Gaps of plugs", In: OfLooks, Ships: Gaps,
	Describe: func(g *GapRow) Row {
		return Row{ID: g.RowID(), Of: "Gap of a plug, when " + string(g.Bearing), Says: g.timesExpected() + " what is expected", Source: g.Source, Figures: g.figures("Gap", Factor)}
	},
	Index: func(rows []GapRow) map[Bearing]NormalComponent {
		m := map[Bearing]NormalComponent{}
		for _, g := range rows {
			m[g.Bearing] = g.NormalComponent
		}
		return m
	},
})

// Gap returns the distribution of gaps for one bearing; ok is false if none is stated.
func (b *Beliefs) Gap(of Bearing) (n NormalComponent, ok bool) {
	n, ok = gapTable.Of(b)[of]
	return n, ok
}

// marked lists the bearings whose signs do not depend on misfire. If the cylinder misfires,
// the plug shows the signs of a lost spark in addition.
var marked = []Bearing{UnderTrack, UnderWet, WornGap, CrackedPlug, SootyPlug, WetPlug, OilyPlug, ClosedGap, WrongPlug, LoosePlug, FuelTooMuch}

// Sign returns the probability of each sign of an aspect, in its order. set is an index of
// [Sets]; misfires is true if the cylinder of the plug misfires.
func (b *Beliefs) Sign(set int, of Bearing, misfires bool, aspect string) []float64 {
	signs := signTable.Of(b)
	own := slices.Contains(marked, of)
	if row, ok := signs[of][aspect]; ok && of != Bystander && (own || misfires) {
		return row
	}
	if own && misfires {
		return b.Sign(set, SparkLost, true, aspect)
	}
	if row, ok := setTable.Of(b)[set][aspect]; ok {
		return row
	}
	return signs[Bystander][aspect]
}

// SoundSigns lists the signs of a sound plug of an ordinary set (C; judgement).
var SoundSigns = []SignRow{
	{Bystander, "nose", PlugSigns{{plug.Tan, 0.45}, {plug.Grey, 0.34}, {plug.Pale, 0.13}, {plug.White, 0.02},
		{plug.Black, 0.06}}, "C: tan to light grey; merely pale can be healthy"},
	{Bystander, "deposit", PlugSigns{{plug.Clean, 0.875}, {plug.Soot, 0.04}, {plug.Ash, 0.06}, {plug.Glaze, 0.018},
		{plug.Blisters, 0.004}, {plug.Bridged, 0.003}}, "C"},
	{Bystander, "wet", PlugSigns{{plug.Dry, 0.963}, {plug.Fuel, 0.005}, {plug.Oil, 0.03}, {plug.Water, 0.002}},
		"C: a trace of oil on an old engine"},
	{Bystander, "edges", PlugSigns{{plug.Sharp, 0.855}, {plug.Rounded, 0.125}, {plug.Eaten, 0.014},
		{plug.Bruised, 0.006}}, "C: sets wear alike"},
	{Bystander, "strap", PlugSigns{{plug.Straight, 0.986}, {plug.Bent, 0.01}, {plug.Closed, 0.004}}, "C"},
	{Bystander, "tip", PlugSigns{{plug.Fine, 0.495}, {plug.Thick, 0.495}, {plug.Missing, 0.01}}, "C"},
	{Bystander, "insulator", PlugSigns{{plug.Whole, 0.991}, {plug.Cracked, 0.005}, {plug.Tracked, 0.004}}, "C"},
	{Bystander, "ring", PlugSigns{{plug.NoRing, 0.6}, {plug.Ring, 0.4}},
		"C: a corona stain is harmless, and says nothing"},
	{Bystander, "high", PlugSigns{{plug.Dry, 0.93}, {plug.Oil, 0.05}, {plug.Water, 0.02}},
		"C: a trace from the valve cover is common"},
	{Bystander, "gasket", PlugSigns{{plug.Crushed, 0.69}, {plug.Taper, 0.3}, {plug.Uncrushed, 0.01}}, "C"},
	{Bystander, "hold", PlugSigns{{plug.Tight, 0.985}, {plug.Loose, 0.015}}, "C"},
	{Bystander, "lettering", PlugSigns{{plug.Right, 0.985}, {plug.Wrong, 0.015}}, "C: a sound plug of another make"},
}

// Sets lists the looks of sets of sound plugs (C; judgement). A sign that all plugs share does
// not point to one plug.
var Sets = []SetRow{
	{"as usual", 0.7, 0.04, nil, "C"},
	{"worn together", 0.14, 0.15, []SignRow{
		{Bystander, "edges", PlugSigns{{plug.Sharp, 0.28}, {plug.Rounded, 0.64}, {plug.Eaten, 0.07},
			{plug.Bruised, 0.01}}, ""},
	}, "C: a set wears alike"},
	{"hot together: mixture, timing or heat range", 0.04, 0.05, []SignRow{
		{Bystander, "nose", PlugSigns{{plug.Tan, 0.12}, {plug.Grey, 0.18}, {plug.Pale, 0.38}, {plug.White, 0.3},
			{plug.Black, 0.02}}, ""},
		{Bystander, "deposit", PlugSigns{{plug.Clean, 0.82}, {plug.Soot, 0.01}, {plug.Ash, 0.04}, {plug.Glaze, 0.08},
			{plug.Blisters, 0.04}, {plug.Bridged, 0.01}}, ""},
	}, "C"},
	{"sooty together: short trips, mixture, heat range", 0.06, 0, []SignRow{
		{Bystander, "nose", PlugSigns{{plug.Tan, 0.15}, {plug.Grey, 0.09}, {plug.Pale, 0.01}, {plug.White, 0.005},
			{plug.Black, 0.745}}, ""},
		{Bystander, "deposit", PlugSigns{{plug.Clean, 0.24}, {plug.Soot, 0.7}, {plug.Ash, 0.04}, {plug.Glaze, 0.01},
			{plug.Blisters, 0.005}, {plug.Bridged, 0.005}}, ""},
	}, "C"},
	{"oily together: a worn engine", 0.04, 0.08, []SignRow{
		{Bystander, "wet", PlugSigns{{plug.Dry, 0.6}, {plug.Fuel, 0.01}, {plug.Oil, 0.38}, {plug.Water, 0.01}}, ""},
		{Bystander, "deposit", PlugSigns{{plug.Clean, 0.4}, {plug.Soot, 0.1}, {plug.Ash, 0.4}, {plug.Glaze, 0.08},
			{plug.Blisters, 0.01}, {plug.Bridged, 0.01}}, ""},
	}, "C"},
	{"wells wet together", 0.02, 0, []SignRow{
		{Bystander, "high", PlugSigns{{plug.Dry, 0.3}, {plug.Oil, 0.55}, {plug.Water, 0.15}}, ""},
	}, "C: valve covers leak all along"},
}

// Signs lists the signs of a plug by its bearing (C: common practice; figures by judgement). A
// sign is sometimes missed, and rarely seen where it is absent.
var Signs = []SignRow{
	{WornGap, "edges", PlugSigns{{plug.Sharp, 0.13}, {plug.Rounded, 0.64}, {plug.Eaten, 0.22}, {plug.Bruised, 0.01}},
		"C: rounded, wide"},

	{CrackedPlug, "insulator", PlugSigns{{plug.Whole, 0.32}, {plug.Cracked, 0.38}, {plug.Tracked, 0.3}},
		"C: a hairline crack is easily missed; half of them track outside"},

	{SootyPlug, "nose", PlugSigns{{plug.Tan, 0.09}, {plug.Grey, 0.05}, {plug.Pale, 0.01}, {plug.White, 0.005},
		{plug.Black, 0.845}}, "C"},
	{SootyPlug, "deposit", PlugSigns{{plug.Clean, 0.12}, {plug.Soot, 0.8}, {plug.Ash, 0.02}, {plug.Glaze, 0.02},
		{plug.Blisters, 0.01}, {plug.Bridged, 0.03}}, "C: soot bridges the nose"},

	{WetPlug, "wet", PlugSigns{{plug.Dry, 0.18}, {plug.Fuel, 0.79}, {plug.Oil, 0.025}, {plug.Water, 0.005}},
		"C: it dries while one looks"},
	{WetPlug, "deposit", PlugSigns{{plug.Clean, 0.7}, {plug.Soot, 0.24}, {plug.Ash, 0.03}, {plug.Glaze, 0.01},
		{plug.Blisters, 0.01}, {plug.Bridged, 0.01}}, "C"},
	{WetPlug, "nose", PlugSigns{{plug.Tan, 0.28}, {plug.Grey, 0.2}, {plug.Pale, 0.06}, {plug.White, 0.01},
		{plug.Black, 0.45}}, "C"},

	{OilyPlug, "wet", PlugSigns{{plug.Dry, 0.1}, {plug.Fuel, 0.36}, {plug.Oil, 0.53}, {plug.Water, 0.01}},
		"C: fuel that is not lit washes it"},
	{OilyPlug, "deposit", PlugSigns{{plug.Clean, 0.34}, {plug.Soot, 0.22}, {plug.Ash, 0.26}, {plug.Glaze, 0.08},
		{plug.Blisters, 0.02}, {plug.Bridged, 0.08}}, "C: burnt oil leaves ash"},
	{OilyPlug, "nose", PlugSigns{{plug.Tan, 0.18}, {plug.Grey, 0.12}, {plug.Pale, 0.04}, {plug.White, 0.01},
		{plug.Black, 0.65}}, "C"},

	{ClosedGap, "strap", PlugSigns{{plug.Straight, 0.22}, {plug.Bent, 0.2}, {plug.Closed, 0.58}},
		"C: seen, if one looks along the strap"},
	{ClosedGap, "deposit", PlugSigns{{plug.Clean, 0.66}, {plug.Soot, 0.08}, {plug.Ash, 0.08}, {plug.Glaze, 0.02},
		{plug.Blisters, 0.01}, {plug.Bridged, 0.15}}, "C: or bridged"},
	{ClosedGap, "edges", PlugSigns{{plug.Sharp, 0.76}, {plug.Rounded, 0.1}, {plug.Eaten, 0.02}, {plug.Bruised, 0.12}},
		"C: what closed it left its mark"},

	{WrongPlug, "lettering", PlugSigns{{plug.Right, 0.35}, {plug.Wrong, 0.65}}, "C: its lettering beside the list"},
	{WrongPlug, "tip", PlugSigns{{plug.Fine, 0.35}, {plug.Thick, 0.45}, {plug.Missing, 0.2}},
		"C: a copy lacks the fine wire"},
	{WrongPlug, "nose", PlugSigns{{plug.Tan, 0.27}, {plug.Grey, 0.2}, {plug.Pale, 0.12}, {plug.White, 0.13},
		{plug.Black, 0.28}}, "C: a heat range that is wrong shows either way"},
	{WrongPlug, "deposit", PlugSigns{{plug.Clean, 0.62}, {plug.Soot, 0.27}, {plug.Ash, 0.04}, {plug.Glaze, 0.04},
		{plug.Blisters, 0.02}, {plug.Bridged, 0.01}}, "C: too cold a heat range soots, too hot a one glazes"},
	{WrongPlug, "edges", PlugSigns{{plug.Sharp, 0.76}, {plug.Rounded, 0.14}, {plug.Eaten, 0.02}, {plug.Bruised, 0.08}},
		"C: too long a reach is hammered"},

	{LoosePlug, "hold", PlugSigns{{plug.Tight, 0.22}, {plug.Loose, 0.78}}, "C: felt when it is undone"},
	{LoosePlug, "gasket", PlugSigns{{plug.Crushed, 0.4}, {plug.Taper, 0.2}, {plug.Uncrushed, 0.4}}, "C: never tight"},
	{LoosePlug, "nose", PlugSigns{{plug.Tan, 0.34}, {plug.Grey, 0.24}, {plug.Pale, 0.12}, {plug.White, 0.14},
		{plug.Black, 0.16}}, "C: it runs hot without its seat"},

	{SparkLost, "wet", PlugSigns{{plug.Dry, 0.24}, {plug.Fuel, 0.725}, {plug.Oil, 0.03}, {plug.Water, 0.005}},
		"C: fuel that nothing lights wets it: the effect, not the cause"},
	{SparkLost, "deposit", PlugSigns{{plug.Clean, 0.77}, {plug.Soot, 0.16}, {plug.Ash, 0.04}, {plug.Glaze, 0.01},
		{plug.Blisters, 0.01}, {plug.Bridged, 0.01}}, "C"},
	{SparkLost, "nose", PlugSigns{{plug.Tan, 0.38}, {plug.Grey, 0.28}, {plug.Pale, 0.11}, {plug.White, 0.01},
		{plug.Black, 0.22}}, "C"},

	{FuelLost, "wet", PlugSigns{{plug.Dry, 0.83}, {plug.Fuel, 0.15}, {plug.Oil, 0.017}, {plug.Water, 0.003}},
		"C: little to wet it; but lean is not empty, and what does not light leaves it damp"},
	{FuelLost, "nose", PlugSigns{{plug.Tan, 0.22}, {plug.Grey, 0.24}, {plug.Pale, 0.26}, {plug.White, 0.25},
		{plug.Black, 0.03}}, "C: lean runs hot and pale"},
	{FuelLost, "deposit", PlugSigns{{plug.Clean, 0.9}, {plug.Soot, 0.01}, {plug.Ash, 0.03}, {plug.Glaze, 0.03},
		{plug.Blisters, 0.025}, {plug.Bridged, 0.005}}, "C"},

	{FuelTooMuch, "wet", PlugSigns{{plug.Dry, 0.62}, {plug.Fuel, 0.36}, {plug.Oil, 0.015}, {plug.Water, 0.005}},
		"C: black or wet"},
	{FuelTooMuch, "deposit", PlugSigns{{plug.Clean, 0.44}, {plug.Soot, 0.52}, {plug.Ash, 0.02}, {plug.Glaze, 0.01},
		{plug.Blisters, 0.005}, {plug.Bridged, 0.005}}, "C"},
	{FuelTooMuch, "nose", PlugSigns{{plug.Tan, 0.18}, {plug.Grey, 0.11}, {plug.Pale, 0.03}, {plug.White, 0.01},
		{plug.Black, 0.67}}, "C"},

	{SqueezeLost, "wet", PlugSigns{{plug.Dry, 0.36}, {plug.Fuel, 0.33}, {plug.Oil, 0.295}, {plug.Water, 0.015}},
		"C: what does not light wets it as well; oil past rings or guides at times"},
	{SqueezeLost, "deposit", PlugSigns{{plug.Clean, 0.6}, {plug.Soot, 0.2}, {plug.Ash, 0.15}, {plug.Glaze, 0.03},
		{plug.Blisters, 0.01}, {plug.Bridged, 0.01}}, "C"},
	{SqueezeLost, "nose", PlugSigns{{plug.Tan, 0.36}, {plug.Grey, 0.26}, {plug.Pale, 0.1}, {plug.White, 0.02},
		{plug.Black, 0.26}}, "C"},

	{UnderTrack, "insulator", PlugSigns{{plug.Whole, 0.66}, {plug.Cracked, 0.01}, {plug.Tracked, 0.33}},
		"C: the plug carries the other half of the track"},

	{WellIsWet, "high", PlugSigns{{plug.Dry, 0.25}, {plug.Oil, 0.58}, {plug.Water, 0.17}},
		"C: it runs down onto the hex"},
}

// Gaps lists the gaps by bearing (C; judgement). Growth of 0.1 to 0.15 mm over a life is
// usual. A plug that fails by its gap has grown half as much again.
var Gaps = []GapRow{
	{Bystander, NormalComponent{0, 0.06}, "C: read with wires, the finest of which go by 0.05 mm"},
	{WornGap, NormalComponent{0.75, 0.27}, "C: half as wide again, and up to three times where it was driven on"},
	{ClosedGap, NormalComponent{-1.5, 0.5}, "C: the strap was struck: a third of its gap is left, or less"},
	{WrongPlug, NormalComponent{0.05, 0.35}, "C: as it came, either way"},
}

// WetAnyway holds the shares of wet tips without information: dry, fuel, oil, water
// (judgement).
var WetAnyway = []float64{.4, .3, .25, .05}

// Oiled is the information of oil at the tip after oil was added for a compression test.
const Oiled = 0.05

// MarkPlug lists the modes of parts that leave the other half of a track on the plug.
var MarkPlug = fault.Keys{fault.BootTracked, fault.LeadLeaking}
