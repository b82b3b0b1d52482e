package live

import (
	"time"

	"glenmist/core/evidence"
)

// spell is how an exposure to a circumstance is recognised: a condition that holds for some time.
type spell struct {
	of    evidence.Circumstance
	least time.Duration
	// again is true if a spell that goes on counts once more for each time that it reaches least. fromStart is true if it
	// begins with a start of the engine. whole is true if a whole run is one exposure.
	again, fromStart, whole bool
}

// spellRows lists the circumstances that figures show (C; judgement). A start in the wet, mist and a snap of the throttle
// are written down by hand.
var spellRows = []spell{
	{of: evidence.ColdStart, least: 30 * time.Second, fromStart: true},
	{of: evidence.Hill, least: 15 * time.Second},
	{of: evidence.HotDrive, least: 30 * time.Minute, again: true},
	{of: evidence.IdleSpell, least: 5 * time.Minute, again: true},
	{of: evidence.Drive, least: 10 * time.Minute, whole: true},
	{of: evidence.AnyRun, least: time.Minute, whole: true},
}

// Recognises reports whether exposures to a circumstance are counted from figures.
func Recognises(of evidence.Circumstance) bool { return spellsOf(of).of != "" }

// failedFrom is the number of misfires of one cylinder from which an exposure has failed: a count of two is no evidence
// (C; common practice).
const failedFrom = 3

// outcome is what a spell has counted as so far.
type outcome int

const (
	open outcome = iota // not counted yet
	clean
	bad
)

// spells counts exposures.
type spells struct {
	spell
	when evidence.Condition
	// lasts, misfires and counted are of the spell that is under way.
	lasts    time.Duration
	misfires int
	counted  outcome
	// stood is true if the engine stands, started if it was started in this run or just before.
	stood, started bool
	times, failed  int
}

func spellsOf(of evidence.Circumstance) (s spells) {
	for _, row := range spellRows {
		if row.of == of {
			s.spell = row
			s.when, _ = of.In()
		}
	}
	return s
}

// startWithin is how old a start may be, in seconds, so that a run that begins then has the start in it.
const startWithin = 20.0

// take goes on with a sample.
func (x *spells) take(s Sample, passed time.Duration, misfires int) {
	if x.of == "" {
		return
	}
	if !s.Runs() {
		x.stood, x.started = true, false
		x.end()
		return
	}
	if x.stood || passed == 0 && s.Started <= startWithin {
		x.stood, x.started = false, true
	}
	if x.when != evidence.AnyCondition && s.In(x.when) != x.when {
		x.started = false
		x.end()
		return
	}
	if x.fromStart && !x.started {
		return
	}
	x.lasts += passed
	x.misfires += misfires
	failed := x.misfires >= failedFrom
	switch {
	case x.counted == open && (failed || x.lasts >= x.least) && x.times < evidence.MaxExposures:
		x.times++
		x.counted = clean
		if failed {
			x.counted = bad
			x.failed++
		}
	case x.counted == clean && failed:
		x.counted = bad
		x.failed++
	}
	if x.again && x.lasts >= x.least {
		x.end()
	}
}

// end ends a spell. A whole run goes on.
func (x *spells) end() {
	if !x.whole {
		x.lasts, x.misfires, x.counted = 0, 0, open
	}
}

// Exposure returns how often the run met the circumstance, and how often it failed; ok is false if never, or if exposures
// are not counted.
func (r *Run) Exposure() (x evidence.Exposure, ok bool) {
	x = evidence.Exposure{Of: r.spells.of, Times: r.spells.times, Failed: r.spells.failed}
	return x, x.Of != "" && x.Times > 0
}
