package page

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"math"
	"net/http"
	"net/url"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/unit"
)

// Layout holds the shared templates and the error page.
//
//go:embed *.html
var Layout embed.FS

// Templates holds the parsed pages. A template has the name of its file.
type Templates struct{ Set *template.Template }

// LoadTemplates parses all *.html of the file systems.
func LoadTemplates(a *Assets, files ...fs.FS) (*Templates, error) {
	set := template.New("").Funcs(template.FuncMap{
		"asset":     a.url,
		"percent":   unit.Percent,
		"thousands": unit.Thousands,
		"capital":   unit.Capital,
		"when":      func(t time.Time) string { return t.Local().Format("2 Jan 15:04") },
		"day":       func(t time.Time) string { return t.Local().Format("2 Jan 2006") },
		"clock":     func(t time.Time) string { return t.Local().Format("15:04") },
		"iso":       func(t time.Time) string { return t.UTC().Format(time.RFC3339) },
		"odds":      Odds,
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
		"row":       RowField,
		"id":        func(p engine.Place) string { return string(p) },
		"dashed":    func(k any) string { return strings.ReplaceAll(fmt.Sprint(k), " ", "-") },
	})
	// include renders the template of a given name, such as that of a work view.
	set.Funcs(template.FuncMap{"include": func(name string, data any) (template.HTML, error) {
		var b strings.Builder
		err := set.ExecuteTemplate(&b, name, data)
		return template.HTML(b.String()), err //nolint:gosec // escaped by the template
	}})
	for _, from := range files {
		if _, err := set.ParseFS(from, "*.html"); err != nil {
			return nil, err
		}
	}
	return &Templates{set}, nil
}

// dict makes a map for a template that needs several values.
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

// Odds returns a weight of evidence as a factor: "12 times".
func Odds(logOdds float64) string {
	times := math.Exp(math.Abs(logOdds))
	switch {
	case times < 10:
		return fmt.Sprintf("%.1f×", times)
	case times < 1000:
		return fmt.Sprintf("%.0f×", times)
	}
	return ">1000×"
}

// Base holds the data of every page.
type Base struct {
	Title string
	Theme string // "light", "dark", or "" for that of the device
	Path  string
	// Here is the address of the page with its query, to come back to.
	Here string
	// Who sees the page.
	Who Signed
	// Demo is true where people sign in by one tap.
	Demo bool
}

// By is the name that is recorded with what the page sends.
func (b Base) By() string { return b.Who.Name }

// Base returns the common data of a page, with the choices stored in the browser.
func (s *App) Base(r *http.Request, title string) Base {
	b := Base{Title: title, Path: r.URL.Path, Here: r.URL.Path, Who: SignedOf(r), Demo: s.Demo}
	if r.Method == http.MethodGet {
		b.Here = r.URL.RequestURI()
	}
	if c, err := r.Cookie("theme"); err == nil && (c.Value == "light" || c.Value == "dark") {
		b.Theme = c.Value
	}
	return b
}

// NextThemes lists the themes that the button changes to: from a chosen theme to that of the
// device, and from that to the opposite one, which the style sheet knows.
func (b Base) NextThemes() []string {
	if b.Theme != "" {
		return []string{"auto"}
	}
	return []string{"dark", "light"}
}

// SetTheme stores the chosen theme and returns to the previous page.
func (s *App) SetTheme(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	theme := r.PostForm.Get("theme")
	if theme != "light" && theme != "dark" {
		theme = ""
	}
	s.Remember(w, "theme", theme)
	http.Redirect(w, r, LocalPath(r.PostForm.Get("back"), "/jobs"), http.StatusSeeOther) //nolint:gosec // a path of this server
}

// Remember stores a choice in a cookie for a year.
func (s *App) Remember(w http.ResponseWriter, name, value string) {
	//nolint:gosec //  // Secure only with TLS: loopback has none
	http.SetCookie(w, &http.Cookie{Name: name, Value: url.QueryEscape(value), Path: "/", MaxAge: 365 * 24 * 3600,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.Secure()})
}

// Render writes a page. It is built in memory first, so that a template error gives a clean
// 500.
func (s *App) Render(w http.ResponseWriter, r *http.Request, code int, name string, data any) {
	var page bytes.Buffer
	if err := s.Templates.Set.ExecuteTemplate(&page, name, data); err != nil {
		s.Log.Error("template", "name", name, "path", r.URL.Path, "error", err)
		http.Error(w, "This page could not be made. Nothing was lost.", http.StatusInternalServerError)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-store")
	w.WriteHeader(code)
	_, _ = page.WriteTo(w)
}
