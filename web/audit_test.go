package web_test

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
)

// What is done beside the ledgers is in the audit log, with who did it; reading it is no part of a lesser role.
func TestAuditLog(t *testing.T) {
	w := staffed(t, nil)
	lead := w.signIn("the lead")
	admin := w.signIn("the administrator")
	job := "/jobs/" + w.jobs["new"]
	w.send(job+"/school", values("school", "usual-order"), lead)
	w.send(job+"/fails", values("fails_when", "hot"), lead)
	w.send(job+"/export", nil, lead)
	w.send("/jobs.csv", nil, lead)
	w.send("/catalogue", values("kind", "plug", "number", "=UP-1"), lead)
	w.send("/shop", values("version", version2(w, "/shop", lead), "rate", "75", "wrong", "120"), lead)
	w.send("/people", values("name", "Nim", "role", "apprentice", "password", "easy"), admin)
	w.send("/people", values("name", "Nim", "role", "apprentice", "password", password), admin)
	w.send("/sign-in", values("name", "Nim", "password", "wrong"))
	page := w.send("/audit", nil, admin)
	for _, line := range [][]string{
		{"the lead", "school of a job changed", w.jobs["new"], "usual-order"}, {"the lead", "complaint changed", w.jobs["new"], "fails when: hot"},
		{"the lead", "job exported", w.jobs["new"], "as a case file"}, {"the lead", "table exported", "jobs"}, {"the lead", "catalogue part saved", "=UP-1"},
		{"the lead", "settings changed", "workshop", "an hour of work 75, was 60"}, {"the administrator", "person added", "Nim", "as apprentice"},
		{"somebody", "sign-in refused", "Nim"}, {"the lead", "signed in", "the lead", "by password"}, {"the program", "person added", "the lead"},
	} {
		row := regexp.MustCompile(strings.Join(mapped(line, regexp.QuoteMeta), `\s+`))
		if !row.MatchString(strings.Join(strings.Fields(page.readable()), " ")) {
			t.Errorf("no line %v", line)
		}
	}
	if strings.Count(page.body, "person added") != 8 { // four roles, three of the demo, and Nim once
		t.Errorf("%d people were added", strings.Count(page.body, "person added"))
	}
	w.send("/audit?person=the+lead&subject=jobs", nil, admin).has(t, "table exported")
	rows, err := csv.NewReader(strings.NewReader(w.send("/audit.csv?subject="+url.QueryEscape("=UP-1"), nil, admin).body)).ReadAll()
	if err != nil || len(rows) != 2 || rows[1][4] != "'=UP-1" {
		t.Errorf("%v, %v", rows, err)
	}
}

func mapped(list []string, f func(string) string) (all []string) {
	for _, s := range list {
		all = append(all, f(s))
	}
	return all
}

// Deleting is asked twice, says what goes and what stays, and leaves a page that says so.
func TestDeleting(t *testing.T) {
	w := staffed(t, nil)
	admin := w.signIn("the administrator")
	number := w.jobs["new"]
	w.send("/erase/job/"+number, nil, admin).has(t, "Delete the job", number, "the ledger with all entries", "Its number, with who deleted it", "cannot be undone")
	bad := w.send("/erase/job/"+number, values("reason", "entered twice"), admin)
	if bad.has(t, "it cannot be undone", `value="entered twice"`); bad.StatusCode != http.StatusUnprocessableEntity {
		t.Errorf("without a tick: %d", bad.StatusCode)
	}
	w.send("/erase/job/"+number, values("sure", "yes"), admin).has(t, "why it is deleted")
	done := w.send("/erase/job/"+number, values("sure", "yes", "reason", "entered twice"), admin)
	w.send(done.Header.Get("Location"), nil, admin).has(t, "Job "+number+" is deleted.")
	gone := w.send("/jobs/"+number, nil, admin)
	if gone.has(t, "was deleted on", "by the administrator: entered twice"); gone.StatusCode != http.StatusGone {
		t.Errorf("a deleted job answers %d", gone.StatusCode)
	}
	owner := w.send("/erase/owner/B-21", values("sure", "yes"), admin)
	if a := w.send(owner.Header.Get("Location"), nil, admin); owner.StatusCode != http.StatusSeeOther || a.StatusCode != http.StatusOK {
		t.Errorf("the owner's data: %d, then %d", owner.StatusCode, a.StatusCode)
	}
	if a := w.send("/vehicles/B-21", nil, admin); a.StatusCode != http.StatusNotFound {
		t.Errorf("the old number answers %d", a.StatusCode)
	}
	everybody, err := w.db.People(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, p := range everybody {
		if p.Name == "the apprentice" {
			w.send(fmt.Sprintf("/erase/person/%d", p.ID), nil, admin).has(t, "the apprentice", "under a number instead of the name")
			w.send(w.send(fmt.Sprintf("/erase/person/%d", p.ID), values("sure", "yes"), admin).Header.Get("Location"), nil, admin).has(t, fmt.Sprintf("person %d", p.ID), "replaced wherever it stood")
		}
	}
	for _, path := range []string{"/erase/job/none", "/erase/owner/none", "/erase/person/99", "/erase/all/1"} {
		if a := w.send(path, values("sure", "yes", "reason", "x"), admin); a.StatusCode != http.StatusNotFound {
			t.Errorf("%s answers %d", path, a.StatusCode)
		}
	}
}
