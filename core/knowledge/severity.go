package knowledge

import (
	"math"
	"slices"
	"strings"

	"glenmist/core/fault"
	"glenmist/core/infer"
)

// RowID names the row of a severity.
func (s SeverityRow) RowID() string { return "severity:" + strings.Join(s.Modes, "+") }

// Bands are the bounds of misfire infer.Rates, per firing event in the condition in which it fails,
// that a severity is stated by: slight, now and then, often, half, mostly, dead.
var Bands = []float64{infer.LeastRate, 0.01, 0.05, 0.2, 0.6, 0.9, infer.MostRate}

// BandWords say what they are.
var BandWords = []string{"less than 1 in 100", "up to 1 in 20", "up to 1 in 5", "up to 3 in 5", "up to 9 in 10", "dead"}

// SeverityRow states how strongly modes make a cylinder misfire where they do: the share of
// each band. The first row that fits counts; a mode in none is as likely slight as dead.
type SeverityRow struct {
	Modes  []string
	Shares [6]float64
	Source string
}

// Severities lists them (C; judgement).
var Severities = []SeverityRow{
	{[]string{"something.else"}, [6]float64{.14, .22, .31, .30, .015, .015}, "C: a dead cylinder lacks spark, fuel or compression, and what takes those away is in the list"},
	{[]string{"lead-order"}, [6]float64{.02, .02, .02, .04, .05, .85}, "C: its spark comes at the wrong time, each time"},
	{[]string{"trigger", "driver"}, [6]float64{.06, .22, .23, .19, .10, .20}, "C: a poor joint misses now and then; a wire that has broken, or a driver that has burnt, is dead"},
	{[]string{"connector", "module", "pickup", "stop-wire", "coil.primary-open"}, [6]float64{.05, .29, .28, .23, .09, .06}, "C: a contact that comes and goes misses now and then, and is seldom dead"},
	{[]string{"feed", "ground"}, [6]float64{.06, .17, .17, .17, .13, .30}, "C: a poor one starves the coil, or comes and goes"},
	{shortfall, [6]float64{.02, .03, .04, .06, .08, .77}, "C: where more is asked than the insulation or the winding gives, nearly every spark is lost"},
	{[]string{"coil.secondary-open"}, [6]float64{.05, .08, .10, .14, .13, .50}, "C: it jumps inside, and still fires what asks for little"},
	{[]string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled", "plug.worn-gap", "plug.wrong", "coil.weak-load", "coil.weak-hot", "air-gap"}, [6]float64{.05, .05, .06, .08, .10, .66}, "C: so, and it comes by degrees"},
	{[]string{"lead.high-resistance"}, [6]float64{.24, .29, .27, .15, .03, .02}, "C: it burns weaker, and still lights most times"},
	{Breaks, [6]float64{.14, .20, .20, .19, .15, .12}, "C: the spark jumps what it can: a second gap costs some of it"},
	{[]string{"injector.leaking"}, [6]float64{.05, .12, .15, .17, .17, .34}, "C: too rich, it lights most times unless it floods"},
	{[]string{"air", "fuel", "injector"}, [6]float64{.02, .03, .06, .13, .16, .60}, "C: too lean or too rich to light, it lights seldom"},
	{[]string{"compression", "plug.loose", "plug.closed-gap", "timing"}, [6]float64{.05, .13, .21, .28, .20, .13}, "C: it still lights now and then: a rough cylinder more often than a dead one"},
}

// severity is how likely each rate of the grid is for a fault before anything is known, by mode, as
// a log ratio to all infer.Rates alike; within a band all are.
var SeverityByMode = func() map[string]*infer.PerRate {
	of := make([]*infer.PerRate, len(Severities))
	for i, row := range Severities {
		of[i] = onGrid(row.Shares)
	}
	all := map[string]*infer.PerRate{}
	alike := &infer.PerRate{}
	for _, m := range fault.Catalogue {
		all[m.ID] = alike
		if i := SeverityOf(m.ID); i >= 0 {
			all[m.ID] = of[i]
		}
	}
	return all
}()

// severityOf is the row of a mode, or -1.
func SeverityOf(mode string) int {
	return slices.IndexFunc(Severities, func(s SeverityRow) bool { return Matches(s.Modes, mode) })
}

// onGrid spreads the shares of the bands over the infer.Rates of the grid that lie in them.
func onGrid(shares [6]float64) *infer.PerRate {
	band := func(rate float64) int {
		k := 0
		for k < len(shares)-1 && rate >= Bands[k+1] {
			k++
		}
		return k
	}
	var in [6]float64
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
