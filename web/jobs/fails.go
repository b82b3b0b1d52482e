package jobs

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/store"
	"glenmist/web/page"
)

// SetFails changes when the misfire occurs, after the job was opened.
func (s *Pages) SetFails(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	number := chi.URLParam(r, "id")
	stored, err := s.Jobs.Job(r.Context(), number)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	by := strings.TrimSpace(r.PostForm.Get("by"))
	bad := page.BadText(r.PostForm)
	bad.Under("", invalid.Text("by", by, "the name of who says so", evidence.MaxName, false))
	j, err := stored.Job.Failing(r.PostForm.Get("fails_when"), by)
	bad.Under("", err)
	if bad.Err() != nil {
		s.Fail(w, r, http.StatusUnprocessableEntity, "That could not be kept: "+bad.Error()+".")
		return
	}
	if j.Complaint != stored.Job.Complaint {
		if given := r.PostForm.Get("version"); given != "" && given != strconv.Itoa(stored.Version) {
			err = store.ErrStale
		} else {
			err = s.Jobs.SetComplaint(r.Context(), stored, j)
		}
		switch {
		case errors.Is(err, store.ErrStale):
			if now, err := s.Jobs.Job(r.Context(), number); err == nil {
				r.PostForm.Set("version", strconv.Itoa(now.Version))
			}
			s.Fail(w, r, http.StatusConflict, "Not recorded: somebody else wrote to this job in the meantime. Look at the job, then send it again if it still holds.")
			return
		case err != nil:
			s.FailStore(w, r, err)
			return
		}
	}
	s.Done(w, r, r.PostForm, "/jobs/"+url.PathEscape(number))
}
