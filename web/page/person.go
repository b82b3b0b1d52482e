package page

import (
	"context"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"glenmist/people"
	"glenmist/store"
)

// Signed is who sent a request, and from what.
type Signed struct {
	people.Person // zero if nobody is signed in
	// Device is true on a known device that several people use.
	Device bool
	// Locked is true if the device was idle for too long: only a PIN or a password helps.
	Locked bool
}

// In reports whether somebody is signed in and not locked out.
func (s Signed) In() bool { return s.ID != 0 && !s.Locked }

type signedKey struct{}

// WithSigned returns a request that somebody has sent. What it writes is theirs in the audit log.
func WithSigned(r *http.Request, s Signed) *http.Request {
	ctx := context.WithValue(r.Context(), signedKey{}, s)
	if who, ok := ctx.Value(namedKey{}).(*string); ok {
		*who = s.Name
	}
	return r.WithContext(store.WithActor(ctx, store.Actor{Name: s.Name, Request: middleware.GetReqID(ctx)}))
}

type namedKey struct{}

// Named returns a request that tells afterwards who sent it, for the log: who is the name, "" for nobody.
func Named(r *http.Request) (named *http.Request, who *string) {
	who = new(string)
	return r.WithContext(context.WithValue(r.Context(), namedKey{}, who)), who
}

// SignedOf returns who sent a request.
func SignedOf(r *http.Request) Signed {
	s, _ := r.Context().Value(signedKey{}).(Signed)
	return s
}

// ReadForm reads the form of a request. Its field "by" is the name of who is signed in, whatever was sent.
func (s *App) ReadForm(r *http.Request) error {
	if err := r.ParseForm(); err != nil {
		return err
	}
	sign(r, r.PostForm)
	return nil
}

// sign sets who fills in a form.
func sign(r *http.Request, typed url.Values) {
	if p := SignedOf(r); p.In() {
		typed.Set("by", p.Name)
	}
}

// maxTyped is the most bytes of a form without a file that is given back.
const maxTyped = 64 << 10

// ReadTyped reads what was typed into a form that is not accepted. Files are thrown away. It ends early on what cannot
// be read.
func (s *App) ReadTyped(r *http.Request) {
	kind, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type"))
	if kind != "multipart/form-data" {
		r.Body = http.MaxBytesReader(nil, r.Body, maxTyped)
		_ = r.ParseForm()
		return
	}
	r.PostForm = url.Values{}
	parts, err := r.MultipartReader()
	for n := 0; err == nil && n < maxFields; n++ {
		part, next := parts.NextPart()
		if err = next; err != nil {
			return
		}
		if isFile(part) {
			_, err = io.Copy(io.Discard, part)
			continue
		}
		var text []byte
		text, err = ReadAtMost(part, maxField)
		r.PostForm.Set(part.FormName(), string(text))
	}
}

// LocalPath returns a path of this server, with its query, or fallback if an address leads elsewhere.
func LocalPath(address, fallback string) string {
	u, err := url.Parse(address)
	if err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(address, "//") || strings.Contains(address, "\\") {
		return fallback
	}
	return address
}

// RefuseRight answers that a person may not do something, and says who may.
func (s *App) RefuseRight(w http.ResponseWriter, r *http.Request, do people.Right) {
	words := "This needs the right to do the following: " + lowerFirst(do.Words()) + ". The least role that has it is " + string(people.Least(do)) + "; you are signed in as " + string(SignedOf(r).Role) + "."
	if r.Method != http.MethodGet && r.Method != http.MethodHead {
		words = "Nothing was recorded. " + words
	}
	s.Fail(w, r, http.StatusForbidden, words)
}

func lowerFirst(text string) string {
	if text == "" {
		return ""
	}
	return strings.ToLower(text[:1]) + text[1:]
}
