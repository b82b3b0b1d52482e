package explain

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
)

// moved exchanges the coils of cylinders 2 and 4, with their boots, as they sit.
func moved(t *testing.T, j job.Job) evidence.Entry {
	t.Helper()
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: j.Ledger.Positions(j.Vehicle.Engine).Swap("cyl-2", "cyl-4", engine.Coil, engine.Boot)}}
}

// A coil was moved and the misfire followed; put back, the misfire stayed. The conflict is reported with its
// explanations, and the coil is not condemned (common practice: a connector or boot was disturbed).
func TestConflictListsExplanations(t *testing.T) {
	j := jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 190, 0, 0))
	j = jobtest.With(t, j, moved(t, j))
	j = jobtest.With(t, j, jobtest.Counts(3000, 0, 0, 0, 185))
	followed := diagnose.Assess(j)
	if c := Conflicts(followed); len(c) != 0 {
		t.Errorf("one move conflicts with nothing: %v", c)
	}
	j = jobtest.With(t, j, moved(t, j))
	for name, c := range map[string]struct {
		counts []int
		says   string
	}{"stayed": {[]int{0, 0, 0, 170}, "stayed where the part had been"}, "gone": {[]int{0, 0, 0, 0}, "the misfire was gone"}} {
		a := diagnose.Assess(jobtest.With(t, j, jobtest.Counts(3000, c.counts...)))
		found := Conflicts(a)
		if len(found) != 1 || !strings.Contains(found[0].Text, c.says) || len(found[0].Meanings) < 2 {
			t.Errorf("%s: %+v", name, found)
			continue
		}
		handled := false
		for _, m := range found[0].Meanings {
			handled = handled || strings.Contains(m.Words, "left loose or damaged") || strings.Contains(m.Words, "put right in entry")
			if m.P <= 0 || m.P > 1 {
				t.Errorf("%s: %+v", name, m)
			}
		}
		coil := func(a *diagnose.Assessment) (p float64) {
			for _, s := range a.Suspects {
				if s.Tag == part.Tag("C2") {
					p = s.P
				}
			}
			return p
		}
		if !handled || name == "stayed" && coil(a) > 0.8*coil(followed) {
			t.Errorf("%s: the coil has %.2f, before %.2f: %+v", name, coil(a), coil(followed), found[0].Meanings)
		}
	}
	// Put back, and it came back with it: nothing conflicts.
	if c := Conflicts(diagnose.Assess(jobtest.With(t, j, jobtest.Counts(3000, 0, 170, 0, 0)))); len(c) != 0 {
		t.Errorf("what came back with its part conflicts: %v", c)
	}
}
