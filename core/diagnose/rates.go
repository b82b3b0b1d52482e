package diagnose

import (
	"math"

	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// logStray is the log probability of k counts in n events on a sound cylinder, when some counts were given to the
// cylinder that fires before it, and some to the others between them.
func logStray(k, n, before, others int) float64 {
	mean := knowledge.StrayPerRun + knowledge.StrayPerEvent*float64(n) + knowledge.StrayNext*float64(before) + knowledge.StrayShare*float64(others)
	return infer.LogMix(1-knowledge.Misassigned, infer.LogNegativeBinomial(k, mean, knowledge.StrayShape), knowledge.Misassigned, -math.Log(float64(n)+1))
}
