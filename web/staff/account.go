package staff

import (
	"errors"
	"net/http"
	"net/url"

	"glenmist/core/invalid"
	"glenmist/people"
	"glenmist/store"
	"glenmist/web/page"
)

type accountPage struct {
	page.Base
	Form page.Form
	Done string
	// Feed is a new calendar address, shown once.
	Feed  string
	Table []people.Row
	Roles []people.Role
}

// accountWords says what was done, by the value of the address.
var accountWords = map[string]string{
	"password": "The password is set. You are signed out on all other devices.",
	"pin":      "The PIN is set. It works on devices that several people use.",
	"no-pin":   "The PIN is taken away.",
	"ended":    "You are signed out on all other devices.",
}

// ShowAccount shows one's own account.
func (s *Pages) ShowAccount(w http.ResponseWriter, r *http.Request) {
	s.showAccount(w, r, http.StatusOK, page.NewForm(map[string][]string{}, nil, page.SameName), "")
}

func (s *Pages) showAccount(w http.ResponseWriter, r *http.Request, code int, f page.Form, feed string) {
	s.Render(w, r, code, "account.html", accountPage{s.Base(r, "Account"), f, accountWords[r.URL.Query().Get("done")], feed, people.Table(), people.Roles()})
}

// ChangeAccount sets one's own password, PIN or calendar address, or ends all other sessions. The first two need the
// present password.
func (s *Pages) ChangeAccount(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed, me, ctx := r.PostForm, page.SignedOf(r).Person, r.Context()
	refuse := func(bad invalid.Errors) {
		s.showAccount(w, r, http.StatusUnprocessableEntity, page.NewForm(withoutSecrets(typed), bad, page.SameName), "")
	}
	do := typed.Get("do")
	var bad invalid.Errors
	switch do {
	case "password":
		bad.Under("", newPassword(typed.Get("password"), typed.Get("again"), me.Name))
	case "pin":
		if typed.Get("pin") == "" {
			do = "no-pin"
		} else {
			bad.Under("", people.CheckPIN(typed.Get("pin")))
		}
	}
	if do == "password" || do == "pin" {
		switch _, _, err := s.Jobs.SignIn(ctx, me.Name, typed.Get("old")); {
		case errors.Is(err, store.ErrRefused):
			bad.Add("old", "your present password", "another one")
		case err != nil:
			s.FailStore(w, r, err)
			return
		}
	}
	if len(bad) > 0 {
		refuse(bad)
		return
	}
	var epoch int
	var err error
	switch do {
	case "password":
		epoch, err = s.Jobs.SetPassword(ctx, me.ID, typed.Get("password"))
	case "pin":
		err = s.Jobs.SetPIN(ctx, me.ID, typed.Get("pin"))
	case "no-pin":
		err = s.Jobs.SetPIN(ctx, me.ID, "")
	case "ended":
		epoch, err = s.Jobs.EndSessions(ctx, me.ID)
	case "feed":
		var secret string
		if secret, err = s.Jobs.Feed(ctx, me.ID); err == nil {
			s.showAccount(w, r, http.StatusOK, page.NewForm(map[string][]string{}, nil, page.SameName), s.Home(r)+"/rechecks.ics?key="+secret)
			return
		}
	default:
		refuse(invalid.Errors{{Expected: "something to change", Got: invalid.Quote(do)}})
		return
	}
	if err == nil && epoch > 0 {
		err = s.begin(r, me, epoch, page.SignedOf(r).Device) // this session goes on
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	http.Redirect(w, r, "/account?"+url.Values{"done": {do}}.Encode(), http.StatusSeeOther)
}

// ByFeed passes a request on if it shows a person's calendar address, or comes from somebody who may read.
func (s *Pages) ByFeed(next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		key := r.URL.Query().Get("key")
		if key == "" {
			s.May(people.Read, next)(w, r)
			return
		}
		switch who, err := s.Jobs.PersonOfFeed(r.Context(), key); {
		case errors.Is(err, store.ErrNoPerson):
			s.Fail(w, r, http.StatusForbidden, "This calendar address does not work any more. Make a new one on the account page.")
		case err != nil:
			s.FailStore(w, r, err)
		default:
			next(w, page.WithSigned(r, page.Signed{Person: who}))
		}
	}
}
