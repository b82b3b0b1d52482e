package main

import "testing"

// The reasoning concludes and does what a master technician would, on cases that no simulator made. A case that
// is open says why; once it holds, that has to go.
func TestCasesOfTheTrade(t *testing.T) {
	results, err := Run("../../docs/formats/cases")
	if err != nil {
		t.Fatal(err)
	}
	classes := map[int]int{}
	for _, r := range results {
		classes[r.Class]++
		switch {
		case len(r.Missed) > 0 && r.Open == "":
			t.Errorf("%s: %v. %s", r.File, r.Missed, r.Says)
		case len(r.Missed) == 0 && r.Open != "":
			t.Errorf("%s holds now: take away %q", r.File, r.Open)
		case r.Says == "" || r.Source == "":
			t.Errorf("%s does not say what is right, or from where", r.File)
		}
	}
	if len(results) < 60 || len(classes) < 15 {
		t.Errorf("%d cases of %d classes", len(results), len(classes))
	}
}
