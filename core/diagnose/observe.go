package diagnose

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// levels[r][i] is the probability, in one running condition, that a fault with misfire rate infer.Grid[r] where it
// fails has level i of [knowledge.Levels] there.
type levels [infer.Rates][3]float64

// showingIn is the probability of each level in a run, for a fault with one failing condition, given in which
// condition the driver said that it fails.
func showingIn(h knowledge.FailingCondition, said, run evidence.Condition) *levels {
	var l levels
	for r, rate := range infer.Grid {
		there := h.ChanceItFails(said, run, rate)
		for i, row := range knowledge.Levels {
			l[r][i] = there*row.There + (1-there)*row.Elsewhere
			if h.When == knowledge.Always {
				l[r][i] = row.Alike
			}
		}
	}
	return &l
}

// showing is showingIn for every failing condition, in the order of [knowledge.FailingConditions].
func showing(said, run evidence.Condition) []*levels {
	all := make([]*levels, len(knowledge.FailingConditions))
	for i, h := range knowledge.FailingConditions {
		all[i] = showingIn(h, said, run)
	}
	return all
}

// shows replaces log ratios by the rate in this condition by log ratios by the rate where the fault fails:
// the mean over the levels that the rate may have here.
func (l *levels) shows(group *infer.PerRate) {
	var out infer.PerRate
	for r := range group {
		var logs [len(l[r])]float64
		for i, row := range knowledge.Levels {
			x := 0.0
			if row.Steps >= 0 {
				x = group[max(0, r-row.Steps)]
			}
			logs[i] = math.Log(l[r][i]) + x
		}
		out[r] = floats.LogSumExp(logs[:])
	}
	*group = out
}

// runTable holds the log probability of what one run showed on each cylinder, if the cylinder is sound and if it
// is affected. The likelihood of a set of affected cylinders is a sum over the table.
type runTable struct {
	sound    [engine.MaxCylinders + 1]float64
	affected [engine.MaxCylinders + 1]infer.PerRate
	n        int // cylinders
}

// ratio is the log likelihood ratio of a set of affected cylinders to an engine without a misfire, by rate.
func (t *runTable) ratio(affected engine.Set) (out infer.PerRate) {
	for _, c := range affected.List() {
		for r, x := range t.affected[c] {
			out[r] += x - t.sound[c]
		}
	}
	return out
}

// counted makes the table of a run with misfire counts.
func counted(c evidence.Counters) *runTable {
	n, all := c.Revolutions/2, 0
	for _, k := range c.Counts {
		all += k
	}
	t := &runTable{n: len(c.Counts)}
	for i, k := range c.Counts {
		t.sound[i+1] = logStray(k, n, all-k)
		if same := slices.Index(c.Counts[:i], k); same >= 0 {
			t.affected[i+1] = t.affected[same+1]
			continue
		}
		for r := range infer.Rates {
			t.affected[i+1][r] = infer.LogBetaBinomial(k, n, infer.Grid[r], knowledge.Burst)
			if float64(k) <= knowledge.TakenForTheirs*float64(all-k) {
				t.affected[i+1][r] = min(t.affected[i+1][r], t.sound[i+1])
			}
		}
	}
	return t
}

// watched makes the table of a run in which the misfire was seen and not counted.
func watched(w evidence.Watch, e engine.Engine) *runTable {
	seen := engine.SetOf(w.Cylinders...)
	t := &runTable{n: e.Cylinders}
	say := func(p float64, was bool) float64 {
		if !was {
			p = 1 - p
		}
		return math.Log(p)
	}
	for _, c := range e.All() {
		t.sound[c] = say(knowledge.NoticedWrong, seen.Has(c))
		for r := range infer.Rates {
			p := knowledge.NoticedWrong + (knowledge.NoticedMost-knowledge.NoticedWrong)*infer.Grid[r]/(infer.Grid[r]+knowledge.NoticedHalf)
			t.affected[c][r] = say(p, seen.Has(c))
		}
	}
	return t
}
