package explain

import (
	"fmt"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/spark"
)

// Worth is what one answer of a test is worth against one mode: how many times likelier it is
// if the mode is there than if all is sound.
type Worth struct {
	Mode          fault.ModeID
	Words, Answer string
	Times         float64
}

// Measure lists what a clear pass and each clear fail of a measure are worth, by the tables
// that a job is weighed by; of modes that the engine can have.
func Measure(a *diagnose.Assessment, id evidence.MeasureID) []Worth {
	m, _ := evidence.FindMeasure(id)
	t, _ := evidence.FindTest(m.Test)
	var all []Worth
	rows, sound := a.Beliefs.Numbers(id), a.Beliefs.Answers(id, "")
	for _, mode := range modesOf(a) {
		if !knowledge.ShowsIn[id].Covers(mode.ID) {
			continue
		}
		mine := a.Beliefs.Answers(id, mode.ID)
		for i, row := range rows {
			if !knowledge.Shows(rows, i, mode.ID) {
				continue
			}
			words := string(row.Answer)
			if r, ok := t.Result(row.Answer); ok {
				words = r.Words
			}
			all = append(all, Worth{mode.ID, mode.Words, words, mine[i] / soundly(rows, row.Answer, sound)})
		}
	}
	return all
}

// soundly is how often a sound one gives an answer, by the chances of the rows of a measure.
func soundly(rows []*knowledge.NumberRow, answer evidence.ResultID, sound []float64) (p float64) {
	for i, row := range rows {
		if row.Answer == answer {
			p += sound[i]
		}
	}
	return p
}

// Spark is the same of a spark test whose gap proves some kilovolts.
func Spark(a *diagnose.Assessment, proof spark.Range) []Worth {
	t, _ := evidence.FindTest(evidence.Spark)
	through := knowledge.ThroughGap(proof)
	sound := knowledge.SeenThrough(a.Beliefs.Test(evidence.Spark, ""), &through)
	var all []Worth
	for _, mode := range modesOf(a) {
		row := a.Beliefs.Test(evidence.Spark, mode.ID)
		if row == nil || mode.Unit != engine.Coil {
			continue
		}
		mine := knowledge.SeenThrough(row, &through)
		for i, r := range t.Results {
			all = append(all, Worth{mode.ID, mode.Words, r.Words, mine[i] / sound[i]})
		}
	}
	return all
}

// modesOf lists the modes that the engine can have, each once, in the order of the catalogue.
func modesOf(a *diagnose.Assessment) []fault.Mode {
	have := map[fault.ModeID]bool{}
	for i := range a.Faults {
		have[a.Faults[i].Hypothesis.Mode.ID] = true
	}
	var all []fault.Mode
	for _, m := range fault.Catalogue {
		if have[m.ID] {
			all = append(all, m)
		}
	}
	return all
}

// String is the worth as a person says it.
func (w Worth) String() string {
	if w.Times >= 1 {
		return fmt.Sprintf("%.2g times likelier", w.Times)
	}
	return fmt.Sprintf("%.2g times less likely", 1/w.Times)
}
