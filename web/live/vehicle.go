package live

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"glenmist/bus"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/obd"
	"glenmist/core/scan"
	"glenmist/core/trouble"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Times that the vehicle has.
const (
	readTime  = 20 * time.Second
	clearTime = 15 * time.Second
	driveTime = 5 * time.Second
)

// ReadAll reads all control units and records what they tell as one scan.
func (s *Pages) ReadAll(w http.ResponseWriter, r *http.Request) {
	it, ok := s.form(w, r)
	if !ok {
		return
	}
	session, ok := s.vehicle(w, r, it, false)
	if !ok {
		return
	}
	defer session.Watch()()
	ctx, cancel := context.WithTimeout(r.Context(), readTime)
	defer cancel()
	read, err := session.ReadAll(ctx)
	if err != nil {
		s.failVehicle(w, r, it, err)
		return
	}
	if err := noScan(read); err != nil {
		s.failVehicle(w, r, it, err)
		return
	}
	s.record(w, r, it, 0, scanEntries(read)...)
}

// noScan returns why a reading is none: without the engine's unit, that no code was read says nothing.
func noScan(read obd.Scan) error {
	switch {
	case len(read.Units) == 0:
		return obd.ErrNoAnswer
	case read.Engine == 0:
		return bus.ErrNoEngine
	case slices.Contains(read.Asked, trouble.Stored):
		return nil
	}
	for _, p := range read.Problems {
		if p.Request.Service == obd.StoredCodes && p.Unit == read.Engine {
			return p.Err
		}
	}
	return obd.ErrNoAnswer
}

// scanEntries writes a reading down: the codes with freeze frame, readiness and counts, and the trims if the engine runs.
func scanEntries(read obd.Scan) []evidence.Entry {
	of := scan.FromVehicle(read)
	codes := &evidence.Codes{Read: of.Read, Frame: of.Frame, Readiness: of.Readiness}
	if codes.Read == nil {
		codes.Read = []trouble.Reading{}
	}
	entries := []evidence.Entry{{Body: codes, Note: of.Note}}
	if rpm, ok := read.Value(obd.RPM); ok && rpm > 0 {
		if trims := read.Live().Trims; len(trims) > 0 {
			entries = append(entries, evidence.Entry{Body: &evidence.Trims{Banks: trims}})
		}
	}
	return entries
}

// form reads the form of a request and its job. A form that was made for an older version of the job is answered with the entries
// since.
func (s *Pages) form(w http.ResponseWriter, r *http.Request) (jobs.Loaded, bool) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return it, false
	}
	if bad := page.BadText(r.PostForm); len(bad) > 0 {
		s.refuse(w, r, it, http.StatusUnprocessableEntity, bad...)
		return it, false
	}
	if r.PostForm.Get("version") != fmt.Sprint(it.Record.Version) {
		s.ShowStale(w, r, it, View)
		return it, false
	}
	return it, true
}

// Bounds of writing down what a vehicle told or did.
const (
	attempts   = 4 // if others write at the same time: it does not depend on what they write
	recordTime = 8 * time.Second
)

// happened appends entries on what a vehicle told or did. They are true whatever others have written meanwhile, and whether the
// browser still waits. drive is the number of the stored run that they write down; 0 is none.
func (s *Pages) happened(r *http.Request, it jobs.Loaded, drive int, entries ...evidence.Entry) (jobs.Loaded, error) {
	ctx, cancel := context.WithTimeout(context.WithoutCancel(r.Context()), recordTime)
	defer cancel()
	r = r.WithContext(ctx)
	mark := func(db *store.Store) error {
		if drive == 0 {
			return nil
		}
		return db.MarkDrive(ctx, it.Record.Job.Number, drive)
	}
	for n := 1; ; n++ {
		now, err := s.Append(r, it, mark, entries...)
		if !errors.Is(err, store.ErrStale) || n == attempts {
			return now, err
		}
		rec, err := s.Jobs.Job(ctx, it.Record.Job.Number)
		if err != nil {
			return it, err
		}
		it = jobs.NewLoaded(rec, it.Shop, s.Instruments != nil)
	}
}

// record does the same and goes to the job.
func (s *Pages) record(w http.ResponseWriter, r *http.Request, it jobs.Loaded, drive int, entries ...evidence.Entry) {
	now, err := s.happened(r, it, drive, entries...)
	if err != nil {
		s.failRecord(w, r, it, err)
		return
	}
	last := now.Record.Job.Ledger[len(now.Record.Job.Ledger)-1]
	s.Done(w, r, r.PostForm, fmt.Sprintf("/jobs/%s?saved=%d", url.PathEscape(now.Record.Job.Number), last.Seq))
}

// Clear reads and records everything, erases it in the vehicle, reads again, and records the clearing.
func (s *Pages) Clear(w http.ResponseWriter, r *http.Request) {
	it, ok := s.form(w, r)
	if !ok {
		return
	}
	if r.PostForm.Get("sure") == "" {
		r.PostForm.Set("do", "clear")
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Expected: "that you know what is lost: tick the box", Got: "no tick"})
		return
	}
	session, ok := s.vehicle(w, r, it, false)
	if !ok {
		return
	}
	defer session.Watch()()
	// Once it is begun it is carried through: a browser that leaves must not leave a clearing without its entry.
	ctx, cancel := context.WithTimeout(context.WithoutCancel(r.Context()), 2*readTime+clearTime)
	defer cancel()
	before, err := session.ReadAll(ctx)
	if err == nil {
		err = noScan(before)
	}
	if err != nil {
		s.failVehicle(w, r, it, err)
		return
	}
	it, err = s.happened(r, it, 0, scanEntries(before)...)
	if err != nil {
		s.failRecord(w, r, it, err)
		return
	}
	if err := session.Clear(ctx); err != nil {
		s.failVehicle(w, r, it, fmt.Errorf("%w. What was read is recorded. %s", err, erasedWords(err)))
		return
	}
	note := "Cleared from here."
	if after, err := session.ReadAll(ctx); err != nil || noScan(after) != nil {
		note += " The codes could not be read again afterwards."
	} else if left := codesLeft(after); left != "" {
		note += " Still there when read again: " + left + "."
	} else {
		note += " Read again: no stored or pending code."
	}
	s.record(w, r, it, 0, evidence.Entry{Body: &evidence.Clearing{Codes: true, Counters: true}, Note: note})
}

// erasedWords says what a clearing that failed may have erased.
func erasedWords(err error) string {
	var refusal obd.Refusal
	if errors.As(err, &refusal) {
		return "The unit that refused has erased nothing"
	}
	return "Nobody knows whether the codes were erased: read everything again"
}

// codesLeft names stored and pending codes.
func codesLeft(read obd.Scan) string {
	var words []string
	for _, c := range read.Codes {
		if c.State != trouble.Permanent {
			words = append(words, fmt.Sprintf("%s %s", c.Code, c.State))
		}
	}
	return strings.Join(words, ", ")
}

// failRecord answers entries that could not be appended.
func (s *Pages) failRecord(w http.ResponseWriter, r *http.Request, it jobs.Loaded, err error) {
	bad := page.FieldsOf(err)
	switch {
	case errors.Is(err, store.ErrStale):
		if now, ok := s.Load(w, r); ok {
			s.ShowStale(w, r, now, View)
		}
	case errors.Is(err, store.ErrWritten):
		s.refuse(w, r, it, http.StatusConflict, invalid.Error{Expected: "a run that is not written down yet", Got: "one that is"})
	case bad != nil:
		s.refuse(w, r, it, http.StatusUnprocessableEntity, bad...)
	default:
		s.FailStore(w, r, err)
	}
}

// Drive tells the driver of a simulated vehicle what to do.
func (s *Pages) Drive(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	command := r.PostForm.Get("command")
	runs := command != "drive off" && command != "cool" && strings.HasPrefix(command, "drive")
	session, ok := s.vehicle(w, r, it, runs)
	if !ok {
		return
	}
	if len(command) > 40 || strings.ContainsAny(command, "\r\n") || strings.HasPrefix(command, "job") {
		s.refuse(w, r, it, http.StatusUnprocessableEntity, invalid.Error{Field: "command", Expected: "a command of the simulated vehicle, such as drive idle", Got: invalid.Quote(command)})
		return
	}
	ctx, cancel := context.WithTimeout(r.Context(), driveTime)
	defer cancel()
	if err := session.Drive(ctx, command); err != nil {
		s.failVehicle(w, r, it, err)
		return
	}
	s.back(w, r, it)
}

// back goes to the page that a form was on.
func (s *Pages) back(w http.ResponseWriter, r *http.Request, it jobs.Loaded) {
	to := "live"
	if r.PostForm.Get("page") == "road" {
		to = "road"
	}
	http.Redirect(w, r, fmt.Sprintf("/jobs/%s/%s", url.PathEscape(it.Record.Job.Number), to), http.StatusSeeOther)
}
