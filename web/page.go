package web

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/unit"
	"glenmist/photo"
	"glenmist/spool"
	"glenmist/store"
)

//go:embed *.html
var templateFiles embed.FS

type pages struct{ set *template.Template }

func loadPages(a *assets) (*pages, error) {
	set, err := template.New("").Funcs(template.FuncMap{
		"asset":     a.url,
		"percent":   unit.Percent,
		"thousands": unit.Thousands,
		"capital":   unit.Capital,
		"when":      func(t time.Time) string { return t.Local().Format("2 Jan 15:04") },
		"iso":       func(t time.Time) string { return t.UTC().Format(time.RFC3339) },
		"odds":      odds,
		"unit":      evidence.UnitWords,
		"join":      strings.Join,
		"path":      url.PathEscape,
		"add":       func(a, b int) int { return a + b },
		"half":      func(n int) int { return n / 2 },
		"neg":       func(n int) int { return -n },
		"rest":      func(p float64) float64 { return 1 - p },
		"sides":     func() []string { return []string{"old", "new"} },
		"digits":    func() []string { return strings.Split("1234567890", "") },
		"dict":      dict,
		"row":       rowField,
		"id":        func(p engine.Place) string { return string(p) },
		"dashed":    func(k engine.Kind) string { return strings.ReplaceAll(string(k), " ", "-") },
	}).ParseFS(templateFiles, "*.html")
	return &pages{set}, err
}

// dict makes a map for a template that is called with several values.
func dict(pairs ...any) (map[string]any, error) {
	if len(pairs)%2 != 0 {
		return nil, errors.New("dict: expected pairs")
	}
	m := map[string]any{}
	for i := 0; i < len(pairs); i += 2 {
		key, ok := pairs[i].(string)
		if !ok {
			return nil, fmt.Errorf("dict: expected a name, got %v", pairs[i])
		}
		m[key] = pairs[i+1]
	}
	return m, nil
}

// odds says a weight of evidence as "12 times" for the reader.
func odds(logOdds float64) string {
	times := math.Exp(math.Abs(logOdds))
	switch {
	case times < 10:
		return fmt.Sprintf("%.1f×", times)
	case times < 1000:
		return fmt.Sprintf("%.0f×", times)
	}
	return ">1000×"
}

// base is what every page has.
type base struct {
	Title string
	Theme string // "light", "dark", or "" for the device's own
	Hand  string // who works here, as last given
	Path  string
}

func (s *App) base(r *http.Request, title string) base {
	b := base{Title: title, Path: r.URL.Path}
	if c, err := r.Cookie("theme"); err == nil && (c.Value == "light" || c.Value == "dark") {
		b.Theme = c.Value
	}
	if c, err := r.Cookie("hand"); err == nil {
		if name, err := url.QueryUnescape(c.Value); err == nil && len(name) <= 80 {
			b.Hand = name
		}
	}
	return b
}

// NextThemes are what the theme button changes to: from a chosen one back to that of the device, from that
// to the other one, of which the style sheet shows which it is.
func (b base) NextThemes() []string {
	if b.Theme != "" {
		return []string{"auto"}
	}
	return []string{"dark", "light"}
}

func (s *App) setTheme(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return
	}
	theme := r.PostForm.Get("theme")
	if theme != "light" && theme != "dark" {
		theme = ""
	}
	s.remember(w, "theme", theme)
	back := r.PostForm.Get("back")
	if u, err := url.Parse(back); err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(back, "//") || strings.Contains(back, "\\") {
		back = "/jobs"
	}
	http.Redirect(w, r, back, http.StatusSeeOther) //nolint:gosec // checked to be a path of ours
}

// remember keeps a choice in a cookie of this browser for a year.
func (s *App) remember(w http.ResponseWriter, name, value string) {
	//nolint:gosec // Secure behind TLS only: on loopback there is none
	http.SetCookie(w, &http.Cookie{Name: name, Value: url.QueryEscape(value), Path: "/", MaxAge: 365 * 24 * 3600,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.secure()})
}

// render writes a page. It is made in memory first, so that an error in a
// template becomes a clean 500 and not half a page.
func (s *App) render(w http.ResponseWriter, r *http.Request, code int, name string, data any) {
	var page bytes.Buffer
	if err := s.pages.set.ExecuteTemplate(&page, name, data); err != nil {
		s.Log.Error("template", "name", name, "path", r.URL.Path, "error", err)
		http.Error(w, "This page could not be made. Nothing was lost.", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(code)
	_, _ = page.WriteTo(w)
}

type failPage struct {
	base
	Words string
	// Typed is what was sent, to be sent again; nil where nothing was.
	Typed *typedForm
}

// fail answers with a page that says what went wrong. A form that could not be taken comes
// back as it was typed.
func (s *App) fail(w http.ResponseWriter, r *http.Request, code int, words string) {
	p := failPage{base: s.base(r, http.StatusText(code)), Words: words}
	if returned[code] {
		if p.Typed = newTypedForm(r); p.Typed != nil {
			p.Title = "Not recorded"
		}
	}
	s.render(w, r, code, "fail.html", p)
}

func (s *App) notFound(w http.ResponseWriter, r *http.Request) {
	s.fail(w, r, http.StatusNotFound, "There is nothing at this address.")
}

// busy says that a request can be sent again soon.
func (s *App) busy(w http.ResponseWriter, r *http.Request, words string) {
	w.Header().Set("Retry-After", "10")
	s.fail(w, r, http.StatusServiceUnavailable, words)
}

// troubleWords say why nothing was done, by the kind of trouble of the store.
var troubleWords = map[store.Trouble]string{
	store.Away:     "The database does not answer. Nothing was recorded; try again when it is back.",
	store.Busy:     "The database is busy. Nothing was recorded; try again in a few seconds.",
	store.Slow:     "This took longer than it may. Nothing was recorded; try again in a few seconds.",
	store.Full:     "The disk of the database is full. Nothing was recorded; make room, then try again.",
	store.ReadOnly: "The database takes no writes at the moment. Nothing was recorded; try again later.",
	store.Called:   "The request was called off. Nothing was recorded.",
	store.Unknown:  "The database reported an error, which is in the log. Nothing was recorded.",
}

// failStore turns an error of the store into a page.
func (s *App) failStore(w http.ResponseWriter, r *http.Request, err error) {
	switch {
	case errors.Is(err, store.ErrNotFound):
		s.fail(w, r, http.StatusNotFound, "There is no job of that number.")
		return
	case errors.Is(err, photo.ErrBusy), errors.Is(err, spool.ErrFull):
		s.busy(w, r, "Too much is being sent or received at once. Nothing was recorded; try again in a minute.")
		return
	}
	trouble := s.Jobs.TroubleOf(err)
	s.Log.Error("store", "path", r.URL.Path, "trouble", trouble, "error", err)
	s.busy(w, r, troubleWords[trouble])
}

// failForm answers a request whose body cannot be read as a form.
func (s *App) failForm(w http.ResponseWriter, r *http.Request, err error) {
	if _, ok := errors.AsType[*http.MaxBytesError](err); ok {
		s.fail(w, r, http.StatusRequestEntityTooLarge, "That is more than this form takes: expected at most 64 kB, and a case file of at most 2 MB.")
		return
	}
	s.fail(w, r, http.StatusBadRequest, "That could not be read as a form.")
}

// form is what was typed, with what is wrong with it, field by field.
type form struct {
	url.Values
	Errors map[string]invalid.Error
	// Other lists what is wrong with no field of the form in particular.
	Other invalid.Errors
}

// Error is what is wrong with a field, or nil.
func (f form) Error(field string) *invalid.Error {
	if e, ok := f.Errors[field]; ok {
		return &e
	}
	return nil
}

// Pristine says that nothing has been sent yet, so that a draft kept by the
// browser may be filled in.
func (f form) Pristine() bool { return len(f.Errors) == 0 && len(f.Other) == 0 }

// Is says whether a field holds a value, for selects and check boxes.
func (f form) Is(field, value string) bool { return f.Get(field) == value }

// newForm puts errors beside fields. field maps the path of an error to the name
// of a field of the form, or to "".
func newForm(values url.Values, errs invalid.Errors, field func(path string) string) form {
	f := form{Values: values, Errors: map[string]invalid.Error{}}
	for _, e := range errs {
		name := field(e.Field)
		if _, taken := f.Errors[name]; name == "" || taken {
			f.Other = append(f.Other, e)
			continue
		}
		f.Errors[name] = e
	}
	return f
}

// badText finds the fields that are not valid UTF-8 or hold control characters,
// which neither a page nor the database can keep.
func badText(values url.Values) invalid.Errors {
	var bad invalid.Errors
	for field, list := range values {
		for _, text := range list {
			clean := strings.ToValidUTF8(text, "\uFFFD")
			if clean != text || strings.ContainsRune(text, 0) {
				bad.Add(field, "text in UTF-8", invalid.Quote(strings.ReplaceAll(clean, "\x00", "\uFFFD")))
				values.Set(field, strings.ReplaceAll(clean, "\x00", "\uFFFD"))
			}
		}
	}
	return bad
}

func same(field string) string { return field }

// fieldsOf is the fields an error names, or nil when it is of another kind.
func fieldsOf(err error) invalid.Errors {
	if errs, ok := errors.AsType[invalid.Errors](err); ok {
		return errs
	}
	if errors.Is(err, store.ErrNumberTaken) {
		return invalid.Errors{{Field: "number", Expected: "a job number that is free", Got: "one that is in use"}}
	}
	return nil
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

// readAtMost reads a file up to some bytes.
func readAtMost(r io.Reader, most int64) ([]byte, error) {
	return io.ReadAll(io.LimitReader(r, most))
}

func rowField(name string, row int) string { return fmt.Sprintf("%s-%d", name, row) }

func number(typed url.Values, field string, bad *invalid.Errors) *float64 {
	text := strings.TrimSpace(typed.Get(field))
	if text == "" {
		return nil
	}
	v, err := strconv.ParseFloat(strings.NewReplacer(",", ".", "−", "-").Replace(text), 64)
	if err != nil {
		bad.Add(field, "a number, such as 12.5", invalid.Quote(text))
		return nil
	}
	return &v
}
