package knowledge

import (
	"math"

	"glenmist/core/evidence"
)

// RowID names the row of a rule of thumb.
func (t Thumb) RowID() string { return "thumb:" + string(t.Measure) }

// Range is a range of figures above 0.
type Range evidence.Range

// middle is its geometric middle and how wide it is, as a standard deviation of logarithms.
func (r Range) Middle() (mid, spread float64) {
	low := max(r.Low, r.High/100, 1e-6)
	return math.Sqrt(low * max(r.High, low)), math.Log(max(r.High, low)/low) / 4
}

// Thumb is what a reading of a measure that is no resistance is held against where nothing
// tighter is known, in the measure's unit. It is narrower than what would warn on the bench: where
// sound ones mostly lie, and not where one begins to be odd.
type Thumb struct {
	Measure evidence.MeasureID
	Range   Range
	Source  string
}

// Thumbs lists them; one in five sound ones lies outside (C; judgement).
var Thumbs = []Thumb{
	{evidence.KVSteady, Range{6.5, 13}, "C: firing kV at warm idle, mostly 8 to 12"},
	{evidence.LeakDownLoss, Range{4, 16}, "C: some loss past the rings is normal"},
	{evidence.CompressionDry, Range{8, 15}, "C: petrol engines"},
}

// thumbs is Thumbs by measure.
var thumbs = func() map[evidence.MeasureID]Range {
	all := map[evidence.MeasureID]Range{}
	for _, t := range Thumbs {
		all[t.Measure] = t.Range
	}
	return all
}()
