// Package staff has the pages about people: signing in, one's own account, who works here, and the audit log. It also
// finds out who sends a request, and what they may do.
package staff

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"embed"
	"errors"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/alexedwards/scs/v2"

	"glenmist/people"
	"glenmist/store"
	"glenmist/web/page"
)

// Limits of a session.
const (
	// lifetime ends every session: after it the password is needed again.
	lifetime = 7 * 24 * time.Hour
	// idle ends a session that nobody used: longer than a shift.
	idle = 12 * time.Hour
	// lockAfter locks a device that several people use.
	lockAfter = 5 * time.Minute
	// mark is how often a session notes that it is used.
	mark = time.Minute
	// deviceLife is how long a device stays known, in seconds.
	deviceLife = 365 * 24 * 3600
)

// Keys of a session's values.
const (
	keyPerson = "person"
	keyEpoch  = "epoch"
	keySeen   = "seen"
	keyShared = "shared"
)

// Pages handles the pages about people.
type Pages struct {
	*page.App
	Sessions *scs.SessionManager
	// Refreshed works out the summaries of jobs that have changed.
	Refreshed func()
	// first is the token of the link that makes the first administrator; "" if it is not needed.
	mu    sync.Mutex
	first string
	// known is true once somebody is known, so that it is not asked again.
	known bool
}

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages. refreshed works out the summaries of jobs that have changed.
func New(app *page.App, refreshed func()) *Pages {
	m := scs.New()
	m.Store = app.Jobs.Sessions()
	m.HashTokenInStore = true
	m.Lifetime = lifetime
	m.Cookie.Name = "session"
	m.Cookie.SameSite = http.SameSiteLaxMode // so that the code on a label opens signed in
	if m.Cookie.Secure = app.Secure(); m.Cookie.Secure {
		m.Cookie.Name = "__Host-session"
	}
	s := &Pages{App: app, Sessions: m, Refreshed: refreshed}
	m.ErrorFunc = s.unknown
	return s
}

// First prepares the link that makes the first administrator, and logs it once. It reports whether it is needed. It is
// another one at each start.
func (s *Pages) First(ctx context.Context) (needed bool, err error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.known {
		return false, nil
	}
	somebody, err := s.Jobs.Anybody(ctx)
	if err != nil || somebody {
		s.known, s.first = somebody, ""
		return false, err
	}
	if s.first == "" {
		s.first = rand.Text()
		s.Log.Warn("nobody can sign in yet: open this link once to add the first administrator", "link", s.HomeAddress()+"/first/"+s.first)
	}
	return true, nil
}

// isFirst reports whether a token is that of the link in the log.
func (s *Pages) isFirst(token string) bool {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.first != "" && subtle.ConstantTimeCompare([]byte(token), []byte(s.first)) == 1
}

// Identify finds out who sent a request, and passes it on with that.
func (s *Pages) Identify(next http.Handler) http.Handler {
	return s.Sessions.LoadAndSave(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		signed, err := s.signed(r)
		if err != nil {
			s.unknown(w, r, err)
			return
		}
		next.ServeHTTP(w, page.WithSigned(r, signed))
	}))
}

// unknown answers that it could not be found out who sends a request. A form comes back as it was typed.
func (s *Pages) unknown(w http.ResponseWriter, r *http.Request, err error) {
	if r.Method == http.MethodPost {
		_ = http.NewResponseController(w).SetReadDeadline(time.Now().Add(page.PageTime)) // writers of tests have none
		s.ReadTyped(r)
	}
	s.FailStore(w, r, err)
}

// signed returns who a session belongs to. It ends a session that is no longer valid.
func (s *Pages) signed(r *http.Request) (signed page.Signed, err error) {
	ctx := r.Context()
	id := s.Sessions.GetInt64(ctx, keyPerson)
	if id == 0 {
		return signed, nil
	}
	person, epoch, err := s.Jobs.Person(ctx, id)
	ended := errors.Is(err, store.ErrNoPerson) || err == nil && epoch != s.Sessions.GetInt(ctx, keyEpoch)
	if err != nil && !ended {
		return signed, err
	}
	quiet := s.Now().Sub(time.Unix(s.Sessions.GetInt64(ctx, keySeen), 0))
	if ended || quiet > idle {
		return signed, s.Sessions.Destroy(ctx)
	}
	signed = page.Signed{Person: person, Device: s.Sessions.GetBool(ctx, keyShared)}
	switch {
	case signed.Device && quiet > lockAfter:
		signed.Locked = true
	case quiet > mark:
		s.Sessions.Put(ctx, keySeen, s.Now().Unix())
	}
	return signed, nil
}

// begin signs somebody in with a new session.
func (s *Pages) begin(r *http.Request, p people.Person, epoch int, shared bool) error {
	ctx := r.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.Sessions.Put(ctx, keyPerson, p.ID)
	s.Sessions.Put(ctx, keyEpoch, epoch)
	s.Sessions.Put(ctx, keySeen, s.Now().Unix())
	s.Sessions.Put(ctx, keyShared, shared)
	return nil
}

// May passes a request on if who sent it may do something.
func (s *Pages) May(do people.Right, next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		switch signed := page.SignedOf(r); {
		case !signed.In():
			s.challenge(w, r, signed)
		case !signed.May(do):
			s.Refuse(w, r, do)
		default:
			next(w, r)
		}
	}
}

// Refuse answers that a person may not do something, and who may.
func (s *Pages) Refuse(w http.ResponseWriter, r *http.Request, do people.Right) {
	s.RefuseRight(w, r, do)
}

// challenge asks who sends a request. A form comes back as it was typed.
func (s *Pages) challenge(w http.ResponseWriter, r *http.Request, signed page.Signed) {
	if r.Method == http.MethodGet || r.Method == http.MethodHead {
		http.Redirect(w, r, "/sign-in?"+url.Values{"back": {r.URL.RequestURI()}}.Encode(), http.StatusSeeOther)
		return
	}
	s.ReadTyped(r)
	words := "Nothing was recorded: you are signed out. Sign in to go on."
	if signed.Locked {
		words = "Nothing was recorded: this device was locked after five minutes without use. Sign in to go on."
	}
	s.showSignIn(w, r, http.StatusUnauthorized, signIn{Said: words, Resend: page.NewResend(r), back: "/jobs"})
}
