package infer

import (
	"math"
	"slices"
	"strconv"
)

// Factor is what one observation says of one hypothesis that bears on it.
type Factor struct {
	// LogRatio is the log likelihood ratio at each rate, of this observation by itself.
	LogRatio PerRate
	// LogIfShown is that if the hypothesis shows where it was asked: LogRatio, unless Occasional.
	LogIfShown PerRate
	// Weight is how plainly the hypothesis shows in it. Of two hypotheses that bear on one
	// observation only the one of greater weight speaks; where it is below 0, which then holds for
	// all of the observation, both do.
	Weight float64
	// Occasional says that the hypothesis may not show there at all. It shows in all occasional
	// observations or in none, with the probability [Model.Shows].
	Occasional bool
	// inverse is e to the minus LogIfShown.
	inverse PerRate
}

// NewFactor is a factor of a log likelihood ratio, where the hypothesis shows; shows is
// [Model.Shows].
func NewFactor(logIfShown PerRate, weight float64, occasional bool, shows float64) *Factor {
	f := &Factor{LogRatio: logIfShown, LogIfShown: logIfShown, Weight: weight, Occasional: occasional}
	for r, x := range logIfShown {
		f.inverse[r] = math.Exp(-x)
		if occasional {
			f.LogRatio[r] = LogMix(1-shows, 0, shows, x)
		}
	}
	return f
}

// Group is observations that answer one question in several places: what they say of a hypothesis
// is taken together, since they are not independent.
type Group struct {
	// Alone[c][k] is what the c-th observation says of the k-th hypothesis by itself; nil where it
	// says nothing.
	Alone [][]*Factor
	// Together[c][k] is what is left when those are taken together: the first that bears on a
	// hypothesis says it for all, the others nothing.
	Together [][]*Factor
	// of lists the voices of each hypothesis.
	of    [][]voice
	class func(k int) string
	join  func(at []int, k int) *Factor
	// cached holds what was joined, by class, positions and factors.
	cached map[string]*Factor
	ids    map[*Factor]int
}

// voice is what the observations at some positions say of a hypothesis together.
type voice struct {
	says *Factor
	at   []int
}

// NewGroup joins observations. join works out what those at some positions, two or more, say of
// the k-th hypothesis together; hypotheses of one class with the same factors have the same.
func NewGroup(alone [][]*Factor, class func(k int) string, join func(at []int, k int) *Factor) *Group {
	g := &Group{Alone: alone, class: class, join: join, cached: map[string]*Factor{}, ids: map[*Factor]int{}}
	for _, column := range alone {
		g.Together = append(g.Together, slices.Clone(column))
	}
	g.of = make([][]voice, len(alone[0]))
	for k := range g.of {
		for _, occasional := range []bool{false, true} {
			var at []int
			for c, column := range alone {
				if column[k] != nil && column[k].Occasional == occasional {
					at = append(at, c)
				}
			}
			if len(at) == 0 {
				continue
			}
			one := g.Joined(at, k)
			for _, c := range at {
				g.Together[c][k] = nil
			}
			g.Together[at[0]][k] = one
			g.of[k] = append(g.of[k], voice{one, at})
		}
	}
	return g
}

// Joined is what the observations at some positions say of the k-th hypothesis together.
func (g *Group) Joined(at []int, k int) *Factor {
	if len(at) == 1 {
		return g.Alone[at[0]][k]
	}
	key := append(make([]byte, 0, 64), g.class(k)...)
	for _, c := range at {
		says := g.Alone[c][k]
		if _, ok := g.ids[says]; !ok {
			g.ids[says] = len(g.ids)
		}
		key = strconv.AppendInt(append(key, ' '), int64(c), 10)
		key = strconv.AppendInt(append(key, ':'), int64(g.ids[says]), 10)
	}
	one := g.cached[string(key)]
	if one == nil {
		one = g.join(at, k)
		g.cached[string(key)] = one
	}
	return one
}

// beside is what a voice of the k-th hypothesis says where another holds as well: in each place
// the one of greater weight speaks, of equal ones the first. It is nil where nothing is left.
func (g *Group) beside(v voice, k, other int, first bool) *Factor {
	lost := func(c int) bool {
		mine, their := g.Alone[c][k], g.Alone[c][other]
		return their != nil && (their.Weight > mine.Weight || their.Weight == mine.Weight && !first)
	}
	if !slices.ContainsFunc(v.at, lost) {
		return v.says
	}
	left := make([]int, 0, len(v.at))
	for _, c := range v.at {
		if !lost(c) {
			left = append(left, c)
		}
	}
	if len(left) == 0 {
		return nil
	}
	return g.Joined(left, k)
}
