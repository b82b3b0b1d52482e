// Package proof computes how long an engine has to run clean before a repair is proven, and tests a repair
// while the engine runs.
package proof

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// UpperBound returns the exact upper bound, at a confidence, of the rate of an event that n trials did not
// show: 1 − (1 − confidence)^(1/n). n is at least 1. At 95 % it is close to 3/n, the rule of three
// (Hanley and Lippman-Hand, JAMA 1983, from memory).
func UpperBound(n int, confidence float64) float64 {
	return -math.Expm1(math.Log1p(-confidence) / float64(n))
}

// Trials returns how many trials without an event show, at a confidence, that its rate is at most rate:
// ln(1 − confidence) / ln(1 − rate), rounded up. rate is above 0 and below 1.
func Trials(rate, confidence float64) int {
	return int(math.Ceil(math.Log1p(-confidence) / math.Log1p(-rate)))
}

// LowerBound returns the lower bound, at a confidence, of the rate of an event that occurred in k of n
// trials (Clopper and Pearson, Biometrika 1934, from memory). k and n can be fractions: divided by the size
// of a burst, so that a burst counts as one event.
func LowerBound(k, n, confidence float64) float64 {
	if k <= 0 || n <= 0 {
		return 0
	}
	k = min(k, n)
	return distuv.Beta{Alpha: k, Beta: n - k + 1}.Quantile(1 - confidence)
}
