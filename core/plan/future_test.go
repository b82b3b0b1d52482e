package plan

import (
	"math"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
)

// What a step would make of the ranking is what recording its outcome makes of it, and
// over all outcomes the mean is the ranking now.
func TestPreviewEqualsWhatRecordingGives(t *testing.T) {
	pattern, _ := engine.FindPattern("v6-across")
	j := job.Job{Vehicle: job.Vehicle{Engine: pattern.Engine()}}
	j.Ledger = evidence.Ledger{{Seq: 1, Body: &evidence.Counters{Revolutions: 3000, Counts: []int{0, 1, 0, 0, 240, 0}, Fresh: true}}}
	a := diagnose.Assess(j)
	p := For(j, a)
	checked := 0
	for _, c := range p.Steps() {
		mean := make(map[string]float64)
		total := 0.0
		for _, f := range c.Futures(a, len(a.Suspects)) {
			total += f.Outcome.P
			for _, change := range f.Ranking {
				mean[change.Suspect.Key()] += f.Outcome.P * change.After
			}
			if f.Outcome.Record.Check() == nil && f.Outcome.Record.Look() == nil || len(a.JointHypotheses) == 0 {
				continue
			}
			e := f.Outcome.Record
			e.Seq = 2
			then := j
			then.Ledger = append(then.Ledger[:1:1], e)
			after := diagnose.Assess(then)
			for _, s := range after.Suspects[:2] {
				for _, change := range f.Ranking {
					if change.Suspect.Key() == s.Key() && math.Abs(change.After-s.P) > 0.06 {
						t.Errorf("%s, %s: %s foretold at %.3f, and comes to %.3f", c.Title, f.Outcome.Words, s.Key(), change.After, s.P)
					}
				}
			}
			checked++
		}
		if math.Abs(total-1) > 1e-6 {
			t.Errorf("%s: the outcomes sum to %v", c.Title, total)
		}
		for _, s := range a.Suspects[:5] {
			if math.Abs(mean[s.Key()]-s.P) > 0.01 {
				t.Errorf("%s: %s is %.4f now and %.4f in the mean", c.Title, s.Key(), s.P, mean[s.Key()])
			}
		}
	}
	if checked < 20 {
		t.Errorf("%d outcomes checked", checked)
	}
}

// The usual order asks for another step than the plan, says what that costs more, and
// gives way to what is no matter of choice.
func TestUsualOrderIsPlannedToo(t *testing.T) {
	pattern, _ := engine.FindPattern("four-across")
	j := job.Job{Vehicle: job.Vehicle{Engine: pattern.Engine()}, School: job.UsualOrder}
	j.Ledger = evidence.Ledger{{Seq: 1, Body: &evidence.Codes{}}, {Seq: 2, Body: &evidence.Counters{Revolutions: 3000, Counts: []int{0, 0, 240, 0}, Fresh: true}}}
	a := diagnose.Assess(j)
	usual := For(j, a)
	if usual.Next.Step.ID != ReadTrims {
		t.Errorf("after the counts comes %s", usual.Next.Title)
	}
	j.School = job.Planned
	best := For(j, a)
	if usual.Dearer < 0 || best.Dearer != 0 || usual.With != best.With {
		t.Errorf("the usual order costs %v more, the plan %v", usual.Dearer, best.Dearer)
	}
	if len(usual.Alternatives) == 0 || usual.Next.Title != best.Next.Title && usual.Alternatives[0].Card.Title != best.Next.Title {
		t.Errorf("the best step is not offered beside it")
	}
}
