package web_test

import (
	"net/http"
	"strings"
	"testing"
)

// On the page of a verdict that names one of several the two ways stand side by side, and follow
// what is typed; what is no figure is said at its field, and the rest stays.
func TestThisOneOrTheSet(t *testing.T) {
	verdict := "/jobs/" + numbers["signed"] + "/verdict"
	page := get(t, verdict)
	page.has(t, "This one or the set?", "This coil", "All 6 coils", "renewing this coil is the cheaper", "is a guess", "Expected cost over the distance ahead", "Weibull")
	worn := get(t, verdict+"?set-age=300000&set-life=150000&set-price=8&set-visit=400&set-horizon=60000")
	worn.has(t, "renewing all 6 coils is the cheaper", "The set pays from", "it pays below", `value="300000"`)
	if strings.Count(worn.readable(), "✓ ") < 4 { // the gates, and the cheaper way
		t.Error("the cheaper way is not marked")
	}
	for query, want := range map[string]string{
		"set-price=dear": "a number, such as 60", "set-life=10": "the life of the part in km, 1000 to", "set-horizon=-5": "a number, such as 30000", "set-age=9000000000": "the age of the others in km",
	} {
		a := get(t, verdict+"?"+query)
		a.has(t, want)
		if a.StatusCode != http.StatusOK || strings.Contains(a.readable(), "is the cheaper") {
			t.Errorf("%s: %d, and yet weighed", query, a.StatusCode)
		}
	}
	if a := get(t, "/jobs/"+numbers["B-09"]+"/verdict"); strings.Contains(a.readable(), "This one or the set") {
		t.Error("weighed without a verdict")
	}
}

// A verdict says what was cleared and is not to be bought, only of parts, and what else is still
// possible; before one stands neither is said.
func TestVerdictSaysWhatIsSpared(t *testing.T) {
	page := get(t, "/jobs/"+numbers["signed"]+"/verdict")
	page.has(t, "Cleared, and not to be bought:", "coil C1", "plug P1", "Still possible:", "nothing else stands at one per cent or more")
	_, rest, _ := strings.Cut(page.body, "not to be bought:")
	if list, _, _ := strings.Cut(rest, "</p>"); strings.Contains(list, "connector") || strings.Contains(list, "coil C5") {
		t.Errorf("not to be bought: %s", list)
	}
	before := get(t, "/jobs/"+numbers["followed"]+"/verdict")
	if strings.Contains(before.body, "Still possible") || strings.Contains(before.body, "not to be bought") {
		t.Error("said before there is a verdict")
	}
}

// The finding tells the owner what was found and how, in plain words, with the picture of the
// captures where there are any; the record has every entry; before a verdict it says so.
func TestFinding(t *testing.T) {
	for key, want := range map[string][]string{
		"signed":   {"Coil C5 is at fault", "as good as certain", "An ignition coil makes the high voltage", "Signed by Bram Tarnside", "not yet proven", "The misfire followed coil C5", "Renew or put right: coil C5", "Not needed:", "Record of job", "✓ met"},
		"L-06":     {"The cause is not proven yet", "What cylinder 4 showed is on cylinder 2 now: it went with lead L4", "Before and after:", "Lead L4 is at cylinder 2", "go on before anything is bought"},
		"followed": {"The cause is not proven yet", "○ not yet", "The misfire followed coil C4"},
		"B-07":     {"Do not drive while the engine lamp flashes"},
	} {
		a := get(t, "/jobs/"+numbers[key]+"/finding")
		a.has(t, want...)
		if a.StatusCode != http.StatusOK {
			t.Errorf("%s: %d", key, a.StatusCode)
		}
	}
	get(t, "/jobs/"+numbers["signed"]+"/verdict").has(t, `href="finding"`)
	if a := get(t, "/jobs/nobody/finding"); a.StatusCode != http.StatusNotFound {
		t.Errorf("nobody: %d", a.StatusCode)
	}
}
