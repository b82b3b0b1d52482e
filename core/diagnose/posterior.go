package diagnose

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"

	"glenmist/core/engine"
	"glenmist/core/fault"
)

// keep says which moments count.
type keep func(moment int) bool

func everything(int) bool { return true }

func without(skip int) keep { return func(i int) bool { return i != skip } }

func alone(one int) keep { return func(i int) bool { return i == one } }

// dependentPair is two faults whose joint likelihood is not the product of their own: they
// affect a common cylinder and share one misfire rate, or one makes the other likelier.
// x and y are indices of faults; times is how much likelier the pair is than by chance;
// meet is true when they share a cylinder.
type dependentPair struct {
	x, y  int
	times float64
	meet  bool
}

// findDependentPairs lists the dependent pairs and normalises the prior of all pairs.
func (w *inference) findDependentPairs() {
	n := len(w.faults)
	w.linked, w.unrelated, w.members = make([][]bool, n), make([][]bool, n), make([][]int, len(w.tracks))
	cells := make([]bool, n*n)
	astray := make([]bool, n*len(w.tracks))
	sum, squares, total := 0.0, 0.0, 0.0
	w.logPrior, w.dependentPairs = make([]float64, n), make([]dependentPair, 0, 16*n)
	more := make([]float64, n) // what links add to the shares of its partners
	serves := make([]engine.Set, n)
	for k := range w.faults {
		w.logPrior[k] = math.Log(w.faults[k].prior)
		serves[k] = w.faults[k].Hypothesis.Serves(w.a.home)
	}
	for x := range w.faults {
		w.linked[x] = cells[x*n : (x+1)*n]
		w.unrelated[x] = astray[x*len(w.tracks) : (x+1)*len(w.tracks)]
		f := &w.faults[x]
		if !f.Hypothesis.Pairs() {
			continue
		}
		w.members[f.track] = append(w.members[f.track], x)
		sum, squares = sum+f.prior, squares+f.prior*f.prior
		for y := range x {
			g := &w.faults[y]
			if !g.Hypothesis.Pairs() {
				continue
			}
			times := fault.Together(&f.Hypothesis, &g.Hypothesis, serves[x]&serves[y] != 0)
			meet := f.track == g.track || w.shapeOf[f.track][g.track] >= 0
			if times == 1 && !meet {
				continue
			}
			w.linked[x][y], w.linked[y][x] = true, true
			if !meet {
				w.unrelated[x][g.track], w.unrelated[y][f.track] = true, true
			}
			if times > 0 {
				w.dependentPairs = append(w.dependentPairs, dependentPair{x, y, times, meet})
			}
			total += (times - 1) * f.prior * g.prior
			more[x] += (times - 1) * g.prior
			more[y] += (times - 1) * f.prior
		}
	}
	total += (sum*sum - squares) / 2
	if total > 0 {
		w.pairFactor = fault.TwoFaults / total
	}
	for k := range w.faults {
		f := &w.faults[k]
		f.before = f.prior * (1 - fault.TwoFaults)
		if f.Hypothesis.Pairs() {
			f.before += w.pairFactor * f.prior * (sum - f.prior + more[k])
		}
	}
}

// posterior is the probability of every fault and pair of faults.
type posterior struct {
	// single is each fault alone, any each fault alone or with another.
	single, any []float64
	// links are the dependent pairs, and linked their probability.
	links  []dependentPair
	linked []float64
	// hypotheses are the faults alone and the likelier pairs; they sum to nearly 1.
	hypotheses []JointHypothesis
}

// Pairs are named one by one from this probability on, and at most so many.
const (
	leastPair = 0.001
	mostPairs = 80
)

// sums are the parts of one posterior. Weights are logs, against an engine with
// nothing wrong.
type sums struct {
	w *inference
	s *scope
	// random says that the first read of the codes had a random misfire code.
	random bool
	// shapes[t] is the log ratio of a shape's runs and codes, quiet[t] the log chance
	// that no random code came of it; scale[t] and so on are e to them, brought to 1.
	shapes, quiet, level, calmly []perRate
	scale                        []float64
	// own[k] is what the items say of fault k at each rate, times e to grade[k]; always and
	// shop are its parts: what is asked where the fault shows for sure, and in the shop.
	own, always, shop []perRate
	inShop            []bool // something was asked there
	logScale          []float64
	// one[k] is the weight of fault k alone, calm[k] that of it without a random code.
	one, calm []float64
	// class[k] is the same for faults of one track and severity of which every item says the same;
	// pairs of the same classes have the same weights but for their shares.
	class []int
	met   map[uint64]float64
}

// posterior is the probability of everything by the moments that are kept: all of
// them, all but one, or one alone. Joint hypotheses are named where they are asked for.
func (w *inference) posterior(kept keep, named bool) posterior {
	s := &sums{w: w, s: w.scope(kept)}
	s.run()
	n := len(w.faults)
	s.own, s.always, s.shop, s.inShop = make([]perRate, n), make([]perRate, n), make([]perRate, n), make([]bool, n)
	s.logScale, s.one, s.calm = make([]float64, n), make([]float64, n), make([]float64, n)
	for k := range w.faults {
		own := *w.faults[k].profile.severity
		var shop perRate
		for _, item := range s.s.items {
			switch {
			case item[k] == nil:
			case item[k].shop:
				addTo(&shop, &item[k].logIfShown)
				s.inShop[k] = true
			default:
				addTo(&own, &item[k].logIfShown)
			}
		}
		s.logScale[k] = slices.Max(own[:])
		for r, x := range own {
			s.always[k][r] = 1
			if x != s.logScale[k] {
				s.always[k][r] = math.Exp(x - s.logScale[k])
			}
		}
		s.own[k] = s.always[k]
		if s.inShop[k] {
			for r, x := range shop {
				s.shop[k][r] = math.Exp(x)
			}
			mixShop(&s.own[k], &s.shop[k])
		}
		t := w.shapeOf[w.faults[k].track][w.faults[k].track]
		share := math.Log(w.faults[k].prior/rates) + s.logScale[k] + s.scale[t]
		all, calm := s.over(&s.own[k], t)
		s.one[k], s.calm[k] = math.Log(all)+share, math.Log(calm)+share
	}
	s.classify()
	return s.posterior(named)
}

// run works out the shapes.
func (s *sums) run() {
	var first codesKnown
	if len(s.s.codes) > 0 {
		first = s.s.codes[0].known
		s.random = first.random && s.w.a.Engine.Cylinders > 1
	}
	n := len(s.w.shapes)
	s.shapes, s.quiet, s.level, s.calmly, s.scale = make([]perRate, n), make([]perRate, n), make([]perRate, n), make([]perRate, n), make([]float64, n)
	for t, shape := range s.w.shapes {
		lik, quiet := s.w.running(shape, s.s)
		if !s.random && len(s.s.codes) > 0 && !first.open {
			addTo(&lik, &quiet) // none was set: a factor like any other
		}
		s.shapes[t], s.quiet[t], s.scale[t] = lik, quiet, slices.Max(lik[:])
		for r, x := range lik {
			s.level[t][r] = math.Exp(x - s.scale[t])
			s.calmly[t][r] = s.level[t][r] * math.Exp(quiet[r])
		}
	}
}

// over is the sum over the rates of what the items and a shape say, and of the part
// without a random code.
func (s *sums) over(own *perRate, shape int) (all, calm float64) {
	level, calmly := &s.level[shape], &s.calmly[shape]
	for r, x := range own {
		all += x * level[r]
		calm += x * calmly[r]
	}
	return all, calm
}

// set is the log weight of what has the random misfire code that came, from those
// of all and of the part without one.
func (s *sums) set(all, calm float64) float64 {
	if !s.random {
		return all
	}
	return all + math.Log(-math.Expm1(min(math.Log1p(-randomStray)+calm-all, -1e-12))) - math.Log(randomStray)
}

// classify puts the faults into their classes.
func (s *sums) classify() {
	s.class, s.met = make([]int, len(s.w.faults)), map[uint64]float64{}
	// Each item splits the classes by what it says.
	type split struct {
		class int
		says  *itemFactor
	}
	type start struct {
		track  int
		severe *perRate
	}
	starts := map[start]int{}
	for k := range s.w.faults {
		key := start{s.w.faults[k].track, s.w.faults[k].profile.severity}
		if _, ok := starts[key]; !ok {
			starts[key] = len(starts)
		}
		s.class[k] = starts[key]
	}
	next := len(starts)
	for _, item := range s.s.items {
		known := map[split]int{}
		for k, says := range item {
			if says == nil {
				continue
			}
			key := split{s.class[k], says}
			c, ok := known[key]
			if !ok {
				c = next
				next++
				known[key] = c
			}
			s.class[k] = c
		}
	}
}

// pair is the log weight of a dependent pair, or of two faults that share an item, without
// the factor that is common to all pairs.
func (s *sums) pair(l dependentPair) float64 {
	key := uint64(s.class[l.x])<<32 | uint64(s.class[l.y]) //nolint:gosec // both are small indices
	both, known := s.met[key]
	if !known {
		both = s.pairLikelihood(l)
		s.met[key] = both
	}
	both += s.w.logPrior[l.x] + s.w.logPrior[l.y]
	if l.times != 1 {
		both += math.Log(l.times)
	}
	return both
}

// pairLikelihood is that without their shares.
func (s *sums) pairLikelihood(l dependentPair) float64 {
	w := s.w
	f, g := &w.faults[l.x], &w.faults[l.y]
	mine, other := s.always[l.x], s.always[l.y]
	shop := [2]perRate{s.shop[l.x], s.shop[l.y]}
	undo := func(always, shop *perRate, by *itemFactor) {
		if by.shop {
			always = shop
		}
		times(always, &by.inverse)
	}
	for i, item := range s.s.items { // of two on one item the one that shows more counts
		a, b := item[l.x], item[l.y]
		switch {
		case s.s.joint[i] || a == nil || b == nil || a.odd < 0:
		case a.odd >= b.odd:
			undo(&other, &shop[1], b)
		default:
			undo(&mine, &shop[0], a)
		}
	}
	leave := func(always, shop *perRate, j *joined, k, other int, first bool) {
		for _, v := range j.of[k] {
			left := w.beside(j, v, k, other, first)
			if left == v.says {
				continue
			}
			undo(always, shop, v.says)
			if left == nil {
				continue
			}
			if v.says.shop {
				always = shop
			}
			for r, x := range left.logIfShown {
				always[r] *= math.Exp(x)
			}
		}
	}
	for _, j := range s.s.tests { // and so in each place
		if j.of[l.x] != nil && j.of[l.y] != nil {
			leave(&mine, &shop[0], j, l.x, l.y, true)
			leave(&other, &shop[1], j, l.y, l.x, false)
		}
	}
	if s.inShop[l.x] {
		mixShop(&mine, &shop[0])
	}
	if s.inShop[l.y] {
		mixShop(&other, &shop[1])
	}
	share := s.logScale[l.x] + s.logScale[l.y]
	if !l.meet {
		one, two := w.shapeOf[f.track][f.track], w.shapeOf[g.track][g.track]
		all1, calm1 := s.over(&mine, one)
		all2, calm2 := s.over(&other, two)
		return s.set(math.Log(all1*all2), math.Log(calm1*calm2)) + share + s.scale[one] + s.scale[two] - 2*math.Log(rates)
	}
	times(&mine, &other)
	both := w.shapeOf[f.track][g.track]
	all, calm := s.over(&mine, both)
	return s.set(math.Log(all), math.Log(calm)) + share + s.scale[both] - math.Log(rates) - w.oneRate(f.profile.severity, g.profile.severity)
}

// mixShop multiplies by what was asked in the shop, where the fault shows in all of it or
// in nothing.
func mixShop(own, shop *perRate) {
	for r, x := range shop {
		own[r] *= (1 - inTheShop) + inTheShop*x
	}
}

func times(of, by *perRate) {
	for r := range of {
		of[r] *= by[r]
	}
}

// pairsSharingAnItem lists the pairs that are linked by an item that both bear on, and by
// nothing else.
func (s *sums) pairsSharingAnItem() (extra []dependentPair, is func(x, y int) bool) {
	w, n := s.w, len(s.w.faults)
	var seen []bool
	var of []int
	items := slices.Clone(s.s.items)
	for i := range items {
		if s.s.joint[i] {
			items[i] = nil
		}
	}
	for _, j := range s.s.tests {
		items = append(items, j.alone...)
	}
	for _, item := range items {
		of = of[:0]
		for k, shows := range item {
			if shows != nil && shows.odd >= 0 && w.faults[k].Hypothesis.Pairs() {
				of = append(of, k)
			}
		}
		for i, x := range of {
			for _, y := range of[:i] {
				if w.linked[x][y] {
					continue
				}
				if seen == nil {
					seen, extra = make([]bool, n*n), make([]dependentPair, 0, 4*n)
				}
				if !seen[x*n+y] {
					seen[x*n+y], seen[y*n+x] = true, true
					extra = append(extra, dependentPair{x, y, 1, false})
				}
			}
		}
	}
	return extra, func(x, y int) bool { return seen != nil && seen[x*n+y] }
}

func (s *sums) posterior(named bool) posterior {
	w, n := s.w, len(s.w.faults)
	extra, isExtra := s.pairsSharingAnItem()
	touched := make([]bool, n*len(w.tracks)) // fault and track with an extra link between
	for _, l := range extra {
		touched[l.x*len(w.tracks)+w.faults[l.y].track] = true
		touched[l.y*len(w.tracks)+w.faults[l.x].track] = true
	}
	single, far := make([]float64, n), make([]float64, n)
	for k := range w.faults {
		single[k], far[k] = s.set(s.one[k], s.calm[k])+math.Log(1-fault.TwoFaults), math.Inf(-1)
	}
	common := math.Log(w.pairFactor)
	if w.pairFactor > 0 {
		s.addIndependentPairs(far, isExtra, touched)
	}
	weights := append(make([]float64, 0, 2*n+len(w.dependentPairs)+len(extra)), single...)
	for k, x := range far {
		far[k] = x + common
		weights = append(weights, far[k]-math.Ln2) // each pair is there twice
	}
	links := append(slices.Clip(w.dependentPairs), extra...)
	near := make([]float64, len(links))
	for i, l := range links {
		near[i] = s.pair(l) + common
	}
	total := floats.LogSumExp(append(weights, near...))
	out := posterior{single: make([]float64, n), any: make([]float64, n), links: links, linked: make([]float64, len(links))}
	for k := range w.faults {
		out.single[k] = math.Exp(single[k] - total)
		out.any[k] = out.single[k] + math.Exp(far[k]-total)
	}
	for i, l := range links {
		p := math.Exp(near[i] - total)
		out.any[l.x] += p
		out.any[l.y] += p
		out.linked[i] = p
	}
	if named {
		out.hypotheses = s.jointHypotheses(out, links, near, total, isExtra)
	}
	return out
}

// addIndependentPairs adds up, for each fault, the pairs it makes with faults that have nothing to
// do with it: there the weights are products.
func (s *sums) addIndependentPairs(far []float64, isExtra func(x, y int) bool, touched []bool) {
	w := s.w
	n := len(w.tracks)
	// The weights of a track's faults, brought to 1 by its heaviest.
	top, sum, calmSum := make([]float64, n), make([]float64, n), make([]float64, n)
	one, calm := make([]float64, len(far)), make([]float64, len(far))
	for t, of := range w.members {
		top[t] = math.Inf(-1)
		for _, k := range of {
			top[t] = max(top[t], s.one[k])
		}
		for _, k := range of {
			one[k], calm[k] = math.Exp(s.one[k]-top[t]), math.Exp(s.calm[k]-top[t])
			sum[t] += one[k]
			calmSum[t] += calm[k]
		}
	}
	factor := make([]float64, n)
	for t, of := range w.members {
		most := math.Inf(-1)
		for u := range w.tracks {
			if w.shapeOf[t][u] < 0 && len(w.members[u]) > 0 {
				most = max(most, top[u])
			}
		}
		if math.IsInf(most, -1) {
			continue
		}
		for u := range w.tracks {
			factor[u] = 0
			if w.shapeOf[t][u] < 0 && len(w.members[u]) > 0 {
				factor[u] = math.Exp(top[u] - most)
			}
		}
		for _, k := range of {
			all, none := 0.0, 0.0
			for u := range w.tracks {
				if factor[u] == 0 {
					continue
				}
				if !w.unrelated[k][u] && !touched[k*n+u] {
					all += factor[u] * sum[u]
					none += factor[u] * calmSum[u]
					continue
				}
				for _, j := range w.members[u] {
					if !w.linked[k][j] && !isExtra(k, j) {
						all += factor[u] * one[j]
						none += factor[u] * calm[j]
					}
				}
			}
			if all > 0 {
				far[k] = s.set(s.one[k]+math.Log(all), s.calm[k]+math.Log(none)) + most
			}
		}
	}
}

// jointHypotheses names the faults alone and the likeliest pairs.
func (s *sums) jointHypotheses(p posterior, links []dependentPair, near []float64, total float64, isExtra func(x, y int) bool) []JointHypothesis {
	w := s.w
	rateOf := func(own *perRate, shape int) (rate perRate) {
		sum := 0.0
		for r, x := range own {
			rate[r] = x * s.level[shape][r]
			if s.random {
				rate[r] -= (1 - randomStray) * x * s.calmly[shape][r]
			}
			sum += rate[r]
		}
		for r := range rate {
			rate[r] /= sum
		}
		return rate
	}
	joints := make([]JointHypothesis, len(w.faults))
	for k := range w.faults {
		t := w.faults[k].track
		joints[k] = JointHypothesis{Faults: []*Fault{&w.faults[k]}, P: p.single[k], Rates: []perRate{rateOf(&s.own[k], w.shapeOf[t][t])}}
	}
	type named struct {
		dependentPair
		p float64
	}
	var pairs []named
	for i, l := range links {
		if q := math.Exp(near[i] - total); q >= leastPair {
			pairs = append(pairs, named{l, q})
		}
	}
	var likely []int
	for k, any := range p.any {
		if any-p.single[k] >= leastPair {
			likely = append(likely, k)
		}
	}
	for i, x := range likely {
		for _, y := range likely[:i] {
			if w.linked[x][y] || isExtra(x, y) {
				continue
			}
			q := math.Exp(s.set(s.one[x]+s.one[y], s.calm[x]+s.calm[y]) + math.Log(w.pairFactor) - total)
			if q >= leastPair {
				pairs = append(pairs, named{dependentPair{x: x, y: y}, q})
			}
		}
	}
	slices.SortStableFunc(pairs, func(a, b named) int { return cmp.Compare(b.p, a.p) })
	for _, l := range pairs[:min(len(pairs), mostPairs)] {
		f, g := &w.faults[l.x], &w.faults[l.y]
		both := JointHypothesis{Faults: []*Fault{f, g}, P: l.p, Rates: []perRate{joints[l.x].Rates[0], joints[l.y].Rates[0]}}
		if l.meet {
			own := s.own[l.x]
			times(&own, &s.own[l.y])
			rate := rateOf(&own, w.shapeOf[f.track][g.track])
			both.Rates = []perRate{rate, rate}
		}
		joints = append(joints, both)
	}
	for i := range joints {
		joints[i].Index = i
	}
	return joints
}
