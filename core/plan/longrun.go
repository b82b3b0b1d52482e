package plan

import (
	"math"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
)

// longRun is a run that is long enough to show a misfire that the clean runs so far can have missed.
type longRun struct {
	// Clean is the number of firing events of each cylinder without a misfire, Events the number that the long run needs.
	// Rate is the misfire rate that it is meant to show, per firing event; Minutes its duration.
	Clean, Events int
	Rate, Minutes float64
}

// Bounds of a longer run (C; judgement).
const (
	seldomRate  = 0.005 // if no misfire was counted yet: nobody notices fewer
	leastRate   = 0.0005
	mostLonger  = 8 * runRevolutions / 2
	ruleOfThree = 3.0 // the rule of three: 3/rate events show a misfire with 95 % (Hanley and Lippman-Hand 1983, from memory)
)

// longerRun returns the run that follows clean runs in a condition. Events is 0 if there was no clean run since the last
// move, repair or misfire.
func longerRun(a *diagnose.Assessment, when evidence.Condition) (l longRun) {
	counted, misfires, since := 0, 0, true
	for i := len(a.Moments) - 1; i >= 0; i-- {
		switch b := a.Moments[i].Entry.Body.(type) {
		case *evidence.Move, *evidence.Renewal, *evidence.Fit:
			since = false
		case *evidence.Counters:
			if misfired(a.Moments[i].Entry) {
				since = false
				_, most := b.Most()
				counted, misfires = counted+b.Revolutions/2, misfires+most
			} else if since && a.Moments[i].Entry.Condition == when {
				l.Clean += b.Revolutions / 2
			}
		case *evidence.Watch:
			if len(b.Cylinders) > 0 {
				since = false
			} else if since && a.Moments[i].Entry.Condition == when {
				l.Clean += runRevolutions / 2
			}
		}
	}
	if l.Clean == 0 {
		return longRun{}
	}
	l.Rate = seldomRate
	if misfires > 0 {
		l.Rate = max(leastRate, float64(misfires)/float64(counted))
	}
	need := int(math.Ceil(ruleOfThree / l.Rate))
	l.Events = min(max(need, l.Clean), mostLonger)
	l.Minutes = float64(l.Events) / (idleSpeed / 2)
	return l
}
