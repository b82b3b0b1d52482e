// Package link keeps the connections to vehicles: one for each job that somebody watches or records. A connection that is lost is
// made again, and the run goes on.
package link

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"

	"glenmist/bus"
	"glenmist/core/job"
)

// Vehicles connects to the vehicle of a job.
type Vehicles interface {
	Connect(ctx context.Context, j job.Job) (bus.Bus, error)
	// Shared reports whether all jobs have the same bus, so that one job at a time can use it.
	Shared() bool
}

// Keep stores rows of a run while it is recorded, so that a crash of the server loses at most keepEvery of it. seconds and samples
// are the length of the rows.
type Keep func(ctx context.Context, rows []byte, seconds float64, samples int) error

// mostSessions bounds the connections of a server.
const mostSessions = 12

// Times of a session.
const (
	unwatched = time.Minute      // after which a connection that nobody watches ends
	handover  = 10 * time.Second // after which another job can have the only bus
	period    = 100 * time.Millisecond
	// Longest is how long a run is recorded at most.
	Longest   = 3 * time.Hour
	keepEvery = 20 * time.Second
	keepTime  = 5 * time.Second
)

// ErrBusy means that the only bus is in use by another job, or that there are too many connections.
var ErrBusy = errors.New("the connection is in use")

// Hub has the sessions of a server. It is safe for concurrent use.
type Hub struct {
	vehicles Vehicles
	stopping context.Context

	mu       sync.Mutex
	sessions map[string]*Session
}

// NewHub returns a hub without sessions. They end when stopping does.
func NewHub(stopping context.Context, v Vehicles) *Hub {
	return &Hub{vehicles: v, stopping: stopping, sessions: map[string]*Session{}}
}

// Join returns the session of a job, which begins if there is none. The vehicle becomes the one of the job as it now stands.
// It fails with ErrBusy.
func (h *Hub) Join(j job.Job) (*Session, error) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if s := h.sessions[j.Number]; s != nil && s.ctx.Err() == nil {
		s.become(j)
		return s, nil
	}
	if h.vehicles.Shared() {
		for number, s := range h.sessions {
			if s.Watched() {
				return nil, fmt.Errorf("%w by job %s", ErrBusy, number)
			}
			s.end()
			delete(h.sessions, number)
		}
	}
	if len(h.sessions) >= mostSessions {
		return nil, fmt.Errorf("%w by %d jobs", ErrBusy, len(h.sessions))
	}
	s := newSession(h.stopping, h.vehicles, j)
	h.sessions[j.Number] = s
	go func() {
		s.run()
		h.mu.Lock()
		defer h.mu.Unlock()
		if h.sessions[j.Number] == s {
			delete(h.sessions, j.Number)
		}
	}()
	return s, nil
}

// Of returns the session of a job, or nil.
func (h *Hub) Of(number string) *Session {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.sessions[number]
}
