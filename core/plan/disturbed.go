package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// disturbed proposes a repeat if a new misfire was seen once at a cylinder without a moved
// part. The usual cause is something that was pushed aside during the work.
func disturbed(a *diagnose.Assessment) (Card, bool) {
	d := a.LastDecode()
	last, ok := lastRun(a)
	if d == nil || d.Outcome != diagnose.Elsewhere || !ok || !misfired(last) || slight(last) || runsSince(a, d.Move) != 1 {
		return Card{}, false
	}
	where := engine.SetOf(misfiring(last)...)
	c := countMisfires(a, last.Condition)
	c.Title = fmt.Sprintf("See what the work disturbed on %s, and run it again", where)
	c.Do = fmt.Sprintf("Ignition off: push home the connector, the boot or lead and the hoses of %s, and of what you reached across. ", where) + c.Do
	c.Step.Cautions = slices.Concat([]string{highVoltage, lockTab}, c.Step.Cautions)
	c.Why = fmt.Sprintf("The misfire is on %s now, which had no part in the move. Mostly something was disturbed in the work; seen once, it may be a slip too. Nothing is condemned on it.", where)
	return c, true
}

// misfiring lists the cylinders that a run blames: those that were seen, or the one with the most counts.
func misfiring(e evidence.Entry) []engine.Cylinder {
	if e.Watch() != nil {
		return e.Watch().Cylinders
	}
	worst, _ := e.Counters().Most()
	return []engine.Cylinder{worst}
}

// runsSince counts the runs after an entry.
func runsSince(a *diagnose.Assessment, seq int) (n int) {
	for _, m := range a.Moments {
		if e := m.Entry; e.Seq > seq && (e.Counters() != nil || e.Watch() != nil) {
			n++
		}
	}
	return n
}
