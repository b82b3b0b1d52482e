// Package finite derives small decision problems from jobs and solves them exactly. The
// planner is measured against the solution.
package finite

import (
	"cmp"
	"math"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/plan"
)

// Problem is a small decision problem: the probability of each fault, the cost and outcomes of
// each test, and the cost of a wrong repair. It gives the optimal cost to compare a plan with.
type Problem struct {
	// P is the probability of each fault; Vain is the cost in minutes of its repair if another
	// fault is present.
	P, Vain []float64
	Tests   []Test
}

// Test is one test, made at most once.
type Test struct {
	Minutes float64
	// Chance is the probability of each outcome for each fault.
	Chance [][]float64
}

// Bounds of a problem. The exact solution grows exponentially with the number of tests.
const (
	MostFaults = 8
	MostTests  = 8
)

// Condense makes a problem from the most probable faults of a job, one for each unit, and the
// most valuable tests with at most four outcomes each.
func Condense(a *diagnose.Assessment, shop plan.Shop) Problem {
	var f Problem
	seen := map[int]bool{}
	var kept []*diagnose.JointHypothesis
	byP := make([]*diagnose.JointHypothesis, len(a.JointHypotheses))
	for i := range a.JointHypotheses {
		byP[i] = &a.JointHypotheses[i]
	}
	slices.SortStableFunc(byP, func(x, y *diagnose.JointHypothesis) int { return cmp.Compare(y.P, x.P) })
	total := 0.0
	for _, w := range byP {
		u := w.Faults[0].Suspect
		if len(w.Faults) > 1 || seen[u] || !a.Suspects[u].Real() || len(kept) == MostFaults {
			continue
		}
		seen[u] = true
		kept = append(kept, w)
		f.Vain = append(f.Vain, shop.InVain(a.Beliefs, a.Suspects[u].Unit, 0))
		f.P = append(f.P, w.P)
		total += w.P
	}
	for i := range f.P {
		f.P[i] /= total
	}
	cards := shop.Candidates(a)
	slices.SortStableFunc(cards, func(x, y plan.Card) int { return cmp.Compare(y.Bits/y.Minutes, x.Bits/x.Minutes) })
	for _, c := range cards {
		t := Test{Minutes: c.Minutes}
		rows := c.Chances()
		mean := func(row []float64) (sum float64) {
			for _, w := range kept {
				sum += w.P * row[w.Index]
			}
			return sum
		}
		slices.SortStableFunc(rows, func(x, y []float64) int { return cmp.Compare(mean(y), mean(x)) })
		var rest []float64
		for k, row := range rows {
			of := make([]float64, len(kept))
			for i, w := range kept {
				of[i] = row[w.Index]
			}
			if k < 3 {
				t.Chance = append(t.Chance, of)
				continue
			}
			if rest == nil {
				rest = make([]float64, len(kept))
				t.Chance = append(t.Chance, rest)
			}
			for i := range of {
				rest[i] += of[i]
			}
		}
		if len(t.Chance) > 1 && len(f.Tests) < MostTests {
			f.Tests = append(f.Tests, t)
		}
	}
	return f
}

// repair returns the expected cost of repairs in order of probability over cost, given the
// weights of the faults.
func (f Problem) repair(p []float64) float64 {
	order := make([]int, len(p))
	left := 0.0
	for i := range order {
		order[i] = i
		left += p[i]
	}
	slices.SortStableFunc(order, func(x, y int) int { return cmp.Compare(p[y]*f.Vain[x], p[x]*f.Vain[y]) })
	cost := 0.0
	for _, u := range order {
		left -= p[u]
		cost += f.Vain[u] * max(0, left)
	}
	return cost
}

// Optimal returns the least expected cost, by exact dynamic programming: any test at any time,
// then repairs.
func (f Problem) Optimal() float64 {
	known := map[[MostTests]uint8]float64{}
	var best func(state [MostTests]uint8, p []float64) float64
	best = func(state [MostTests]uint8, p []float64) float64 {
		if v, ok := known[state]; ok {
			return v
		}
		least := f.repair(p)
		for t := range f.Tests {
			if state[t] != 0 {
				continue
			}
			if cost := f.after(t, p, func(outcome int, q []float64) float64 {
				next := state
				next[t] = uint8(outcome + 1)
				return best(next, q)
			}); cost < least {
				least = cost
			}
		}
		known[state] = least
		return least
	}
	return best([MostTests]uint8{}, f.P)
}

// after returns the cost of a test and of the continuation.
func (f Problem) after(t int, p []float64, then func(outcome int, q []float64) float64) float64 {
	total := 0.0
	for _, x := range p {
		total += x
	}
	cost := f.Tests[t].Minutes * total
	for o, row := range f.Tests[t].Chance {
		q := make([]float64, len(p))
		sum := 0.0
		for i := range p {
			q[i] = p[i] * row[i]
			sum += q[i]
		}
		if sum > 1e-9 {
			cost += then(o, q)
		}
	}
	return cost
}

// Ahead returns the expected cost if each test is chosen by two-step lookahead, as in the
// plan. second limits the candidates of the second step; 0 means all.
func (f Problem) Ahead(second int) float64 {
	if second == 0 {
		second = MostTests
	}
	known := map[[MostTests]uint8]float64{}
	var cost func(state [MostTests]uint8, p []float64) float64
	cost = func(state [MostTests]uint8, p []float64) float64 {
		if v, ok := known[state]; ok {
			return v
		}
		type option struct {
			test int
			cost float64
		}
		var options []option
		for t := range f.Tests {
			if state[t] == 0 {
				options = append(options, option{t, f.after(t, p, func(_ int, q []float64) float64 { return f.repair(q) })})
			}
		}
		slices.SortStableFunc(options, func(x, y option) int { return cmp.Compare(x.cost, y.cost) })
		best, least := -1, f.repair(p)
		for _, o := range options {
			two := f.after(o.test, p, func(_ int, q []float64) float64 {
				c := f.repair(q)
				for _, s := range options[:min(second, len(options))] {
					if s.test != o.test {
						c = math.Min(c, f.after(s.test, q, func(_ int, z []float64) float64 { return f.repair(z) }))
					}
				}
				return c
			})
			if two < least-1e-9 {
				best, least = o.test, two
			}
		}
		out := f.repair(p)
		if best >= 0 {
			out = f.after(best, p, func(outcome int, q []float64) float64 {
				next := state
				next[best] = uint8(outcome + 1)
				return cost(next, q)
			})
		}
		known[state] = out
		return out
	}
	return cost([MostTests]uint8{}, f.P)
}
