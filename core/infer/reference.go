package infer

import (
	"math"
	"slices"
)

// reference holds the weights of the linked pairs for some evidence. They bound the weights for the same evidence with
// observations omitted: omitting an observation multiplies a weight by at most the inverse of its smallest factor.
type reference struct {
	e      *Evidence
	shared *sharing
	near   []float64
}

// Refer makes some evidence the reference of the solver.
func (v *Solver) Refer(e *Evidence) {
	v.ref = nil
	s := v.sums(e)
	shared := v.sharing(e)
	links := shared.links
	of := s.pairs(links, shared, 0)
	near := make([]float64, len(links))
	for i, l := range links {
		near[i] = of.like[of.of[i]] + math.Log(l.prior*v.m.pairFactor)
	}
	v.ref = &reference{e: e, shared: shared, near: near}
}

// gains bounds the weights of linked pairs for evidence that omits observations of the reference.
type gains struct {
	m   *Model
	ref *reference
	// shape[i] is the gain of shape i; it is below 0 before it is computed.
	shape []float64
	of    func(int) float64
	// items[k] is the gain of the items of hypothesis k.
	items []float64
	alarm float64
}

// gains returns the bounds for some evidence, or nil if the reference gives none.
func (v *Solver) gains(e *Evidence) *gains {
	if v.ref == nil || e.Gain == nil || !slices.Equal(e.Groups, v.ref.e.Groups) {
		return nil
	}
	g := &gains{m: v.m, ref: v.ref, shape: make([]float64, v.m.shapes), of: e.Gain, items: make([]float64, len(v.m.Hypotheses))}
	for i := range g.shape {
		g.shape[i] = -1
	}
	if e.Alarm {
		g.alarm = -math.Log(v.m.FalseAlarm)
	}
	kept := 0
	for i, item := range v.ref.e.Items {
		if kept < len(e.Items) && e.IDs[kept] == v.ref.e.IDs[i] {
			kept++
			continue
		}
		for k, f := range item {
			if f != nil {
				g.items[k] += max(0, -slices.Min(f.LogIfShown[:]))
			}
		}
	}
	if kept < len(e.Items) {
		return nil // the evidence is not a part of the reference
	}
	return g
}

// bound returns an upper bound of the log weight of the i-th link.
func (g *gains) bound(l Pair, i int, shared *sharing) float64 {
	was := 0.0
	switch base := i - len(g.m.dependent); {
	case base < 0 || shared == g.ref.shared:
		was = g.ref.near[i]
	default:
		was = g.ref.near[len(g.m.dependent)+int(g.ref.shared.at[l.X*g.ref.shared.n+l.Y])-1]
	}
	one, two := g.m.shapesOf(l)
	was += g.items[l.X] + g.items[l.Y] + g.gain(one) + g.alarm
	if two >= 0 {
		was += g.gain(two)
	}
	return was
}

func (g *gains) gain(shape int) float64 {
	if g.shape[shape] < 0 {
		g.shape[shape] = g.of(shape)
	}
	return g.shape[shape]
}
