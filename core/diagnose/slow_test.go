package diagnose

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// plainly multiplies out every fault alone and every pair, entry by entry, without
// anyOf of the sums that Assess shares: two faults that ever trouble a cylinder in
// common have one rate, others one each; a random misfire code comes of either; of
// two on one item the one that shows more counts. It returns the probability that
// each fault is there, and that it is there alone.
func plainly(a *Assessment) (anyOf, single []float64) {
	w := a.weighing
	s, e := w.runsKept(everything), w.evidence(everything)
	n := len(w.faults)
	anyOf, single = make([]float64, n), make([]float64, n)
	random := len(s.codes) > 0 && s.codes[0].known.random && a.Engine.Cylinders > 1
	type like struct{ all, calm float64 }
	// runs is the likelihood ratio of the runs and codes at a rate for what some faults
	// trouble.
	runs := func(r int, of ...*Fault) like {
		out := like{1, 1}
		sickAt := func(i int) (affected engine.Set) {
			for _, f := range of {
				affected |= w.tracks[f.track].at(i, a.Moments[i].Epoch)
			}
			return affected
		}
		failing := of[0].profile.failing
		for _, f := range of {
			failing = min(failing, f.profile.failing)
		}
		// by divides the affected cylinders by how far the rate differs from run to run.
		by := func(i int) (all byBurst) {
			var taken engine.Set
			for b := range all {
				for _, f := range of {
					if knowledge.BurstOf(&f.Hypothesis) == b {
						all[b] |= w.tracks[f.track].at(i, a.Moments[i].Epoch)
					}
				}
				all[b] &^= taken
				taken |= all[b]
			}
			return all
		}
		for _, g := range s.conditions {
			some, anyOf := 0.0, false
			for l, row := range knowledge.Levels {
				x := 1.0
				for _, i := range g.moments {
					if affected := sickAt(i); affected != 0 {
						anyOf = true
						if row.Steps >= 0 {
							x *= math.Exp(w.run(i, by(i))[max(0, r-row.Steps)])
						}
					}
				}
				some += g.levels[failing][r][l] * x
			}
			if anyOf {
				out.all *= some
			}
		}
		quiet := 1.0
		for k, c := range s.codes {
			var affected engine.Set
			for _, f := range of {
				if c.history {
					affected |= w.tracks[f.track].first()
				} else {
					affected |= w.tracks[f.track].at(c.moment, a.Moments[c.moment].Epoch)
				}
			}
			if affected == 0 {
				continue
			}
			out.all *= math.Exp(logCodeLikelihood(c.known, affected)[r])
			if k == 0 {
				quiet = math.Exp(logRandomCode(c.known, a.Engine, affected)[r])
				if !random && !c.known.open {
					out.all *= quiet
				}
			}
		}
		out.calm = out.all * quiet
		return out
	}
	items := func(r int, f, other *Fault) float64 {
		x, shop := math.Exp(f.profile.severity[r]), 1.0
		told := func(says *infer.Factor) {
			if says.Occasional {
				shop *= math.Exp(says.LogIfShown[r])
			} else {
				x *= math.Exp(says.LogIfShown[r])
			}
		}
		lost := func(item []*infer.Factor) bool {
			mine := item[f.index]
			if other == nil || item[other.index] == nil || mine.Weight < 0 {
				return false
			}
			their := item[other.index]
			return their.Weight > mine.Weight || their.Weight == mine.Weight && other.index > f.index
		}
		for i, item := range e.Items {
			if !e.Grouped[i] && item[f.index] != nil && !lost(item) {
				told(item[f.index])
			}
		}
		for _, j := range e.Groups { // in the places that are left to it the fault gives mostly one answer
			for _, inShop := range []bool{false, true} {
				var at []int
				for c, item := range j.Alone {
					if mine := item[f.index]; mine != nil && mine.Occasional == inShop && !lost(item) {
						at = append(at, c)
					}
				}
				if len(at) == 1 {
					told(j.Alone[at[0]][f.index])
				} else if len(at) > 1 {
					told(j.Joined(at, f.index))
				}
			}
		}
		return x * (1 - knowledge.InTheShop + knowledge.InTheShop*shop)
	}
	set := func(l like) float64 {
		if random {
			return (l.all - (1-knowledge.RandomStray)*l.calm) / knowledge.RandomStray
		}
		return l.all
	}
	total := 0.0
	for k := range w.faults {
		f := &w.faults[k]
		var sum like
		for r := range infer.Rates {
			x, own := runs(r, f), items(r, f, nil)
			sum.all += x.all * own / infer.Rates
			sum.calm += x.calm * own / infer.Rates
		}
		single[k] = set(sum) * f.prior * (1 - fault.TwoFaults)
		total += single[k]
		anyOf[k] = single[k]
	}
	share := 0.0
	pair := func(do func(f, g *Fault, p float64)) {
		for x := range w.faults {
			for y := range x {
				f, g := &w.faults[x], &w.faults[y]
				p := together(f, g, f.Hypothesis.Serves(a.home)&g.Hypothesis.Serves(a.home) != 0)
				if f.Hypothesis.IsSet() && g.later == 0 || g.Hypothesis.IsSet() && f.later == 0 { // only what handling left joins a set
					continue
				}
				switch { // what handling left behind comes beside what was there
				case f.later > 0 && g.later > 0:
					continue
				case f.later > 0:
					p *= f.later * g.prior * share / fault.TwoFaults
				case g.later > 0:
					p *= g.later * f.prior * share / fault.TwoFaults
				default:
					p *= f.prior * g.prior
				}
				if p > 0 {
					do(f, g, p)
				}
			}
		}
	}
	sum := 0.0
	pair(func(_, _ *Fault, p float64) { sum += p })
	share = sum
	pair(func(f, g *Fault, p float64) {
		var sum, one, two like
		if w.tracks[f.track].meets(w.tracks[g.track]) {
			norm := 0.0 // of the shares of the one rate that they have
			for r := range infer.Rates {
				norm += math.Exp(f.profile.severity[r]+g.profile.severity[r]) / infer.Rates
			}
			for r := range infer.Rates {
				x, own := runs(r, f, g), items(r, f, g)*items(r, g, f)/norm
				sum.all += x.all * own / infer.Rates
				sum.calm += x.calm * own / infer.Rates
			}
		} else {
			for r := range infer.Rates {
				x, own := runs(r, f), items(r, f, g)
				one.all += x.all * own / infer.Rates
				one.calm += x.calm * own / infer.Rates
				y, other := runs(r, g), items(r, g, f)
				two.all += y.all * other / infer.Rates
				two.calm += y.calm * other / infer.Rates
			}
			sum = like{one.all * two.all, one.calm * two.calm}
		}
		weight := set(sum) * p * fault.TwoFaults / share
		anyOf[f.index] += weight
		anyOf[g.index] += weight
		total += weight
	})
	for k := range anyOf {
		anyOf[k] /= total
		single[k] /= total
	}
	return anyOf, single
}

// Assess agrees with multiplying everything out, on random jobs of every layout.
func TestAgainstFullEnumeration(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	jobs := 40
	if testing.Short() {
		jobs = 12
	}
	for n := 0; n < jobs; {
		j := randomJob(t, r)
		if j.Vehicle.Engine.Cylinders > 6 {
			continue
		}
		n++
		a := Assess(j)
		some, single := plainly(a)
		fast := a.weighing.posterior(everything, false)
		for k := range a.Faults {
			if math.Abs(some[k]-a.Faults[k].P) > 1e-9 || math.Abs(single[k]-fast.Single[k]) > 1e-9 {
				t.Fatalf("%s, %s: %v alone %v, want %v alone %v", j.Vehicle.Engine.Describe(), a.Faults[k].Hypothesis.Key(), a.Faults[k].P, fast.Single[k], some[k], single[k])
			}
		}
		sum := 0.0
		for _, w := range a.JointHypotheses {
			sum += w.P
		}
		if sum > 1+1e-9 || sum < 0.5 {
			t.Fatalf("the joints that are named sum to %v", sum)
		}
	}
}

// eight is a job on an engine of eight with some entries of each kind.
func eight(tb testing.TB, id string, entries int) (a *Assessment) {
	j := jobtest.Shelf(tb, id)
	e := j.Vehicle.Engine
	count := func(affected engine.Cylinder) evidence.Entry {
		c := make([]int, e.Cylinders)
		c[affected-1] = 40 + len(j.Ledger)
		return jobtest.Counts(3000, c...)
	}
	j = jobtest.With(tb, j, jobtest.Codes(2), count(2), jobtest.Look(evidence.Seen{Tag: "P2", Finding: evidence.PlugNormal}),
		evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: part.Home(e).Swap("cyl-2", "cyl-4", engine.Plug)}}, count(2),
		evidence.Entry{Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-2", Result: "weak"}})
	for len(j.Ledger) < entries {
		j = jobtest.With(tb, j, count(2))
	}
	return Assess(j)
}

// The sums that are shared, against multiplying out every pair at every entry.
func BenchmarkPairs(b *testing.B) {
	a := eight(b, "v8-leads", 10)
	b.Run("shared", func(b *testing.B) {
		b.ReportAllocs()
		for b.Loop() {
			a.weighing.posterior(everything, false)
		}
	})
	b.Run("plain", func(b *testing.B) {
		for b.Loop() {
			plainly(a)
		}
	})
}

func BenchmarkAssess(b *testing.B) {
	for _, id := range []string{"four-across", "v8-leads", "v12-along"} {
		for _, entries := range []int{10, 50, 200} {
			a := eight(b, id, entries)
			j := jobtest.Shelf(b, id)
			for _, m := range a.Moments {
				j.Ledger = append(j.Ledger, m.Entry)
			}
			b.Run(fmt.Sprintf("%s/entries=%d", id, entries), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					a := Assess(j)
					a.AddReasons()
					a.Contradictions()
				}
			})
			b.Run(fmt.Sprintf("%s/entries=%d/assess", id, entries), func(b *testing.B) {
				for b.Loop() {
					Assess(j)
				}
			})
		}
	}
}
