package diagnose

import (
	"math"

	"gonum.org/v1/gonum/mathext"
	"gonum.org/v1/gonum/stat/combin"
)

// How often an afflicted cylinder misfires is not known beforehand. It is one
// hidden figure for the whole job, so that what was counted before a move says
// what to expect after it. It is integrated over this grid, log-uniform from
// one in five hundred (too slight for most monitors) to nearly always.
const (
	rates    = 24
	leastHit = 0.002
	mostHit  = 0.95
)

// hit is the grid of misfire rates per firing event.
var hit = func() (grid [rates]float64) {
	for i := range grid {
		f := float64(i) / (rates - 1)
		grid[i] = math.Exp(math.Log(leastHit) + f*(math.Log(mostHit)-math.Log(leastHit)))
	}
	return grid
}()

// burst is the first parameter of the beta distribution that one run's own rate
// has about the job's rate. Misfires come in bursts, so a run of many events is
// worth less than as many independent draws (C; judgement: one run's rate
// scatters by four tenths of its mean).
const burst = 6

// logBetaBinomial is the log probability of k misfires in n events when the
// run's own rate is beta distributed about the mean.
func logBetaBinomial(k, n int, mean float64) float64 {
	a, b := float64(burst), burst*(1-mean)/mean
	return logChoose(n, k) + mathext.Lbeta(float64(k)+a, float64(n-k)+b) - mathext.Lbeta(a, b)
}

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
	p := strayShape / (strayShape + mean)
	lg := lgamma(float64(k)+strayShape) - lgamma(strayShape) - lgamma(float64(k)+1) +
		strayShape*math.Log(p) + float64(k)*math.Log1p(-p)
	return logMix(1-misassigned, lg, misassigned, -math.Log(float64(n)+1))
}

func lgamma(x float64) float64 {
	v, _ := math.Lgamma(x)
	return v
}

// logChoose is the log of the binomial coefficient n over k.
func logChoose(n, k int) float64 { return combin.LogGeneralizedBinomial(float64(n), float64(k)) }

// logMix is log(wa·e^a + wb·e^b). It stands here and not as a call of gonum's log-sum-exp because it
// is called in the innermost loop and takes no slice.
func logMix(wa, a, wb, b float64) float64 {
	if a >= b {
		return a + math.Log(wa+wb*math.Exp(b-a))
	}
	return b + math.Log(wa*math.Exp(a-b)+wb)
}
