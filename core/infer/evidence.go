package infer

// Evidence holds the observations as log likelihood ratios against "none holds".
type Evidence struct {
	// Shapes[s] is the log likelihood ratio at each rate of the observations that belong to
	// shape s.
	Shapes []PerRate
	// Quiet[s] is the log probability at each rate that shape s does not raise the alarm. The
	// alarm is one event that any hypothesis can cause.
	Quiet []PerRate
	// Alarm is true if the alarm was observed. The absence of the alarm is a factor of the
	// shapes.
	Alarm bool
	// Items[i][k] is the factor of observation i for hypothesis k; nil means no information.
	// Columns of a group come from [Group.Together]. Groups lists which columns belong to a
	// group.
	Items [][]*Factor
	// IDs tells the observations apart in the caches of a [Solver]: the same observation has the same number in all
	// evidence of a model. It may be nil for evidence that is used once.
	IDs     []int
	Groups  []*Group
	Grouped []bool
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
