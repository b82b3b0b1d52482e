package knowledge

import (
	"fmt"
	"math"

	"glenmist/core/evidence"
	"glenmist/core/meter"
	"glenmist/core/readings"
	"glenmist/core/unit"
)

// Range is a range of positive figures.
type Range evidence.Range

// Middle returns the geometric mean and the spread as a standard deviation of logarithms.
func (r Range) Middle() (mid, spread float64) {
	low := max(r.Low, r.High/100, 1e-6)
	return math.Sqrt(low * max(r.High, low)), math.Log(max(r.High, low)/low) / 4
}

// Thumb is the usual range of a measure other than resistance, in its unit. It is used if
// neither the maker's range nor siblings give a narrower one. Most sound parts are inside. A
// reading outside need not be abnormal.
type Thumb struct {
	Measure evidence.MeasureID
	Range   Range
	Source  string
}

// RowID returns the row id.
func (t Thumb) RowID() string { return "thumb:" + string(t.Measure) }

var thumbTable = Register(TableOf[Thumb, map[evidence.MeasureID]Range]{
	Title: "Rules of thumb", In: OfReadings, Ships: Thumbs,
	Describe: func(t *Thumb) Row {
		m, _ := evidence.FindMeasure(t.Measure)
		return Row{ID: t.RowID(), Of: m.Words + ", where nothing tighter is known: sound ones mostly lie", Says: fmt.Sprintf("%g to %g %s", t.Range.Low, t.Range.High, m.Figures[0].Unit()), Source: t.Source,
			Figures: []Figure{{Words: "At least", At: &t.Range.Low, Least: 0.01, Most: MaxThumb}, {Words: "At most", At: &t.Range.High, Least: 0.01, Most: MaxThumb}},
			Check: func(values []float64) string {
				if values[0] >= values[1] {
					return "the least first, below the most"
				}
				return ""
			}}
	},
	Index: func(rows []Thumb) map[evidence.MeasureID]Range {
		all := map[evidence.MeasureID]Range{}
		for _, t := range rows {
			all[t.Measure] = t.Range
		}
		return all
	},
})

// Thumb returns the usual range of sound readings; ok is false if none is known.
func (b *Beliefs) Thumb(id evidence.MeasureID) (r Range, ok bool) {
	r, ok = thumbTable.Of(b)[id]
	return r, ok
}

// Thumbs lists the ranges. One in five sound readings is outside (C; judgement).
var Thumbs = []Thumb{
	{evidence.KVSteady, Range{6.5, 13}, "C: firing kV at warm idle, mostly 8 to 12"},
	{evidence.LeakDownLoss, Range{4, 16}, "C: some loss past the rings is normal"},
	{evidence.CompressionDry, Range{8, 15}, "C: petrol engines"},
}

var _ = Register(TableOf[meter.Rule, struct{}]{
	Title: "Rules of thumb for resistances", In: OfReadings, Ships: meter.Rules,
	Describe: func(r *meter.Rule) Row {
		says := fmt.Sprintf("%s to %s", unit.Ohms{Value: r.Low}, unit.Ohms{Value: r.High})
		if r.PerMetre {
			says += " a metre"
		}
		return Row{Of: unit.Capital(r.Words), Says: says, Source: r.Source}
	},
})

var _ = Register(TableOf[readings.Thumb, struct{}]{
	Title: "Where the meter warns", In: OfReadings, Ships: readings.Thumbs,
	Describe: func(t *readings.Thumb) Row {
		m, _ := evidence.FindMeasure(t.Measure)
		return Row{Of: m.Words + ": the meter warns beyond", Says: fmt.Sprintf("%g to %g %s: %s", t.Range.Low, t.Range.High, m.Figures[0].Unit(), t.Words), Source: t.Source}
	},
})
