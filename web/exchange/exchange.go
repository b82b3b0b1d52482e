// Package exchange imports and exports jobs: as a case file, or as a zip with photos and
// captures.
package exchange

import (
	"bytes"
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"

	"github.com/go-chi/chi/v5"

	"glenmist/archive"
	"glenmist/core/casefile"
	"glenmist/core/invalid"
	"glenmist/spool"
	"glenmist/store"
	"glenmist/web/capture"
	"glenmist/web/page"
)

// Pages handles import and export.
type Pages struct{ *capture.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(of *capture.Pages) *Pages { return &Pages{of} }

// ExportJob sends the case file.
func (s *Pages) ExportJob(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	var err error
	if it.Record.Job.Worksheet, err = s.Jobs.Marks(r.Context(), it.Record.Job.Number); err != nil {
		s.FailStore(w, r, err)
		return
	}
	var file bytes.Buffer
	if err := casefile.Write(&file, it.Record.Job); err != nil {
		s.Log.Error("export", "job", it.Record.Job.Number, "error", err)
		s.Fail(w, r, http.StatusInternalServerError, "The case file could not be written.")
		return
	}
	if err := s.Jobs.Note(r.Context(), store.JobExported, it.Record.Job.Number, "as a case file"); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="glenmist-%s.json"`, page.FileName(it.Record.Job.Number)))
	_, _ = file.WriteTo(w)
}

// ExportAll sends a zip with the case file, photos and captures.
func (s *Pages) ExportAll(w http.ResponseWriter, r *http.Request) {
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	file, err := s.Spool.File(archive.MaxBytes)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	defer func() { _ = file.Close() }()
	switch err := archive.Write(r.Context(), s.Jobs, rec, file); {
	case errors.As(err, new(spool.TooLong)):
		s.Fail(w, r, http.StatusUnprocessableEntity, fmt.Sprintf("The job with its photos and captures takes more than %d MB. Export the case file alone, and save the captures one by one.", archive.MaxBytes>>20))
		return
	case err != nil:
		s.FailStore(w, r, err)
		return
	}
	if err := s.Jobs.Note(r.Context(), store.JobExported, rec.Job.Number, "with photos and captures"); err != nil {
		s.FailStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="glenmist-%s.zip"`, page.FileName(rec.Job.Number)))
	s.Send(w, r, file)
}

type importPage struct {
	page.Base
	Wrong    invalid.Errors
	Key      string
	Renumber bool
}

// ImportForm shows the form of an import.
func (s *Pages) ImportForm(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, http.StatusOK, "import.html", importPage{Base: s.Base(r, "Import a case file"), Key: page.NewKey()})
}

// ImportJob adds the job of a case file or zip, completely or not at all.
func (s *Pages) ImportJob(w http.ResponseWriter, r *http.Request) {
	up, err := s.ReadUpload(w, r, archive.MaxBytes)
	refuse := func(code int, wrong invalid.Errors) {
		const most = 20
		if extra := len(wrong) - most; extra > 0 {
			wrong = append(wrong[:most:most], invalid.Error{Field: "file", Expected: "a file without errors", Got: fmt.Sprintf("%d more", extra)})
		}
		p := importPage{s.Base(r, "Import a case file"), wrong, up.Typed.Get("key"), up.Typed.Get("renumber") != ""}
		if p.Key == "" {
			p.Key = page.NewKey()
		}
		s.Render(w, r, code, "import.html", p)
	}
	if err != nil {
		s.FailUpload(w, r, err, fmt.Sprintf("a case file of at most 2 MB, or a zip of at most %d MB", archive.MaxBytes>>20), refuse)
		return
	}
	defer func() { _ = up.File.Close() }()
	if up.Name == "" {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "file", Expected: "a case file", Got: "none"}})
		return
	}
	key, err := page.RequestKey(up.Typed, up.File)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	number, err := s.importFile(r.Context(), up.File, up.Typed.Get("renumber") != "", key)
	if err == nil {
		s.Done(w, r, up.Typed, "/jobs/"+url.PathEscape(number))
		return
	}
	wrong := page.FieldsOf(err)
	if wrong == nil {
		s.FailStore(w, r, err)
		return
	}
	refuse(http.StatusUnprocessableEntity, wrong)
}

// importFile adds the job of a file and returns its number.
func (s *Pages) importFile(ctx context.Context, file *spool.File, renumber bool, key string) (string, error) {
	if !archive.Is(file) {
		if err := file.Rewind(); err != nil {
			return "", err
		}
		j, err := casefile.Read(file)
		if err != nil {
			return "", err
		}
		if renumber {
			j.Number = ""
		}
		return s.Once(ctx, key, func(db *store.Store) (string, error) { return db.Import(ctx, j) })
	}
	a, err := archive.Read(ctx, file, file.Size(), s.Spool, s.Begin)
	if err != nil {
		return "", err
	}
	defer a.Close()
	if renumber {
		a.Job.Number = ""
	}
	return a.Keep(ctx, s.Jobs, key)
}
