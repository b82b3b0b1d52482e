package plan

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
)

// A clean run with nothing moved is followed by a longer one that says how many events and minutes it takes: the rule of
// three (Hanley and Lippman-Hand 1983, from memory: none in n events bounds the rate by 3/n with 95 %).
func TestCleanRunAsksForALongerOne(t *testing.T) {
	for name, c := range map[string]struct {
		counts [][]int
		events int
	}{
		"nothing ran yet":           {nil, 0},
		"it misfired":               {[][]int{{0, 140, 0, 0}}, 0},
		"clean":                     {[][]int{{0, 0, 0, 0}}, 1500},
		"clean twice":               {[][]int{{0, 0, 0, 0}, {0, 1, 0, 0}}, 3000},
		"clean after one in a 100":  {[][]int{{0, 15, 0, 0}, {0, 0, 0, 0}}, 1500},
		"misfired again after that": {[][]int{{0, 0, 0, 0}, {0, 140, 0, 0}}, 0},
	} {
		s := begin(t, 4).code(2)
		for _, counts := range c.counts {
			s = s.counts(counts...)
		}
		a := diagnose.Assess(s.j)
		when := a.FailsWhen
		if n := len(a.Moments); n > 1 {
			when = a.Moments[n-1].Entry.Condition
		}
		if l := longerRun(a, when); l.Events != c.events || l.Events > 0 && l.Minutes != float64(l.Events)/350 {
			t.Errorf("%s: %+v, want %d events", name, l, c.events)
		}
		card := countMisfires(a, when)
		if longer := strings.Contains(card.Title, "longer"); longer != (c.events > 0) || longer && !strings.Contains(card.Do, "minutes at 700 rpm") {
			t.Errorf("%s: %s. %s", name, card.Title, card.Do)
		}
	}
}
