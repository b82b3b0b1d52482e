package infer

import (
	"cmp"
	"math"
	"slices"
)

// Hypothesis is one statement that may hold.
type Hypothesis struct {
	// Prior is its share among single hypotheses. All shares sum to 1.
	Prior float64
	// LogRate is the log prior of each rate, relative to equal rates.
	LogRate *PerRate
	// Track is the index of its track. No shape distinguishes hypotheses of one track.
	Track int
	// Pairs is true if it can be one of two.
	Pairs bool
	// AcceptsLater is true for a hypothesis that forms pairs only with later ones.
	AcceptsLater bool
	// Later is the probability that the hypothesis becomes true later, while an earlier one holds; 0 for an earlier one.
	// Prior is then its share as a single fault. Two later hypotheses never form a pair.
	Later float64
}

// Pair is two hypotheses whose joint likelihood is not the product of their own: they share
// one rate, or one makes the other more probable.
type Pair struct {
	// X and Y are indices of hypotheses.
	X, Y int
	// times is the ratio to the probability by chance; meet is true if they share one rate.
	times float64
	meet  bool
	// prior is the product of the two shares and times.
	prior float64
}

// Prior describes a model before any observation.
type Prior struct {
	Hypotheses []Hypothesis
	// ShapeOf[t][t] is the index of the shape of track t. ShapeOf[t][u] is the shape of two
	// tracks whose hypotheses share one rate, or -1 if they are independent.
	ShapeOf [][]int
	// Times returns the ratio of the probability of two hypotheses together to that by chance;
	// 0 means impossible.
	Times func(x, y int) float64
	// Two is the probability that two hold at once.
	Two float64
	// Shows is the probability that a hypothesis shows in its occasional observations.
	Shows float64
	// FalseAlarm is the probability of the alarm if no hypothesis holds.
	FalseAlarm float64
}

// Model is a prior with the precomputed parts of its sums.
type Model struct {
	Prior
	// Before[k] is the prior probability that hypothesis k holds, alone or with another.
	Before []float64
	// dependent lists the dependent pairs; linked[x][y] is true for them.
	dependent []Pair
	linked    [][]bool
	// unrelated[k][t] is true if track t contains hypotheses that are linked to k but share no
	// rate with it.
	unrelated [][]bool
	// members lists the hypotheses of each track that can be one of two.
	members [][]int
	// logPrior is the log share of each hypothesis in a pair; logLater is how far it exceeds its log share alone.
	logPrior, logLater []float64
	// logPriorAlone is the log share alone; rateSign identifies the rate prior of each hypothesis.
	logPriorAlone []float64
	rateSign      []uint64
	// pairFactor is the prior of a pair divided by the product of its two shares.
	pairFactor float64
	oneRates   map[[2]*PerRate]float64
	// shapes is the number of shapes.
	shapes int
}

// New finds the dependent pairs of a prior and normalises the prior of all pairs. Pairs with a later hypothesis come in
// addition.
func New(p Prior) *Model {
	n, tracks := len(p.Hypotheses), len(p.ShapeOf)
	m := &Model{Prior: p, Before: make([]float64, n), linked: make([][]bool, n), unrelated: make([][]bool, n), members: make([][]int, tracks),
		logPrior: make([]float64, n), logLater: make([]float64, n), dependent: make([]Pair, 0, 16*n), oneRates: map[[2]*PerRate]float64{}}
	cells, loose := make([]bool, n*n), make([]bool, n*tracks)
	sum, squares, total := 0.0, 0.0, 0.0
	more := make([]float64, n)   // what links add to the shares of its partners
	joined := make([]float64, n) // the probability that one that joins is beside it
	rates := map[*PerRate]uint64{}
	for k := range p.Hypotheses {
		m.logPrior[k] = math.Log(p.Hypotheses[k].Prior)
		of := p.Hypotheses[k].LogRate
		if _, ok := rates[of]; !ok {
			rates[of] = blend(1, uint64(len(rates)))
		}
		m.rateSign = append(m.rateSign, rates[of])
	}
	m.logPriorAlone = slices.Clone(m.logPrior)
	order := make([]int, n) // hypotheses of equal likelihood stand together, and so do their pairs
	for x := range p.Hypotheses {
		order[x] = x
		m.linked[x] = cells[x*n : (x+1)*n]
		m.unrelated[x] = loose[x*tracks : (x+1)*tracks]
	}
	slices.SortStableFunc(order, func(x, y int) int {
		return cmp.Or(cmp.Compare(m.rateSign[x], m.rateSign[y]), cmp.Compare(p.Hypotheses[x].Track, p.Hypotheses[y].Track))
	})
	for i, x := range order {
		f := &p.Hypotheses[x]
		if f.AcceptsLater {
			m.linkLater(x, joined)
		}
		if !f.Pairs {
			continue
		}
		m.members[f.Track] = append(m.members[f.Track], x)
		if f.Later == 0 {
			sum, squares = sum+f.Prior, squares+f.Prior*f.Prior
		}
		for _, y := range order[:i] {
			g := &p.Hypotheses[y]
			if !g.Pairs {
				continue
			}
			times := p.Times(x, y)
			if f.Later > 0 && g.Later > 0 {
				times = 0
			}
			joined[x] += times * g.Later
			joined[y] += times * f.Later
			meet := f.Track == g.Track || p.ShapeOf[f.Track][g.Track] >= 0
			if times == 1 && !meet {
				continue
			}
			m.linked[x][y], m.linked[y][x] = true, true
			if !meet {
				m.unrelated[x][g.Track], m.unrelated[y][f.Track] = true, true
			}
			if times > 0 {
				m.dependent = append(m.dependent, Pair{X: max(x, y), Y: min(x, y), times: times, meet: meet})
			}
			if f.Later == 0 && g.Later == 0 {
				total += (times - 1) * f.Prior * g.Prior
				more[x] += (times - 1) * g.Prior
				more[y] += (times - 1) * f.Prior
			}
		}
	}
	total += (sum*sum - squares) / 2
	if total > 1e-12*sum*sum { // more than rounding leaves
		m.pairFactor = p.Two / total
	} else {
		m.Two = 0 // no two hypotheses can hold together
	}
	m.before(sum, more, joined)
	for i, l := range m.dependent {
		m.dependent[i] = m.pairOf(l.X, l.Y, l.times, l.meet)
	}
	for _, of := range m.ShapeOf {
		m.shapes = max(m.shapes, slices.Max(of)+1)
	}
	return m
}

// pairOf returns a pair with its prior.
func (m *Model) pairOf(x, y int, times float64, meet bool) Pair {
	return Pair{x, y, times, meet, math.Exp(m.logPrior[x]+m.logPrior[y]) * times}
}

// linkLater adds the pairs of a hypothesis with later ones.
func (m *Model) linkLater(x int, joined []float64) {
	f := &m.Hypotheses[x]
	for y := range m.Hypotheses {
		g := &m.Hypotheses[y]
		if g.Later == 0 || !g.Pairs {
			continue
		}
		if times := m.Times(x, y); times > 0 {
			joined[x] += times * g.Later
			m.dependent = append(m.dependent, Pair{X: max(x, y), Y: min(x, y), times: times, meet: f.Track == g.Track || m.ShapeOf[f.Track][g.Track] >= 0})
		}
	}
}

// before computes [Model.Before] and the shares in pairs. sum is the sum of the shares of hypotheses that form pairs.
func (m *Model) before(sum float64, more, joined []float64) {
	whole := 1.0
	for k := range m.Hypotheses {
		f := &m.Hypotheses[k]
		m.Before[k] = f.Prior * (1 - m.Two)
		switch {
		case f.AcceptsLater && m.pairFactor > 0:
			m.Before[k] += f.Prior * joined[k]
			whole += f.Prior * joined[k]
		case !f.Pairs:
		case f.Later == 0 && m.pairFactor > 0:
			m.Before[k] += m.pairFactor*f.Prior*(sum-f.Prior+more[k]) + f.Prior*joined[k]
			whole += f.Prior * joined[k]
		case f.Later > 0 && m.pairFactor > 0:
			m.logPrior[k] = math.Log(f.Later / m.pairFactor)
			m.logLater[k] = m.logPrior[k] - math.Log(f.Prior)
		}
	}
	for k := range m.Hypotheses {
		if f := &m.Hypotheses[k]; f.Later > 0 && f.Pairs && m.pairFactor > 0 {
			m.Before[k] += f.Later * m.partners(k)
		}
		m.Before[k] /= whole
	}
}

// partners is the sum of the shares of the earlier hypotheses that later hypothesis k forms pairs with.
func (m *Model) partners(k int) (sum float64) {
	for y := range m.Hypotheses {
		if g := &m.Hypotheses[y]; y != k && (g.Pairs || g.AcceptsLater) && g.Later == 0 {
			sum += g.Prior * m.Times(k, y)
		}
	}
	return sum
}

// oneRate returns [OneRate] and caches it.
func (m *Model) oneRate(x, y *PerRate) float64 {
	key := [2]*PerRate{x, y}
	sum, ok := m.oneRates[key]
	if !ok {
		sum = OneRate(x, y)
		m.oneRates[key] = sum
	}
	return sum
}
