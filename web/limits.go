package web

import (
	"net"
	"net/http"
	"net/netip"
	"strings"
	"time"

	"github.com/go-chi/httprate"

	"glenmist/web/page"
)

// identified finds out who sent a request. Built files and the two health checks are for everybody, and need no query.
func (s *server) identified(next http.Handler) http.Handler {
	known := s.staff.Identify(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasPrefix(r.URL.Path, "/static/") || r.URL.Path == "/healthz" || r.URL.Path == "/readyz" {
			next.ServeHTTP(w, r)
			return
		}
		known.ServeHTTP(w, r)
	})
}

// limited bounds the writes of a person from an address to some in a minute. Further parts of the key may be given. What
// is refused comes back as it was typed.
func (s *server) limited(most func(page.Limits) int, more ...httprate.KeyFunc) func(http.Handler) http.Handler {
	limits := page.UsualLimits
	if s.Limits != nil {
		limits = *s.Limits
	}
	keys := append([]httprate.KeyFunc{s.byPerson, s.byAddress}, more...)
	guard := httprate.LimitBy(most(limits), time.Minute, httprate.JoinKeys(keys...), httprate.WithLimitHandler(func(w http.ResponseWriter, r *http.Request) {
		s.ReadTyped(r)
		s.Fail(w, r, http.StatusTooManyRequests, "That was sent too often within a minute. Nothing was recorded; send it again after a minute.")
	}))
	return func(next http.Handler) http.Handler {
		bounded := guard(next)
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.Method == http.MethodPost {
				bounded.ServeHTTP(w, r)
				return
			}
			next.ServeHTTP(w, r)
		})
	}
}

func uploads(l page.Limits) int { return l.Uploads }

func (s *server) byPerson(r *http.Request) (string, error) { return page.SignedOf(r).Name, nil }

// byName is the name that somebody signs in with, or the number of the person who was tapped.
func byName(r *http.Request) (string, error) {
	if err := r.ParseForm(); err != nil {
		return "", nil //nolint:nilerr // the handler reports it
	}
	return strings.ToLower(strings.TrimSpace(r.PostForm.Get("name"))) + " " + r.PostForm.Get("person"), nil
}

func (s *server) byAddress(r *http.Request) (string, error) { return s.client(r), nil }

// client returns the address that a request came from: that of the connection, or, behind a trusted proxy, the last one of
// X-Forwarded-For that is no trusted proxy.
func (s *server) client(r *http.Request) string {
	host, _, err := net.SplitHostPort(r.RemoteAddr)
	if err != nil {
		host = r.RemoteAddr
	}
	hops := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
	for i := len(hops) - 1; i >= 0 && s.trusted(host); i-- {
		hop, err := netip.ParseAddr(strings.TrimSpace(hops[i]))
		if err != nil {
			break
		}
		host = hop.Unmap().String()
	}
	return host
}

// trusted reports whether an address is that of a trusted proxy.
func (s *server) trusted(host string) bool {
	addr, err := netip.ParseAddr(host)
	if err != nil {
		return false
	}
	for _, p := range s.Proxies {
		if p.Contains(addr.Unmap()) {
			return true
		}
	}
	return false
}
