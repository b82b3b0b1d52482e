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
	most := max(0, slices.Max(group[:]))
	var exp infer.PerRate
	for r, x := range group {
		exp[r] = math.Exp(x - most)
	}
	none := math.Exp(-most)
	for r := range group {
		sum := 0.0
		for i, row := range knowledge.Levels {
			if row.Steps >= 0 {
				sum += l[r][i] * exp[max(0, r-row.Steps)]
			} else {
				sum += l[r][i] * none
			}
		}
		if sum > 1e-280 {
			out[r] = most + math.Log(sum)
			continue
		}
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
	sound [engine.MaxCylinders + 1]float64
	// affected is for each index into [knowledge.Bursts].
	affected [knowledge.NumBursts][engine.MaxCylinders + 1]infer.PerRate
	n        int // cylinders
}

// ratio is the log likelihood ratio of a set of affected cylinders to an engine without a misfire, by rate.
func (t *runTable) ratio(affected engine.Set, burst int) (out infer.PerRate) {
	for _, c := range affected.List() {
		for r, x := range t.affected[burst][c] {
			out[r] += x - t.sound[c]
		}
	}
	return out
}

// steady is the ratio for faults with a steady rate ([knowledge.BurstSteady]).
func (t *runTable) steady(affected engine.Set) infer.PerRate {
	return t.ratio(affected, knowledge.BurstSteady)
}

// counted makes the table of a run with misfire counts.
func counted(c evidence.Counters, e engine.Engine) *runTable {
	n, all := c.Revolutions/2, 0
	for _, k := range c.Counts {
		all += k
	}
	t := &runTable{n: len(c.Counts)}
	for i, k := range c.Counts {
		before := 0
		if p := e.FiresBefore(engine.Cylinder(i + 1)); p > 0 {
			before = c.Counts[p-1]
		}
		t.sound[i+1] = logStray(k, n, before, all-k-before)
		same := slices.Index(c.Counts[:i], k)
		for b, of := range knowledge.Bursts {
			for r := range infer.Rates {
				x := &t.affected[b][i+1][r]
				if same >= 0 {
					*x = t.affected[b][same+1][r]
				} else {
					*x = infer.LogBetaBinomial(k, n, infer.Grid[r], of.Alpha)
				}
			}
		}
	}
	for i, k := range c.Counts { // counts that the others explain are no sign of a misfire
		if float64(k) > knowledge.TakenForTheirs*float64(all-k) {
			continue
		}
		for b := range t.affected {
			for r, x := range t.affected[b][i+1] {
				t.affected[b][i+1][r] = min(x, t.sound[i+1])
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
			for b := range t.affected {
				t.affected[b][c][r] = say(p, seen.Has(c))
			}
		}
	}
	return t
}
