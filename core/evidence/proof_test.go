package evidence_test

import (
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/jobtest"
	"glenmist/core/trouble"
)

// What belongs to a proof is refused with the field and what was expected, or reads as one sentence.
func TestProofEntriesAreChecked(t *testing.T) {
	base := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 1, 212, 0, 2))
	watch := func(x evidence.Exposure, c ...engine.Cylinder) evidence.Body {
		return &evidence.Watch{Cylinders: append([]engine.Cylinder{}, c...), Exposure: &x}
	}
	ready := &trouble.Readiness{Incomplete: []trouble.Monitor{"catalyst", "misfire"}}
	for name, c := range map[string]struct {
		body evidence.Body
		want string // the field that is refused, or the sentence after "="
	}{
		"clean starts":       {watch(evidence.Exposure{Of: evidence.WetStart, Times: 6}), "=watched: ran clean; clean in 6 starts in the wet"},
		"one hill":           {watch(evidence.Exposure{Of: evidence.Hill, Times: 1, Failed: 1}, 2), "=watched: misfire on cylinder 2; misfired in 1 of 1 hill under load"},
		"mist":               {watch(evidence.Exposure{Of: evidence.Misted, Times: 1, Place: "cyl-3"}), "=watched: ran clean; clean in 1 spell of mist on one place, cylinder 3"},
		"mist nowhere":       {watch(evidence.Exposure{Of: evidence.Misted, Times: 1}), "watch.exposure.place"},
		"a place for a hill": {watch(evidence.Exposure{Of: evidence.Hill, Times: 1, Place: "cyl-3"}), "watch.exposure.place"},
		"no such thing":      {watch(evidence.Exposure{Of: "tuesday", Times: 1}), "watch.exposure.of"},
		"never":              {watch(evidence.Exposure{Of: evidence.Hill}), "watch.exposure.times"},
		"more than tried":    {watch(evidence.Exposure{Of: evidence.Hill, Times: 2, Failed: 3}, 2), "watch.exposure.failed"},
		"clean and failed":   {watch(evidence.Exposure{Of: evidence.Hill, Times: 2, Failed: 1}), "watch.exposure.failed"},
		"misfire, none fail": {watch(evidence.Exposure{Of: evidence.Hill, Times: 2}, 2), "watch.exposure.failed"},
		"readiness":          {&evidence.Codes{Readiness: ready}, "=no codes; not ready: catalyst, misfire"},
		"all ready":          {&evidence.Codes{Readiness: &trouble.Readiness{}}, "=no codes; all monitors ready"},
		"no such monitor":    {&evidence.Codes{Readiness: &trouble.Readiness{Incomplete: []trouble.Monitor{"soul"}}}, "codes.readiness.incomplete[0]"},
		"cleared":            {&evidence.Clearing{Codes: true, Counters: true, History: []int{2}}, "=codes cleared, counters at zero, counts of entry 2 set aside as history"},
		"nothing cleared":    {&evidence.Clearing{}, "clearing"},
		"history of codes":   {&evidence.Clearing{Counters: true, History: []int{1}}, "clearing.history[0]"},
		"history twice":      {&evidence.Clearing{Counters: true, History: []int{2, 2}}, "clearing.history[1]"},
		"recheck":            {&evidence.Recheck{Due: "2026-12-14", For: "permanent code"}, "=recheck on 14 Dec 2026: permanent code"},
		"no recheck":         {&evidence.Recheck{}, "=recheck called off"},
		"no such day":        {&evidence.Recheck{Due: "2026-02-30"}, "recheck.due"},
		"closed":             {&evidence.Closing{Ending: evidence.EndedProven}, "=job closed: the repair is proven"},
		"ended how":          {&evidence.Closing{Ending: "gone"}, "closing.ending"},
		"comeback": {&evidence.Comeback{Of: "2026-014", Unit: "coil C2", P: 0.99, Wrong: 0.24, Days: 42, Km: 5200, Renewed: []evidence.CameIn{{Kind: engine.Coil, Place: "cyl-2"}}},
			"=same trouble as in job 2026-014, 42 days and 5 200 km ago; probability that its verdict on coil C2 was wrong: 24 %; renewed then: coil of cylinder 2"},
		"of no job":          {&evidence.Comeback{Wrong: 1}, "comeback.of"},
		"surer than sure":    {&evidence.Comeback{Of: "1", Wrong: 1.2}, "comeback.wrong"},
		"on another engine":  {&evidence.Comeback{Of: "1", Carried: []evidence.Carried{{Fault: "plug.wrong", Place: "cyl-9", P: 0.1}}}, "comeback.carried[0].place"},
		"a part it has not":  {&evidence.Comeback{Of: "1", Renewed: []evidence.CameIn{{Kind: engine.Rotor, Place: "engine"}}}, "comeback.renewed[0]"},
		"before it happened": {&evidence.Comeback{Of: "1", Days: -1}, "comeback.days"},
	} {
		l, err := base.Ledger.Add(base.Vehicle.Engine, evidence.Entry{By: "x", Done: jobtest.Clock(9), Body: c.body})
		if sentence, valid := strings.CutPrefix(c.want, "="); valid {
			if err != nil {
				t.Errorf("%s: %v", name, err)
			} else if got := strings.ReplaceAll(l[len(l)-1].Words(), "\u202f", " "); got != sentence {
				t.Errorf("%s: %q, want %q", name, got, sentence)
			}
			continue
		}
		if err == nil || invalid.From(err)[0].Field != c.want {
			t.Errorf("%s: %v, want %s", name, err, c.want)
		}
	}
	unread := jobtest.With(t, jobtest.New(4), jobtest.Counts(3000, 1, 212, 0, 2))
	if _, err := unread.Ledger.Add(unread.Vehicle.Engine, evidence.Entry{By: "x", Done: jobtest.Clock(9), Body: &evidence.Clearing{Codes: true}}); err == nil {
		t.Error("codes are cleared that were never read")
	}
}

// What takes the workshop takes minutes; what takes the owner's use takes days.
func TestCircumstancesTakeMinutesOrDays(t *testing.T) {
	for _, c := range []struct {
		of      evidence.Circumstance
		n       int
		minutes float64
		days    int
	}{{evidence.Misted, 4, 12, 0}, {evidence.WetStart, 3, 0, 6}, {evidence.Hill, 20, 100, 0}, {evidence.Hill, 60, 0, 6}, {evidence.ColdStart, 5, 0, 5}, {"none", 3, 0, 0}} {
		if m, d := c.of.Takes(c.n); m != c.minutes || d != c.days {
			t.Errorf("%s: %g min, %d days", c.of.Words(c.n), m, d)
		}
	}
	for _, row := range evidence.Conditions {
		if when, ok := evidence.UsualCircumstance(row.Condition).In(); !ok || when != row.Condition {
			t.Errorf("%s is counted by what belongs to %s", row.Words, when.Words())
		}
	}
}
