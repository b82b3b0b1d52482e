package diagnose

import (
	"glenmist/core/evidence"
	"glenmist/core/knowledge"
)

// PlugClasses returns how likely it is, by all that is known now, that a plug stands in each way to
// what is wrong.
func (a *Assessment) PlugClasses(item evidence.Seen) []knowledge.PlugClass {
	sum := map[knowledge.Bearing]float64{}
	rest := 1.0
	for i := range a.Faults {
		f := &a.Faults[i]
		if f.P == 0 {
			continue
		}
		if b := standing(item, &f.Hypothesis, a.Now, a.ran(len(a.Moments), f), f.CuredAfter >= 0); b != knowledge.Bystander {
			sum[b] += f.P
			rest -= f.P
		}
	}
	sum[knowledge.Bystander] = max(rest, 0.02)
	return knowledge.Classes(sum)
}
