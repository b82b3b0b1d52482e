package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/trouble"
)

// trimmed is what the trims of one bank say of a fault; odd is how far it moves them.
func trimmed(b *knowledge.Beliefs, t trouble.Trim, e engine.Engine, mode string, fed, affected engine.Set) (row likelihoodRow, odd float64, ok bool) {
	r, ok := b.TrimRow(e.BankSet(t.Bank), mode, fed, affected)
	if !ok {
		return row, 0, false
	}
	p := func(r knowledge.TrimRow) float64 {
		return math.Exp(infer.LogMix(1-knowledge.TrimWrong, infer.LogNormal(t.Sum(), r.Mean, r.SD), knowledge.TrimWrong, infer.LogNormal(t.Sum(), 0, knowledge.TrimWrongSD)))
	}
	return likelihoodRow{odds: p(r), sound: p(b.NoTrim()), seen: 1}, math.Abs(r.Mean), true
}
