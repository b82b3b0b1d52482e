package live

import (
	"fmt"
	"net/http"
	"sync/atomic"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/web/jobs"
)

// Limits of the events.
const (
	mostWatching = 60
	leastPause   = 250 * time.Millisecond // between two events
	keepAlive    = 10 * time.Second
)

var watching atomic.Int32

// Events sends the board as server-sent events whenever it changes, until the browser leaves. Each event is the whole board, so a
// browser that comes back has missed nothing.
func (s *Pages) Events(w http.ResponseWriter, r *http.Request) {
	if s.Vehicles == nil {
		s.NotFound(w, r)
		return
	}
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	set, _, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if !rec.Job.Vehicle.Engine.Scanned() {
		s.NotFound(w, r)
		return
	}
	session, err := s.Vehicles.Join(rec.Job)
	if err != nil || watching.Add(1) > mostWatching {
		if err == nil {
			watching.Add(-1)
		}
		s.Fail(w, r, http.StatusServiceUnavailable, "The connection to the vehicle is in use.")
		return
	}
	defer watching.Add(-1)
	defer session.Watch()()
	of := watchOf(jobs.NewLoaded(rec, set, false))
	w.Header().Set("Content-Type", "text/event-stream")
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("X-Accel-Buffering", "no")
	send := http.NewResponseController(w)
	out := s.Patient(w, r)
	if _, err := fmt.Fprint(out, "retry: 1000\n\n"); err != nil {
		return
	}
	for {
		now, changed := session.Now()
		data, err := json.Marshal(of.board(now, session.Recent()), json.Deterministic(true))
		if err != nil {
			return
		}
		if _, err := fmt.Fprintf(out, "id: %d\ndata: %s\n\n", now.Seq, data); err != nil { //nolint:gosec // JSON in an event stream
			return
		}
		if err := send.Flush(); err != nil {
			return
		}
		select {
		case <-r.Context().Done():
			return
		case <-s.Stopping.Done():
			return
		case <-time.After(leastPause):
		}
		select {
		case <-r.Context().Done():
			return
		case <-s.Stopping.Done():
			return
		case <-changed:
		case <-time.After(keepAlive):
		}
	}
}
