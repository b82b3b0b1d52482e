package infer

import (
	"math"
	"slices"
)

// Solver computes posteriors of one model. It caches products of items, which speeds up evidence that differs in few
// observations, such as evidence with one entry omitted. It is not safe for concurrent use.
type Solver struct {
	m        *Model
	products map[uint64]*product
	pairs    map[[2]uint64]*pairProduct
	shares   map[uint64]*sharing
	ref      *reference
}

// NewSolver returns a solver with empty caches.
func NewSolver(m *Model) *Solver {
	return &Solver{m: m, products: map[uint64]*product{}, pairs: map[[2]uint64]*pairProduct{}, shares: map[uint64]*sharing{}}
}

// mostCached bounds the number of cached pairs.
const mostCached = 200_000

// Posterior computes the posterior for some evidence. It lists joint hypotheses only if named is true.
func (v *Solver) Posterior(e *Evidence, named bool) Posterior {
	return v.sums(e).posterior(named)
}

// sums computes the weight of each hypothesis alone.
func (v *Solver) sums(e *Evidence) *sums {
	m, n := v.m, len(v.m.Hypotheses)
	if len(v.pairs) > mostCached {
		v.pairs = map[[2]uint64]*pairProduct{}
	}
	s := &sums{m: m, e: e, v: v, of: make([]*product, n), sign: v.signs(e), one: make([]float64, n), calm: make([]float64, n),
		shape: make([]*Shape, m.shapes), number: make([]int32, m.shapes), numbers: map[*Shape]int32{}}
	for k := range m.Hypotheses {
		s.alone(k)
	}
	s.classify()
	return s
}

// product is the product of the items for one hypothesis, by rate.
type product struct {
	// own is the product divided by exp(logScale). always and occasional are its parts; some is true if there are
	// occasional observations.
	own, always, occasional PerRate
	some                    bool
	logScale                float64
}

// pairProduct is the products for two hypotheses that hold together, and the product of the two.
type pairProduct struct{ mine, other, both PerRate }

// sharing lists the pairs that are linked only by an observation that depends on both.
type sharing struct {
	extra []Pair
	// links lists the dependent pairs of the model and extra.
	links []Pair
	// at[x*n+y] is the index of a pair in extra, plus 1; 0 for pairs that are not in it. It is nil if extra is empty.
	at []int32
	n  int
	// touched marks a hypothesis and a track with an extra link between them.
	touched []bool
}

func (h *sharing) is(x, y int) bool { return h.at != nil && h.at[x*h.n+y] > 0 }

// blend mixes a number into a hash (the finaliser of splitmix64).
func blend(hash, x uint64) uint64 {
	z := hash ^ (x + 0x9e3779b97f4a7c15)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return z ^ z>>31
}

// id is the number of the i-th observation.
func (e *Evidence) id(i int) uint64 {
	if e.IDs == nil {
		return uint64(i) //nolint:gosec // a small index
	}
	return uint64(e.IDs[i]) //nolint:gosec // likewise
}

// signs identifies the product of each hypothesis by its rate prior and its factors.
func (v *Solver) signs(e *Evidence) []uint64 {
	signs := slices.Clone(v.m.rateSign)
	for i, item := range e.Items {
		id := blend(1, e.id(i)) // hashed before it is combined with another small number
		for k, f := range item {
			if f != nil {
				signs[k] = blend(signs[k], blend(id, f.id))
			}
		}
	}
	return signs
}

// product returns the product for hypothesis k.
func (v *Solver) product(e *Evidence, k int, sign uint64) *product {
	if p, ok := v.products[sign]; ok {
		return p
	}
	p := &product{}
	own := *v.m.Hypotheses[k].LogRate
	var occasional PerRate
	for _, item := range e.Items {
		switch {
		case item[k] == nil:
		case item[k].Occasional:
			occasional.Add(&item[k].LogIfShown)
			p.some = true
		default:
			own.Add(&item[k].LogIfShown)
		}
	}
	p.logScale = slices.Max(own[:])
	for r, x := range own {
		p.always[r] = 1
		if x != p.logScale {
			p.always[r] = math.Exp(x - p.logScale)
		}
	}
	p.own = p.always
	if p.some {
		for r, x := range occasional {
			p.occasional[r] = math.Exp(x)
		}
		v.mix(&p.own, &p.occasional)
	}
	v.products[sign] = p
	return p
}

// mix multiplies by the occasional observations: the hypothesis shows in all of them or in
// none.
func (v *Solver) mix(own, occasional *PerRate) {
	shows := v.m.Shows
	for r, x := range occasional {
		own[r] *= (1 - shows) + shows*x
	}
}

// pair returns the products for two hypotheses that hold together.
func (v *Solver) pair(s *sums, l Pair) *pairProduct {
	key := [2]uint64{s.sign[l.X], s.sign[l.Y]}
	if p, ok := v.pairs[key]; ok {
		return p
	}
	x, y := s.of[l.X], s.of[l.Y]
	p := &pairProduct{mine: x.always, other: y.always}
	occasional := [2]PerRate{x.occasional, y.occasional}
	undo := func(always, occasional *PerRate, by *Factor) {
		if by.Occasional {
			always = occasional
		}
		always.Times(&by.inverse)
	}
	for i, item := range s.e.Items { // of two hypotheses on one item, the larger weight counts
		a, b := item[l.X], item[l.Y]
		switch {
		case s.e.Grouped[i] || a == nil || b == nil || a.Weight < 0:
		case a.Weight >= b.Weight:
			undo(&p.other, &occasional[1], b)
		default:
			undo(&p.mine, &occasional[0], a)
		}
	}
	leave := func(always, occasional *PerRate, j *Group, k, other int, first bool) {
		for _, v := range j.of[k] {
			left := j.beside(v, k, other, first)
			if left == v.says {
				continue
			}
			undo(always, occasional, v.says)
			if left == nil {
				continue
			}
			if v.says.Occasional {
				always = occasional
			}
			for r, x := range left.LogIfShown {
				always[r] *= math.Exp(x)
			}
		}
	}
	for _, j := range s.e.Groups { // likewise in each place of a group
		if j.of[l.X] != nil && j.of[l.Y] != nil {
			leave(&p.mine, &occasional[0], j, l.X, l.Y, true)
			leave(&p.other, &occasional[1], j, l.Y, l.X, false)
		}
	}
	if x.some {
		v.mix(&p.mine, &occasional[0])
	}
	if y.some {
		v.mix(&p.other, &occasional[1])
	}
	p.both = p.mine
	p.both.Times(&p.other)
	v.pairs[key] = p
	return p
}

// sharing lists the pairs that are linked only by an observation that depends on both.
func (v *Solver) sharing(e *Evidence) *sharing {
	m, n, tracks := v.m, len(v.m.Hypotheses), len(v.m.ShapeOf)
	var key uint64
	for i := range e.Items {
		key = blend(key, e.id(i))
	}
	if h, ok := v.shares[key]; ok && e.IDs != nil {
		return h
	}
	h := &sharing{n: n, touched: make([]bool, n*tracks)}
	var of []int
	items := slices.Clone(e.Items)
	for i := range items {
		if e.Grouped[i] {
			items[i] = nil
		}
	}
	for _, j := range e.Groups {
		items = append(items, j.Alone...)
	}
	for _, item := range items {
		of = of[:0]
		for k, shows := range item {
			if shows != nil && shows.Weight >= 0 && m.Hypotheses[k].Pairs {
				of = append(of, k)
			}
		}
		for i, x := range of {
			for _, y := range of[:i] {
				if m.linked[x][y] {
					continue
				}
				if h.at == nil {
					h.at, h.extra = make([]int32, n*n), make([]Pair, 0, 4*n)
				}
				if h.at[x*n+y] == 0 {
					h.extra = append(h.extra, v.m.pairOf(x, y, 1, false))
					at := int32(len(h.extra)) //nolint:gosec // at most n*n/2
					h.at[x*n+y], h.at[y*n+x] = at, at
				}
			}
		}
	}
	for _, l := range h.extra {
		h.touched[l.X*tracks+m.Hypotheses[l.Y].Track] = true
		h.touched[l.Y*tracks+m.Hypotheses[l.X].Track] = true
	}
	h.links = append(slices.Clip(m.dependent), h.extra...)
	v.shares[key] = h
	return h
}
