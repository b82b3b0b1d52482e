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

// TypedForm is a form as it was sent, to be sent again when it could not be taken.
type TypedForm struct {
	Action string
	Hidden []typedField
	Fields []typedField
	// File says that a file came with it, which the browser has to be given again.
	File bool
}

type typedField struct {
	ID, Name, Words, Value string
	Long                   bool
}

// returned are the answers that give a form back as it was typed.
var returned = map[int]bool{
	http.StatusUnauthorized: true, http.StatusRequestTimeout: true, http.StatusConflict: true, http.StatusUnprocessableEntity: true,
	http.StatusTooManyRequests: true, http.StatusServiceUnavailable: true,
}

// ours are the fields that a page puts into a form by itself.
var ours = map[string]bool{"version": true, "entries": true, "key": true, "draft": true, "step": true, "outcome": true, "do": true,
	"school": true, "theme": true, "back": true, "job": true, "tag": true, "capture": true, "number": true}

// newTypedForm is the form of a request that has been read, or nil where there is none.
func newTypedForm(r *http.Request) *TypedForm {
	if r.Method != http.MethodPost || len(r.PostForm) == 0 {
		return nil
	}
	f := &TypedForm{Action: r.URL.RequestURI(), File: strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/")}
	_ = BadText(r.PostForm) // what cannot be shown is replaced
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

// Done answers a write that is committed: it goes to a page, and tells the browser that the
// draft of the form is not needed any more.
func (s *App) Done(w http.ResponseWriter, r *http.Request, typed url.Values, to string) {
	if draft := typed.Get("draft"); draftID(draft) {
		//nolint:gosec // read by the page's script; no secret
		http.SetCookie(w, &http.Cookie{Name: "done", Value: draft, Path: "/", MaxAge: 120, SameSite: http.SameSiteStrictMode, Secure: s.Secure()})
	}
	http.Redirect(w, r, to, http.StatusSeeOther) //nolint:gosec // every caller names a path of ours
}

// draftID says whether a text is a draft's name as the page's script makes it.
func draftID(text string) bool {
	if len(text) < 8 || len(text) > 40 {
		return false
	}
	return strings.Trim(text, "abcdefghijklmnopqrstuvwxyz0123456789-") == ""
}
