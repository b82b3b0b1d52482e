package job

import (
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// What is learned later of when it fails takes the place of what was said, which is not lost.
func TestLaterConditionReplacesTheFirst(t *testing.T) {
	j := Job{Number: "26-001", Complaint: "misses on the pass", By: "Wyn", Opened: time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC), FailsWhen: evidence.Load,
		Signs: []evidence.Sign{evidence.AfterService}, Vehicle: Vehicle{Fleet: "T-1", What: "van", Engine: engine.Shelf[0].Engine()}}
	for _, c := range []struct{ when, fails, complaint string }{
		{"hot", "hot", "[When it fails: hot, not under load. Wyn]"},
		{"always-there", "always, in every condition alike", "not hot. Wyn]"},
		{"", "not stated", "[When it fails: not stated, not always"},
	} {
		was := j.Complaint
		next, err := j.Failing(c.when, "Wyn")
		if err != nil || next.Fails() != c.fails || !strings.HasPrefix(next.Complaint, was) || !strings.Contains(next.Complaint, c.complaint) || !slices.Contains(next.Signs, evidence.AfterService) {
			t.Errorf("%q: fails %q, %q, signs %v, %v", c.when, next.Fails(), next.Complaint, next.Signs, err)
		}
		if same, err := next.Failing(c.when, "Brannoc"); err != nil || same.Complaint != next.Complaint {
			t.Errorf("%q again: %q, %v", c.when, same.Complaint, err)
		}
		j = next
	}
	if _, err := j.Failing("on tuesdays", "Wyn"); err == nil || !strings.Contains(err.Error(), "fails_when") {
		t.Errorf("a condition that is none: %v", err)
	}
	j.Complaint = strings.Repeat("x", evidence.MaxText)
	if _, err := j.Failing("hot", "Wyn"); err == nil || !strings.Contains(err.Error(), "complaint") {
		t.Errorf("a complaint that is full: %v", err)
	}
}
