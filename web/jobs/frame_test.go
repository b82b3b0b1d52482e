package jobs

import (
	"testing"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
	"glenmist/core/shop"
	"glenmist/store"
)

// A job that went from the codes to a run after the repair ticks every line of the checklist, and
// each entry ticks its own line.
func TestWholeJobTicksTheChecklist(t *testing.T) {
	swap := part.Home(jobtest.New(4).Vehicle.Engine).Swap(engine.At(2), engine.At(4), engine.Coil, engine.Boot)
	renewed := []part.Relocation{{Tag: "C2", To: engine.Bench}, {Tag: part.Spare(engine.Coil, 1), To: engine.At(4)}}
	j := jobtest.New(4)
	for _, step := range []struct {
		entry evidence.Entry
		ticks string
	}{
		{jobtest.Codes(2), "Read the codes"},
		{jobtest.Counts(3000, 0, 150, 1, 0), "Run it, and record what misfires"},
		{evidence.Entry{Body: &evidence.Move{Parts: swap, Cleared: true}}, "Move, look or measure: do the next step"},
		{jobtest.Counts(3000, 0, 0, 1, 150), ""},
		{evidence.Entry{Body: &evidence.Verdict{Unit: "coil C2", P: 0.99}}, "Sign the verdict"},
		{evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: renewed}}, "Record the repair"},
		{jobtest.Counts(3000, 0, 0, 0, 0), "Run it again after the repair"},
	} {
		before := ticked(j)
		j = jobtest.With(t, j, step.entry)
		for words, done := range ticked(j) {
			if want := before[words] || words == step.ticks; done != want {
				t.Errorf("after %q: %q is ticked %v, want %v", step.ticks, words, done, want)
			}
		}
	}
	for words, done := range ticked(j) {
		if !done {
			t.Errorf("a finished job leaves %q open", words)
		}
	}
}

// ticked returns the lines of the checklist of a job, each with its tick.
func ticked(j job.Job) map[string]bool {
	it := NewLoaded(store.Record{Job: j}, shop.Default(), false)
	p := Page{stations: course.Of(j, it.Assessment(), it.Plan())}
	all := map[string]bool{}
	for _, line := range p.firstJob(it) {
		all[line.Words] = line.Done
	}
	return all
}
