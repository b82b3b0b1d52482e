// Package infer computes exact posterior probabilities of hypotheses that hold alone or in
// pairs. Each hypothesis has a prior share and a hidden rate, integrated over a grid; what was
// observed comes as log likelihood ratios against "none holds". The package knows no engine and
// no table: the caller says what the hypotheses and the observations are. The formulas, with the
// identifiers used here, are in docs/reasoning-model.md.
package infer

import "math"

// Rates is the number of points of the grid of rates.
const Rates = 24

// Bounds of the grid: fractions of events.
const (
	LeastRate = 0.002
	MostRate  = 0.95
)

// Grid lists the rates, ascending, spaced evenly in their logarithms from [LeastRate] to [MostRate].
var Grid = func() (grid PerRate) {
	for i := range grid {
		f := float64(i) / (Rates - 1)
		grid[i] = math.Exp(math.Log(LeastRate) + f*(math.Log(MostRate)-math.Log(LeastRate)))
	}
	return grid
}()

// PerRate holds one figure for each rate of the grid.
type PerRate [Rates]float64

// Add adds another figure by figure.
func (p *PerRate) Add(more *PerRate) {
	for r := range p {
		p[r] += more[r]
	}
}

// Times multiplies by another figure by figure.
func (p *PerRate) Times(by *PerRate) {
	for r := range p {
		p[r] *= by[r]
	}
}

// OneRate is the log of the normalising constant when two hypotheses share one rate: the prior
// of that rate is in proportion to the product of their two, x and y, given as logs against
// equal rates.
func OneRate(x, y *PerRate) float64 {
	sum := 0.0
	for r := range x {
		sum += math.Exp(x[r] + y[r])
	}
	return math.Log(sum / Rates)
}
