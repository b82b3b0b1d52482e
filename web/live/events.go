package live

import (
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"glenmist/web/jobs"
)

// Limits of the events.
const (
	mostWatching = 60
	leastPause   = 250 * time.Millisecond // between two events
	keepAlive    = 10 * time.Second
)

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
	if err != nil || s.watching.Add(1) > mostWatching {
		if err == nil {
			s.watching.Add(-1)
		}
		s.Fail(w, r, http.StatusServiceUnavailable, "The connection to the vehicle is in use.")
		return
	}
	defer s.watching.Add(-1)
	defer session.Watch()()
	of := watchOf(jobs.NewLoaded(rec, set, false))
	events := s.NewEvents(w, r)
	for {
		now, changed := session.Now()
		if !events.Send(now.Seq, of.board(now, session.Recent())) || !events.Wait(leastPause, nil) || !events.Wait(keepAlive, changed) {
			return
		}
	}
}
