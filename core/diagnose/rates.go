package diagnose

import (
	"math"

	"glenmist/core/infer"
)

// burst is the first parameter of the beta distribution that one run's own rate
// has about the job's rate. Misfires come in bursts, so a run of many events is
// worth less than as many independent draws (C; judgement: one run's rate
// scatters by four tenths of its mean).
const burst = 6

// A sound cylinder shows a few counts too: a rough road, a crank sensor that has
// not learned, counts put on the wrong cylinder (C; judgement).
const (
	strayPerRun    = 0.3    // expected stray counts in any run
	strayPerEvent  = 0.0002 // and for each firing event watched
	strayShape     = 0.4    // negative binomial shape: strays cluster
	strayShare     = 0.01   // and for each misfire counted on the others: put on the wrong cylinder
	misassigned    = 0.003  // chance that a sound cylinder is given any count at all
	takenForTheirs = 0.03   // up to this share of the others' counts, a count is no sign of its own misfire
)

// logStray is the log probability of k counts in n events on a sound cylinder, when
// the others were given some counts between them.
func logStray(k, n, others int) float64 {
	mean := strayPerRun + strayPerEvent*float64(n) + strayShare*float64(others)
	return infer.LogMix(1-misassigned, infer.LogNegativeBinomial(k, mean, strayShape), misassigned, -math.Log(float64(n)+1))
}
