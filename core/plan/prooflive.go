package plan

import (
	"math"

	"glenmist/core/proof"
)

// With returns the proof with a run that is not recorded yet: firing events of one cylinder in the condition of the complaint with
// the misfires of the worst, or exposures with those that failed. A repair whose suspects are back stays not fixed.
func (p Proof) With(times, failed int) Proof {
	back := p.State == proof.NotFixed && p.Fixed == 0
	if !p.Known || back || times == 0 {
		return p
	}
	was := p.test()
	before := was.LogRatio(p.Since.Times, p.Since.Failed)
	p.Since.add(times, failed)
	p.State, p.Progress = was.After(p.Since.Times, p.Since.Failed)
	p.More = 0
	if p.State == proof.NotYet {
		p.More = was.More(p.Since.Times, p.Since.Failed)
	}
	p.Fixed = 1 / (1 + (1-p.Fixed)/p.Fixed*math.Exp(before-was.LogRatio(p.Since.Times, p.Since.Failed)))
	return p
}
