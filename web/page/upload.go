package page

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"time"

	"glenmist/core/invalid"
	"glenmist/spool"
)

// Bounds of uploads and downloads.
const (
	// maxUpload allows a case file of 2 MB with its form.
	MaxUpload = 3 << 20
	// maxSpooled bounds the temporary files together, in bytes.
	maxSpooled = 2 << 30
	// stallTime is the longest pause of a client during a transfer.
	stallTime = 30 * time.Second
	// Number of fields beside the file, and bytes of each.
	maxFields = 20
	maxField  = 2000
)

// Upload is a form with a file, received completely.
type Upload struct {
	Typed url.Values
	// Name is the file name from the browser, "" if none was chosen.
	Name string
	// File is never nil. It is empty if none was chosen. Close it.
	File *spool.File
}

// ReadUpload reads a multipart form with at most one file of at most some bytes. It holds only
// a temporary file while it waits for the client. The fields are in r.PostForm afterwards,
// also on failure. Errors are [spool.TooLong], [spool.ErrFull], [os.ErrDeadlineExceeded], or
// an invalid form.
func (s *App) ReadUpload(w http.ResponseWriter, r *http.Request, most int64) (up Upload, err error) {
	up.Typed = url.Values{}
	r.PostForm = up.Typed
	parts, err := r.MultipartReader()
	if err != nil {
		return up, err
	}
	if up.File, err = s.Spool.File(most); err != nil {
		return up, err
	}
	defer func() {
		if err != nil {
			_ = up.File.Close()
			w.Header().Set("Connection", "close") // the rest of the body is not read
		}
	}()
	control := http.NewResponseController(w)
	defer s.patience(r.Context(), control.SetReadDeadline, CaptureTime)
	for n := 0; ; n++ {
		s.patience(r.Context(), control.SetReadDeadline, s.stall())
		part, err := parts.NextPart()
		switch {
		case errors.Is(err, io.EOF):
			sign(r, up.Typed)
			return up, nil
		case err != nil:
			return up, err
		case n >= maxFields:
			return up, fmt.Errorf("expected at most %d fields", maxFields)
		case !isFile(part):
			text, err := ReadAtMost(part, maxField)
			if err != nil {
				return up, err
			}
			up.Typed.Set(part.FormName(), string(text))
		case part.FileName() == "":
			continue // no file was chosen
		default:
			if up.Name != "" {
				return up, errors.New("expected one file, got two")
			}
			up.Name = part.FileName()
			in := reader(func(p []byte) (int, error) {
				s.patience(r.Context(), control.SetReadDeadline, s.stall())
				return part.Read(p)
			})
			if _, err := up.File.ReadFrom(in); err != nil {
				return up, err
			}
		}
	}
}

// isFile reports whether a part of a form is a file field.
func isFile(part *multipart.Part) bool {
	_, params, err := mime.ParseMediaType(part.Header.Get("Content-Disposition"))
	_, file := params["filename"]
	return err == nil && file
}

// stall returns the longest pause of a client.
func (s *App) stall() time.Duration {
	if s.Stall > 0 {
		return s.Stall
	}
	return stallTime
}

// patience sets a deadline, at most that of the context.
func (s *App) patience(ctx context.Context, set func(time.Time) error, d time.Duration) {
	end := time.Now().Add(d)
	if last, ok := ctx.Deadline(); ok && last.Before(end) {
		end = last
	}
	_ = set(end) // writers of tests do not support deadlines
}

type reader func(p []byte) (int, error)

func (r reader) Read(p []byte) (int, error) { return r(p) }

// FailUpload answers a failed upload with an error at the file field; refuse shows the form
// again.
func (s *App) FailUpload(w http.ResponseWriter, r *http.Request, err error, expected string, refuse func(code int, bad invalid.Errors)) {
	field := func(got string) invalid.Errors {
		return invalid.Errors{{Field: "file", Expected: expected, Got: got}}
	}
	long, tooLong := errors.AsType[spool.TooLong](err)
	body, tooLarge := errors.AsType[*http.MaxBytesError](err)
	switch {
	case tooLong:
		refuse(http.StatusRequestEntityTooLarge, field(fmt.Sprintf("more than %d MB", long.Most>>20)))
	case tooLarge:
		refuse(http.StatusRequestEntityTooLarge, field(fmt.Sprintf("more than %d MB", body.Limit>>20)))
	case errors.Is(err, spool.ErrFull):
		s.busy(w, r, "Too many files are being sent at once. Nothing was recorded; try again in a minute.")
	case errors.Is(err, os.ErrDeadlineExceeded):
		s.Fail(w, r, http.StatusRequestTimeout, fmt.Sprintf("The file stopped arriving: nothing came for %.0f seconds. Nothing was recorded; choose it again.", s.stall().Seconds()))
	case r.Context().Err() != nil:
		s.FailStore(w, r, r.Context().Err())
	default:
		refuse(http.StatusBadRequest, field("something else"))
	}
}

// Send sends a file. A client may be slow but must not stall.
func (s *App) Send(w http.ResponseWriter, r *http.Request, file *spool.File) {
	http.ServeContent(s.Patient(w, r), r, "", time.Time{}, file)
}

// Patient returns a writer for a long answer. A client may be slow but must not stall.
func (s *App) Patient(w http.ResponseWriter, r *http.Request) http.ResponseWriter {
	return &patientWriter{w, r.Context(), s, http.NewResponseController(w)}
}

// patientWriter gives each part of an answer its own deadline.
type patientWriter struct {
	http.ResponseWriter
	ctx     context.Context
	s       *App
	control *http.ResponseController
}

func (p *patientWriter) Write(data []byte) (int, error) {
	p.s.patience(p.ctx, p.control.SetWriteDeadline, p.s.stall())
	return p.ResponseWriter.Write(data)
}
