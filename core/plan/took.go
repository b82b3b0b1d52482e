package plan

import (
	"time"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/knowledge"
)

// longestGap is the longest time between two entries that counts as work. After a longer one the vehicle
// stood (C; judgement).
const longestGap = 90 * time.Minute

// usually returns how long the work of an entry usually takes, in minutes.
func usually(b *knowledge.Beliefs, e evidence.Entry) float64 {
	switch {
	case e.Codes() != nil:
		return StepMinutes(b, ReadCodes)
	case e.Trims() != nil:
		return StepMinutes(b, ReadTrims)
	case e.Counters() != nil, e.Watch() != nil:
		return StepMinutes(b, CountMisfires)
	case e.Move() != nil:
		return StepMinutes(b, SwapCoil)
	case e.Look() != nil:
		return StepMinutes(b, LookPlugBoot)
	case e.Check() != nil:
		return StepMinutes(b, checkSteps[e.Check().Test])
	case e.Sparks() != nil:
		return StepMinutes(b, TestSpark)
	case e.Readings() != nil:
		m, _ := evidence.FindMeasure(e.Readings().Measure)
		return StepMinutes(b, checkSteps[m.Test])
	case e.Renewal() != nil:
		sum := 0.0
		for _, one := range e.Renewal().Parts {
			sum += RepairOf(b, one.Out.Kind()).Minutes
		}
		return sum
	}
	return 0
}

// Took returns how long the work of a job took, by the times of its entries, and how long that work usually
// takes, in minutes. Covers come on top of both. took counts the entries whose work began soon after the one
// before, and usual is for the same ones.
func Took(b *knowledge.Beliefs, j job.Job) (took, usual float64) {
	last := j.Opened
	for _, e := range j.Ledger.InOrder() {
		gap := e.Done.Sub(last)
		last = e.Done
		if m := usually(b, e); m > 0 && gap > 0 && gap <= longestGap {
			took += gap.Minutes()
			usual += m
		}
	}
	return took, usual
}
