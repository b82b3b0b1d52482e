package shop

import (
	"testing"

	"glenmist/core/knowledge"
)

func TestChangesNamesEachSetting(t *testing.T) {
	was := Default()
	was.Missing = []string{"Spark tester"}
	was.Rows = []knowledge.Override{{Row: "step:swap.coil", By: "Oda"}}
	for name, c := range map[string]struct {
		change func(*Settings)
		want   string
	}{
		"nothing":  {func(*Settings) {}, "nothing changed"},
		"rate":     {func(s *Settings) { s.HourlyRate = 90 }, "an hour of work 90, was 60"},
		"tools":    {func(s *Settings) { s.Missing = []string{"Multimeter"} }, "without Multimeter; has Spark tester"},
		"row":      {func(s *Settings) { s.Rows = []knowledge.Override{{Row: "step:swap.coil", By: "Wyn"}} }, "own figures for step:swap.coil"},
		"no row":   {func(s *Settings) { s.Rows = nil }, "shipped figures again for step:swap.coil"},
		"learning": {func(s *Settings) { s.NotLearning, s.CountImported = true, true }, "learning off; counting imported jobs on"},
		"school":   {func(s *Settings) { s.Schools = map[string]string{"grease": "yes"} }, "school grease: yes"},
	} {
		now := was
		c.change(&now)
		if got := now.Changes(was); got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
}
