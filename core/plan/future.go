package plan

import (
	"cmp"
	"slices"

	"glenmist/core/diagnose"
)

// Change is what an outcome makes of one suspect.
type Change struct {
	Suspect diagnose.Suspect
	// Before and After are its probability now and then.
	Before, After float64
}

// Future is the ranking that an outcome of a step would leave.
type Future struct {
	Outcome Outcome
	// Ranking lists the suspects, the likeliest first.
	Ranking []Change
}

// Futures says, before a step is done, what the ranking would be after each of its
// outcomes: the first few suspects of each.
func (c Card) Futures(a *diagnose.Assessment, first int) []Future {
	c = c.weighed()
	var all []Future
	for _, o := range c.Outcomes {
		after := make([]float64, len(a.Suspects))
		total := 0.0
		for i := range a.JointHypotheses {
			w := &a.JointHypotheses[i]
			p := 0.0
			for _, row := range o.rows {
				p += w.P * c.chances[row][i]
			}
			total += p
			for k, f := range w.Faults {
				if k == 0 || f.Suspect != w.Faults[0].Suspect {
					after[f.Suspect] += p
				}
			}
		}
		if total <= 0 {
			continue
		}
		future := Future{Outcome: o}
		for i, s := range a.Suspects {
			future.Ranking = append(future.Ranking, Change{s, s.P, after[i] / total})
		}
		slices.SortStableFunc(future.Ranking, func(x, y Change) int { return cmp.Compare(y.After, x.After) })
		future.Ranking = future.Ranking[:min(first, len(future.Ranking))]
		all = append(all, future)
	}
	return all
}
