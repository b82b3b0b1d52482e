package proof

import "math"

// State is what a test says of a repair so far.
type State string

// The states.
const (
	NotYet   State = "not-yet"
	Proven   State = "proven"
	NotFixed State = "not-fixed"
)

// Test is a sequential probability ratio test of a repair (Wald, Annals of Mathematical Statistics 1945, from
// memory). It compares two hypotheses about the rate of misfires per firing event: as before the repair, and
// at most a small part of that. Misfires cluster, so their number in a stretch is negative binomial, the
// sum of bursts that arrive at random. Its two rates have the same clustering. Sums of such numbers are
// negative binomial again, so that runs of several days add up.
type Test struct {
	// Before is the rate of misfires per firing event before the repair; use its lower bound.
	Before float64
	// Ratio is the rate that counts as fixed, relative to Before: above 0 and below 1.
	Ratio float64
	// Burst is how many misfires come together; 1 means that each comes by itself.
	Burst float64
	// FalseProven is the accepted chance that a repair that changed nothing is called proven, FalseNotFixed
	// that one that left the rate at Ratio is called not fixed.
	FalseProven, FalseNotFixed float64
	// Other is the log likelihood ratio of other evidence, such as runs in another condition. It is added to
	// that of the run.
	Other float64
}

// Usual is a test of a rate with the usual limits: a tenth of the rate counts as fixed, both errors are one
// in twenty, and misfires come ten at a time (C; judgement).
func Usual(before float64) Test {
	return Test{Before: before, Ratio: 0.1, Burst: 10, FalseProven: 0.05, FalseNotFixed: 0.05}
}

// Limits returns the limits of the log likelihood ratio, Wald's B and A: below low the repair is not fixed,
// above high it is proven.
func (t Test) Limits() (low, high float64) {
	return math.Log(t.FalseNotFixed / (1 - t.FalseProven)), math.Log((1 - t.FalseNotFixed) / t.FalseProven)
}

// After returns what a test says after a number of firing events with some misfires among them. progress
// is the log likelihood ratio relative to the limit that it leans to: 1 is proven, −1 is not fixed.
func (t Test) After(events, misfires int) (s State, progress float64) {
	low, high := t.Limits()
	return reached(t.Other+t.LogRatio(events, misfires), low, high)
}

// reached returns what a test says at a log likelihood ratio between two limits, with the progress as in
// [Test.After].
func reached(ratio, low, high float64) (s State, progress float64) {
	switch {
	case ratio >= high:
		return Proven, 1
	case ratio <= low:
		return NotFixed, -1
	case ratio < 0:
		return NotYet, -ratio / low
	}
	return NotYet, ratio / high
}

// Clean returns how many firing events prove a repair if none of them misfires.
func (t Test) Clean() int {
	_, high := t.Limits()
	return int(math.Ceil(high / t.LogRatio(1, 0)))
}

// More returns how many more clean firing events prove a repair after a run.
func (t Test) More(events, misfires int) int {
	if s, _ := t.After(events, misfires); s != NotYet {
		return 0
	}
	low, high := 0, t.Clean()
	for s := NotYet; s != Proven; high *= 2 {
		s, _ = t.After(events+high, misfires)
		if s == Proven {
			break
		}
	}
	for low < high {
		mid := (low + high) / 2
		if s, _ := t.After(events+mid, misfires); s == Proven {
			high = mid
		} else {
			low = mid + 1
		}
	}
	return low
}

// LogRatio returns ln P(misfires | fixed) − ln P(misfires | as before), over a number of firing events.
func (t Test) LogRatio(events, count int) float64 {
	misfires, before := float64(count), t.Before*float64(events)
	after := t.Ratio * before
	f := dispersion(t.Burst)
	if f == 1 { // Poisson
		return misfires*math.Log(t.Ratio) + before - after
	}
	shape := func(mean float64) float64 { return mean / (f - 1) }
	rising := func(a float64) float64 { // ln Γ(a + misfires) − ln Γ(a)
		if misfires == 0 {
			return 0
		}
		x, _ := math.Lgamma(a + misfires)
		y, _ := math.Lgamma(a)
		return x - y
	}
	a0, a1 := shape(before), shape(after)
	return rising(a1) - rising(a0) + (a0-a1)*math.Log(f)
}

// dispersion returns the ratio φ of variance to mean for which a negative binomial shows no misfire as often
// as bursts of a mean size do: ln φ / (φ − 1) = 1/burst.
func dispersion(burst float64) float64 {
	if burst <= 1 {
		return 1
	}
	low, high := 1.0, 2.0
	short := func(f float64) bool { return math.Log(f)/(f-1) > 1/burst }
	for short(high) {
		high *= 2
	}
	for range 60 {
		mid := (low + high) / 2
		if mid == 1 || short(mid) {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// Fixed returns the shortest test of a fixed length with the same errors: run that many firing events, and
// call it proven if at most so many misfired.
func (t Test) Fixed() (events, most int) {
	for events = 1; ; events = events + max(1, events/50) {
		most = t.quantile(t.Ratio*t.Before*float64(events), 1-t.FalseNotFixed)
		if t.atMost(t.Before*float64(events), most) <= t.FalseProven {
			return events, most
		}
	}
}

// atMost is the chance of at most k misfires at a mean.
func (t Test) atMost(mean float64, k int) (p float64) {
	f := dispersion(t.Burst)
	for i := range k + 1 {
		x := float64(i)
		fact, _ := math.Lgamma(x + 1)
		if f == 1 {
			p += math.Exp(x*math.Log(mean) - mean - fact)
			continue
		}
		a := mean / (f - 1)
		up, _ := math.Lgamma(a + x)
		down, _ := math.Lgamma(a)
		p += math.Exp(up - down - fact + x*math.Log(1-1/f) - a*math.Log(f))
	}
	return p
}

// quantile is the least k with at least a chance of at most k misfires at a mean.
func (t Test) quantile(mean, chance float64) (k int) {
	for t.atMost(mean, k) < chance {
		k++
	}
	return k
}
