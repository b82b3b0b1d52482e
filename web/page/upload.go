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

// Bounds of what is sent and received.
const (
	// maxUpload is a case file of 2 MB and the form around it.
	MaxUpload = 3 << 20
	// maxSpooled is what temporary files of uploads and downloads hold together, in bytes.
	maxSpooled = 2 << 30
	// stallTime is how long a client may leave an upload or a download without a byte.
	stallTime = 30 * time.Second
	// Fields of an upload beside its file, and bytes of each.
	maxFields = 20
	maxField  = 2000
)

// Upload is a form with a file, read whole before anything is done with it.
type Upload struct {
	Typed url.Values
	// Name is what the browser calls the file, "" where none was chosen.
	Name string
	// File is never nil; it is empty where none was chosen. Close it.
	File *spool.File
}

// ReadUpload reads a multipart form with at most one file, of at most so many bytes. While it
// waits for the client it holds a temporary file and nothing else. The fields are in r.PostForm
// afterwards, also when it fails. Errors are [spool.TooLong], [spool.ErrFull],
// [os.ErrDeadlineExceeded], or say that this is no such form.
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
			w.Header().Set("Connection", "close") // what is left of the body is not read
		}
	}()
	control := http.NewResponseController(w)
	defer s.patience(r.Context(), control.SetReadDeadline, CaptureTime)
	for n := 0; ; n++ {
		s.patience(r.Context(), control.SetReadDeadline, s.stall())
		part, err := parts.NextPart()
		switch {
		case errors.Is(err, io.EOF):
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

// isFile says whether a part of a form is a file, chosen or not.
func isFile(part *multipart.Part) bool {
	_, params, err := mime.ParseMediaType(part.Header.Get("Content-Disposition"))
	_, file := params["filename"]
	return err == nil && file
}

// stall is how long a client may leave an upload or a download without a byte.
func (s *App) stall() time.Duration {
	if s.Stall > 0 {
		return s.Stall
	}
	return stallTime
}

// patience sets a deadline a while from now, and never after that of the context.
func (s *App) patience(ctx context.Context, set func(time.Time) error, d time.Duration) {
	end := time.Now().Add(d)
	if last, ok := ctx.Deadline(); ok && last.Before(end) {
		end = last
	}
	_ = set(end) // not every writer can set deadlines (those of tests cannot)
}

type reader func(p []byte) (int, error)

func (r reader) Read(p []byte) (int, error) { return r(p) }

// FailUpload answers an upload that could not be read, with what is wrong in words for the
// field of the file; refuse shows the form again.
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

// Send sends a file to the client, as slowly as it likes but never without a byte for long.
func (s *App) Send(w http.ResponseWriter, r *http.Request, file *spool.File) {
	http.ServeContent(s.Patient(w, r), r, "", time.Time{}, file)
}

// Patient is a writer for an answer of any length: a client may be slow, but not without a byte
// for long.
func (s *App) Patient(w http.ResponseWriter, r *http.Request) http.ResponseWriter {
	return &patientWriter{w, r.Context(), s, http.NewResponseController(w)}
}

// patientWriter gives each stretch of an answer its own deadline.
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
