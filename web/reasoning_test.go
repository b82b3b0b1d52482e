package web_test

import (
	"context"
	"database/sql"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"glenmist/core/shop"
)

// What the workshop sets is planned by from then on: a tool that is gone takes its
// steps along, an own row changes the ranking and is marked in the tables, and a write
// that others overtook is refused with the form as it was typed.
func TestWorkshop(t *testing.T) {
	job := "/jobs/" + numbers["followed"]
	before := get(t, job+"/what-if").body
	if !strings.Contains(before, "Spark test") {
		t.Fatal("no spark test is offered")
	}
	t.Cleanup(func() {
		if _, version, err := jobs.Shop(context.Background()); err == nil {
			if err := jobs.SetShop(context.Background(), shop.Default(), version); err != nil {
				t.Error(err)
			}
		}
	})
	all := url.Values{"rate": {"75"}, "wrong": {"90"}, "version": {version(t, "/shop")}}
	for _, tool := range shop.ToolNames() {
		if tool != "spark tester" {
			all.Add("tool", tool)
		}
	}
	if a := post(t, "/shop", all); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("saving answers %d: %s", a.StatusCode, a.body)
	}
	if after := get(t, job+"/what-if").body; strings.Contains(after, "Spark test") {
		t.Error("a spark test is offered without a tester")
	}
	if a := post(t, "/shop", all); a.StatusCode != http.StatusConflict || !strings.Contains(a.readable(), "somebody else changed") || !strings.Contains(a.readable(), `value="75"`) {
		t.Errorf("a write that was overtaken answers %d", a.StatusCode)
	}
	row := values("version", version(t, "/shop"), "row", "fault:connector.loose", "value0", "6", "reason", "salted roads", "by", "Wyn")
	if a := post(t, "/shop/row", row); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("an own row answers %d: %s", a.StatusCode, a.body)
	}
	get(t, "/beliefs?q=connector.loose").has(t, "Ours: Times as often as stated: 6. salted roads (Oda Quillrigg,", "Ours: change")
	get(t, "/shop").has(t, "salted roads", `value="75"`)
	get(t, "/shop/row?row=repair:coil").has(t, "Price of new parts", "ships as 60")
	get(t, "/shop/row?row=thumb:kilovolts").has(t, "At least", "ships as 6.5")
	reset := values("version", version(t, "/shop"), "row", "fault:connector.loose", "reset", "yes")
	if a := post(t, "/shop/row", reset); a.StatusCode != http.StatusSeeOther {
		t.Errorf("as it ships again answers %d", a.StatusCode)
	}
	if strings.Contains(get(t, "/shop").readable(), "salted roads") {
		t.Error("the own row is still there")
	}
}

// A job can go by the usual order, and back; the page says what that costs.
func TestSchools(t *testing.T) {
	job := "/jobs/" + numbers["tracing"]
	if a := post(t, job+"/school", values("school", "usual-order")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("answers %d", a.StatusCode)
	}
	get(t, job).has(t, "Plan: the usual order", "Use lowest cost")
	if a := post(t, job+"/school", values("school", "")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("answers %d", a.StatusCode)
	}
	get(t, job).has(t, "Plan: lowest expected cost")
}

// What if, on every job of the demo and for every step that it offers: each page says what
// would come, the chances of its outcomes sum to about 1, and nothing is recorded.
func TestWhatIfOfEverything(t *testing.T) {
	link := regexp.MustCompile(`href="(/jobs/[^"]*/what-if\?[^"]*)"`)
	chance := regexp.MustCompile(`<h3>[^<]*<span class="chance">(?:&lt;|&gt;)?([0-9]+)[^<]*%`)
	pages := 0
	for id, number := range numbers {
		before := version(t, "/jobs/"+number+"/watch")
		first := get(t, "/jobs/"+number+"/what-if")
		seen := map[string]bool{}
		for _, m := range link.FindAllStringSubmatch(first.body, -1) {
			path := strings.ReplaceAll(m[1], "&amp;", "&")
			if seen[path] || len(seen) == 3 {
				continue
			}
			seen[path] = true
			a := get(t, path)
			if a.StatusCode != http.StatusOK {
				t.Errorf("%s: %s answers %d", id, path, a.StatusCode)
			}
			a.has(t, "What if: ", "Nothing is recorded here")
			sum := 0
			for _, c := range chance.FindAllStringSubmatch(a.body, -1) {
				n, _ := strconv.Atoi(c[1])
				sum += n
			}
			if n := len(chance.FindAllString(a.body, -1)); n > 0 && (sum < 92 || sum > 108) {
				t.Errorf("%s: %s: %d outcomes sum to %d %%", id, path, n, sum)
			}
			pages++
		}
		if after := version(t, "/jobs/"+number+"/watch"); after != before {
			t.Errorf("%s: version %s, then %s", id, before, after)
		}
	}
	if pages < 20 {
		t.Errorf("%d pages looked at", pages)
	}
}

// How sure a witness was is kept and shown, and a form that was refused keeps the choice.
func TestCertaintyIsKept(t *testing.T) {
	job := "/jobs/" + numbers["gone"]
	refused := post(t, job+"/watch", values("version", version(t, job+"/watch"), "by", "Wyn", "certainty", "think-so"))
	if refused.StatusCode != http.StatusUnprocessableEntity || !strings.Contains(refused.body, `<option value="think-so" selected>`) {
		t.Errorf("answers %d and loses the choice", refused.StatusCode)
	}
	if a := post(t, job+"/watch", values("version", version(t, job+"/watch"), "by", "Wyn", "clean", "yes", "certainty", "heard")); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("answers %d", a.StatusCode)
	}
	get(t, job).has(t, "heard from others")
}

// What is said of the suspects: every one but the first says why it does not stand
// higher, those whose part has a known age say how that counted, the modes that are
// named are few, and what two at once have is said where it is worth it.
func TestWhatIsSaidOfSuspects(t *testing.T) {
	whys := func(body string) int { return strings.Count(body, "Why not higher?") }
	for id, c := range map[string]struct{ has, hasNot []string }{
		"P-07":     {[]string{"Its age counts: at 115", "less likely"}, []string{"Two at once"}},
		"followed": {[]string{"The complaint counts: it fails under load, so "}, nil},
		"T-03":     {[]string{"Two at once", "driver of cylinder 3 with plug P3"}, nil},
	} {
		a := get(t, "/jobs/"+numbers[id]+"?all=reasons")
		a.has(t, c.has...)
		for _, words := range c.hasNot {
			if strings.Contains(a.readable(), words) {
				t.Errorf("%s says %q", id, words)
			}
		}
		text, _, _ := strings.Cut(a.readable(), "\n")
		suspects := strings.Count(text, `before any evidence`)
		if n := whys(text); n != suspects-1 || n < 5 {
			t.Errorf("%s: %d of %d suspects say why they do not stand higher", id, n, suspects)
		}
	}
}

// The usual order and the plan differ only in what they ask for next: the same suspects
// with the same figures, the same gates, whichever is chosen.
func TestSchoolsShareTheEvidence(t *testing.T) {
	job := "/jobs/" + numbers["followed"]
	said := func() string {
		var all []string
		for _, n := range elements(get(t, job+"?all=reasons"), "summary", "") {
			if text := textOf(n); strings.Contains(text, "%") {
				all = append(all, text)
			}
		}
		return strings.Join(all, "\n")
	}
	planned := said()
	post(t, job+"/school", values("school", "usual-order"))
	usual := said()
	post(t, job+"/school", values("school", ""))
	if planned != usual || strings.Count(planned, "\n") < 20 {
		t.Errorf("by the plan\n%s\nby the usual order\n%s", planned, usual)
	}
}

// An own row that this version has no place for is named, does not take the others with it, and is in
// the way of no change.
func TestOwnRowGone(t *testing.T) {
	all := url.Values{"rate": {"60"}, "wrong": {"240"}, "version": {version(t, "/shop")}}
	for _, tool := range shop.ToolNames() {
		all.Add("tool", tool)
	}
	if a := post(t, "/shop", all); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d: %s", a.StatusCode, a.body)
	}
	db, err := sql.Open("pgx", database)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	set := func(rows string) {
		t.Helper()
		if _, err := db.ExecContext(t.Context(), "update shop set settings = jsonb_set(settings, '{rows}', $1::jsonb)", rows); err != nil {
			t.Fatal(err)
		}
	}
	set(`[{"row": "severity:contacts", "values": [1], "reason": "salted roads", "by": "Wyn"}, {"row": "step:swap.coil", "values": [9], "reason": "two hands", "by": "Wyn"}]`)
	get(t, "/shop").has(t, "No longer counted", "severity:contacts", "salted roads", "two hands")
	all.Set("version", version(t, "/shop"))
	if a := post(t, "/shop", all); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d: %s", a.StatusCode, a.body)
	}
	page := get(t, "/shop")
	page.has(t, "two hands")
	if strings.Contains(page.readable(), "No longer counted") {
		t.Error("it is still there after a change was saved")
	}
	set("[]")
}
