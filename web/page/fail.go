package page

import (
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"

	"glenmist/photo"
	"glenmist/spool"
	"glenmist/store"

	"github.com/go-chi/chi/v5"
)

type failPage struct {
	Base
	Words string
	// Typed is the sent form, to be sent again; nil if there was none.
	Typed *TypedForm
}

// Fail shows a page with what went wrong. A rejected form is returned as it was typed.
func (s *App) Fail(w http.ResponseWriter, r *http.Request, code int, words string) {
	p := failPage{Base: s.Base(r, http.StatusText(code)), Words: words}
	if returned[code] {
		if p.Typed = newTypedForm(r); p.Typed != nil {
			p.Title = "Not recorded"
		}
	}
	s.Render(w, r, code, "fail.html", p)
}

// NotFound answers an unknown address.
func (s *App) NotFound(w http.ResponseWriter, r *http.Request) {
	s.Fail(w, r, http.StatusNotFound, "There is nothing at this address.")
}

// busy answers that the request can be repeated soon.
func (s *App) busy(w http.ResponseWriter, r *http.Request, words string) {
	w.Header().Set("Retry-After", "10")
	s.Fail(w, r, http.StatusServiceUnavailable, words)
}

// troubleWords explains why nothing was done, by the kind of store error.
var troubleWords = map[store.Trouble]string{
	store.Away:     "The database does not answer. Nothing was recorded; try again when it is back.",
	store.Busy:     "The database is busy. Nothing was recorded; try again in a few seconds.",
	store.Slow:     "This took longer than it may. Nothing was recorded; try again in a few seconds.",
	store.Full:     "The disk of the database is full. Nothing was recorded; make room, then try again.",
	store.ReadOnly: "The database takes no writes at the moment. Nothing was recorded; try again later.",
	store.Called:   "The request was called off. Nothing was recorded.",
	store.Unknown:  "The database reported an error, which is in the log. Nothing was recorded.",
}

// TroubleWords lists what the pages say when the store could not do what was asked.
func TroubleWords() []string { return slices.Sorted(maps.Values(troubleWords)) }

// FailStore shows an error of the store.
func (s *App) FailStore(w http.ResponseWriter, r *http.Request, err error) {
	switch {
	case errors.Is(err, store.ErrNotFound):
		s.noJob(w, r)
		return
	case errors.Is(err, photo.ErrBusy), errors.Is(err, spool.ErrFull):
		s.busy(w, r, "Too much is being sent or received at once. Nothing was recorded; try again in a minute.")
		return
	}
	trouble := s.Jobs.TroubleOf(err)
	s.Log.Error("store", "path", r.URL.Path, "trouble", trouble, "error", err)
	s.busy(w, r, troubleWords[trouble])
}

// noJob answers that there is no job of the address, or that it was deleted.
func (s *App) noJob(w http.ResponseWriter, r *http.Request) {
	if number := chi.URLParam(r, "id"); number != "" {
		if t, err := s.Jobs.Tombstone(r.Context(), number); err == nil {
			s.Fail(w, r, http.StatusGone, fmt.Sprintf("Job %s was deleted on %s by %s: %s.", t.Number, t.DeletedAt.Local().Format("2 January 2006"), t.DeletedBy, t.Reason))
			return
		}
	}
	s.Fail(w, r, http.StatusNotFound, "There is no job of that number.")
}

// FailForm answers a request whose body is not a valid form.
func (s *App) FailForm(w http.ResponseWriter, r *http.Request, err error) {
	if _, ok := errors.AsType[*http.MaxBytesError](err); ok {
		s.Fail(w, r, http.StatusRequestEntityTooLarge, "That is more than this form takes: expected at most 64 kB, and a case file of at most 2 MB.")
		return
	}
	s.Fail(w, r, http.StatusBadRequest, "That could not be read as a form.")
}
