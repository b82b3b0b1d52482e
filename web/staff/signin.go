package staff

import (
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/people"
	"glenmist/store"
	"glenmist/web/page"
)

// signIn is what the sign-in page shows.
type signIn struct {
	page.Base
	Form page.Form
	Said string
	// Back is where to go afterwards. Resend is a form that was not accepted; Again is the same, to be sent.
	Back   string
	back   string
	Resend *page.Resend
	Again  *page.TypedForm
	// Free lists people of the demo; PIN lists those with a PIN, on a known device.
	Free, PIN []people.Person
	Device    string
	// First is true if nobody is known yet.
	First bool
}

// ShowSignIn shows the sign-in page.
func (s *Pages) ShowSignIn(w http.ResponseWriter, r *http.Request) {
	s.showSignIn(w, r, http.StatusOK, signIn{back: r.URL.Query().Get("back")})
}

func (s *Pages) showSignIn(w http.ResponseWriter, r *http.Request, code int, p signIn) {
	first, err := s.First(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	p.Base = s.Base(r, "Sign in")
	p.First, p.Back = first, page.LocalPath(p.back, "/jobs")
	if p.Form.Values == nil {
		p.Form = page.NewForm(map[string][]string{}, nil, page.SameName)
	}
	if p.Resend != nil {
		p.Again = p.Resend.Form()
	}
	device, known, err := s.device(r)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	if known || s.Demo {
		all, err := s.Jobs.People(r.Context())
		if err != nil {
			s.FailStore(w, r, err)
			return
		}
		for _, who := range all {
			if known && who.HasPIN && !who.Gone {
				p.PIN = append(p.PIN, who)
			}
			if s.Demo && !who.Gone && len(p.Free) < maxFree {
				p.Free = append(p.Free, who)
			}
		}
		p.Device = device.Name
	}
	s.Render(w, r, code, "signin.html", p)
}

// maxFree bounds the people that can be chosen in the demo.
const maxFree = 12

// deviceCookie is the name of the cookie that a known device shows.
func (s *Pages) deviceCookie() string {
	if s.Secure() {
		return "__Host-device"
	}
	return "device"
}

// device finds the known device that sent a request.
func (s *Pages) device(r *http.Request) (store.Device, bool, error) {
	c, err := r.Cookie(s.deviceCookie())
	if err != nil {
		return store.Device{}, false, nil
	}
	return s.Jobs.DeviceOf(r.Context(), c.Value)
}

// SignIn signs somebody in: by name and password, by PIN on a known device, or by one tap in the demo.
func (s *Pages) SignIn(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed := r.PostForm
	again := func(code int, said string) {
		typed.Del("password")
		typed.Del("pin")
		s.showSignIn(w, r, code, signIn{Said: said, Form: page.NewForm(typed, nil, page.SameName), Resend: page.ReadResend(typed), back: typed.Get("back")})
	}
	if bad := page.BadText(typed); len(bad) > 0 {
		again(http.StatusUnprocessableEntity, bad.Error())
		return
	}
	who, epoch, shared, err := s.whoIs(r, typed.Get("how"))
	switch {
	case errors.Is(err, store.ErrPINSpent):
		again(http.StatusUnauthorized, "This PIN was wrong too often. Sign in with the password; then the PIN works again.")
		return
	case errors.Is(err, store.ErrRefused), errors.Is(err, store.ErrNoPerson):
		again(http.StatusUnauthorized, refusedWords[typed.Get("how") == "pin"])
		return
	case err != nil:
		s.FailStore(w, r, err)
		return
	}
	if !shared && typed.Get("shared") != "" {
		name := strings.TrimSpace(typed.Get("device"))
		if name == "" || len([]rune(name)) > 80 {
			again(http.StatusUnprocessableEntity, "Expected a name for this device of up to 80 letters, such as Tablet bay 2.")
			return
		}
		token, err := s.Jobs.AddDevice(store.WithActor(r.Context(), store.Actor{Name: who.Name}), name)
		if err != nil {
			s.FailStore(w, r, err)
			return
		}
		//nolint:gosec // Secure only with TLS: loopback has none
		http.SetCookie(w, &http.Cookie{Name: s.deviceCookie(), Value: token, Path: "/", MaxAge: deviceLife, HttpOnly: true, SameSite: http.SameSiteLaxMode, Secure: s.Secure()})
		shared = true
	}
	if err := s.begin(r, who, epoch, shared); err != nil {
		s.FailStore(w, r, err)
		return
	}
	if resend := page.ReadResend(typed); resend != nil {
		r = page.WithSigned(r, page.Signed{Person: who, Device: shared})
		s.Render(w, r, http.StatusOK, "signedin.html", signIn{Base: s.Base(r, "Signed in"), Again: resend.Form()})
		return
	}
	http.Redirect(w, r, page.LocalPath(typed.Get("back"), "/jobs"), http.StatusSeeOther) //nolint:gosec // a path of this server
}

// refusedWords says why nobody was signed in: by PIN, or by password.
var refusedWords = map[bool]string{
	true:  "That is not this person's PIN. Type it again, or sign in with the password.",
	false: "Name and password do not belong together. Check both, or ask the administrator to set a new password.",
}

// whoIs finds who signs in. shared is true on a known device.
func (s *Pages) whoIs(r *http.Request, how string) (who people.Person, epoch int, shared bool, err error) {
	ctx, typed := r.Context(), r.PostForm
	_, shared, err = s.device(r)
	if err != nil {
		return who, 0, false, err
	}
	id, _ := strconv.ParseInt(typed.Get("person"), 10, 64)
	switch {
	case how == "demo" && s.Demo:
		who, epoch, err = s.Jobs.SignInFreely(ctx, id)
	case how == "pin" && shared:
		who, epoch, err = s.Jobs.SignInByPIN(ctx, id, typed.Get("pin"))
	default:
		who, epoch, err = s.Jobs.SignIn(ctx, strings.TrimSpace(typed.Get("name")), typed.Get("password"))
	}
	return who, epoch, shared, err
}

// SignOut ends the session.
func (s *Pages) SignOut(w http.ResponseWriter, r *http.Request) {
	if p := page.SignedOf(r); p.ID != 0 {
		if err := s.Jobs.Note(r.Context(), store.SignedOut, p.Name, "on one device"); err != nil {
			s.FailStore(w, r, err)
			return
		}
	}
	if err := s.Sessions.Destroy(r.Context()); err != nil {
		s.FailStore(w, r, err)
		return
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
}

// Awake notes that a shared device is in use, so that it is not locked while somebody types.
func (s *Pages) Awake(w http.ResponseWriter, r *http.Request) {
	if !page.SignedOf(r).In() {
		page.WriteText(w, http.StatusUnauthorized, "locked\n")
		return
	}
	s.Sessions.Put(r.Context(), keySeen, s.Now().Unix())
	w.WriteHeader(http.StatusNoContent)
}

type firstPage struct {
	page.Base
	Form  page.Form
	Token string
}

// ShowFirst asks for the first administrator, at the link in the log.
func (s *Pages) ShowFirst(w http.ResponseWriter, r *http.Request) {
	s.showFirst(w, r, http.StatusOK, page.NewForm(map[string][]string{}, nil, page.SameName))
}

func (s *Pages) showFirst(w http.ResponseWriter, r *http.Request, code int, f page.Form) {
	token := chi.URLParam(r, "token")
	if !s.isFirst(token) {
		s.Fail(w, r, http.StatusNotFound, "This link is used up, or it is of an earlier start. The newest one is in the log of the server.")
		return
	}
	s.Render(w, r, code, "first.html", firstPage{s.Base(r, "First administrator"), f, token})
}

// AddFirst adds the first administrator and signs them in.
func (s *Pages) AddFirst(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed := r.PostForm
	if !s.isFirst(chi.URLParam(r, "token")) {
		s.showFirst(w, r, http.StatusNotFound, page.Form{})
		return
	}
	bad := page.BadText(typed)
	name, err := people.CleanName(typed.Get("name"))
	bad.Under("", err)
	bad.Under("", newPassword(typed.Get("password"), typed.Get("again"), name))
	if len(bad) == 0 {
		s.mu.Lock() // only one is the first
		if s.first == "" {
			err = store.ErrNotFound
		} else if _, err = s.Jobs.AddPerson(store.WithActor(r.Context(), store.Actor{Name: name}), name, people.Administrator, typed.Get("password")); err == nil {
			s.first, s.known = "", true
		}
		s.mu.Unlock()
		bad = append(bad, page.FieldsOf(err)...)
		if err != nil && len(bad) == 0 {
			s.FailStore(w, r, err)
			return
		}
	}
	if len(bad) > 0 {
		s.showFirst(w, r, http.StatusUnprocessableEntity, page.NewForm(withoutSecrets(typed), bad, page.SameName))
		return
	}
	who, epoch, err := s.Jobs.SignIn(r.Context(), name, typed.Get("password"))
	if err == nil {
		err = s.begin(r, who, epoch, false)
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	http.Redirect(w, r, "/people", http.StatusSeeOther)
}

// newPassword checks a new password that was typed twice.
func newPassword(password, again, name string) error {
	if err := people.CheckPassword(password, name); err != nil {
		return err
	}
	if again != password {
		return invalid.Error{Field: "again", Expected: "the same password again", Got: "another one"}
	}
	return nil
}

// secrets are fields that no page shows again.
var secrets = []string{"password", "again", "old", "pin"}

func withoutSecrets(typed map[string][]string) map[string][]string {
	rest := map[string][]string{}
	for name, values := range typed {
		if !slices.Contains(secrets, name) {
			rest[name] = values
		}
	}
	return rest
}
