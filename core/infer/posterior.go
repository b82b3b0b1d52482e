package infer

import (
	"cmp"
	"math"
	"slices"
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
	// shape[i] is shape i once it was needed, nil before. number[i] is its number among the distinct shapes in numbers.
	shape   []*Shape
	number  []int32
	numbers map[*Shape]int32
	// of[k] is the product of the items for hypothesis k; sign[k] identifies it.
	of   []*product
	sign []uint64
	// one[k] is the log weight of hypothesis k alone; calm[k] is the part without an alarm, which is computed only if the
	// alarm was observed.
	one, calm []float64
	// class[k] is equal for hypotheses with equal products. Pairs of equal classes and shapes have equal likelihoods.
	class []int32
}

// pairClass identifies the likelihood of a pair: its classes, and the numbers of its one or two shapes.
type pairClass struct{ x, y, one, two int32 }

// Posterior computes the posterior for some evidence. It lists joint hypotheses only if named
// is true.
func (m *Model) Posterior(e *Evidence, named bool) Posterior {
	return NewSolver(m).Posterior(e, named)
}

// at returns shape i.
func (s *sums) at(i int) *Shape {
	if s.shape[i] == nil {
		s.shape[i] = s.e.Shape(i)
		s.number[i] = numberOf(s.numbers, s.shape[i])
	}
	return s.shape[i]
}

// alone computes the weight of hypothesis k alone.
func (s *sums) alone(k int) {
	h := &s.m.Hypotheses[k]
	p := s.v.product(s.e, k, s.sign[k])
	s.of[k] = p
	t := s.at(s.m.ShapeOf[h.Track][h.Track])
	share := s.m.logPriorAlone[k] - logRates + p.logScale + t.scale
	all, calm := s.over(t, &p.own)
	s.one[k], s.calm[k] = math.Log(all)+share, s.logCalm(calm)+share
}

var logRates = math.Log(Rates)

// over returns the sum over the rates of items times shape, and of the part without an alarm, which matters only if the
// alarm was observed.
func (s *sums) over(t *Shape, own *PerRate) (all, calm float64) {
	if !s.e.Alarm {
		for r, x := range own {
			all += x * t.level[r]
		}
		return all, all
	}
	for r, x := range own {
		all += x * t.level[r]
		calm += x * t.calmly[r]
	}
	return all, calm
}

// logCalm returns the log of a part without an alarm; 0 if there was no alarm.
func (s *sums) logCalm(x float64) float64 {
	if !s.e.Alarm {
		return 0
	}
	return math.Log(x)
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
	s.class = make([]int32, len(s.m.Hypotheses))
	known := make(map[uint64]int32, len(s.m.Hypotheses))
	for k, sign := range s.sign {
		s.class[k] = numberOf(known, sign)
	}
}

// numberOf returns the number of a key, counted from 0 in order of first use.
func numberOf[K comparable](known map[K]int32, key K) int32 {
	c, ok := known[key]
	if !ok {
		c = int32(len(known)) //nolint:gosec // far below the limit
		known[key] = c
	}
	return c
}

// linked is the weights of linked pairs.
type linked struct {
	// of[i] is the index of the i-th pair in like; -1 for a pair that is negligible. like lists the log likelihoods, each once.
	of   []int32
	like []float64
}

// negligible is the log of a share that is left out: with a million pairs the sum of all is below 1e-11.
const negligible = -40

// pairs computes the weights of linked pairs. It skips those that are negligible beside a log weight top, if the evidence
// omits observations of the reference.
func (s *sums) pairs(links []Pair, shared *sharing, top float64) linked {
	out := linked{of: make([]int32, len(links))}
	known := make(map[pairClass]int32, len(s.m.Hypotheses))
	gain := s.v.gains(s.e)
	last, at := pairClass{x: -1}, int32(-1)
	for i, l := range links {
		if gain != nil && gain.bound(l, i, shared) < top+negligible {
			out.of[i] = -1
			continue
		}
		one, two := s.m.shapesOf(l)
		s.at(one)
		key := pairClass{s.class[l.X], s.class[l.Y], s.number[one], -1}
		if two >= 0 {
			s.at(two)
			key.two = s.number[two]
		}
		if key != last {
			last, at = key, numberOf(known, key)
		}
		if int(at) == len(out.like) {
			out.like = append(out.like, s.pairLikelihood(l))
		}
		out.of[i] = at
	}
	return out
}

// shapesOf returns the shapes of a pair: the common one, or those of its two hypotheses. two is -1 if there is one.
func (m *Model) shapesOf(l Pair) (one, two int) {
	x, y := m.Hypotheses[l.X].Track, m.Hypotheses[l.Y].Track
	if l.meet {
		return m.ShapeOf[x][y], -1
	}
	return m.ShapeOf[x][x], m.ShapeOf[y][y]
}

// pairLikelihood returns the log likelihood of a dependent pair, or of two hypotheses that share an observation.
func (s *sums) pairLikelihood(l Pair) float64 {
	m := s.m
	p := s.v.pair(s, l)
	share := s.of[l.X].logScale + s.of[l.Y].logScale
	i, j := m.shapesOf(l)
	one := s.at(i)
	if j >= 0 {
		two := s.at(j)
		all1, calm1 := s.over(one, &p.mine)
		all2, calm2 := s.over(two, &p.other)
		return s.set(math.Log(all1*all2), s.logCalm(calm1*calm2)) + share + one.scale + two.scale - 2*logRates
	}
	all, calm := s.over(one, &p.both)
	return s.set(math.Log(all), s.logCalm(calm)) + share + one.scale - logRates - m.oneRate(m.Hypotheses[l.X].LogRate, m.Hypotheses[l.Y].LogRate)
}

func (s *sums) posterior(named bool) Posterior {
	m, n := s.m, len(s.m.Hypotheses)
	shared := s.v.sharing(s.e)
	isExtra, touched := shared.is, shared.touched
	single, far := make([]float64, n), make([]float64, n)
	for k := range m.Hypotheses {
		single[k], far[k] = s.set(s.one[k], s.calm[k])+math.Log(1-m.Two), math.Inf(-1)
	}
	common := math.Log(m.pairFactor)
	if m.pairFactor > 0 {
		s.addIndependentPairs(far, isExtra, touched)
	}
	weights := append(make([]float64, 0, 2*n), single...)
	for k, x := range far {
		far[k] = x + common
		weights = append(weights, far[k]-math.Ln2) // each pair occurs twice
	}
	links := shared.links
	near := s.pairs(links, shared, slices.Max(weights))
	top := slices.Max(weights)
	for _, x := range near.like {
		top = max(top, x+common)
	}
	sum := 0.0
	for _, x := range weights {
		sum += math.Exp(x - top)
	}
	like := make([]float64, len(near.like))
	for i, x := range near.like {
		like[i] = math.Exp(x + common - top)
	}
	out := Posterior{Single: make([]float64, n), Any: make([]float64, n), Linked: links, P: make([]float64, len(links))}
	for i, l := range links {
		if at := near.of[i]; at >= 0 {
			out.P[i] = like[at] * l.prior
			sum += out.P[i]
		}
	}
	total := top + math.Log(sum)
	for k := range m.Hypotheses {
		out.Single[k] = math.Exp(single[k] - total)
		out.Any[k] = out.Single[k] + math.Exp(far[k]-total)
	}
	for i, l := range links {
		out.P[i] /= sum
		out.Any[l.X] += out.P[i]
		out.Any[l.Y] += out.P[i]
	}
	if named {
		out.Joints = s.joints(out, total, isExtra)
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
			top[t] = max(top[t], s.one[k]+m.logLater[k])
		}
		for _, k := range of {
			one[k] = math.Exp(s.one[k] + m.logLater[k] - top[t])
			sum[t] += one[k]
			if s.e.Alarm {
				calm[k] = math.Exp(s.calm[k] + m.logLater[k] - top[t])
				calmSum[t] += calm[k]
			}
		}
	}
	best := slices.Max(top)
	scaled, factor := make([]float64, n), make([]float64, n)
	for u, x := range top {
		scaled[u] = math.Exp(x - best)
	}
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
		if best-most < 300 { // the scale of all does for these
			most = best
		}
		for u := range m.ShapeOf {
			switch {
			case m.ShapeOf[t][u] >= 0 || len(m.members[u]) == 0:
				factor[u] = 0
			case most == best:
				factor[u] = scaled[u]
			default:
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
				far[k] = s.set(s.one[k]+math.Log(all), s.calm[k]+s.logCalm(none)) + m.logLater[k] + most
			}
		}
	}
}

// joints lists the single hypotheses and the most probable pairs.
func (s *sums) joints(p Posterior, total float64, isExtra func(x, y int) bool) []Joint {
	m := s.m
	rateOf := func(own *PerRate, shape int) (rate PerRate) {
		sum, t := 0.0, s.at(shape)
		for r, x := range own {
			rate[r] = x * t.level[r]
			if s.e.Alarm {
				rate[r] -= (1 - s.m.FalseAlarm) * x * t.calmly[r]
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
	for i, l := range p.Linked {
		if q := p.P[i]; q >= leastPair {
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
			q := math.Exp(s.set(s.one[x]+s.one[y], s.calm[x]+s.calm[y]) + math.Log(m.pairFactor) + m.logLater[x] + m.logLater[y] - total)
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
