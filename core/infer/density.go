package infer

import (
	"math"

	"gonum.org/v1/gonum/mathext"
	"gonum.org/v1/gonum/stat/combin"
)

// LogBetaBinomial returns the log probability of k events in n trials, 0 ≤ k ≤ n. The rate is
// beta distributed with a mean in (0, 1) and first parameter alpha > 0, so counts are
// overdispersed.
func LogBetaBinomial(k, n int, mean, alpha float64) float64 {
	a, b := alpha, alpha*(1-mean)/mean
	return LogChoose(n, k) + mathext.Lbeta(float64(k)+a, float64(n-k)+b) - mathext.Lbeta(a, b)
}

// LogNegativeBinomial returns the log probability of a count k ≥ 0 for a mean and a shape,
// both above 0.
func LogNegativeBinomial(k int, mean, shape float64) float64 {
	p := shape / (shape + mean)
	return lgamma(float64(k)+shape) - lgamma(shape) - lgamma(float64(k)+1) +
		shape*math.Log(p) + float64(k)*math.Log1p(-p)
}

// LogNormal returns the log density of a normal distribution with standard deviation sd > 0.
func LogNormal(x, mean, sd float64) float64 {
	z := (x - mean) / sd
	return -z*z/2 - math.Log(sd) - math.Log(2*math.Pi)/2
}

// LogChoose returns the log of the binomial coefficient n over k.
func LogChoose(n, k int) float64 { return combin.LogGeneralizedBinomial(float64(n), float64(k)) }

func lgamma(x float64) float64 {
	v, _ := math.Lgamma(x)
	return v
}

// LogMix returns log(wa·e^a + wb·e^b). It does not call gonum's log-sum-exp, because it runs
// in the innermost loop and needs no slice.
func LogMix(wa, a, wb, b float64) float64 {
	if a >= b {
		return a + math.Log(wa+wb*math.Exp(b-a))
	}
	return b + math.Log(wa*math.Exp(a-b)+wb)
}
