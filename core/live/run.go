package live

import (
	"math"
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/unit"
)

// Stretch is the part of a run in one condition.
type Stretch struct {
	Condition evidence.Condition
	// Revolutions are those of the crankshaft; each cylinder has half as many opportunities to misfire.
	Revolutions float64
	// Misfires are the counts of each cylinder; nil if the vehicle does not count them.
	Misfires []int
	Time     time.Duration
}

// Opportunities returns how often each cylinder could misfire.
func (s Stretch) Opportunities() int { return int(math.Round(s.Revolutions)) / 2 }

// Most returns the highest count of a cylinder.
func (s Stretch) Most() int {
	if len(s.Misfires) == 0 {
		return 0
	}
	return slices.Max(s.Misfires)
}

// Run adds samples up. Misfires are differences of counts, so a run need not begin with counters at zero.
type Run struct {
	// Want is the condition of the complaint. Wet is true if the vehicle is known to be wet: no figure shows it.
	Want evidence.Condition
	Wet  bool
	// Of is what exposures are counted by, "" if they are not.
	Of evidence.Circumstance

	cylinders int
	parts     []Stretch // in the order in which they were first met
	last      *Sample
	lost      bool
	losses    int
	counted   bool // the vehicle counts by cylinder
	missed    time.Duration
	spells    spells
	samples   int
	began     time.Duration
	cut       cuts
}

// NewRun returns an empty run of an engine.
func NewRun(e engine.Engine, want evidence.Condition, of evidence.Circumstance) *Run {
	return &Run{Want: want, Of: of, cylinders: e.Cylinders, spells: spellsOf(of), cut: newCuts(e.Cylinders)}
}

// Longest is the longest time between two samples over which revolutions are counted without the vehicle's own clock.
const Longest = 10 * time.Second

// Take adds a sample. Samples come in order of time; one that does not is left out.
func (r *Run) Take(s Sample) {
	if math.IsNaN(s.RPM) || r.last != nil && s.At <= r.last.At {
		return
	}
	if s.Counts != nil && len(s.Counts) != r.cylinders {
		s.Counts = nil
	}
	r.counted = r.counted || s.Counts != nil
	r.samples++
	if r.last == nil {
		r.began = s.At
		r.take(s, 0, 0, nil)
	} else {
		passed := s.At - r.last.At
		rpm, seconds := (s.RPM+r.last.RPM)/2, passed.Seconds()
		if r.lost || passed > Longest {
			// Nobody knows what the engine did. If its own clock ran on, it ran; the lower speed is the safe one.
			rpm = min(s.RPM, r.last.RPM)
			ran := s.Started - r.last.Started
			if !(ran > 0) {
				ran = 0
			}
			r.missed += passed
			seconds = min(seconds, ran)
		}
		r.take(s, rpm*seconds/60, passed, r.rise(s))
	}
	if s.Counts == nil {
		s.Counts = r.counts() // the newest that were read
	}
	r.last, r.lost = &s, false
}

func (r *Run) counts() []int {
	if r.last == nil {
		return nil
	}
	return r.last.Counts
}

// rise returns how many misfires were counted since the last sample with counts. Counts that fell began again at zero.
func (r *Run) rise(s Sample) []int {
	was := r.counts()
	if s.Counts == nil || was == nil {
		return nil
	}
	rise := make([]int, len(s.Counts))
	again := false
	for i := range rise {
		again = again || s.Counts[i] < was[i]
	}
	for i := range rise {
		if rise[i] = s.Counts[i] - was[i]; again {
			rise[i] = s.Counts[i]
		}
	}
	return rise
}

func (r *Run) take(s Sample, revolutions float64, passed time.Duration, rise []int) {
	most := 0
	if len(rise) > 0 {
		most = slices.Max(rise)
	}
	revolutions = r.cut.take(s, revolutions, rise) // no count is no clean run
	if r.cut.cylinders == 0 {
		r.spells.take(s, passed, most)
	}
	if passed == 0 || !s.Runs() && revolutions == 0 && most == 0 {
		return
	}
	p := r.part(r.now(s))
	p.Revolutions = max(0, p.Revolutions+revolutions)
	p.Time += passed
	for i, n := range rise {
		if p.Misfires == nil {
			p.Misfires = make([]int, r.cylinders)
		}
		p.Misfires[i] += n
	}
}

func (r *Run) now(s Sample) evidence.Condition {
	if r.Wet && (r.Want == evidence.Wet || len(s.Conditions()) == 0) {
		return evidence.Wet
	}
	return s.In(r.Want)
}

func (r *Run) part(when evidence.Condition) *Stretch {
	i := slices.IndexFunc(r.parts, func(p Stretch) bool { return p.Condition == when })
	if i < 0 {
		i = len(r.parts)
		r.parts = append(r.parts, Stretch{Condition: when})
	}
	return &r.parts[i]
}

// Lose marks the connection as lost. The next sample resumes the run.
func (r *Run) Lose() {
	if !r.lost && r.last != nil {
		r.lost = true
		r.losses++
	}
}

// Losses returns how often the connection was lost, and the time of the vehicle that no sample covers.
func (r *Run) Losses() (times int, missed time.Duration) { return r.losses, r.missed }

// Cut lists the cylinders that are no longer counted, most likely because their injectors are cut.
func (r *Run) Cut() engine.Set { return r.cut.cylinders }

// Counted reports whether the vehicle counts misfires by cylinder.
func (r *Run) Counted() bool { return r.counted }

// Samples returns how many samples were taken.
func (r *Run) Samples() int { return r.samples }

// Lasted returns the time from the first sample to the last.
func (r *Run) Lasted() time.Duration {
	if r.last == nil {
		return 0
	}
	return r.last.At - r.began
}

// Now returns the condition of the last sample; ok is false before the first one and while the engine stands.
func (r *Run) Now() (when evidence.Condition, ok bool) {
	if r.last == nil || !r.last.Runs() {
		return "", false
	}
	return r.now(*r.last), true
}

// Stretches lists the parts of the run by condition, that of the complaint first.
func (r *Run) Stretches() []Stretch {
	all := slices.Clone(r.parts)
	for i := range all {
		all[i].Misfires = slices.Clone(all[i].Misfires)
	}
	slices.SortStableFunc(all, func(a, b Stretch) int {
		switch {
		case (a.Condition == r.Want) == (b.Condition == r.Want):
			return 0
		case a.Condition == r.Want:
			return -1
		}
		return 1
	})
	return all
}

// Here adds up what counts in the condition of the complaint: all of the run if none is stated.
func (r *Run) Here() (all Stretch) {
	all.Condition, all.Misfires = r.Want, make([]int, r.cylinders)
	for _, p := range r.parts {
		if r.Want != evidence.AnyCondition && p.Condition != r.Want {
			continue
		}
		all.Revolutions += p.Revolutions
		all.Time += p.Time
		for i, n := range p.Misfires {
			all.Misfires[i] += n
		}
	}
	return all
}

// Total adds up the misfires of the whole run by cylinder, and its revolutions.
func (r *Run) Total() (revolutions float64, misfires []int) {
	misfires = make([]int, r.cylinders)
	for _, p := range r.parts {
		revolutions += p.Revolutions
		for i, n := range p.Misfires {
			misfires[i] += n
		}
	}
	return revolutions, misfires
}

// Least is the number of revolutions from which a clean stretch is written down: a block of the catalyst percentage
// (13 CCR 1968.2(e)(3), from memory).
const Least = 200

// Entries returns the entries of the run: a watched run with its exposures if exposures are counted, and the counts of each other
// condition. It is empty if there is nothing to record.
func (r *Run) Entries() (all []evidence.Entry) {
	x, exposed := r.Exposure()
	if exposed {
		w := &evidence.Watch{Cylinders: []engine.Cylinder{}, Exposure: &x}
		here := r.Here()
		for i, n := range here.Misfires {
			if x.Failed > 0 && n > 0 && (n >= failedFrom || n == here.Most()) {
				w.Cylinders = append(w.Cylinders, engine.Cylinder(i+1))
			}
		}
		when, _ := x.Of.In()
		all = append(all, evidence.Entry{Condition: when, Body: w})
	}
	for _, p := range r.Stretches() {
		if exposed && (r.Want == evidence.AnyCondition || p.Condition == r.Want) {
			continue
		}
		if e, ok := p.entry(); ok {
			all = append(all, e)
		}
	}
	return all
}

func (s Stretch) entry() (evidence.Entry, bool) {
	revolutions := min(int(math.Round(s.Revolutions)), int(unit.MaxRevolutions))
	if s.Misfires == nil || revolutions < 2 || revolutions < Least && s.Most() == 0 {
		return evidence.Entry{}, false
	}
	c := &evidence.Counters{Revolutions: revolutions, Counts: slices.Clone(s.Misfires), Fresh: true}
	for i := range c.Counts { // counts of a gap can exceed what is known to have turned
		c.Counts[i] = min(c.Counts[i], revolutions/2)
	}
	return evidence.Entry{Condition: s.Condition, Body: c}, true
}
