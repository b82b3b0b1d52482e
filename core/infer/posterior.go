package infer

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"
)

// Pairs are listed one by one from this probability on, up to this number.
const (
	leastPair = 0.001
	mostPairs = 80
)

// sums holds the parts of one posterior. Weights are logs relative to "none holds".
type sums struct {
	m *Model
	e *Evidence
	v *Solver
	// level[s] is exp of the log ratio of shape s, divided by its maximum scale[s]. calmly[s]
	// is the same times the probability that the shape raised no alarm.
	level, calmly []PerRate
	scale         []float64
	// of[k] is the product of the items for hypothesis k; sign[k] identifies it.
	of   []*product
	sign []uint64
	// one[k] is the log weight of hypothesis k alone; calm[k] is the part without an alarm.
	one, calm []float64
	// class[k] is equal for hypotheses of one track with equal products. Pairs of equal classes have equal weights apart
	// from their shares.
	class []int
	met   map[uint64]float64
}

// Posterior computes the posterior for some evidence. It lists joint hypotheses only if named
// is true.
func (m *Model) Posterior(e *Evidence, named bool) Posterior {
	return NewSolver(m).Posterior(e, named)
}

// shapes converts the shapes to weights.
func (s *sums) shapes() {
	n := len(s.e.Shapes)
	s.level, s.calmly, s.scale = make([]PerRate, n), make([]PerRate, n), make([]float64, n)
	for t := range s.e.Shapes {
		s.scale[t] = slices.Max(s.e.Shapes[t][:])
		for r, x := range s.e.Shapes[t] {
			s.level[t][r] = math.Exp(x - s.scale[t])
			s.calmly[t][r] = s.level[t][r] * math.Exp(s.e.Quiet[t][r])
		}
	}
}

// alone computes the weight of hypothesis k alone.
func (s *sums) alone(k int) {
	h := &s.m.Hypotheses[k]
	p := s.v.product(s.e, k, s.sign[k])
	s.of[k] = p
	t := s.m.ShapeOf[h.Track][h.Track]
	share := s.m.logPriorAlone[k] - logRates + p.logScale + s.scale[t]
	all, calm := s.over(&p.own, t)
	s.one[k], s.calm[k] = math.Log(all)+share, math.Log(calm)+share
}

var logRates = math.Log(Rates)

// over returns the sum over the rates of items times shape, and of the part without an alarm.
func (s *sums) over(own *PerRate, shape int) (all, calm float64) {
	level, calmly := &s.level[shape], &s.calmly[shape]
	for r, x := range own {
		all += x * level[r]
		calm += x * calmly[r]
	}
	return all, calm
}

// set returns the log weight given the alarm, from the sum of all and the part without an
// alarm.
func (s *sums) set(all, calm float64) float64 {
	if !s.e.Alarm {
		return all
	}
	return all + math.Log(-math.Expm1(min(math.Log1p(-s.m.FalseAlarm)+calm-all, -1e-12))) - math.Log(s.m.FalseAlarm)
}

// classify groups the hypotheses into classes.
func (s *sums) classify() {
	type class struct {
		sign  uint64
		track int
	}
	s.class, s.met = make([]int, len(s.m.Hypotheses)), make(map[uint64]float64, 2*len(s.m.Hypotheses))
	known := make(map[class]int, len(s.m.Hypotheses))
	for k := range s.m.Hypotheses {
		key := class{s.sign[k], s.m.Hypotheses[k].Track}
		c, ok := known[key]
		if !ok {
			c = len(known)
			known[key] = c
		}
		s.class[k] = c
	}
}

// pair returns the log weight of a dependent pair, or of two hypotheses that share an
// observation. It omits the factor common to all pairs.
func (s *sums) pair(l Pair) float64 {
	key := uint64(s.class[l.X])<<32 | uint64(s.class[l.Y]) //nolint:gosec // both are small indices
	both, known := s.met[key]
	if !known {
		both = s.pairLikelihood(l)
		s.met[key] = both
	}
	both += s.m.logPrior[l.X] + s.m.logPrior[l.Y]
	if l.times != 1 {
		both += math.Log(l.times)
	}
	return both
}

// pairLikelihood returns the same without the prior shares.
func (s *sums) pairLikelihood(l Pair) float64 {
	m := s.m
	f, g := &m.Hypotheses[l.X], &m.Hypotheses[l.Y]
	p := s.v.pair(s, l)
	share := s.of[l.X].logScale + s.of[l.Y].logScale
	if !l.meet {
		one, two := m.ShapeOf[f.Track][f.Track], m.ShapeOf[g.Track][g.Track]
		all1, calm1 := s.over(&p.mine, one)
		all2, calm2 := s.over(&p.other, two)
		return s.set(math.Log(all1*all2), math.Log(calm1*calm2)) + share + s.scale[one] + s.scale[two] - 2*logRates
	}
	both := m.ShapeOf[f.Track][g.Track]
	all, calm := s.over(&p.both, both)
	return s.set(math.Log(all), math.Log(calm)) + share + s.scale[both] - logRates - m.oneRate(f.LogRate, g.LogRate)
}

func (s *sums) posterior(named bool) Posterior {
	m, n := s.m, len(s.m.Hypotheses)
	shared := s.v.sharing(s.e)
	extra, isExtra, touched := shared.extra, shared.is, shared.touched
	single, far := make([]float64, n), make([]float64, n)
	for k := range m.Hypotheses {
		single[k], far[k] = s.set(s.one[k], s.calm[k])+math.Log(1-m.Two), math.Inf(-1)
	}
	common := math.Log(m.pairFactor)
	if m.pairFactor > 0 {
		s.addIndependentPairs(far, isExtra, touched)
	}
	weights := append(make([]float64, 0, 2*n+len(m.dependent)+len(extra)), single...)
	for k, x := range far {
		far[k] = x + common
		weights = append(weights, far[k]-math.Ln2) // each pair occurs twice
	}
	links := append(slices.Clip(m.dependent), extra...)
	near := make([]float64, len(links))
	for i, l := range links {
		near[i] = s.pair(l) + common
	}
	total := floats.LogSumExp(append(weights, near...))
	out := Posterior{Single: make([]float64, n), Any: make([]float64, n), Linked: links, P: make([]float64, len(links))}
	for k := range m.Hypotheses {
		out.Single[k] = math.Exp(single[k] - total)
		out.Any[k] = out.Single[k] + math.Exp(far[k]-total)
	}
	for i, l := range links {
		p := math.Exp(near[i] - total)
		out.Any[l.X] += p
		out.Any[l.Y] += p
		out.P[i] = p
	}
	if named {
		out.Joints = s.joints(out, links, near, total, isExtra)
	}
	return out
}

// addIndependentPairs adds, for each hypothesis, the weights of its pairs with independent
// hypotheses. These weights are products.
func (s *sums) addIndependentPairs(far []float64, isExtra func(x, y int) bool, touched []bool) {
	m := s.m
	n := len(m.ShapeOf)
	// Weights of the hypotheses of a track, scaled by the largest.
	top, sum, calmSum := make([]float64, n), make([]float64, n), make([]float64, n)
	one, calm := make([]float64, len(far)), make([]float64, len(far))
	for t, of := range m.members {
		top[t] = math.Inf(-1)
		for _, k := range of {
			top[t] = max(top[t], s.one[k]+m.logJoins[k])
		}
		for _, k := range of {
			one[k], calm[k] = math.Exp(s.one[k]+m.logJoins[k]-top[t]), math.Exp(s.calm[k]+m.logJoins[k]-top[t])
			sum[t] += one[k]
			calmSum[t] += calm[k]
		}
	}
	factor := make([]float64, n)
	for t, of := range m.members {
		most := math.Inf(-1)
		for u := range m.ShapeOf {
			if m.ShapeOf[t][u] < 0 && len(m.members[u]) > 0 {
				most = max(most, top[u])
			}
		}
		if math.IsInf(most, -1) {
			continue
		}
		for u := range m.ShapeOf {
			factor[u] = 0
			if m.ShapeOf[t][u] < 0 && len(m.members[u]) > 0 {
				factor[u] = math.Exp(top[u] - most)
			}
		}
		for _, k := range of {
			all, none := 0.0, 0.0
			for u := range m.ShapeOf {
				if factor[u] == 0 {
					continue
				}
				if !m.unrelated[k][u] && !touched[k*n+u] {
					all += factor[u] * sum[u]
					none += factor[u] * calmSum[u]
					continue
				}
				for _, j := range m.members[u] {
					if !m.linked[k][j] && !isExtra(k, j) {
						all += factor[u] * one[j]
						none += factor[u] * calm[j]
					}
				}
			}
			if all > 0 {
				far[k] = s.set(s.one[k]+math.Log(all), s.calm[k]+math.Log(none)) + m.logJoins[k] + most
			}
		}
	}
}

// joints lists the single hypotheses and the most probable pairs.
func (s *sums) joints(p Posterior, links []Pair, near []float64, total float64, isExtra func(x, y int) bool) []Joint {
	m := s.m
	rateOf := func(own *PerRate, shape int) (rate PerRate) {
		sum := 0.0
		for r, x := range own {
			rate[r] = x * s.level[shape][r]
			if s.e.Alarm {
				rate[r] -= (1 - s.m.FalseAlarm) * x * s.calmly[shape][r]
			}
			sum += rate[r]
		}
		for r := range rate {
			rate[r] /= sum
		}
		return rate
	}
	joints := make([]Joint, len(m.Hypotheses))
	for k := range m.Hypotheses {
		t := m.Hypotheses[k].Track
		joints[k] = Joint{Of: []int{k}, P: p.Single[k], Rates: []PerRate{rateOf(&s.of[k].own, m.ShapeOf[t][t])}}
	}
	type named struct {
		Pair
		p float64
	}
	var pairs []named
	for i, l := range links {
		if q := math.Exp(near[i] - total); q >= leastPair {
			pairs = append(pairs, named{l, q})
		}
	}
	var likely []int
	for k, any := range p.Any {
		if m.Hypotheses[k].Pairs && any-p.Single[k] >= leastPair {
			likely = append(likely, k)
		}
	}
	for i, x := range likely {
		for _, y := range likely[:i] {
			if m.linked[x][y] || isExtra(x, y) {
				continue
			}
			q := math.Exp(s.set(s.one[x]+s.one[y], s.calm[x]+s.calm[y]) + math.Log(m.pairFactor) + m.logJoins[x] + m.logJoins[y] - total)
			if q >= leastPair {
				pairs = append(pairs, named{Pair{X: x, Y: y}, q})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b named) int { return cmp.Compare(b.p, a.p) })
	for _, l := range pairs[:min(len(pairs), mostPairs)] {
		f, g := &m.Hypotheses[l.X], &m.Hypotheses[l.Y]
		both := Joint{Of: []int{l.X, l.Y}, P: l.p, Rates: []PerRate{joints[l.X].Rates[0], joints[l.Y].Rates[0]}}
		if l.meet {
			own := s.of[l.X].own
			own.Times(&s.of[l.Y].own)
			rate := rateOf(&own, m.ShapeOf[f.Track][g.Track])
			both.Rates = []PerRate{rate, rate}
		}
		joints = append(joints, both)
	}
	return joints
}
