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

// Layout is what pages are built of, and the page that says what went wrong.
//
//go:embed *.html
var Layout embed.FS

// Templates are the parsed pages; a template is named as its file.
type Templates struct{ Set *template.Template }

// LoadTemplates parses the templates, which are all *.html of the file systems.
func LoadTemplates(a *Assets, files ...fs.FS) (*Templates, error) {
	set := template.New("").Funcs(template.FuncMap{
		"asset":     a.url,
		"percent":   unit.Percent,
		"thousands": unit.Thousands,
		"capital":   unit.Capital,
		"when":      func(t time.Time) string { return t.Local().Format("2 Jan 15:04") },
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
		"dashed":    func(k engine.Kind) string { return strings.ReplaceAll(string(k), " ", "-") },
	})
	for _, from := range files {
		if _, err := set.ParseFS(from, "*.html"); err != nil {
			return nil, err
		}
	}
	return &Templates{set}, nil
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

// Odds says a weight of evidence as "12 times" for the reader.
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

// Base is what every page has.
type Base struct {
	Title string
	Theme string // "light", "dark", or "" for the device's own
	Hand  string // who works here, as last given
	Path  string
}

// Base is what a page of this title has, with the choices that the browser keeps.
func (s *App) Base(r *http.Request, title string) Base {
	b := Base{Title: title, Path: r.URL.Path}
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
func (b Base) NextThemes() []string {
	if b.Theme != "" {
		return []string{"auto"}
	}
	return []string{"dark", "light"}
}

// SetTheme keeps the chosen theme and goes back to the page it was chosen on.
func (s *App) SetTheme(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.FailForm(w, r, err)
		return
	}
	theme := r.PostForm.Get("theme")
	if theme != "light" && theme != "dark" {
		theme = ""
	}
	s.Remember(w, "theme", theme)
	back := r.PostForm.Get("back")
	if u, err := url.Parse(back); err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(u.Path, "/") || strings.HasPrefix(back, "//") || strings.Contains(back, "\\") {
		back = "/jobs"
	}
	http.Redirect(w, r, back, http.StatusSeeOther) //nolint:gosec // checked to be a path of ours
}

// Remember keeps a choice in a cookie of this browser for a year.
func (s *App) Remember(w http.ResponseWriter, name, value string) {
	//nolint:gosec // Secure behind TLS only: on loopback there is none
	http.SetCookie(w, &http.Cookie{Name: name, Value: url.QueryEscape(value), Path: "/", MaxAge: 365 * 24 * 3600,
		HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.Secure()})
}

// Render writes a page. It is made in memory first, so that an error in a
// template becomes a clean 500 and not half a page.
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
