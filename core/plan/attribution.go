package plan

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
)

// Attributed says whether a fix can be put down to one repair unit.
type Attributed string

// What can be said of a fix.
const (
	// NotRepaired: nothing has been repaired since the verdict.
	NotRepaired Attributed = "not-repaired"
	// One: only the unit of the verdict was put right before the engine ran clean.
	One Attributed = "one"
	// Several: other units were renewed or put right in the same interval. Which of them it was is not
	// known, so the fix does not count as a verdict that held.
	Several Attributed = "several"
)

// Attribution compares what was put right since the engine last misfired, up to its first clean run,
// with a signed verdict. What the verdict names with its unit counts as the same unit.
func Attribution(a *diagnose.Assessment, signed evidence.Entry) Attributed {
	v := signed.Verdict()
	own := append([]string{v.Unit}, v.With...)
	mine, others := false, false
	for _, m := range a.Moments {
		e := m.Entry
		switch {
		case e.ShowsMisfire():
			mine, others = false, false
		case mine && (e.Watch() != nil || e.Counters() != nil): // clean: what comes later has no part in it
			if others {
				return Several
			}
			return One
		case e.Fit() != nil:
			mine, others = mine || e.Fit().Unit == v.Unit, others || e.Fit().Unit != v.Unit
		case e.Renewal() != nil:
			for _, one := range e.Renewal().Parts {
				if slices.Contains(own, one.Out.Words()) {
					mine = true
				} else {
					others = true
				}
			}
		case e.Move() != nil && repaired(a, m, v.Unit):
			mine = true
		}
	}
	switch {
	case mine && others:
		return Several
	case mine:
		return One
	}
	return NotRepaired
}

// RanClean reports whether the last run since the repair of a verdict showed no misfire.
func RanClean(a *diagnose.Assessment, signed evidence.Entry) bool {
	at := RepairedAt(a, signed.Verdict().Unit)
	last, ok := lastRun(a)
	return at > 0 && ok && last.Seq > at && !misfired(last)
}
