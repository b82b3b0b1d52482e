package infer

import (
	"math"
	"slices"
)

// Evidence holds the observations as log likelihood ratios against "none holds".
type Evidence struct {
	// Shape returns what the runs tell about shape s. Equal pointers mean equal values. It is called once for each shape
	// whose value matters.
	Shape func(s int) *Shape
	// Gain is set if the evidence is the reference of a [Solver] with some observations omitted. Gain(s) is an upper bound of
	// how far the log likelihood ratio of shape s can exceed its value in the reference, at any rate; at least 0. The
	// solver then skips pairs that cannot matter.
	Gain func(s int) float64
	// Alarm is true if the alarm was observed. If it was not, its absence is part of the shapes.
	Alarm bool
	// Items[i][k] is the factor of observation i for hypothesis k; nil means no information.
	// Columns of a group come from [Group.Together]. Groups lists which columns belong to a
	// group.
	Items [][]*Factor
	// IDs identifies the observations in the caches of a [Solver]. An observation has the same number in all evidence of a
	// model. IDs may be nil for evidence that is used once.
	IDs     []int
	Groups  []*Group
	Grouped []bool
}

// Shape is what the runs tell about the hypotheses of one shape, by rate.
type Shape struct {
	// level is the likelihood ratio divided by exp(scale). calmly is the same times the probability that the shape does not
	// raise the alarm, which is one event that any hypothesis can cause.
	level, calmly PerRate
	scale         float64
}

// NewShape returns a shape from its log likelihood ratio and from the log probability that it does not raise the alarm.
func NewShape(logRatio, logQuiet *PerRate) *Shape {
	s := &Shape{scale: slices.Max(logRatio[:])}
	for r, x := range logRatio {
		s.level[r] = math.Exp(x - s.scale)
		s.calmly[r] = s.level[r]
		if logQuiet[r] != 0 {
			s.calmly[r] *= math.Exp(logQuiet[r])
		}
	}
	return s
}

// Joint is a joint hypothesis: one or two hypotheses that hold together.
type Joint struct {
	// Of holds the indices of the hypotheses.
	Of []int
	P  float64
	// Rates is the posterior of the rate of each hypothesis over the grid.
	Rates []PerRate
}

// Posterior holds the probability of every hypothesis and of the pairs.
type Posterior struct {
	// Single is the probability that a hypothesis holds alone; Any, that it holds alone or
	// with another.
	Single, Any []float64
	// Linked lists the pairs whose likelihood is not a product; P is their probability.
	Linked []Pair
	P      []float64
	// Joints lists the single hypotheses and the most probable pairs, if requested. Their sum
	// is nearly 1.
	Joints []Joint
}
