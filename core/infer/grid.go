// Package infer computes exact posterior probabilities of hypotheses that hold alone or in
// pairs. Each hypothesis has a prior share and a hidden rate that is integrated over a grid.
// Observations are log likelihood ratios against "none holds". The package does not know
// engines or tables. The formulas, with the identifiers used here, are in
// docs/reasoning-model.md.
package infer

import "math"

// Rates is the number of grid points.
const Rates = 24

// Bounds of the grid, in misfires per firing event.
const (
	LeastRate = 0.002
	MostRate  = 0.95
)

// Grid lists the rates in ascending order, evenly spaced in their logarithms from [LeastRate]
// to [MostRate].
var Grid = func() (grid PerRate) {
	for i := range grid {
		f := float64(i) / (Rates - 1)
		grid[i] = math.Exp(math.Log(LeastRate) + f*(math.Log(MostRate)-math.Log(LeastRate)))
	}
	return grid
}()

// PerRate holds one value for each rate of the grid.
type PerRate [Rates]float64

// Add adds another PerRate element by element.
func (p *PerRate) Add(more *PerRate) {
	for r := range p {
		p[r] += more[r]
	}
}

// Times multiplies by another PerRate element by element.
func (p *PerRate) Times(by *PerRate) {
	for r := range p {
		p[r] *= by[r]
	}
}

// OneRate returns the log of the normalising constant if two hypotheses share one rate. The
// prior of the shared rate is proportional to the product of their priors x and y, given as
// logs relative to equal rates.
func OneRate(x, y *PerRate) float64 {
	sum := 0.0
	for r := range x {
		sum += math.Exp(x[r] + y[r])
	}
	return math.Log(sum / Rates)
}
