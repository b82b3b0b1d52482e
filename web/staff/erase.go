package staff

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strconv"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/store"
	"glenmist/web/page"
)

// erasure is a kind of data that can be deleted for good.
type erasure struct {
	// What is the word in the address.
	What, Title string
	// Goes and Stays list in words what is deleted and what is kept. Do is the label of the button.
	Goes, Stays []string
	Do          string
	// Reasoned is true if a reason is asked for.
	Reasoned bool
	// name returns what is deleted, in words, or an error if there is none.
	name func(s *Pages, ctx context.Context, id string) (string, error)
	// erase deletes it and returns where to go.
	erase func(s *Pages, ctx context.Context, id, reason string) (to string, err error)
}

// erasures is the one table of what can be deleted.
var erasures = []erasure{
	{
		What: "job", Title: "Delete the job", Do: "Delete the job for good", Reasoned: true,
		Goes:  []string{"the complaint and the ledger with all entries", "the worksheet", "photos and captures", "what the workshop has learnt from it"},
		Stays: []string{"its number, with who deleted it, when and why", "the vehicle"},
		name: func(s *Pages, ctx context.Context, id string) (string, error) {
			rec, err := s.Jobs.Job(ctx, id)
			return rec.Job.Number + " of " + rec.Job.Vehicle.Fleet, err
		},
		erase: func(s *Pages, ctx context.Context, id, reason string) (string, error) {
			return "/jobs?deleted=" + url.QueryEscape(id), s.Jobs.DeleteJob(ctx, id, reason)
		},
	},
	{
		What: "owner", Title: "Delete the owner’s data", Do: "Delete the owner’s data for good",
		Goes:  []string{"the vehicle number: another one takes its place", "the complaints of its jobs, in words", "all notes of its jobs", "all photos of its jobs"},
		Stays: []string{"the engine and its parts", "what was found, measured and repaired"},
		name: func(s *Pages, ctx context.Context, id string) (string, error) {
			v, err := s.Jobs.Vehicle(ctx, id)
			return v.Vehicle.Fleet + " " + v.Vehicle.What, err
		},
		erase: func(s *Pages, ctx context.Context, id, _ string) (string, error) {
			becomes, err := s.Jobs.ForgetOwner(ctx, id)
			return "/vehicles/" + url.PathEscape(becomes), err
		},
	},
	{
		What: "person", Title: "Delete a person’s data", Do: "Delete the person’s data for good",
		Goes:  []string{"the name, wherever it stands: in entries, notes, settings and the audit log", "password, PIN and calendar address"},
		Stays: []string{"what the person recorded, under a number instead of the name"},
		name: func(s *Pages, ctx context.Context, id string) (string, error) {
			n, _ := strconv.ParseInt(id, 10, 64)
			who, err := s.person(ctx, n)
			return who.Name, err
		},
		erase: func(s *Pages, ctx context.Context, id, _ string) (string, error) {
			n, _ := strconv.ParseInt(id, 10, 64)
			_, err := s.Jobs.ForgetPerson(ctx, n)
			return "/people?done=forgotten", err
		},
	},
}

type erasePage struct {
	page.Base
	Of   erasure
	Name string
	Form page.Form
}

// ShowErase says what would be deleted, and what would stay.
func (s *Pages) ShowErase(w http.ResponseWriter, r *http.Request) {
	s.showErase(w, r, http.StatusOK, page.NewForm(url.Values{}, nil, page.SameName))
}

func (s *Pages) showErase(w http.ResponseWriter, r *http.Request, code int, f page.Form) {
	of, ok := s.erasure(w, r)
	if !ok {
		return
	}
	name, err := of.name(s, r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failErase(w, r, err)
		return
	}
	s.Render(w, r, code, "erase.html", erasePage{s.Base(r, of.Title), of, name, f})
}

// erasure finds the kind of an address.
func (s *Pages) erasure(w http.ResponseWriter, r *http.Request) (erasure, bool) {
	for _, of := range erasures {
		if of.What == chi.URLParam(r, "what") {
			return of, true
		}
	}
	s.NotFound(w, r)
	return erasure{}, false
}

func (s *Pages) failErase(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, store.ErrNotFound) || errors.Is(err, store.ErrNoVehicle) || errors.Is(err, store.ErrNoPerson) {
		s.Fail(w, r, http.StatusNotFound, "There is nothing of that name to delete; perhaps it is deleted already.")
		return
	}
	s.FailStore(w, r, err)
}

// Erase deletes it.
func (s *Pages) Erase(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	of, ok := s.erasure(w, r)
	if !ok {
		return
	}
	typed := r.PostForm
	bad := page.BadText(typed)
	if typed.Get("sure") == "" {
		bad.Add("sure", "a tick: it cannot be undone", "none")
	}
	to := ""
	if len(bad) == 0 {
		var err error
		to, err = of.erase(s, r.Context(), chi.URLParam(r, "id"), typed.Get("reason"))
		one, isOne := errors.AsType[invalid.Error](err)
		switch {
		case isOne:
			bad = invalid.Errors{one}
		case errors.Is(err, store.ErrLast):
			bad = invalid.Errors{{Expected: "at least one administrator who can sign in", Got: "none"}}
		case err != nil && page.FieldsOf(err) == nil:
			s.failErase(w, r, err)
			return
		default:
			bad = page.FieldsOf(err)
		}
	}
	if len(bad) > 0 {
		s.showErase(w, r, http.StatusUnprocessableEntity, page.NewForm(typed, bad, page.SameName))
		return
	}
	s.Refreshed()
	http.Redirect(w, r, to, http.StatusSeeOther) //nolint:gosec // a path of this server
}
