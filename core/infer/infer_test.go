package infer

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gonum.org/v1/gonum/integrate/quad"
	"gonum.org/v1/gonum/stat/distuv"
)

// The closed form against the integral that defines it: a binomial whose rate is
// beta distributed, from gonum.
func TestBetaBinomialAgainstGonum(t *testing.T) {
	const alpha = 6
	for _, c := range []struct {
		k, n int
		mean float64
	}{{0, 100, 0.02}, {3, 100, 0.02}, {12, 100, 0.1}, {60, 100, 0.5}, {0, 1500, 0.01}} {
		beta := distuv.Beta{Alpha: alpha, Beta: alpha * (1 - c.mean) / c.mean}
		want := quad.Fixed(func(x float64) float64 {
			return distuv.Binomial{N: float64(c.n), P: x}.Prob(float64(c.k)) * beta.Prob(x)
		}, 0, 1, 2000, nil, 0)
		if got := math.Exp(LogBetaBinomial(c.k, c.n, c.mean, alpha)); math.Abs(got-want) > 1e-6*want+1e-12 {
			t.Errorf("%d of %d at %v: %v, want %v", c.k, c.n, c.mean, got, want)
		}
	}
}

// world is a random model with its evidence: hypotheses on tracks, some of which share a rate.
func world(r *rand.Rand) (*Model, *Evidence) {
	n, tracks := 2+r.IntN(6), 1+r.IntN(4)
	p := Prior{ShapeOf: make([][]int, tracks), Two: 0.05 + 0.4*r.Float64(), Shows: 0.6, FalseAlarm: 0.03}
	shapes := tracks
	for t := range tracks {
		p.ShapeOf[t] = make([]int, tracks)
		p.ShapeOf[t][t] = t
		for u := range t {
			s := -1
			if r.IntN(2) == 0 {
				s = shapes
				shapes++
			}
			p.ShapeOf[t][u], p.ShapeOf[u][t] = s, s
		}
	}
	random := func(scale float64) (x PerRate) {
		for i := range x {
			x[i] = scale * r.NormFloat64()
		}
		return x
	}
	sum := 0.0
	times := make([][]float64, n)
	for k := range n {
		rate := random(0.5)
		norm := 0.0
		for _, x := range rate {
			norm += math.Exp(x) / Rates
		}
		for i := range rate {
			rate[i] -= math.Log(norm)
		}
		h := Hypothesis{Prior: 0.1 + r.Float64(), LogRate: &rate, Track: r.IntN(tracks), Pairs: k > 0}
		if k > 1 && r.IntN(4) == 0 {
			h.Pairs, h.AcceptsLater = false, true
		} else if k > 2 && r.IntN(3) == 0 {
			h.Prior, h.Later = h.Prior/100, 0.05*r.Float64()
		}
		sum += h.Prior
		p.Hypotheses = append(p.Hypotheses, h)
		times[k] = make([]float64, n)
		for y := range k {
			times[k][y] = []float64{1, 1, 0, 3}[r.IntN(4)]
		}
	}
	for k := range p.Hypotheses {
		p.Hypotheses[k].Prior /= sum
	}
	p.Times = func(x, y int) float64 { return times[max(x, y)][min(x, y)] }
	e := &Evidence{Alarm: r.IntN(2) == 0}
	of := make([]*Shape, shapes)
	for s := range of {
		ratio, quiet := random(1), random(1)
		for i := range quiet {
			quiet[i] = -math.Abs(quiet[i])
		}
		of[s] = NewShape(&ratio, &quiet)
	}
	e.Shape = func(s int) *Shape { return of[s] }
	for range r.IntN(4) {
		item, both := make([]*Factor, n), r.IntN(3) == 0
		for k := range item {
			if r.IntN(2) == 0 {
				weight := float64(r.IntN(3))
				if both {
					weight = -1
				}
				item[k] = NewFactor(random(1), weight, r.IntN(3) == 0, p.Shows)
			}
		}
		e.Items, e.Grouped = append(e.Items, item), append(e.Grouped, false)
	}
	return New(p), e
}

// enumerate multiplies everything out: each hypothesis alone and each pair, at each rate.
func enumerate(m *Model, e *Evidence) (anyOf, single []float64) {
	n := len(m.Hypotheses)
	anyOf, single = make([]float64, n), make([]float64, n)
	type like struct{ all, calm float64 }
	set := func(l like) float64 {
		if e.Alarm {
			return (l.all - (1-m.FalseAlarm)*l.calm) / m.FalseAlarm
		}
		return l.all
	}
	// items is what the observations say of k at a rate; of two on one the one of greater weight speaks.
	items := func(r, k, other int) float64 {
		x, occasional := math.Exp(m.Hypotheses[k].LogRate[r]), 1.0
		for _, item := range e.Items {
			f := item[k]
			if f == nil {
				continue
			}
			if other >= 0 && item[other] != nil {
				x, y := f, item[other]
				if k < other { // the first of a pair is the one of the greater index
					x, y = y, x
				}
				if x.Weight >= 0 && (f == x) != (x.Weight >= y.Weight) {
					continue
				}
			}
			if f.Occasional {
				occasional *= math.Exp(f.LogIfShown[r])
			} else {
				x *= math.Exp(f.LogIfShown[r])
			}
		}
		return x * (1 - m.Shows + m.Shows*occasional)
	}
	over := func(shape int, of func(r int) float64) (l like) {
		for r := range Rates {
			t := e.Shape(shape)
			x := of(r) * t.level[r] * math.Exp(t.scale) / Rates
			l.all += x
			l.calm += x * t.calmly[r] / t.level[r]
		}
		return l
	}
	total, share := 0.0, 0.0
	for k, h := range m.Hypotheses {
		single[k] = set(over(h.Track, func(r int) float64 { return items(r, k, -1) })) * h.Prior * (1 - m.Two)
		anyOf[k] = single[k]
		total += single[k]
	}
	pairs := func(do func(x, y int)) {
		for x := range n {
			for y := range x {
				f, g := m.Hypotheses[x], m.Hypotheses[y]
				if f.Pairs && g.Pairs || f.AcceptsLater && g.Later > 0 || g.AcceptsLater && f.Later > 0 {
					do(x, y)
				}
			}
		}
	}
	pairs(func(x, y int) {
		if f, g := m.Hypotheses[x], m.Hypotheses[y]; f.Later+g.Later == 0 {
			share += f.Prior * g.Prior * m.Times(x, y)
		}
	})
	pairs(func(x, y int) {
		f, g := m.Hypotheses[x], m.Hypotheses[y]
		p := m.Times(x, y)
		switch { // one that joins comes beside another that is there, and two never do
		case f.Later > 0 && g.Later > 0, share == 0:
			p = 0
		case f.Later > 0:
			p *= f.Later * g.Prior
		case g.Later > 0:
			p *= g.Later * f.Prior
		default:
			p *= f.Prior * g.Prior * m.Two / share
		}
		if p == 0 {
			return
		}
		var l like
		if s := m.ShapeOf[f.Track][g.Track]; s >= 0 {
			norm := math.Exp(OneRate(f.LogRate, g.LogRate))
			l = over(s, func(r int) float64 { return items(r, x, y) * items(r, y, x) / norm })
		} else {
			one := over(f.Track, func(r int) float64 { return items(r, x, y) })
			two := over(g.Track, func(r int) float64 { return items(r, y, x) })
			l = like{one.all * two.all, one.calm * two.calm}
		}
		weight := set(l) * p
		anyOf[x] += weight
		anyOf[y] += weight
		total += weight
	})
	for k := range anyOf {
		anyOf[k] /= total
		single[k] /= total
	}
	return anyOf, single
}

// The sums that are shared agree with plain enumeration, on random models.
func TestPosteriorEqualsEnumeration(t *testing.T) {
	for seed := range uint64(400) {
		m, e := world(rand.New(rand.NewPCG(seed, 1)))
		anyOf, single := enumerate(m, e)
		p := m.Posterior(e, true)
		for k := range anyOf {
			if math.Abs(p.Any[k]-anyOf[k]) > 1e-9 || math.Abs(p.Single[k]-single[k]) > 1e-9 {
				t.Fatalf("seed %d, hypothesis %d: %v and %v alone, enumerated %v and %v", seed, k, p.Any[k], p.Single[k], anyOf[k], single[k])
			}
		}
		sum := 0.0
		for _, j := range p.Joints {
			sum += j.P
		}
		if sum < 0.97 || sum > 1+1e-9 {
			t.Errorf("seed %d: the joint hypotheses sum to %v", seed, sum)
		}
	}
}

// Without evidence the posterior is the prior.
func TestPosteriorWithoutEvidenceIsThePrior(t *testing.T) {
	for seed := range uint64(20) {
		m, e := world(rand.New(rand.NewPCG(seed, 2)))
		nothing := NewShape(&PerRate{}, &PerRate{})
		e.Shape = func(int) *Shape { return nothing }
		e.Alarm, e.Items, e.Grouped = false, nil, nil
		for k, p := range m.Posterior(e, false).Any {
			if math.Abs(p-m.Before[k]) > 1e-12 {
				t.Errorf("seed %d: %v, before %v", seed, p, m.Before[k])
			}
		}
	}
}

// The posterior with an observation omitted is the same whether pairs are skipped by their bounds or not.
func TestOmittedObservationsAgainstFullSum(t *testing.T) {
	skipped := 0
	for seed := range uint64(400) {
		r := rand.New(rand.NewPCG(seed, 3))
		m, e := world(r)
		strong, weak := make([]*Factor, len(m.Hypotheses)), make([]*Factor, len(m.Hypotheses))
		for k := range strong {
			var told, little PerRate
			most := 150 * r.Float64()
			for i := range told {
				told[i], little[i] = r.NormFloat64()-most, r.NormFloat64()
			}
			strong[k], weak[k] = NewFactor(told, 1, false, m.Shows), NewFactor(little, 1, false, m.Shows)
		}
		e.Items, e.Grouped = append([][]*Factor{weak, strong}, e.Items...), append([]bool{false, false}, e.Grouped...)
		for i := range e.Items {
			e.IDs = append(e.IDs, i)
		}
		v := NewSolver(m)
		v.Refer(e)
		for omit := range e.Items {
			less := &Evidence{Alarm: e.Alarm, Shape: e.Shape, Grouped: e.Grouped[1:], Gain: func(int) float64 { return 0 },
				Items: slices.Delete(slices.Clone(e.Items), omit, omit+1), IDs: slices.Delete(slices.Clone(e.IDs), omit, omit+1)}
			got, want := v.Posterior(less, false), m.Posterior(less, false)
			for k := range want.Any {
				if math.Abs(got.Any[k]-want.Any[k]) > 1e-9 || math.Abs(got.Single[k]-want.Single[k]) > 1e-9 {
					t.Fatalf("seed %d without observation %d, hypothesis %d: %v, want %v", seed, omit, k, got.Any[k], want.Any[k])
				}
			}
			for i, p := range got.P {
				if p == 0 && want.P[i] > 0 {
					skipped++
				}
			}
		}
	}
	if skipped < 100 {
		t.Errorf("only %d pairs were skipped", skipped)
	}
}

// A group says once what its observations say together.
func TestGroupCountsOnce(t *testing.T) {
	factor := func(x float64) *Factor {
		var told PerRate
		for r := range told {
			told[r] = x
		}
		return NewFactor(told, x, false, 0.6)
	}
	a, b, c := factor(1), factor(2), factor(3)
	g := NewGroup([][]*Factor{{a, nil}, {b, c}}, func(int) string { return "x" }, func(at []int, _ int) *Factor { return factor(10 * float64(len(at))) })
	if g.Together[0][0].Weight != 20 || g.Together[1][0] != nil || g.Together[1][1] != c {
		t.Errorf("together %+v", g.Together)
	}
	if left := g.beside(g.of[0][0], 0, 1, true); left != a {
		t.Errorf("beside another that shows more in the second place, %+v is left", left)
	}
}
