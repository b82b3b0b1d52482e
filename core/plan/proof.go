package plan

import (
	"math"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/proof"
)

// Engine speeds for which minutes of a proof are stated, in revolutions per minute, where no freeze frame
// states one (C; judgement).
const (
	idleSpeed = 700
	loadSpeed = 2000
)

// Proof is how far clean running proves a repair. It counts firing events, or exposures to the circumstance
// of the complaint where those were counted before the repair, or where nothing else was.
type Proof struct {
	// State is NotYet if nothing can be weighed.
	State proof.State
	// Known is true if something from before the repair gives a rate; Rate is its lower bound at 95 %.
	Known bool
	Rate  float64
	// Condition is that of the complaint. Of is what exposures are counted by; empty if firing events count.
	Condition evidence.Condition
	Of        evidence.Circumstance
	// Place is where water was sprayed, for exposures to mist.
	Place engine.Place
	// Before and Since are the counts in Condition before and since the repair: firing events of one
	// cylinder with the misfires of the worst, or exposures with those that failed.
	Before, Since Tally
	// Elsewhere is the log likelihood ratio of the runs in other conditions since the repair, at most
	// [proof.MostOutside] of a proof.
	Elsewhere float64
	// Progress is as [proof.Test.After] returns it.
	Progress float64
	// Fixed is the probability that the repair holds: that of the verdict, with the odds of the runs since. It
	// is 0 if nothing can be weighed.
	Fixed float64
	// More is how many more clean firing events or exposures prove it.
	More int
	// RPM is the engine speed for which minutes are stated: of the freeze frame, or usual in Condition.
	RPM float64
}

// Tally is how often something was tried, and how often it failed.
type Tally struct{ Times, Failed int }

func (t *Tally) add(times, failed int) { t.Times, t.Failed = t.Times+times, t.Failed+failed }

// ranProof sorts the runs of a job by whether they are from before or since a repair.
type ranProof struct {
	events, watched [2]Tally // in the condition of the complaint; index 1 is since the repair
	exposures       map[exposed]*[2]Tally
	other           map[evidence.Condition]int // revolutions since the repair, by other condition
	place           engine.Place               // of the repaired unit
}

// exposed is what exposures are counted together by: the circumstance, and the place of water.
type exposed struct {
	of    evidence.Circumstance
	place engine.Place
}

// ProofOf weighs the runs since the repair at entry number at against what was counted before it. Counts are
// taken only from counters that stood at zero.
func ProofOf(a *diagnose.Assessment, at int) Proof {
	p := Proof{State: proof.NotYet, Condition: RunIn(a), RPM: idleSpeed}
	if p.Condition == evidence.Load {
		p.RPM = loadSpeed
	}
	after, verdict, unit := 0, 0.0, ""
	ran := ranProof{other: map[evidence.Condition]int{}, exposures: map[exposed]*[2]Tally{}, place: repairedPlace(a, at)}
	for i, m := range a.Moments {
		if m.Entry.Seq == at {
			after = 1
		}
		if v := m.Entry.Verdict(); v != nil && after == 0 {
			verdict, unit = v.P, v.Unit
		}
		if codes := m.Entry.Codes(); after == 0 && codes != nil && codes.Frame != nil && codes.Frame.RPM != nil && *codes.Frame.RPM >= idleSpeed/2 {
			p.RPM = *codes.Frame.RPM
		}
		if a.SetAside(i) == diagnose.Weighed {
			ran.take(m.Entry, p.Condition, after)
		}
	}
	if verdict == 0 {
		return p
	}
	p.Elsewhere = elsewhere(a, unit, ran.other)
	p.weigh(ran, verdict)
	if settled(a)[unit] { // it is back: no number of clean events makes up for it
		p.State, p.Progress, p.More, p.Fixed = proof.NotFixed, -1, 0, 0
	}
	return p
}

// take notes a run.
func (r *ranProof) take(e evidence.Entry, when evidence.Condition, after int) {
	c, w := e.Counters(), e.Watch()
	if c == nil && w == nil {
		return
	}
	here := when == evidence.AnyCondition || e.Condition == when
	misfired := 0
	if e.ShowsMisfire() {
		misfired = 1
	}
	switch {
	case !here:
		if c != nil && c.Fresh && after == 1 && misfired == 0 {
			r.other[e.Condition] += c.Revolutions
		}
	case c != nil && c.Fresh:
		_, most := c.Most()
		if after == 1 || misfired == 1 {
			r.events[after].add(c.Revolutions/2, most)
		}
		r.watched[after].add(1, misfired)
	case w != nil && w.Exposure != nil:
		r.expose(*w.Exposure, after)
	case w != nil:
		r.watched[after].add(1, misfired)
	}
}

// expose notes exposures. A spell of mist on the repaired place is also so many firing events at idle.
func (r *ranProof) expose(x evidence.Exposure, after int) {
	key := exposed{x.Of, x.Place}
	if r.exposures[key] == nil {
		r.exposures[key] = &[2]Tally{}
	}
	r.exposures[key][after].add(x.Times, x.Failed)
	if x.Of == evidence.Misted && x.Place != r.place {
		return
	}
	r.watched[after].add(x.Times, x.Failed)
	if minutes, _ := x.Of.Takes(x.Times); x.Of == evidence.Misted && after == 1 && x.Failed == 0 {
		r.events[1].add(int(minutes*idleSpeed/2), 0)
	}
}

// usual returns what exposures before the repair failed in most often; ok is false if none failed.
func (r *ranProof) usual() (of exposed, ok bool) {
	most := 0
	for _, row := range evidence.Circumstances { // in the order of the table, so that it does not depend on a map
		for key, t := range r.exposures {
			if key.of == row.Circumstance && (t[0].Failed > most || t[0].Failed == most && most > 0 && of.of == key.of && key.place < of.place) {
				of, most = key, t[0].Failed
			}
		}
	}
	return of, most > 0
}

// repairedPlace is where the entry that repaired a unit was made, "" if it names no place.
func repairedPlace(a *diagnose.Assessment, at int) engine.Place {
	for _, m := range a.Moments {
		switch e := m.Entry; {
		case e.Seq != at:
		case e.Renewal() != nil:
			return e.Renewal().Parts[0].Place
		case e.Fit() != nil:
			return engine.Place(e.Fit().Unit[strings.LastIndexByte(e.Fit().Unit, ' ')+1:])
		case e.Move() != nil:
			for _, r := range e.Move().Parts {
				if r.To == engine.Bench {
					return m.Before.Where(r.Tag)
				}
			}
		}
	}
	return ""
}

// weigh chooses what is counted and tests it.
func (p *Proof) weigh(r ranProof, verdict float64) {
	of, exposures := r.usual()
	switch {
	case exposures:
		p.Of, p.Place, p.Before, p.Since = of.of, of.place, r.exposures[of][0], r.exposures[of][1]
	case r.events[0].Failed > 0:
		p.Before, p.Since = r.events[0], r.events[1]
	case r.watched[0].Failed > 0:
		p.Of, p.Before, p.Since = evidence.AnyRun, r.watched[0], r.watched[1]
	default:
		return
	}
	p.Known = true
	test := p.test()
	p.State, p.Progress = test.After(p.Since.Times, p.Since.Failed)
	if p.State == proof.NotYet {
		p.More = test.More(p.Since.Times, p.Since.Failed)
	}
	ratio := test.LogRatio(p.Since.Times, p.Since.Failed)
	p.Fixed = 1 / (1 + (1-verdict)/verdict*math.Exp(-ratio-p.Elsewhere))
}

// tester is a sequential test, by firing events or by exposures.
type tester interface {
	After(times, failed int) (proof.State, float64)
	More(times, failed int) int
	LogRatio(times, failed int) float64
}

// test bounds the rate before the repair from below, and returns the test for it. Of firing events a burst counts
// once.
func (p *Proof) test() tester {
	if p.Of != "" {
		p.Rate = proof.LowerBound(float64(p.Before.Failed), float64(p.Before.Times), 0.95)
		t := proof.UsualExposures(p.Rate)
		t.Other = p.Elsewhere
		return t
	}
	burst := proof.Usual(0).Burst
	p.Rate = proof.LowerBound(float64(p.Before.Failed)/burst, float64(p.Before.Times)/burst, 0.95)
	t := proof.Usual(p.Rate)
	t.Other = p.Elsewhere
	return t
}

// elsewhere is the log likelihood ratio of clean runs in other conditions: what the chance is that the fault
// of the verdict would have shown in them.
func elsewhere(a *diagnose.Assessment, unit string, other map[evidence.Condition]int) (sum float64) {
	if len(other) == 0 {
		return 0
	}
	at := slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Key() == unit })
	for _, when := range evidence.Conditions {
		revolutions := other[when.Condition]
		if revolutions == 0 {
			continue
		}
		chance := a.ChanceToShow(revolutions, when.Condition)
		shows, all := 0.0, 0.0
		for i := range a.JointHypotheses {
			w := &a.JointHypotheses[i]
			if slices.ContainsFunc(w.Faults, func(f *diagnose.Fault) bool { return f.Suspect == at }) {
				all += w.P
				shows += w.P * chance(w)
			}
		}
		if all > 0 {
			sum += proof.Outside(shows / all)
		}
	}
	_, high := proof.Usual(0).Limits()
	return min(sum, proof.MostOutside*high)
}

// Takes returns how long what is missing takes: minutes in the workshop or on the road, or days of the
// owner's use. A cylinder fires in every second revolution.
func (p Proof) Takes() (minutes float64, days int) {
	if p.Of != "" {
		return p.Of.Takes(p.More)
	}
	if minutes = 2 * float64(p.More) / p.RPM; minutes > longestRun {
		return minutes, int(math.Ceil(minutes / runADay))
	}
	return minutes, 0
}

// A run of more than longestRun minutes is not made in the workshop. The owner drives runADay minutes a day
// (C; judgement).
const (
	longestRun = 60
	runADay    = 60
)
