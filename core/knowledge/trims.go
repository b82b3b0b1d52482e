package knowledge

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/fault"
)

// TrimRow is the distribution of the sum of the fuel trims of a bank, in per cent, if a fault
// affects it. A loss of one cylinder is averaged over its bank; the centre is for a bank of
// four.
type TrimRow struct {
	// Mode selects the faults; nil is any misfire of the bank.
	Mode fault.Key
	// Shared is true for a fault of a bank or the whole engine.
	Shared bool
	NormalComponent
	Source string
}

// soundTrims is the key of the row without a fault.
type soundTrims struct{}

// Covers returns false.
func (soundTrims) Covers(fault.ModeID) bool { return false }

// String returns the name of the row.
func (soundTrims) String() string { return "none" }

// TrimRows lists the fuel trims (C; judgement).
var TrimRows = []TrimRow{
	{fault.AirLeak, true, NormalComponent{27, 11}, "C: several cylinders' worth of air; judgement"},
	{fault.AirLeak, false, NormalComponent{9, 6}, "C: one runner's worth; judgement"},
	{fault.FuelLow, true, NormalComponent{12, 10}, "C: at idle a weak pump often keeps up; judgement"},
	{fault.InjectorLeaking, false, NormalComponent{-9, 7}, "C: one that stays open; judgement"},
	{fault.AnyInjector, false, NormalComponent{9, 7}, "C; judgement"},
	{nil, false, NormalComponent{5, 7}, "C: unburnt air looks lean, so it weighs little; judgement"},
	{soundTrims{}, false, NormalComponent{0, 5}, "C: trims wander within a few per cent; judgement"},
}

// RowID returns the row id.
func (r TrimRow) RowID() string {
	id := "trims:" + orMisfire(r.Mode)
	if r.Shared {
		id += "/shared"
	}
	return id
}

// trimTable holds the rows in order.
var trimTable = Register(TableOf[TrimRow, []TrimRow]{
	Title: "Fuel trims", In: OfCodes, Ships: TrimRows,
	Describe: func(t *TrimRow) Row {
		of := anyMisfireWords(t.Mode)
		if t.Mode == (soundTrims{}) {
			of = "nothing that bears on them"
		}
		if t.Shared {
			of += " of a bank or the whole engine"
		}
		return Row{ID: t.RowID(), Of: "Trims of a bank, summed, of " + of, Says: fmt.Sprintf("%+g\u202f%%, give or take %g", t.Centre, t.Spread), Source: t.Source,
			Figures: t.figures("Trims, %", Plain)}
	},
	Index: func(rows []TrimRow) []TrimRow { return rows },
})

// SoundTrims returns the row without a fault.
func (b *Beliefs) SoundTrims() TrimRow {
	rows := trimTable.Of(b)
	return rows[len(rows)-1]
}

// Trims returns the row for a bank, given a fault with its fed and affected cylinders; ok is
// false if the fault does not affect the bank.
func (b *Beliefs) Trims(bank engine.Set, mode fault.ModeID, fed, affected engine.Set) (row TrimRow, ok bool) {
	for _, r := range trimTable.Of(b) {
		own := r.Mode != nil && r.Mode.Covers(mode) && r.Shared == (fed.Len() > 1) && fed&bank != 0 && affected != 0
		if own || r.Mode == nil && affected&bank != 0 {
			if !r.Shared {
				r.Centre *= min(4/float64(bank.Len()), 2.5)
			}
			return r, true
		}
	}
	return row, false
}

// A trim read in error or in open loop can have any value (C; judgement).
const (
	TrimWrong   = 0.02
	TrimWrongSD = 25
)

// Within returns the probability that the trims sum to more than low and at most high, in per
// cent.
func (r TrimRow) Within(low, high float64) float64 {
	share := func(mean, sd float64) float64 {
		below := func(x float64) float64 { return 0.5 * math.Erfc((mean-x)/(sd*math.Sqrt2)) }
		return below(high) - below(low)
	}
	return (1-TrimWrong)*share(r.Centre, r.Spread) + TrimWrong*share(0, TrimWrongSD)
}
