package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"
	"unicode/utf8"

	"glenmist/core/course"
)

// Each phase has a page with its tools, and at most seven choices are in sight at once.
func TestPhasesHoldTheirTools(t *testing.T) {
	at := "/jobs/" + numbers["P-07"]
	for phase, want := range map[course.Phase][]string{
		course.Intake:  {"Fails when", "Labels", "/vehicles/P-07"},
		course.Scan:    {"Codes", "Trims", "Counts", "Watch", "P0302 stored (entry 1)"},
		course.Trace:   {"Look", "Move", "Measure", "Scope", "Plugs", "Chain"},
		course.Verdict: {"gates", "not yet"},
		course.Fix:     {"Repair", "New part", "Waits: no verdict"},
		course.Prove:   {"Counts", "Watch", "Finding"},
	} {
		get(t, at+"/"+string(phase)).has(t, want...)
	}
	for _, path := range []string{"", "/what-if", "/trace", "/scan", "/codes", "/spark", "/meter", "/move", "/look", "/plugs", "/kv", "/verdict", "/fit", "/intake"} {
		a := get(t, at+path)
		tools := elements(a, "nav", "hands")
		if len(tools) != 1 {
			t.Fatalf("%s has %d strips of tools", path, len(tools))
		}
		links := 0
		for n := tools[0].FirstChild; n != nil; n = n.NextSibling {
			if n.Data == "a" {
				links++
			}
		}
		if links < 2 || links > 7 {
			t.Errorf("%s: %d choices", path, links)
		}
	}
	if a := get(t, at+"/nowhere"); a.StatusCode != http.StatusNotFound {
		t.Errorf("an unknown phase answers %d", a.StatusCode)
	}
}

// Before evidence names a cylinder the plan is neutral and the suspects are grouped by kind; with a
// code that changes.
func TestNeutralUntilEvidenceNamesACylinder(t *testing.T) {
	at := open(t, "NE-1", "four-across")
	a := get(t, at)
	a.has(t, "No cylinder is under suspicion yet", "A plug", "A coil")
	if strings.Contains(a.body, `class="fill"`) {
		t.Error("a cylinder is hatched without evidence")
	}
	post(t, at+"/codes", values("version", version(t, at+"/codes"), "code-1", "P0302", "by", "Wyn"))
	a = get(t, at)
	a.has(t, "Plug P2", "suspicion")
	if !strings.Contains(a.body, `class="fill"`) || strings.Contains(a.readable(), "No cylinder is under suspicion") {
		t.Error("no cylinder is hatched after its code")
	}
}

// The search finds tools, parts, entries and help, within bounds, and says when it finds nothing.
func TestFind(t *testing.T) {
	at := "/jobs/" + numbers["P-07"]
	for q, want := range map[string][]string{
		"spark":       {at + "/spark", "/calc/"},
		"c2":          {at + "?cyl=2", "Coil C2"},
		"cylinder 3":  {at + "?cyl=3"},
		"p0302":       {at + "?all=ledger#entry-1"},
		"OLD plugs":   {"/help#plugs", at + "/plugs"},
		"snow patrol": {"/jobs/" + numbers["S-01"]},
		"":            {at + "/codes", "There is more"},
		"qqqq":        {"Nothing holds"},
		"<b>":         {"Nothing holds “&lt;b&gt;”"},
	} {
		a := get(t, at+"/find?q="+url.QueryEscape(q))
		for _, words := range want {
			if !strings.Contains(a.body, words) {
				t.Errorf("%q: no %q", q, words)
			}
		}
	}
	get(t, "/find?q=coil").has(t, "Coil connectors")
	for _, letter := range []string{"ä", "€", "𝄞"} { // of two, three and four bytes
		a := get(t, "/find?q="+strings.Repeat(letter, 5000))
		if a.has(t, "Nothing holds"); !utf8.ValidString(a.body) || strings.Contains(a.body, "\uFFFD") {
			t.Errorf("a long query of %q is cut within a letter", letter)
		}
	}
	help := get(t, "/help").body
	for _, topic := range []string{"job", "keys", "people", "sure", "engine", "beliefs", "next", "readings", "plugs", "verdict", "connectors", "schools"} {
		if !strings.Contains(help, `id="`+topic+`"`) {
			t.Errorf("the help has no section %s", topic)
		}
	}
}

// What a complaint states is proposed under it, and is set by a tap only.
func TestComplaintIsProposedAndNotApplied(t *testing.T) {
	q := url.Values{"complaint": {"Stumbles on wet mornings since the plugs were done"}, "fleet": {"X-1"}}
	a := get(t, "/jobs/new?"+q.Encode())
	a.has(t, "Wet?", "Cold?", "Plugs were touched lately?", "“mornings”", "X-1")
	if strings.Contains(a.body, `<option value="wet" selected`) || strings.Contains(a.body, "touched-plugs\" checked") {
		t.Error("a proposal was applied")
	}
	q.Set("take", "fails_when=wet")
	a = get(t, "/jobs/new?"+q.Encode())
	a.has(t, "✓ wet")
	if !strings.Contains(a.body, `<option value="wet" selected`) {
		t.Error("a tap did not set the condition")
	}
	q.Set("take", "sign=touched-plugs")
	get(t, "/jobs/new?"+q.Encode()).has(t, "✓ plugs were touched lately")
}
