package knowledge

import (
	"math"
)

// TrimRow states what the sum of the fuel trims of a bank is when a fault bears on
// it: normally distributed, in per cent. What one cylinder lacks is shared out over its bank: the mean is
// that of a bank of four.
type TrimRow struct {
	// Mode is the fault, an id or the first part of one; Shared says whether it is of a bank or the whole engine
	// and not of one cylinder. "" is any misfire of that bank.
	Mode     string
	Shared   bool
	Mean, SD float64
	Source   string
}

// TrimRows is what is believed of fuel trims (C; judgement).
var TrimRows = []TrimRow{
	{"air.leak", true, 27, 11, "C: several cylinders' worth of air; judgement"},
	{"air.leak", false, 9, 6, "C: one runner's worth; judgement"},
	{"fuel.low", true, 12, 10, "C: at idle a weak pump often keeps up; judgement"},
	{"injector.leaking", false, -9, 7, "C: one that stays open; judgement"},
	{"injector", false, 9, 7, "C; judgement"},
	{"", false, 5, 7, "C: unburnt air looks lean, so it weighs little; judgement"},
	{"none", false, 0, 5, "C: trims wander within a few per cent; judgement"},
}

// A trim read in error or in open loop is anywhere (C; judgement).
const (
	TrimWrong   = 0.02
	TrimWrongSD = 25
)

// RowID names the row of trims.
func (r TrimRow) RowID() string {
	id := "trims:" + r.Mode
	if r.Mode == "" {
		id = "trims:misfire"
	}
	if r.Shared {
		id += "/shared"
	}
	return id
}

// within is the chance that trims of this row sum to more than low and at most high.
func (r TrimRow) Within(low, high float64) float64 {
	share := func(mean, sd float64) float64 {
		below := func(x float64) float64 { return 0.5 * math.Erfc((mean-x)/(sd*math.Sqrt2)) }
		return below(high) - below(low)
	}
	return (1-TrimWrong)*share(r.Mean, r.SD) + TrimWrong*share(0, TrimWrongSD)
}
