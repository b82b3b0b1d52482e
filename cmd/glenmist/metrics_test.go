package main

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"strings"
	"testing"
)

// The metrics are served on this machine alone, in the text format, until the program stops.
func TestServeMetrics(t *testing.T) {
	ctx, stop := context.WithCancel(t.Context())
	log := slog.New(slog.DiscardHandler)
	if _, err := serveMetrics(ctx, "0.0.0.0:0", newRegistry(), log); err == nil || !strings.Contains(err.Error(), "expected an address of this machine") {
		t.Errorf("for all: %v", err)
	}
	at, err := serveMetrics(ctx, "127.0.0.1:0", newRegistry(), log)
	if err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]struct {
		code int
		has  string
	}{at: {http.StatusOK, "\ngo_goroutines "}, strings.TrimSuffix(at, "metrics"): {http.StatusNotFound, ""}} {
		page, err := http.Get(path)
		if err != nil {
			t.Fatal(err)
		}
		body, _ := io.ReadAll(page.Body)
		_ = page.Body.Close()
		if page.StatusCode != want.code || !strings.Contains(string(body), want.has) {
			t.Errorf("%s: %d %.200s", path, page.StatusCode, body)
		}
	}
	http.DefaultClient.CloseIdleConnections()
	stop()
	for { // it closes while it is asked
		page, err := http.Get(at)
		if err != nil {
			break
		}
		_ = page.Body.Close()
	}
}
