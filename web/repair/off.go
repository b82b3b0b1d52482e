package repair

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/worksheet"
	"glenmist/photo"
	"glenmist/store"
	"glenmist/web/page"
)

// MaxOff is the most that the form of what came off may be: a photo and its few fields.
const MaxOff = photo.MaxBytes + 1<<16

// PostOff records something that came off, or a bolt that was lost, with an optional photo. Photo and mark
// are kept together or not at all.
func (s *Pages) PostOff(w http.ResponseWriter, r *http.Request) {
	up, err := s.ReadUpload(w, r, photo.MaxBytes)
	up.Typed.Set("step", worksheet.StepOff)
	r.PostForm = up.Typed
	refuse := func(code int, bad invalid.Errors) {
		it, ok := s.Load(w, r)
		if !ok {
			return
		}
		for i := range bad {
			if bad[i].Field == "file" {
				bad[i].Field = "photo"
			}
		}
		r.Form = url.Values{"step": {worksheet.StepOff}}
		s.ShowForm(w, r, code, it, WorksheetView, page.NewForm(up.Typed, bad, page.SameName))
	}
	if err != nil {
		s.FailUpload(w, r, err, fmt.Sprintf("a photo of at most %d MB, sent by the form", photo.MaxBytes>>20), refuse)
		return
	}
	defer func() { _ = up.File.Close() }()
	if do := job.Do(up.Typed.Get("do")); do != job.CameOff && do != job.Lost {
		up.Typed.Set("do", string(job.CameOff))
	}
	if up.Name == "" {
		s.mark(w, r, func(*store.Store) (int, error) { return 0, nil })
		return
	}
	clean, err := photo.Clean(r.Context(), up.File)
	if invalid.Is(err) {
		bad := invalid.From(err)
		for i := range bad {
			bad[i].Field = "photo"
		}
		refuse(http.StatusUnprocessableEntity, bad)
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	by := strings.TrimSpace(up.Typed.Get("by"))
	s.mark(w, r, func(db *store.Store) (int, error) {
		rec, err := db.AddPhoto(r.Context(), chi.URLParam(r, "id"), store.Photo{Tag: store.OffTag, Made: s.Now().UTC(), By: by, Width: clean.Width, Height: clean.Height}, clean.JPEG)
		return rec.Number, err
	})
}
