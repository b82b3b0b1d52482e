package practice_test

import (
	"slices"
	"testing"

	"glenmist/core/plan"
	"glenmist/core/practice"
)

// Each question names several answers and stands beside steps that there are; beside a step stand
// those that name it, and no other.
func TestQuestionsStandBesideTheirSteps(t *testing.T) {
	beside := map[string]int{}
	for _, q := range practice.Questions {
		if q.Ask == "" || len(q.Schools) < 2 || q.Here == "" || q.Source == "" {
			t.Errorf("%+v", q)
		}
		for _, step := range q.Steps {
			beside[step]++
		}
	}
	for _, step := range plan.Steps {
		of := practice.For(step.ID)
		if len(of) != beside[step.ID] {
			t.Errorf("%s: %d questions, want %d", step.ID, len(of), beside[step.ID])
		}
		for _, q := range of {
			if !slices.Contains(q.Steps, step.ID) {
				t.Errorf("%s: %s", step.ID, q.Ask)
			}
		}
		delete(beside, step.ID)
	}
	if len(beside) > 0 {
		t.Errorf("no step is called %v", beside)
	}
}
