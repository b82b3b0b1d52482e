package proof

import "math"

// Exposures is a sequential test of a repair by exposures to the circumstance of the
// complaint, such as starts in the wet: each fails or not, by itself (Wald, Annals of Mathematical
// Statistics 1945, from memory).
type Exposures struct {
	// Before is the chance that one exposure failed before the repair; use its lower bound. Ratio is what
	// counts as fixed, relative to it.
	Before, Ratio float64
	// FalseProven, FalseNotFixed and Other are as in [Test].
	FalseProven, FalseNotFixed, Other float64
}

// UsualExposures is a test with the limits of [Usual].
func UsualExposures(before float64) Exposures {
	u := Usual(before)
	return Exposures{Before: before, Ratio: u.Ratio, FalseProven: u.FalseProven, FalseNotFixed: u.FalseNotFixed}
}

// LogRatio returns ln P(failed of times | fixed) − ln P(failed of times | as before).
func (x Exposures) LogRatio(times, failed int) float64 {
	after := x.Ratio * x.Before
	clean := math.Log1p(-after) - math.Log1p(-x.Before)
	return float64(failed)*math.Log(x.Ratio) + float64(times-failed)*clean
}

// Limits returns the limits of the log likelihood ratio, ln FalseNotFixed and −ln FalseProven. With them the
// errors are at most as stated (Ville's inequality, 1939, from memory). Wald's own limits exceed them by a
// twentieth where each exposure tells much.
func (x Exposures) Limits() (low, high float64) {
	return math.Log(x.FalseNotFixed), -math.Log(x.FalseProven)
}

// After returns what the test says; progress is as in [Test.After].
func (x Exposures) After(times, failed int) (State, float64) {
	low, high := x.Limits()
	return reached(x.Other+x.LogRatio(times, failed), low, high)
}

// More returns how many more clean exposures prove a repair.
func (x Exposures) More(times, failed int) int {
	_, high := x.Limits()
	missing := high - x.Other - x.LogRatio(times, failed)
	return max(0, int(math.Ceil(missing/x.LogRatio(1, 0)-1e-9)))
}

// MostOutside is the share of a proof that runs in other conditions can give: a repair is proven in the
// condition in which the vehicle failed (common practice; the share is judgement).
const MostOutside = 0.5

// Outside returns the log likelihood ratio of a clean run in another condition than that in which the
// vehicle fails. shows is the probability that the fault would have shown in it: −ln(1 − shows).
func Outside(shows float64) float64 { return -math.Log1p(-min(max(shows, 0), 0.999)) }
