package knowledge

import (
	"slices"
)

// marks are the modes of what sits on a plug that leave the other half of a track on it.
var MarkPlug = []string{"boot.tracked", "lead.leaking"}

// Bearings of a plug that show only when it is read in full: what sits on it has marked it.
const (
	UnderTrack Bearing = "its boot or lead is tracked"
	UnderWet   Bearing = "its well holds oil or water"
)

// SignRow states how often each sign of an aspect is seen on a plug of one bearing; an aspect
// without a row looks as on a sound plug of the set. The figures of a row sum to 1.
type SignRow struct {
	Bearing Bearing
	Aspect  string
	// Chance of each sign, in the order of plug.Aspects.
	Chance []float64
	Source string
}

// SetRow is one way in which a whole set of sound plugs can look: sets wear and colour alike.
type SetRow struct {
	Words string
	// Share of the sets that look so.
	Share float64
	// Gap is the mean log ratio of their gaps to what is expected.
	Gap    float64
	Signs  []SignRow
	Source string
}

// SoundSigns are the signs of a sound plug of an ordinary set (C; judgement).
var SoundSigns = []SignRow{
	//                          tan  grey pale white black
	{Bystander, "nose", []float64{.45, .34, .13, .02, .06}, "C: tan to light grey; merely pale can be healthy"},
	//                             none  soot ash glaze blisters bridged
	{Bystander, "deposit", []float64{.875, .04, .06, .018, .004, .003}, "C"},
	//                         dry   fuel  oil  water
	{Bystander, "wet", []float64{.963, .005, .03, .002}, "C: a trace of oil on an old engine"},
	//                           sharp rounded eaten bruised
	{Bystander, "edges", []float64{.855, .125, .014, .006}, "C: sets wear alike"},
	{Bystander, "strap", []float64{.986, .010, .004}, "C"},
	//                         fine  thick missing
	{Bystander, "tip", []float64{.495, .495, .01}, "C"},
	//                                whole cracked tracked
	{Bystander, "insulator", []float64{.991, .005, .004}, "C"},
	{Bystander, "ring", []float64{.6, .4}, "C: a corona stain is harmless, and says nothing"},
	//                          dry  oil  water
	{Bystander, "high", []float64{.93, .05, .02}, "C: a trace from the valve cover is common"},
	//                            crushed taper uncrushed
	{Bystander, "gasket", []float64{.69, .30, .01}, "C"},
	{Bystander, "hold", []float64{.985, .015}, "C"},
	{Bystander, "lettering", []float64{.985, .015}, "C: a sound plug of another make"},
}

// Sets are the ways in which a set of sound plugs looks (C; judgement). What is alike on all of
// them is not the plug.
var Sets = []SetRow{
	{"as usual", 0.70, 0.04, nil, "C"},
	{"worn together", 0.14, 0.15, []SignRow{{Bystander, "edges", []float64{.28, .64, .07, .01}, ""}}, "C: a set wears alike"},
	{"hot together: mixture, timing or heat range", 0.04, 0.05, []SignRow{
		{Bystander, "nose", []float64{.12, .18, .38, .30, .02}, ""}, {Bystander, "deposit", []float64{.82, .01, .04, .08, .04, .01}, ""}}, "C"},
	{"sooty together: short trips, mixture, heat range", 0.06, 0, []SignRow{
		{Bystander, "nose", []float64{.15, .09, .01, .005, .745}, ""}, {Bystander, "deposit", []float64{.24, .70, .04, .01, .005, .005}, ""}}, "C"},
	{"oily together: a worn engine", 0.04, 0.08, []SignRow{
		{Bystander, "wet", []float64{.60, .01, .38, .01}, ""}, {Bystander, "deposit", []float64{.40, .10, .40, .08, .01, .01}, ""}}, "C"},
	{"wells wet together", 0.02, 0, []SignRow{{Bystander, "high", []float64{.30, .55, .15}, ""}}, "C: valve covers leak all along"},
}

// Signs states what a plug shows by how it stands to the fault (C: the looks of the trade, put
// into figures by judgement; a sign is missed now and then, and seldom seen where it is not).
var Signs = []SignRow{
	{WornGap, "edges", []float64{.13, .64, .22, .01}, "C: rounded, wide"},

	{CrackedPlug, "insulator", []float64{.32, .38, .30}, "C: a hairline crack is easily missed; half of them track outside"},

	{SootyPlug, "nose", []float64{.09, .05, .01, .005, .845}, "C"},
	{SootyPlug, "deposit", []float64{.12, .80, .02, .02, .01, .03}, "C: soot bridges the nose"},

	{WetPlug, "wet", []float64{.18, .79, .025, .005}, "C: it dries while one looks"},
	{WetPlug, "deposit", []float64{.70, .24, .03, .01, .01, .01}, "C"},
	{WetPlug, "nose", []float64{.28, .20, .06, .01, .45}, "C"},

	{OilyPlug, "wet", []float64{.10, .36, .53, .01}, "C: fuel that is not lit washes it"},
	{OilyPlug, "deposit", []float64{.34, .22, .26, .08, .02, .08}, "C: burnt oil leaves ash"},
	{OilyPlug, "nose", []float64{.18, .12, .04, .01, .65}, "C"},

	{ClosedGap, "strap", []float64{.22, .20, .58}, "C: seen, if one looks along the strap"},
	{ClosedGap, "deposit", []float64{.66, .08, .08, .02, .01, .15}, "C: or bridged"},
	{ClosedGap, "edges", []float64{.76, .10, .02, .12}, "C: what closed it left its mark"},

	{WrongPlug, "lettering", []float64{.35, .65}, "C: its lettering beside the list"},
	{WrongPlug, "tip", []float64{.35, .45, .20}, "C: a copy lacks the fine wire"},
	{WrongPlug, "nose", []float64{.27, .20, .12, .13, .28}, "C: a heat range that is wrong shows either way"},
	{WrongPlug, "deposit", []float64{.62, .27, .04, .04, .02, .01}, "C: too cold a heat range soots, too hot a one glazes"},
	{WrongPlug, "edges", []float64{.76, .14, .02, .08}, "C: too long a reach is hammered"},

	{LoosePlug, "hold", []float64{.22, .78}, "C: felt when it is undone"},
	{LoosePlug, "gasket", []float64{.40, .20, .40}, "C: never tight"},
	{LoosePlug, "nose", []float64{.34, .24, .12, .14, .16}, "C: it runs hot without its seat"},

	{SparkLost, "wet", []float64{.24, .725, .03, .005}, "C: fuel that nothing lights wets it: the effect, not the cause"},
	{SparkLost, "deposit", []float64{.77, .16, .04, .01, .01, .01}, "C"},
	{SparkLost, "nose", []float64{.38, .28, .11, .01, .22}, "C"},

	{FuelLost, "wet", []float64{.83, .15, .017, .003}, "C: little to wet it; but lean is not empty, and what does not light leaves it damp"},
	{FuelLost, "nose", []float64{.22, .24, .26, .25, .03}, "C: lean runs hot and pale"},
	{FuelLost, "deposit", []float64{.90, .01, .03, .03, .025, .005}, "C"},

	{FuelTooMuch, "wet", []float64{.62, .36, .015, .005}, "C: black or wet"},
	{FuelTooMuch, "deposit", []float64{.44, .52, .02, .01, .005, .005}, "C"},
	{FuelTooMuch, "nose", []float64{.18, .11, .03, .01, .67}, "C"},

	{SqueezeLost, "wet", []float64{.36, .33, .295, .015}, "C: what does not light wets it as well; oil past rings or guides at times"},
	{SqueezeLost, "deposit", []float64{.60, .20, .15, .03, .01, .01}, "C"},
	{SqueezeLost, "nose", []float64{.36, .26, .10, .02, .26}, "C"},

	{UnderTrack, "insulator", []float64{.66, .01, .33}, "C: the plug carries the other half of the track"},
	{UnderWet, "high", []float64{.25, .58, .17}, "C: it runs down onto the hex"},
}

// GapRow is how the log ratio of a gap to what is expected lies on a plug of one bearing.
type GapRow struct {
	Bearing Bearing
	NormalComponent
	Source string
}

// Gaps states how gaps lie (C; judgement): growth of 0.1 to 0.15 mm is usual over a life, a
// plug that fails for its gap has half as much again.
var Gaps = []GapRow{
	{Bystander, NormalComponent{0, 0.06}, "C: read with wires, the finest of which go by 0.05 mm"},
	{WornGap, NormalComponent{0.75, 0.27}, "C: half as wide again, and up to three times where it was driven on"},
	{ClosedGap, NormalComponent{-1.5, 0.5}, "C: the strap was struck: a third of its gap is left, or less"},
	{WrongPlug, NormalComponent{0.05, 0.35}, "C: as it came, either way"},
}

// wetAnyway is how wet tips are where that tells nothing: dry, fuel, oil, water (judgement).
var WetAnyway = []float64{.4, .3, .25, .05}

// oiled is how little oil at the tip tells after oil was poured in for a compression test.
const Oiled = 0.05

// RowID names the row of a sign.
func (r SignRow) RowID() string { return "sign:" + string(r.Bearing) + "/" + r.Aspect }

// RowID names the row of a gap.
func (g GapRow) RowID() string { return "gap:" + string(g.Bearing) }

// signTable is the chance of each sign of an aspect by bearing.
type signTable map[Bearing]map[string][]float64

func signsBy(rows []SignRow) signTable {
	m := signTable{}
	for _, r := range rows {
		if m[r.Bearing] == nil {
			m[r.Bearing] = map[string][]float64{}
		}
		m[r.Bearing][r.Aspect] = r.Chance
	}
	return m
}

var (
	AllSigns = slices.Concat(SoundSigns, Signs)
	signRows = signsBy(AllSigns)
	// setRows are, for each of Sets, its signs by aspect.
	setRows = func() []map[string][]float64 {
		all := make([]map[string][]float64, len(Sets))
		for i, s := range Sets {
			all[i] = map[string][]float64{}
			for _, r := range s.Signs {
				all[i][r.Aspect] = r.Chance
			}
		}
		return all
	}()
	gapRows = func() map[Bearing]NormalComponent {
		m := map[Bearing]NormalComponent{}
		for _, g := range Gaps {
			m[g.Bearing] = g.NormalComponent
		}
		return m
	}()
)

// marked lists the bearings that have signs of their own whether their cylinder misfires or not;
// where it does, they look beside those like any plug whose spark is lost.
var marked = []Bearing{UnderTrack, UnderWet, WornGap, CrackedPlug, SootyPlug, WetPlug, OilyPlug, ClosedGap, WrongPlug, LoosePlug, FuelTooMuch}

// of is the chance of each sign of an aspect on a plug that stands so, in a set that looks
// so, where its cylinder misfires or fires.
func (t signTable) Of(set int, b Bearing, misfires bool, aspect string) []float64 {
	own := slices.Contains(marked, b)
	if row, ok := t[b][aspect]; ok && b != Bystander && (own || misfires) {
		return row
	}
	if own && misfires {
		return t.Of(set, SparkLost, true, aspect)
	}
	if row, ok := setRows[set][aspect]; ok {
		return row
	}
	return t[Bystander][aspect]
}
