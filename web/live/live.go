// Package live has the pages that talk to a vehicle: reading its control units, clearing, watching it run, and the road test. What
// a browser sees is worked out here; the script only puts it in place.
package live

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"sync/atomic"

	"glenmist/bus"
	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/forbid"
	"glenmist/core/invalid"
	"glenmist/core/obd"
	"glenmist/link"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Pages handles the pages that talk to a vehicle.
type Pages struct {
	*jobs.Pages
	watching atomic.Int32 // browsers that get events
}

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(of *jobs.Pages) *Pages { return &Pages{Pages: of} }

// View reads, clears and watches the vehicle.
var View = jobs.View{
	Name: "live", Title: "Live", Tab: "Live", Key: "U", Does: "Read, clear and watch the vehicle",
	Phases: []course.Phase{course.Scan, course.Prove}, Bare: true,
	Offered: func(e engine.Engine) bool { return e.Scanned() },
	Blank:   func(_ jobs.Loaded, query url.Values) url.Values { return url.Values{"do": {query.Get("do")}} },
	Read: func(jobs.Loaded, url.Values) (evidence.Entry, invalid.Errors) {
		return evidence.Entry{}, invalid.Errors{{Expected: "a reading, a clearing or a run", Got: "a form of another view"}}
	},
	Field: func(jobs.Loaded, url.Values, string) string { return "" },
	Model: func(it jobs.Loaded, f page.Form) any { return newModel(it, f) },
	More: func(s *jobs.Pages, r *http.Request, it jobs.Loaded, m any) (any, error) {
		return more(s, r, it, m.(model))
	},
}

// model is the view as its template sees it.
type model struct {
	// Connected is true if vehicles can be reached at all.
	Connected bool
	Busy      string // why this vehicle cannot be
	Board     board
	// Clearing is true if the page asks whether to clear; Wiped is what that erases.
	Clearing bool
	Wiped    string
	Known    string // the codes that are on record
	Ban      *forbid.Ban
	Banks    []int
	// Cylinders are those of the engine.
	Cylinders []engine.Cylinder
	Drives    []store.Drive
	// Recording is the number of the run that is being recorded; 0 if none is.
	Recording int
	Doings    []doing
	Paces     []pace
	Exposures string // what is counted by hand; "" if nothing is
}

type doing struct{ Command, Words string }

// doings are what the driver of a simulated vehicle can do.
var doings = []doing{{"drive off", "Engine off"}, {"drive idle", "Idle"}, {"drive road", "Road"}, {"drive hill", "Hill"}, {"cool", "Leave it overnight"}}

type pace struct {
	Command, Words string
}

var paces = []pace{{"pace 1", "real time"}, {"pace 10", "10 times"}, {"pace 60", "60 times"}}

func newModel(it jobs.Loaded, f page.Form) model {
	j, a := it.Record.Job, it.Assessment()
	m := model{Clearing: f.Get("do") == "clear", Wiped: evidence.Wiped, Doings: doings, Paces: paces, Cylinders: a.Engine.All()}
	for b := 1; b <= a.Engine.Banks(); b++ {
		m.Banks = append(m.Banks, b)
	}
	for _, e := range j.Ledger.InOrder() {
		if e.Codes() != nil {
			m.Known = fmt.Sprintf("%s (entry %d)", e.Words(), e.Seq)
		}
	}
	if bans := forbid.Of(a.Moments); len(bans) > 0 {
		m.Ban = &bans[0]
		m.Doings = doings[:1] // the engine stays off
	}
	return m
}

// more adds the vehicle and the stored runs.
func more(s *jobs.Pages, r *http.Request, it jobs.Loaded, m model) (model, error) {
	m.Connected = s.Vehicles != nil
	if !m.Connected {
		return m, nil
	}
	watch := watchOf(it)
	m.Exposures = watch.byHand()
	session, err := s.Vehicles.Join(it.Record.Job)
	if err != nil {
		m.Busy = err.Error()
	} else {
		snap, _ := session.Now()
		m.Board = watch.board(snap, session.Recent())
		if snap.Run != nil {
			m.Recording = snap.Run.Number
		}
	}
	m.Drives, err = s.Jobs.Drives(r.Context(), it.Record.Job.Number)
	return m, err
}

// vehicle returns the connection of a job. It answers the request itself if there is none, or if the engine has to run and a
// finding forbids that.
func (s *Pages) vehicle(w http.ResponseWriter, r *http.Request, it jobs.Loaded, runs bool) (*link.Session, bool) {
	if s.Vehicles == nil || !it.Assessment().Engine.Scanned() {
		s.NotFound(w, r)
		return nil, false
	}
	if bans := forbid.Of(it.Assessment().Moments); runs && len(bans) > 0 {
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Expected: "an engine that may run: " + bans[0].Lifts, Got: bans[0].Because})
		return nil, false
	}
	session, err := s.Vehicles.Join(it.Record.Job)
	if err != nil {
		s.refuse(w, r, it, http.StatusServiceUnavailable, invalid.Error{Expected: "a free connection to the vehicle", Got: err.Error()})
		return nil, false
	}
	return session, true
}

// refuse shows the page with errors.
func (s *Pages) refuse(w http.ResponseWriter, r *http.Request, it jobs.Loaded, code int, bad ...invalid.Error) {
	s.ShowForm(w, r, code, it, View, page.NewForm(r.PostForm, bad, func(string) string { return "" }))
}

// failVehicle shows why the vehicle did not do what was asked.
func (s *Pages) failVehicle(w http.ResponseWriter, r *http.Request, it jobs.Loaded, err error) {
	var refusal obd.Refusal
	bad := invalid.Error{Expected: "the vehicle's answer", Got: err.Error()}
	switch {
	case errors.As(err, &refusal):
		bad.Expected = "a control unit that does it: stop the engine, ignition on, and try again"
	case errors.Is(err, obd.ErrNoAnswer), errors.Is(err, obd.ErrSilent), errors.Is(err, bus.ErrNoEngine):
		bad.Expected = "a control unit that answers: check the plug, and that the ignition is on"
	case errors.Is(err, bus.ErrLost), errors.Is(err, context.DeadlineExceeded):
		bad.Expected = "a connection to the vehicle: check the cable"
	}
	s.refuse(w, r, it, http.StatusServiceUnavailable, bad)
}
