package web_test

import (
	"glenmist/people"
	"glenmist/store"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"
)

// The first job of a workshop has a checklist that ticks itself; with a second job it is gone.
func TestFirstJobHasAChecklist(t *testing.T) {
	own, err := server.Create(t.Context(), "first_job", "")
	if err != nil {
		t.Fatal(err)
	}
	db, err := store.Open(own.URL)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	if _, err := store.MigrateAs(t.Context(), own.OwnerURL, own.URL); err != nil {
		t.Fatal(err)
	}
	if _, err := db.AddPerson(t.Context(), "Wyn", people.Technician, ""); err != nil {
		t.Fatal(err)
	}
	h, err := web.New(page.Config{Jobs: db, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }, Version: "test", Loopback: true, Demo: true})
	if err != nil {
		t.Fatal(err)
	}
	session, err := webtest.SignIn(h, "Wyn")
	if err != nil {
		t.Fatal(err)
	}
	h = webtest.As(h, session)
	send := func(method, path string, form string) answer {
		r := httptest.NewRequestWithContext(t.Context(), method, path, strings.NewReader(form))
		if method == http.MethodPost {
			r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		}
		r.Host = "127.0.0.1"
		return through(t, h, r)
	}
	open := func(fleet string) string {
		return send(http.MethodPost, "/jobs", values("fleet", fleet, "what", "van", "distance", "1000", "complaint", "shakes", "pattern", "four-across").Encode()).Header.Get("Location")
	}
	first := open("F-1")
	a := send(http.MethodGet, first, "")
	a.has(t, "Your first job", "○ Read the codes", "✓ Open a job", "○ State when it fails")
	send(http.MethodPost, first+"/codes", values("version", fields(send(http.MethodGet, first+"/codes", "")).Get("version"), "code-1", "P0302").Encode())
	send(http.MethodGet, first, "").has(t, "✓ Read the codes", "○ Sign the verdict")
	open("F-2")
	if b := send(http.MethodGet, first, ""); elements(b, "ol", "first-job") != nil {
		t.Error("the checklist stays with a second job")
	}
}
