package knowledge

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/fault"
)

// TrimRow states what the sum of the fuel trims of a bank is when a fault bears on
// it: normally distributed, in per cent. What one cylinder lacks is shared out over its bank: the
// centre is that of a bank of four.
type TrimRow struct {
	// Mode is the fault; none is any misfire of that bank.
	Mode fault.Key
	// Shared says that it is of a bank or the whole engine, and not of one cylinder.
	Shared bool
	NormalComponent
	Source string
}

// soundTrims is the key of trims with nothing behind them.
type soundTrims struct{}

// Covers says that it is no mode.
func (soundTrims) Covers(fault.ModeID) bool { return false }

// String is the name that its row has.
func (soundTrims) String() string { return "none" }

// TrimRows is what is believed of fuel trims (C; judgement).
var TrimRows = []TrimRow{
	{fault.AirLeak, true, NormalComponent{27, 11}, "C: several cylinders' worth of air; judgement"},
	{fault.AirLeak, false, NormalComponent{9, 6}, "C: one runner's worth; judgement"},
	{fault.FuelLow, true, NormalComponent{12, 10}, "C: at idle a weak pump often keeps up; judgement"},
	{fault.InjectorLeaking, false, NormalComponent{-9, 7}, "C: one that stays open; judgement"},
	{fault.AnyInjector, false, NormalComponent{9, 7}, "C; judgement"},
	{nil, false, NormalComponent{5, 7}, "C: unburnt air looks lean, so it weighs little; judgement"},
	{soundTrims{}, false, NormalComponent{0, 5}, "C: trims wander within a few per cent; judgement"},
}

// RowID names the row of trims.
func (r TrimRow) RowID() string {
	id := "trims:" + orMisfire(r.Mode)
	if r.Shared {
		id += "/shared"
	}
	return id
}

// trimTable looks up the rows in their order.
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

// SoundTrims is the row of trims with nothing behind them.
func (b *Beliefs) SoundTrims() TrimRow {
	rows := trimTable.Of(b)
	return rows[len(rows)-1]
}

// Trims is the row that holds for the trims of a bank when a fault feeds some cylinders
// and makes some affected; ok is false where nothing bears on them.
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

// A trim read in error or in open loop is anywhere (C; judgement).
const (
	TrimWrong   = 0.02
	TrimWrongSD = 25
)

// Within is the chance that trims of this row sum to more than low and at most high, in per cent.
func (r TrimRow) Within(low, high float64) float64 {
	share := func(mean, sd float64) float64 {
		below := func(x float64) float64 { return 0.5 * math.Erfc((mean-x)/(sd*math.Sqrt2)) }
		return below(high) - below(low)
	}
	return (1-TrimWrong)*share(r.Centre, r.Spread) + TrimWrong*share(0, TrimWrongSD)
}
