package infer

import (
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
	// Hosts is true for one that is none of two, but that others can join.
	Hosts bool
	// Joins is above 0 for a hypothesis that came to hold later: the probability that it does beside another that
	// holds. Prior is then its share alone. Two that join never hold together.
	Joins float64
}

// Pair is two hypotheses whose joint likelihood is not the product of their own: they share
// one rate, or one makes the other more probable.
type Pair struct {
	// X and Y are indices of hypotheses.
	X, Y int
	// times is the ratio to the probability by chance; meet is true if they share one rate.
	times float64
	meet  bool
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
	// logPrior is the log share of each hypothesis in a pair; logJoins is how far it exceeds its log share alone.
	logPrior, logJoins []float64
	// logPriorAlone is the log share alone; rateSign identifies the rate prior of each hypothesis.
	logPriorAlone []float64
	rateSign      []uint64
	// pairFactor is the prior of a pair divided by the product of its two shares.
	pairFactor float64
	oneRates   map[[2]*PerRate]float64
}

// New finds the dependent pairs of a prior and normalises the prior of all pairs. Those that join come on top.
func New(p Prior) *Model {
	n, tracks := len(p.Hypotheses), len(p.ShapeOf)
	m := &Model{Prior: p, Before: make([]float64, n), linked: make([][]bool, n), unrelated: make([][]bool, n), members: make([][]int, tracks),
		logPrior: make([]float64, n), logJoins: make([]float64, n), dependent: make([]Pair, 0, 16*n), oneRates: map[[2]*PerRate]float64{}}
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
	for x := range p.Hypotheses {
		m.linked[x] = cells[x*n : (x+1)*n]
		m.unrelated[x] = loose[x*tracks : (x+1)*tracks]
		f := &p.Hypotheses[x]
		if f.Hosts {
			m.host(x, joined)
		}
		if !f.Pairs {
			continue
		}
		m.members[f.Track] = append(m.members[f.Track], x)
		if f.Joins == 0 {
			sum, squares = sum+f.Prior, squares+f.Prior*f.Prior
		}
		for y := range x {
			g := &p.Hypotheses[y]
			if !g.Pairs {
				continue
			}
			times := p.Times(x, y)
			if f.Joins > 0 && g.Joins > 0 {
				times = 0
			}
			joined[x] += times * g.Joins
			joined[y] += times * f.Joins
			meet := f.Track == g.Track || p.ShapeOf[f.Track][g.Track] >= 0
			if times == 1 && !meet {
				continue
			}
			m.linked[x][y], m.linked[y][x] = true, true
			if !meet {
				m.unrelated[x][g.Track], m.unrelated[y][f.Track] = true, true
			}
			if times > 0 {
				m.dependent = append(m.dependent, Pair{x, y, times, meet})
			}
			if f.Joins == 0 && g.Joins == 0 {
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
	return m
}

// host adds the pairs of a hypothesis with those that can join it.
func (m *Model) host(x int, joined []float64) {
	f := &m.Hypotheses[x]
	for y := range m.Hypotheses {
		g := &m.Hypotheses[y]
		if g.Joins == 0 || !g.Pairs {
			continue
		}
		if times := m.Times(x, y); times > 0 {
			joined[x] += times * g.Joins
			m.dependent = append(m.dependent, Pair{max(x, y), min(x, y), times, f.Track == g.Track || m.ShapeOf[f.Track][g.Track] >= 0})
		}
	}
}

// before works out [Model.Before] and the shares in pairs. sum is the sum of the shares of those that can be one of two.
func (m *Model) before(sum float64, more, joined []float64) {
	whole := 1.0
	for k := range m.Hypotheses {
		f := &m.Hypotheses[k]
		m.Before[k] = f.Prior * (1 - m.Two)
		switch {
		case f.Hosts && m.pairFactor > 0:
			m.Before[k] += f.Prior * joined[k]
			whole += f.Prior * joined[k]
		case !f.Pairs:
		case f.Joins == 0 && m.pairFactor > 0:
			m.Before[k] += m.pairFactor*f.Prior*(sum-f.Prior+more[k]) + f.Prior*joined[k]
			whole += f.Prior * joined[k]
		case f.Joins > 0 && m.pairFactor > 0:
			m.logPrior[k] = math.Log(f.Joins / m.pairFactor)
			m.logJoins[k] = m.logPrior[k] - math.Log(f.Prior)
		}
	}
	for k := range m.Hypotheses {
		if f := &m.Hypotheses[k]; f.Joins > 0 && f.Pairs && m.pairFactor > 0 {
			m.Before[k] += f.Joins * m.partners(k)
		}
		m.Before[k] /= whole
	}
}

// partners is the sum of the shares of those that hypothesis k can join.
func (m *Model) partners(k int) (sum float64) {
	for y := range m.Hypotheses {
		if g := &m.Hypotheses[y]; y != k && (g.Pairs || g.Hosts) && g.Joins == 0 {
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
