package plan

import (
	"math"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
)

// longer is a run that is long enough to show what a clean run may have missed.
type longer struct {
	// Clean is the firing events of each cylinder that ran clean, Rate the misfire rate that is looked for, Events how many
	// more are needed and Minutes how long they take.
	Clean, Events int
	Rate, Minutes float64
}

// Bounds of a longer run (C; judgement).
const (
	seldomRate    = 0.005 // looked for where no misfire was counted: fewer are felt by nobody
	leastRate     = 0.0005
	mostLonger    = 8 * runRevolutions / 2
	threeIsNinety = 3.0 // the rule of three: 3/rate events show a misfire with 95 % (Hanley and Lippman-Hand 1983, from memory)
)

// longerRun returns the run that follows clean ones in a condition with nothing moved since; no events if there was none.
func longerRun(a *diagnose.Assessment, when evidence.Condition) (l longer) {
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
		return longer{}
	}
	l.Rate = seldomRate
	if misfires > 0 {
		l.Rate = max(leastRate, float64(misfires)/float64(counted))
	}
	need := int(math.Ceil(threeIsNinety / l.Rate))
	l.Events = min(max(need, l.Clean), mostLonger)
	l.Minutes = float64(l.Events) / (idleSpeed / 2)
	return l
}
