package live

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/live"
	"glenmist/link"
	"glenmist/store"
	"glenmist/web/jobs"
)

// Begin begins to record a run.
func (s *Pages) Begin(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	session, ok := s.vehicle(w, r, it, true)
	if !ok {
		return
	}
	number, of := it.Record.Job.Number, watchOf(it)
	if now, _ := session.Now(); now.Run != nil {
		s.back(w, r, it) // sent twice
		return
	}
	n, err := s.Jobs.BeginDrive(r.Context(), number, s.Now())
	if errors.Is(err, store.ErrFullDrives) {
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Expected: err.Error(), Got: "one more"})
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	db := s.Jobs
	err = session.Record(link.Begin{Number: n, Want: of.want, Of: of.of, Wet: r.PostForm.Get("wet") != "",
		Keep: func(ctx context.Context, rows []byte, seconds float64, samples int) error {
			return db.AddToDrive(ctx, number, n, rows, seconds, samples)
		}})
	if err != nil && !errors.Is(err, link.ErrRuns) {
		s.FailStore(w, r, err)
		return
	}
	s.back(w, r, it)
}

// End ends the run that is recorded, and writes it down. Its figures stay stored.
func (s *Pages) End(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	session, ok := s.vehicle(w, r, it, false)
	if !ok {
		return
	}
	entries, last, err := session.Stop()
	if err != nil {
		s.refuse(w, r, it, http.StatusConflict, invalid.Error{Expected: "a run that is being recorded", Got: "none: it was ended already, or the server was started again meanwhile"})
		return
	}
	s.write(w, r, it, entries, last)
}

// write appends the entries of a run.
func (s *Pages) write(w http.ResponseWriter, r *http.Request, it jobs.Loaded, entries []evidence.Entry, last link.RunState) {
	if len(entries) == 0 {
		got := fmt.Sprintf("%s in which no stretch had %d revolutions in one condition", clock(last.Lasted), live.Least)
		if !last.Counted {
			got = "a vehicle that does not count misfires by cylinder: record what you saw with “Watch”"
		}
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Expected: "a run with something to write down", Got: got})
		return
	}
	for i := range entries {
		entries[i].Note = noteOf(last)
	}
	s.record(w, r, it, last.Number, entries...)
}

// noteOf says how a run was read.
func noteOf(last link.RunState) string {
	note := fmt.Sprintf("Read from the vehicle: run %d, %s.", last.Number, clock(last.Lasted))
	if last.Losses > 0 {
		note += fmt.Sprintf(" The connection was lost %s, for %s.", times(last.Losses), clock(last.Missed))
	}
	return note
}

// number is the number of a stored run in an address.
func number(r *http.Request) int {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	if err != nil || n < 1 || n > store.MaxDrives {
		return 0
	}
	return n
}

// WriteDown records a stored run that has no entries yet, because the server stopped or the entries were refused.
func (s *Pages) WriteDown(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	n, e := number(r), it.Assessment().Engine
	if session := s.sessionOf(it.Record.Job.Number); session != nil {
		if now, _ := session.Now(); now.Run != nil && now.Run.Number == n {
			s.refuse(w, r, it, http.StatusConflict, invalid.Error{Expected: "a run that has ended", Got: "one that is being recorded"})
			return
		}
	}
	file, err := s.table(r.Context(), it.Record.Job, n)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	samples, err := live.ParseTable(file, e.Banks(), e.Cylinders)
	if err != nil || len(samples) == 0 {
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Field: "run", Expected: "a stored run of this engine", Got: fmt.Sprintf("run %d without figures of one", n)})
		return
	}
	of := watchOf(it)
	run := live.NewRun(e, of.want, of.of)
	run.Wet = r.PostForm.Get("wet") != ""
	for _, one := range samples {
		run.Take(one)
	}
	losses, missed := run.Losses()
	s.write(w, r, it, run.Entries(), link.RunState{Number: n, Lasted: run.Lasted(), Counted: run.Counted(), Losses: losses, Missed: missed})
}

func (s *Pages) sessionOf(job string) *link.Session {
	if s.Vehicles == nil {
		return nil
	}
	return s.Vehicles.Of(job)
}

// table is a stored run as CSV with its head; the head alone if there is none of this number.
func (s *Pages) table(ctx context.Context, j job.Job, n int) (*bytes.Buffer, error) {
	var file bytes.Buffer
	err := live.NewTable(j.Vehicle.Engine.Banks(), j.Vehicle.Engine.Cylinders).WriteHead(&file)
	return &file, errors.Join(err, s.Jobs.WriteDrive(ctx, j.Number, n, &file))
}

// SendDrive sends the figures of a stored run as CSV.
func (s *Pages) SendDrive(w http.ResponseWriter, r *http.Request) {
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	n := number(r)
	file, err := s.table(r.Context(), rec.Job, n)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if bytes.Count(file.Bytes(), []byte("\n")) <= 1 { // the head alone
		s.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf("attachment; filename=%q", fmt.Sprintf("%s-run-%d.csv", rec.Job.Number, n)))
	w.Header().Set("Cache-Control", "no-store")
	_, _ = file.WriteTo(w)
}
