package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/archive"
	"glenmist/core/casefile"
	"glenmist/core/invalid"
)

// exportJob sends the case file.
func (s *server) exportJob(w http.ResponseWriter, r *http.Request) {
	it, ok := s.see(w, r)
	if !ok {
		return
	}
	var file bytes.Buffer
	if err := casefile.Write(&file, it.rec.Job); err != nil {
		s.Log.Error("export", "job", it.rec.Job.Number, "error", err)
		s.fail(w, r, http.StatusInternalServerError, "The case file could not be written.")
		return
	}
	w.Header().Set("Content-Type", "application/json; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="glenmist-%s.json"`, fileName(it.rec.Job.Number)))
	_, _ = file.WriteTo(w)
}

// exportAll sends the case file with the photos and captures beside it, as a zip.
func (s *server) exportAll(w http.ResponseWriter, r *http.Request) {
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="glenmist-%s.zip"`, fileName(rec.Job.Number)))
	if err := archive.Write(r.Context(), s.Jobs, rec, w); err != nil { // what has gone cannot be called back: it breaks off
		s.Log.Error("export", "job", rec.Job.Number, "error", err)
		panic(http.ErrAbortHandler)
	}
}

// fileName keeps what is safe in a file's name.
func fileName(number string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-' {
			return r
		}
		return '_'
	}, number)
}

type importPage struct {
	base
	Wrong invalid.Errors
}

func (s *server) importForm(w http.ResponseWriter, r *http.Request) {
	s.render(w, r, http.StatusOK, "import.html", importPage{base: s.base(r, "Import a case file")})
}

func (s *server) importJob(w http.ResponseWriter, r *http.Request) {
	refuse := func(code int, wrong invalid.Errors) {
		const most = 20
		if extra := len(wrong) - most; extra > 0 {
			wrong = append(wrong[:most:most], invalid.Error{Field: "file", Expected: "a file without errors", Got: fmt.Sprintf("%d more", extra)})
		}
		s.render(w, r, code, "import.html", importPage{s.base(r, "Import a case file"), wrong})
	}
	if err := r.ParseMultipartForm(maxUpload); err != nil { //nolint:gosec // limitBody bounds the body
		if _, ok := errors.AsType[*http.MaxBytesError](err); ok {
			// The rest of a file that is too large is not read.
			w.Header().Set("Connection", "close")
			refuse(http.StatusRequestEntityTooLarge, invalid.Errors{{Field: "file", Expected: fmt.Sprintf("a case file of at most 2 MB, or a zip of at most %d MB", archive.MaxBytes>>20), Got: "more"}})
			return
		}
		refuse(http.StatusBadRequest, invalid.Errors{{Field: "file", Expected: "a case file, sent by the form", Got: "something else"}})
		return
	}
	defer func() { _ = r.MultipartForm.RemoveAll() }()
	f, about, err := r.FormFile("file")
	if err != nil {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "file", Expected: "a case file", Got: "none"}})
		return
	}
	defer func() { _ = f.Close() }()
	renumber := r.FormValue("renumber") != ""
	var number string
	if archive.Is(f) {
		number, err = archive.Read(r.Context(), s.Jobs, f, about.Size, renumber)
	} else {
		number, err = s.openFile(r.Context(), f, renumber)
	}
	if err != nil {
		wrong := fieldsOf(err)
		if wrong == nil {
			s.failStore(w, r, err)
			return
		}
		refuse(http.StatusUnprocessableEntity, wrong)
		return
	}
	http.Redirect(w, r, "/jobs/"+url.PathEscape(number), http.StatusSeeOther)
}

// openFile opens the job of a case file.
func (s *server) openFile(ctx context.Context, f io.Reader, renumber bool) (string, error) {
	j, err := casefile.Read(f)
	if err != nil {
		return "", err
	}
	if renumber {
		j.Number = ""
	}
	return s.Jobs.Open(ctx, j)
}

// readAtMost reads a file up to some bytes.
func readAtMost(r io.Reader, most int64) ([]byte, error) {
	return io.ReadAll(io.LimitReader(r, most))
}
