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

// secret lists fields that no page shows again.
var secret = map[string]bool{"password": true, "again": true, "old": true, "pin": true}

// newTypedForm returns the form of a request that was read, or nil.
func newTypedForm(r *http.Request) *TypedForm {
	if r.Method != http.MethodPost || len(r.PostForm) == 0 {
		return nil
	}
	return typedForm(r.URL.RequestURI(), r.PostForm, strings.HasPrefix(r.Header.Get("Content-Type"), "multipart/"))
}

// typedForm returns a form with the values that were typed, except who sent it.
func typedForm(action string, typed url.Values, file bool) *TypedForm {
	f := &TypedForm{Action: action, File: file}
	_ = BadText(typed) // invalid characters are replaced
	for _, name := range slices.Sorted(maps.Keys(typed)) {
		if name == "by" || secret[name] {
			continue
		}
		for i, value := range typed[name] {
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

// Resend is a rejected form in one text, to be carried through the sign-in.
type Resend struct {
	Action, Typed string
	File          bool
}

// NewResend returns the form of a request that was read, or nil if there was none.
func NewResend(r *http.Request) *Resend {
	f := newTypedForm(r)
	if f == nil {
		return nil
	}
	typed := url.Values{}
	for _, list := range [][]typedField{f.Hidden, f.Fields} {
		for _, field := range list {
			typed.Add(field.Name, field.Value)
		}
	}
	return &Resend{f.Action, typed.Encode(), f.File}
}

// ReadResend reads what the sign-in form carried; nil if it carried nothing.
func ReadResend(typed url.Values) *Resend {
	action := LocalPath(typed.Get("resend-action"), "")
	if action == "" || typed.Get("resend-typed") == "" {
		return nil
	}
	return &Resend{action, typed.Get("resend-typed"), typed.Get("resend-file") != ""}
}

// Form returns the form to be sent again. Text that is no form gives an empty one.
func (f Resend) Form() *TypedForm {
	values, _ := url.ParseQuery(f.Typed)
	return typedForm(f.Action, values, f.File)
}
