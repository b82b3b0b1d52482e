package proof

import "math"

// Exposures is a sequential probability ratio test of a repair by exposures to the circumstance of the
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

// After returns what the test says; progress is as in [Test.After].
func (x Exposures) After(times, failed int) (State, float64) {
	return Test{FalseProven: x.FalseProven, FalseNotFixed: x.FalseNotFixed}.Reached(x.Other + x.LogRatio(times, failed))
}

// More returns how many more clean exposures prove a repair.
func (x Exposures) More(times, failed int) int {
	_, high := Test{FalseProven: x.FalseProven, FalseNotFixed: x.FalseNotFixed}.Limits()
	missing := high - x.Other - x.LogRatio(times, failed)
	return max(0, int(math.Ceil(missing/x.LogRatio(1, 0)-1e-9)))
}

// MostOutside is the share of a proof that runs in other conditions can give: a repair is proven in the
// condition in which the vehicle failed (common practice; the share is judgement).
const MostOutside = 0.5

// Outside returns the log likelihood ratio of a clean run in another condition than that in which the
// vehicle fails. shows is the probability that the fault would have shown in it: −ln(1 − shows).
func Outside(shows float64) float64 { return -math.Log1p(-min(max(shows, 0), 0.999)) }
