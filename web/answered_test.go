package web

import (
	"bytes"
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"glenmist/store"
	"glenmist/web/page"

	"github.com/go-chi/chi/v5"
)

// A handler that ends without an answer is answered for: with 503 when its time has run out or its
// client has gone, with 500 else; and a panic is logged with its stack.
func TestEveryRequestIsAnswered(t *testing.T) {
	assets, err := page.LoadAssets(built)
	if err != nil {
		t.Fatal(err)
	}
	pages, err := page.LoadTemplates(assets, templates...)
	if err != nil {
		t.Fatal(err)
	}
	away, err := store.Open("postgres://x:y@127.0.0.1:1/z")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = away.Close() }()
	var log bytes.Buffer
	reg := prometheus.NewRegistry()
	s := newServer(page.New(page.Config{Jobs: away, Log: slog.New(slog.NewTextHandler(&log, nil)), Metrics: reg}, assets, pages))
	gone, leave := context.WithCancel(t.Context())
	leave()
	for name, c := range map[string]struct {
		ctx    context.Context
		handle http.HandlerFunc
		code   int
		logged string
	}{
		"nothing":         {t.Context(), func(http.ResponseWriter, *http.Request) {}, 500, "no answer"},
		"called off":      {gone, func(http.ResponseWriter, *http.Request) {}, 503, "called"},
		"an answer":       {t.Context(), func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(204) }, 204, ""},
		"a word":          {t.Context(), func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("x")) }, 200, ""},
		"a panic":         {t.Context(), func(http.ResponseWriter, *http.Request) { panic("out of range") }, 500, "answered_test.go"},
		"a refused write": {t.Context(), func(w http.ResponseWriter, r *http.Request) { s.Fail(w, r, 409, "x") }, 409, ""},
	} {
		log.Reset()
		w := httptest.NewRecorder()
		s.recovered(s.answered(c.handle)).ServeHTTP(w, httptest.NewRequestWithContext(c.ctx, http.MethodPost, "/x", nil))
		if c.code == 500 && !strings.Contains(w.Body.String(), "Something went wrong here. Nothing was recorded.") {
			t.Errorf("%s: the page says %.300s", name, w.Body.String())
		}
		if w.Code != c.code || !strings.Contains(log.String(), c.logged) {
			t.Errorf("%s: %d, want %d; log %s", name, w.Code, c.code, log.String())
		}
	}
	families, err := reg.Gather()
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range families {
		if f.GetName() == "glenmist_panics_total" && f.GetMetric()[0].GetCounter().GetValue() != 1 {
			t.Errorf("%v panics are counted", f.GetMetric())
		}
	}
}

// limits is a writer that notes the deadlines which are set on its connection.
type limits struct {
	http.ResponseWriter
	read, write time.Time
}

func (l *limits) SetReadDeadline(at time.Time) error  { l.read = at; return nil }
func (l *limits) SetWriteDeadline(at time.Time) error { l.write = at; return nil }

// A route bounds reading, working and writing.
func TestDeadlineBoundsReadingWorkingAndWriting(t *testing.T) {
	began := time.Now()
	w := &limits{ResponseWriter: httptest.NewRecorder()}
	var end time.Time
	deadline(time.Minute)(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) { end, _ = r.Context().Deadline() })).ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/", nil))
	for name, at := range map[string]time.Time{"work": end, "reading": w.read, "writing": w.write.Add(-time.Second)} {
		if at.Before(began.Add(time.Minute)) || at.After(time.Now().Add(time.Minute)) {
			t.Errorf("%s ends at %v", name, at)
		}
	}
}

// Whatever is added to the router has a deadline, bounds its body, and does not find an address that is
// no text. The health of the server is asked without parameters, and static files have their own names.
func TestEveryRouteIsBounded(t *testing.T) {
	away, err := store.Open("postgres://x:y@127.0.0.1:1/z")
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = away.Close() }()
	stopped, stop := context.WithCancel(t.Context())
	stop()
	h, err := New(page.Config{Jobs: away, Log: slog.New(slog.DiscardHandler), Now: time.Now, Stopping: stopped})
	if err != nil {
		t.Fatal(err)
	}
	parameter := regexp.MustCompile(`\{\w+\}`)
	routes := 0
	err = chi.Walk(h.(chi.Router), func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if route == "/healthz" || route == "/readyz" || strings.HasPrefix(route, "/static/") {
			return nil
		}
		routes++
		address := parameter.ReplaceAllString(route, "1")
		body := &counted{}
		w := &limits{ResponseWriter: httptest.NewRecorder()}
		r := httptest.NewRequestWithContext(t.Context(), method, "http://localhost"+address, body)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		h.ServeHTTP(w, r)
		if w.read.IsZero() || w.write.IsZero() {
			t.Errorf("%s %s has no deadline", method, route)
		}
		if body.read > 20<<20 {
			t.Errorf("%s %s reads %d bytes", method, route, body.read)
		}
		if address != route {
			bad := httptest.NewRecorder()
			h.ServeHTTP(bad, httptest.NewRequestWithContext(t.Context(), method, "http://localhost"+parameter.ReplaceAllString(route, "%FF"), nil))
			if bad.Code != http.StatusNotFound {
				t.Errorf("%s %s with %%FF answers %d", method, route, bad.Code)
			}
		}
		return nil
	})
	if err != nil || routes < 50 {
		t.Errorf("%d routes, %v", routes, err)
	}
}

// counted is a body of spaces without an end; what is read of it is counted.
type counted struct{ read int }

func (c *counted) Read(p []byte) (int, error) {
	for i := range p {
		p[i] = ' '
	}
	c.read += len(p)
	return len(p), nil
}
