package page

import (
	"fmt"
	"net/http"
	"time"

	"github.com/go-json-experiment/json"
)

// Events sends server-sent events to one browser.
type Events struct {
	app  *App
	r    *http.Request
	out  http.ResponseWriter
	send *http.ResponseController
}

// NewEvents begins an answer of server-sent events. A browser that loses it comes back after a second.
func (s *App) NewEvents(w http.ResponseWriter, r *http.Request) *Events {
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("X-Accel-Buffering", "no")
	return &Events{s, r, s.Patient(w, r), http.NewResponseController(w)}
}

// Send sends an event as JSON. It reports whether the browser is still there.
func (e *Events) Send(id int, event any) bool {
	data, err := json.Marshal(event, json.Deterministic(true))
	if err != nil {
		return false
	}
	_, err = fmt.Fprintf(e.out, "id: %d\nretry: 1000\ndata: %s\n\n", id, data) //nolint:gosec // JSON in an event stream
	return err == nil && e.send.Flush() == nil
}

// Wait waits for a time, or until a channel is closed; nil never is. It reports whether to go on: the browser is there, and the
// server does not stop.
func (e *Events) Wait(d time.Duration, sooner <-chan struct{}) bool {
	select {
	case <-e.r.Context().Done():
		return false
	case <-e.app.Stopping.Done():
		return false
	case <-sooner:
	case <-time.After(d):
	}
	return true
}
