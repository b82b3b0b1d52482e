package infer

import (
	"math"
	"slices"
	"strconv"
	"sync/atomic"
)

// Factor is the information of one observation about one hypothesis.
type Factor struct {
	// LogRatio is the log likelihood ratio at each rate, of this observation alone.
	LogRatio PerRate
	// LogIfShown is the same given that the hypothesis shows. It equals LogRatio unless
	// Occasional.
	LogIfShown PerRate
	// Weight ranks hypotheses that explain the same observation: only the one with the larger
	// weight contributes. A negative weight, which then applies to the whole observation,
	// means that both contribute.
	Weight float64
	// Occasional is true if the hypothesis may not show at all. It shows in all occasional
	// observations or in none, with probability [Model.Shows].
	Occasional bool
	// inverse is exp(-LogIfShown).
	inverse PerRate
	// id identifies the factor in the caches of a [Solver].
	id uint64
}

var factors atomic.Uint64

// NewFactor makes a factor from a log likelihood ratio, given that the hypothesis shows; shows
// is [Model.Shows].
func NewFactor(logIfShown PerRate, weight float64, occasional bool, shows float64) *Factor {
	f := &Factor{LogRatio: logIfShown, LogIfShown: logIfShown, Weight: weight, Occasional: occasional, id: factors.Add(1)}
	for r, x := range logIfShown {
		f.inverse[r] = math.Exp(-x)
		if occasional {
			f.LogRatio[r] = LogMix(1-shows, 0, shows, x)
		}
	}
	return f
}

// Group holds observations that answer one question in several places. They are not
// independent and are evaluated together.
type Group struct {
	// Alone[c][k] is the factor of observation c for hypothesis k by itself; nil means no
	// information.
	Alone [][]*Factor
	// Together[c][k] is the joint factor. The first observation with information about
	// hypothesis k carries it for all; the others are nil.
	Together [][]*Factor
	// of lists the voices of each hypothesis.
	of    [][]voice
	class func(k int) string
	join  func(at []int, k int) *Factor
	// cached holds joined factors by class, positions and factors.
	cached map[string]*Factor
	ids    map[*Factor]int
}

// voice is the joint factor of the observations at some positions for one hypothesis.
type voice struct {
	says *Factor
	at   []int
}

// NewGroup joins observations. join computes the joint factor of two or more observations,
// given by position, for hypothesis k. Hypotheses of one class with equal factors have equal
// joint factors.
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

// Joined returns the joint factor of the observations at some positions for hypothesis k.
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

// beside returns what remains of a voice of hypothesis k if another hypothesis holds too. In
// each place the larger weight wins; at equal weights the first one. It is nil if nothing
// remains.
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
