package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/trouble"
)

// trimmed is the likelihood row of the fuel trims of one bank for a fault; abnormal is how far the fault moves them.
func trimmed(b *knowledge.Beliefs, t trouble.Trim, e engine.Engine, mode fault.ModeID, fed, affected engine.Set) (row likelihoodRow, abnormal float64, ok bool) {
	r, ok := b.Trims(e.BankSet(t.Bank), mode, fed, affected)
	if !ok {
		return row, 0, false
	}
	p := func(r knowledge.TrimRow) float64 {
		return math.Exp(infer.LogMix(1-knowledge.TrimWrong, infer.LogNormal(t.Sum(), r.Centre, r.Spread), knowledge.TrimWrong, infer.LogNormal(t.Sum(), 0, knowledge.TrimWrongSD)))
	}
	return likelihoodRow{odds: p(r), sound: p(b.SoundTrims()), seen: 1}, math.Abs(r.Centre), true
}
