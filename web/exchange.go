package web

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"

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
			refuse(http.StatusRequestEntityTooLarge, invalid.Errors{{Field: "file", Expected: "a case file of at most 2 MB", Got: "more"}})
			return
		}
		refuse(http.StatusBadRequest, invalid.Errors{{Field: "file", Expected: "a case file, sent by the form", Got: "something else"}})
		return
	}
	defer func() { _ = r.MultipartForm.RemoveAll() }()
	f, _, err := r.FormFile("file")
	if err != nil {
		refuse(http.StatusUnprocessableEntity, invalid.Errors{{Field: "file", Expected: "a case file", Got: "none"}})
		return
	}
	defer func() { _ = f.Close() }()
	j, err := casefile.Read(io.Reader(f))
	if err != nil {
		refuse(http.StatusUnprocessableEntity, invalid.From(err))
		return
	}
	if r.FormValue("renumber") != "" {
		j.Number = ""
	}
	number, err := s.Jobs.Open(r.Context(), j)
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

// readAtMost reads a file up to some bytes.
func readAtMost(r io.Reader, most int64) ([]byte, error) {
	return io.ReadAll(io.LimitReader(r, most))
}
