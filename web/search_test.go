package web_test

import (
	"encoding/csv"
	"net/http"
	"net/url"
	"strings"
	"testing"
)

// Jobs are searched by address: by words, in a file too, and what is no search shows the whole list.
func TestSearchJobs(t *testing.T) {
	opened := post(t, "/jobs", values("fleet", "S-71", "what", "test bed", "distance", "1000 km", "complaint", "=SUM(A1) shakes", "by", "Wyn", "pattern", "four-across"))
	number := strings.TrimPrefix(opened.Header.Get("Location"), "/jobs/")
	get(t, "/jobs?q="+number).has(t, `class="fleet">S-71`, "1 job.", "/jobs.csv?q="+number)
	get(t, "/jobs?q="+number+"&layout=magneto").has(t, "No job matches this search.")
	if a := get(t, "/jobs?state=new&q="+number); !strings.Contains(a.body, `<option value="new" selected>New`) || !strings.Contains(a.body, "<details open>") || !strings.Contains(a.body, `class="fleet">S-71`) {
		t.Errorf("%.3000s", a.body)
	}
	get(t, "/vehicles/S-71").has(t, "/jobs?fleet=S-71", "All its jobs")
	get(t, "/jobs?fleet=S-71").has(t, "1 job.")
	get(t, "/jobs?q="+strings.Repeat("x", 5000)).has(t, "Search the jobs")
	get(t, "/jobs?q=%00%ff").has(t, "Search the jobs")
	if a := get(t, "/jobs?after=nowhere"); a.StatusCode != http.StatusSeeOther || a.Header.Get("Location") != "/jobs" {
		t.Errorf("%d to %s", a.StatusCode, a.Header.Get("Location"))
	}
	a := get(t, "/jobs.csv?q="+url.QueryEscape(number))
	rows, err := csv.NewReader(strings.NewReader(a.body)).ReadAll()
	if err != nil || len(rows) != 2 || rows[1][0] != number || rows[1][3] != "S-71" || rows[1][6] != "'=SUM(A1) shakes" || !strings.HasPrefix(a.Header.Get("Content-Type"), "text/csv") {
		t.Errorf("%v: %v", err, rows)
	}
}

// A search is kept for the person, from the list and to the list.
func TestSearchIsKept(t *testing.T) {
	w := staffed(t, nil)
	lead, other := w.signIn("the lead"), w.signIn("the technician")
	kept := w.send("/searches", values("query", "state=proven&q=coil", "name", "Proven coils"), lead)
	if kept.Header.Get("Location") != "/jobs?q=coil&state=proven" {
		t.Errorf("%d to %s", kept.StatusCode, kept.Header.Get("Location"))
	}
	w.send("/jobs", nil, lead).has(t, `href="/jobs?q=coil&state=proven"`, "Proven coils")
	if a := w.send("/jobs", nil, other); strings.Contains(a.body, "Proven coils") {
		t.Error("another person sees the search")
	}
	w.send("/searches", values("query", "q=x", "name", strings.Repeat("x", 41)), lead).has(t, "up to 40 letters")
	w.send("/searches", values("drop", "Proven coils"), lead)
	if a := w.send("/jobs", nil, lead); strings.Contains(a.body, "Proven coils") {
		t.Error("the search is still there")
	}
	w.send("/jobs?mine=yes", nil, lead).has(t, "No job matches this search.")
}
