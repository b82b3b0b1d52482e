package page

import (
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/unit"
)

// TypedForm is a rejected form, to be sent again.
type TypedForm struct {
	Action string
	Hidden []typedField
	Fields []typedField
	// File is true if it had a file, which must be chosen again.
	File bool
}

type typedField struct {
	ID, Name, Words, Value string
	Long                   bool
}

// returned lists the status codes that return the typed form.
var returned = map[int]bool{
	http.StatusUnauthorized: true, http.StatusRequestTimeout: true, http.StatusConflict: true, http.StatusUnprocessableEntity: true,
	http.StatusTooManyRequests: true, http.StatusServiceUnavailable: true,
}

// ours lists the fields that the page adds itself.
var ours = map[string]bool{"version": true, "entries": true, "key": true, "draft": true, "step": true, "outcome": true, "do": true,
	"school": true, "theme": true, "back": true, "job": true, "tag": true, "capture": true, "number": true}

// newTypedForm returns the form of a request that was read, or nil.
func newTypedForm(r *http.Request) *TypedForm {
	if r.Method != http.MethodPost || len(r.PostForm) == 0 {
		return nil
	}
	f := &TypedForm{Action: r.URL.RequestURI(), File: strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/")}
	_ = BadText(r.PostForm) // invalid characters are replaced
	for _, name := range slices.Sorted(maps.Keys(r.PostForm)) {
		for i, value := range r.PostForm[name] {
			field := typedField{fmt.Sprintf("typed-%s-%d", name, i), name, unit.Capital(strings.NewReplacer("_", " ", "-", " ").Replace(name)), value, len(value) > 60}
			if ours[name] || value == "" {
				f.Hidden = append(f.Hidden, field)
			} else {
				f.Fields = append(f.Fields, field)
			}
		}
	}
	return f
}

// Done answers a committed write: it redirects to a page, and tells the browser to delete the
// draft of the form.
func (s *App) Done(w http.ResponseWriter, r *http.Request, typed url.Values, to string) {
	if draft := typed.Get("draft"); draftID(draft) {
		//nolint:gosec //  // read by the page's script; not secret
		http.SetCookie(w, &http.Cookie{Name: "done", Value: draft, Path: "/", MaxAge: 120, SameSite: http.SameSiteStrictMode, Secure: s.Secure()})
	}
	http.Redirect(w, r, to, http.StatusSeeOther) //nolint:gosec // every caller passes a path of this server
}

// draftID reports whether a text is a draft name of the page's script.
func draftID(text string) bool {
	if len(text) < 8 || len(text) > 40 {
		return false
	}
	return strings.Trim(text, "abcdefghijklmnopqrstuvwxyz0123456789-") == ""
}
