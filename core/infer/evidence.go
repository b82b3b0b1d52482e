package infer

// Evidence is what was observed, as log likelihood ratios against "none holds".
type Evidence struct {
	// Shapes[s] is the log likelihood ratio at each rate of what goes by the shape.
	Shapes []PerRate
	// Quiet[s] is the log probability at each rate that the shape does not raise the alarm: one
	// event that any hypothesis may bring about, and that comes if any does.
	Quiet []PerRate
	// Alarm says that the alarm came. An alarm that did not come is a factor of the shapes.
	Alarm bool
	// Items[i][k] is what the i-th observation says of the k-th hypothesis; nil is nothing. Those
	// of a group hold its columns [Group.Together], and Grouped says which they are.
	Items   [][]*Factor
	Groups  []*Group
	Grouped []bool
}

// Joint is hypotheses that hold together: one or two.
type Joint struct {
	// Of holds their indexes.
	Of []int
	P  float64
	// Rates is the posterior of the rate of each, over the grid.
	Rates []PerRate
}

// Posterior is the probability of every hypothesis and of the pairs.
type Posterior struct {
	// Single is each hypothesis alone, Any each alone or with another.
	Single, Any []float64
	// Linked are the pairs whose likelihood is no product, and P their probability.
	Linked []Pair
	P      []float64
	// Joints are the hypotheses alone and the likelier pairs, where they were asked for; they sum
	// to nearly 1.
	Joints []Joint
}
