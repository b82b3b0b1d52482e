package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// Afflicts says what a world would trouble from now on with the parts at some
// positions.
func (a *Assessment) Afflicts(w *World, at part.Positions) engine.Set {
	if w.CuredAfter >= 0 {
		return 0
	}
	return w.Hypothesis.Afflicted(at)
}

// LastCounts is the newest counters taken with the parts as they sit now, or nil.
func (a *Assessment) LastCounts() *evidence.Counters {
	for i := len(a.Moments) - 1; i >= 0; i-- {
		m := a.Moments[i]
		if m.Entry.Move != nil {
			return nil
		}
		if m.Entry.Counters != nil {
			return m.Entry.Counters
		}
	}
	return nil
}

// Enough is how many misfires on one cylinder a technician takes for a sign: a
// stray count or two is none (C; judgement).
const Enough = 3

// Shown returns the chance, for a world, that a run of some revolutions in the
// condition where the vehicle fails shows enough misfires on the cylinder that
// the world afflicts.
func (a *Assessment) Shown(revolutions int) func(*World) float64 {
	n := revolutions / 2
	var shows perRate
	for r := range shows {
		few := 0.0
		for k := 0; k < Enough && k <= n; k++ {
			few += math.Exp(logBetaBinomial(k, n, hit[r]))
		}
		shows[r] = (1 - min(1, few)) * showing(a.FailsWhen, a.FailsWhen)
	}
	return func(w *World) float64 {
		p := 0.0
		for r, weight := range w.Rate {
			p += weight * shows[r]
		}
		return p
	}
}

// CodeSet is the chance that the code of the cylinder which a world afflicts
// has been set.
func (a *Assessment) CodeSet(w *World) float64 {
	p := 0.0
	for r, weight := range w.Rate {
		p += weight * codeMost * hit[r] / (hit[r] + codeHalf)
	}
	return p
}

// Finding is the chance of a finding on an item, looked at now, in a world.
func (a *Assessment) Finding(w *World, item evidence.Seen) float64 {
	ran := []part.Positions{a.home, a.Now}
	return math.Exp(looked(item, bearing(item, w, a.Now, ran, w.CuredAfter >= 0)))
}

// Answer is the chance of an answer to a test made now, in a world.
func (a *Assessment) Answer(w *World, c evidence.Check) float64 {
	return math.Exp(a.checked(c, &w.Hypothesis, a.Now, w.CuredAfter >= 0))
}
