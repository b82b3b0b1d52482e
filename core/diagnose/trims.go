package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/infer"
	"glenmist/core/trouble"
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
	trimWrong   = 0.02
	trimWrongSD = 25
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

// trimmed is what the trims of one bank say of a fault; odd is how far it moves them.
func (b *Beliefs) trimmed(t trouble.Trim, e engine.Engine, mode string, fed, affected engine.Set) (row likelihoodRow, odd float64, ok bool) {
	r, ok := b.trimRow(e.BankSet(t.Bank), mode, fed, affected)
	if !ok {
		return row, 0, false
	}
	p := func(r TrimRow) float64 {
		return math.Exp(infer.LogMix(1-trimWrong, infer.LogNormal(t.Sum(), r.Mean, r.SD), trimWrong, infer.LogNormal(t.Sum(), 0, trimWrongSD)))
	}
	return likelihoodRow{odds: p(r), sound: p(b.noTrim()), seen: 1}, math.Abs(r.Mean), true
}

// noTrim is the row of trims with nothing behind them: the last.
func (b *Beliefs) noTrim() TrimRow { return b.trims[len(b.trims)-1] }

// trimRow is the row that holds for the trims of a bank when a fault feeds some cylinders
// and makes some affected; ok is false where nothing bears on them.
func (b *Beliefs) trimRow(bank engine.Set, mode string, fed, affected engine.Set) (row TrimRow, ok bool) {
	for _, r := range b.trims {
		if matches([]string{r.Mode}, mode) && r.Shared == (fed.Len() > 1) && fed&bank != 0 && affected != 0 || r.Mode == "" && affected&bank != 0 {
			if !r.Shared {
				r.Mean *= min(4/float64(bank.Len()), 2.5)
			}
			return r, true
		}
	}
	return row, false
}

// within is the chance that trims of this row sum to more than low and at most high.
func (r TrimRow) within(low, high float64) float64 {
	share := func(mean, sd float64) float64 {
		below := func(x float64) float64 { return 0.5 * math.Erfc((mean-x)/(sd*math.Sqrt2)) }
		return below(high) - below(low)
	}
	return (1-trimWrong)*share(r.Mean, r.SD) + trimWrong*share(0, trimWrongSD)
}
