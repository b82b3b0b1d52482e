package demo

import (
	"testing"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/plan"
	"glenmist/core/score"
)

// Each repair of the past ends as it is meant to, by the reasoning itself.
func TestPastEndsAsMeant(t *testing.T) {
	now := time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC)
	for i, r := range repairs {
		j, err := r.job(now, i)
		if err != nil {
			t.Errorf("%d, %s of %s: %v", i+1, r.kind, r.fleet, err)
			continue
		}
		j.Number = "past"
		if err := j.Validate(); err != nil {
			t.Errorf("%d: %v", i+1, err)
		}
		a := diagnose.Assess(j)
		o, ok := score.Of(j, a)
		want := map[end]score.Result{held: score.Held, cameBack: score.Held, standing: score.Held, both: score.Unattributed, stayed: score.Failed}[r.end]
		if ok != (want != "") || o.Result != want || ok && o.Unit != r.kind {
			t.Errorf("%d, %s of %s: %v %+v, %s", i+1, r.kind, r.fleet, ok, o, plan.StatusOf(j, a).Words)
		}
		due, set := j.Ledger.DueRecheck()
		if set != (r.end == waiting || r.end == standing) || set && due.Due > evidence.DayOf(now) {
			t.Errorf("%d: recheck %v %v", i+1, due, set)
		}
	}
}
