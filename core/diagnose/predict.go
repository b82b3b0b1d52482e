package diagnose

import (
	"iter"
	"maps"
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// Affected is the set of cylinders that a joint hypothesis affects from now on with the parts at some
// positions.
func (a *Assessment) Affected(w *JointHypothesis, at part.Positions) (affected engine.Set) {
	for _, f := range w.Faults {
		if f.CuredAfter < 0 {
			affected |= f.Hypothesis.Affected(at)
		}
	}
	return affected
}

// AfterTouch is the set of cylinders that a joint hypothesis affects after work that brought the parts to
// some positions, with its probability: handling may have cured the fault.
func (a *Assessment) AfterTouch(w *JointHypothesis, hands HandledItems, at part.Positions) (affected engine.Set, p float64) {
	p = 1
	for _, f := range w.Faults {
		if f.CuredAfter < 0 && !f.Spent && hands.Touches(f.Hypothesis) {
			p *= 1 - f.Hypothesis.Mode.CuredByTouch
		}
	}
	return a.Affected(w, at), p
}

// LastCounts is the newest misfire counts with the parts where they are now, or nil.
func (a *Assessment) LastCounts() *evidence.Counters {
	for i := len(a.Moments) - 1; i >= 0; i-- {
		m := a.Moments[i]
		if m.Entry.Move() != nil {
			return nil
		}
		if m.Entry.Counters() != nil {
			return m.Entry.Counters()
		}
	}
	return nil
}

// ChanceToShow is the probability, given a joint hypothesis, that a run of some revolutions in a condition
// shows enough misfires on the cylinders it affects.
func (a *Assessment) ChanceToShow(revolutions int, when evidence.Condition) func(*JointHypothesis) float64 {
	n := revolutions / 2
	var shows [knowledge.NumBursts]infer.PerRate // at each rate in the condition itself
	for b, row := range knowledge.Bursts {
		for r := range shows[b] {
			few := 0.0
			for k := 0; k < evidence.Enough && k <= n; k++ {
				few += math.Exp(infer.LogBetaBinomial(k, n, infer.Grid[r], row.Alpha))
			}
			shows[b][r] = 1 - min(1, few)
		}
	}
	of := map[int]infer.PerRate{} // by shape
	return func(w *JointHypothesis) float64 {
		none := 1.0
		for i, f := range w.Faults {
			t := a.weighing.shapeOf[f.track][f.track]
			mean, ok := of[t]
			if !ok {
				mean = a.weighing.expect(t, when, &shows[a.weighing.shapes[t].burst])
				of[t] = mean
			}
			p := 0.0
			for r, weight := range w.Rates[i] {
				p += weight * mean[r]
			}
			none *= 1 - p
		}
		return 1 - none
	}
}

// expect is the mean of a figure that depends on the rate in a condition, for each
// rate where the fault fails, given the runs in that condition so far.
func (w *inference) expect(shape int, when evidence.Condition, of *infer.PerRate) (mean infer.PerRate) {
	levels := w.levels(shape, when, everything)
	for r := range mean {
		for i, row := range knowledge.Levels {
			if row.Steps >= 0 {
				mean[r] += levels[r][i] * of[max(0, r-row.Steps)]
			}
		}
	}
	return mean
}

// levels is the probability of each level of a fault in a condition, for each rate where
// it fails, given the runs in that condition so far.
func (w *inference) levels(shape int, when evidence.Condition, kept keep) (out levels) {
	var runs infer.PerRate
	for i, t := range w.tables {
		if t != nil && kept.has(i) && asMuch(w.a.Moments[i].Entry.Condition) == asMuch(when) && w.shapes[shape].at[i] != 0 {
			runs.Add(w.run(i, w.shapes[shape].by[i]))
		}
	}
	l := w.showing(asMuch(when))[w.shapes[shape].failing]
	for r := range out {
		var logs [len(out[r])]float64
		for i, row := range knowledge.Levels {
			logs[i] = math.Log(l[r][i])
			if row.Steps >= 0 {
				logs[i] += runs[max(0, r-row.Steps)]
			}
		}
		total := floats.LogSumExp(logs[:])
		for i := range logs {
			out[r][i] = math.Exp(logs[i] - total)
		}
	}
	return out
}

// CodeSet is the probability that the misfire code of a cylinder affected by a joint hypothesis is set.
func (a *Assessment) CodeSet(w *JointHypothesis) float64 {
	none := 1.0
	for i := range w.Faults {
		p := 0.0
		for r, weight := range w.Rates[i] {
			p += weight * knowledge.CodeMost * infer.Grid[r] / (infer.Grid[r] + knowledge.CodeHalf)
		}
		none *= 1 - p
	}
	return 1 - none
}

// Finding is the probability, given each joint hypothesis, of a finding on an item that is inspected
// now.
func (a *Assessment) Finding(item evidence.Seen) func(*JointHypothesis) float64 {
	key := evidence.Seen{Tag: item.Tag, Place: item.Place}
	stands, known := a.looking[key]
	if !known {
		ran := []part.Positions{a.home, a.Now}
		stands = map[int]knowledge.Bearing{}
		for i := range a.weighing.faults {
			f := &a.weighing.faults[i]
			if b := bearing(key, &f.Hypothesis, a.Now, ran, f.CuredAfter >= 0); b != knowledge.Bystander {
				stands[i] = b
			}
		}
		a.looking[key] = stands
	}
	return a.mixed(a.Beliefs.Look(item.Kind(), knowledge.Bystander, item.Finding), maps.Keys(stands), func(f *Fault) (likelihoodRow, float64, float64, bool) {
		row, abnormal := looked(a.Beliefs, item, stands[f.index])
		return row, 0, abnormal, true
	})
}

// asking is a test at a place.
type asking struct {
	test  evidence.TestID
	place engine.Place
}

// Answer is the probability, given each joint hypothesis, of an answer to a test made now.
func (a *Assessment) Answer(c evidence.Check) func(*JointHypothesis) float64 {
	key := asking{c.Test, c.Place}
	of, known := a.asking[key]
	if !known {
		test, _ := evidence.FindTest(c.Test)
		for i := range a.weighing.faults {
			f := &a.weighing.faults[i]
			if f.CuredAfter < 0 && a.Beliefs.States(c.Test, f.Hypothesis.Mode.ID) && (test.Of != evidence.OfItem || a.bearsOn(test, c.Place, &f.Hypothesis, a.Now)) {
				of = append(of, i)
			}
		}
		a.asking[key] = of
	}
	return a.mixed(a.soundAnswer(c), slices.Values(of), func(f *Fault) (likelihoodRow, float64, float64, bool) {
		return a.checkedBy(c, tester{}, evidence.AnyCondition, &f.Hypothesis, a.Now)
	})
}

// TrimBetween is the probability, given each joint hypothesis, that the fuel trims of a bank, read now,
// sum to more than low and at most high, in per cent.
func (a *Assessment) TrimBetween(bank int, low, high float64) func(*JointHypothesis) float64 {
	of := a.Engine.BankSet(bank)
	sound := a.Beliefs.SoundTrims().Within(low, high)
	return a.mixed(sound, a.all(), func(f *Fault) (k likelihoodRow, more, abnormal float64, ok bool) {
		var affected engine.Set
		if f.CuredAfter < 0 {
			affected = f.Hypothesis.Affected(a.Now)
		}
		r, ok := a.Beliefs.Trims(of, f.Hypothesis.Mode.ID, fedBy(f.Hypothesis, a.Engine, a.Now), affected)
		return likelihoodRow{odds: r.Within(low, high), sound: sound, seen: 1}, 0, math.Abs(r.Centre), ok
	})
}

// soundAnswer is the probability of an answer from a sound item.
func (a *Assessment) soundAnswer(c evidence.Check) float64 {
	test, _ := evidence.FindTest(c.Test)
	answer := slices.IndexFunc(test.Results, func(r evidence.Result) bool { return r.ID == c.Result })
	p := a.Beliefs.Test(c.Test, "")[answer]
	if test.Of == evidence.OfLeaks && test.Results[answer].Abnormal {
		p /= float64(len(a.leaks))
	}
	return p
}

// all is every fault.
func (a *Assessment) all() iter.Seq[int] {
	return func(yield func(int) bool) {
		for i := range a.weighing.faults {
			if !yield(i) {
				return
			}
		}
	}
}

// mixed returns the probability of an item's answer given a joint hypothesis. It is that of a
// sound item, or that of the fault that shows more in it. among lists the faults that can
// change the answer.
func (a *Assessment) mixed(sound float64, among iter.Seq[int], bears func(*Fault) (likelihoodRow, float64, float64, bool)) func(*JointHypothesis) float64 {
	type row struct {
		k    likelihoodRow
		more float64
	}
	type says struct {
		chance   infer.PerRate
		abnormal float64
	}
	of := make([]*says, len(a.weighing.faults)) // nil for those that do not bear on it
	same := map[row]*says{}                     // many faults show alike
	for i := range among {
		k, more, abnormal, ok := bears(&a.weighing.faults[i])
		if !ok {
			continue
		}
		have := same[row{k, more}]
		if have == nil {
			have = &says{abnormal: abnormal}
			much := sound * math.Exp(more)
			for r, rate := range infer.Grid {
				have.chance[r] = much * k.ratio(rate)
			}
			same[row{k, more}] = have
		}
		of[i] = have
	}
	return func(w *JointHypothesis) float64 {
		var most *says
		rate := 0
		for i, f := range w.Faults {
			if s := of[f.index]; s != nil && (most == nil || s.abnormal > most.abnormal) {
				most, rate = s, i
			}
		}
		if most == nil {
			return sound
		}
		p := 0.0
		for r, weight := range &w.Rates[rate] {
			p += weight * most.chance[r]
		}
		return p
	}
}
