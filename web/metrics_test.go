package web_test

import (
	"bytes"
	"errors"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"glenmist/backup"
	"glenmist/web"
	"glenmist/web/page"
	"glenmist/web/webtest"
)

// Requests are counted by route, never by address, and a panic with its request's id in the log.
func TestMetrics(t *testing.T) {
	reg := prometheus.NewRegistry()
	var log bytes.Buffer
	failing := &backup.Schedule{Dir: t.TempDir(), Every: time.Hour, Log: slog.New(slog.DiscardHandler), Now: func() time.Time { return moment }}
	failing.Database.Tool = func(string) (string, error) { return "", errors.New("none") }
	_ = failing.Make(t.Context())
	h, err := web.New(page.Config{Jobs: jobs, Log: slog.New(slog.NewTextHandler(&log, nil)), Now: func() time.Time { return moment }, Version: "test",
		Loopback: true, Metrics: reg, Backups: failing})
	if err != nil {
		t.Fatal(err)
	}
	h = webtest.As(h, signedIn)
	for _, path := range []string{"/calc", "/jobs/none-1", "/jobs/none-2", "/no/such/page"} {
		r := httptest.NewRequest(http.MethodGet, "http://localhost"+path, nil)
		h.ServeHTTP(httptest.NewRecorder(), r)
	}
	h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("BREW", "http://localhost/calc", nil))
	out := httptest.NewRecorder()
	promhttp.HandlerFor(reg, promhttp.HandlerOpts{}).ServeHTTP(out, httptest.NewRequest(http.MethodGet, "/metrics", nil))
	for _, line := range []string{
		`glenmist_requests_total{method="GET",route="/calc",status="2xx"} 1`,
		`glenmist_requests_total{method="GET",route="/jobs/{id}",status="4xx"} 2`,
		`glenmist_requests_total{method="other",route="none",status="4xx"} 1`,
		`glenmist_request_seconds_count{route="/calc"} 1`,
		`glenmist_requests_running 0`, `glenmist_panics_total 0`, `glenmist_spooled_bytes 0`, `glenmist_captures_waiting 0`, `glenmist_backup_failed 1`,
		`go_sql_open_connections{db_name="glenmist"} `,
	} {
		if !strings.Contains(out.Body.String(), "\n"+line) {
			t.Errorf("no line %q in\n%s", line, out.Body.String())
		}
	}
	if strings.Contains(out.Body.String(), "none-1") {
		t.Error("a label holds an address")
	}
}
