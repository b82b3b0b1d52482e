package web

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"runtime/debug"
	"strings"
	"time"
	"unicode"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"

	"glenmist/web/page"
)

// maxForm is the most bytes of a form without a file.
const maxForm = 64 << 10

// policy allows only resources of this server: no inline script or style, no frames, no other
// origin. data: is for small pictures of form controls in the style sheet.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; " +
	"img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

func (s *server) secured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		h.Set("Cache-Control", "no-store") // a handler can override it
		if s.Secure() {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		next.ServeHTTP(w, r)
	})
}

// crossOrigin rejects writes from pages of another origin.
func crossOrigin(s *server) func(http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.Fail(w, r, http.StatusForbidden, "This was sent from another site, so nothing was recorded.")
	}))
	return guard.Handler
}

// atHome rejects requests for a host name of another site (DNS rebinding). On loopback only
// names of this machine are accepted. Otherwise these are accepted: the host of the public
// address, configured hosts, and any IP address.
func (s *server) atHome(next http.Handler) http.Handler {
	allowed := map[string]bool{"localhost": true}
	if s.PublicURL != nil {
		allowed[strings.ToLower(s.PublicURL.Hostname())] = true
	}
	for _, host := range s.Hosts {
		allowed[strings.ToLower(host)] = true
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		host = strings.ToLower(strings.Trim(host, "[]"))
		ip := net.ParseIP(host)
		if !allowed[host] && (ip == nil || s.Loopback && !ip.IsLoopback()) {
			words := "This server is not known by that name: expected its public address or an IP address. --public-url and --allow-host name others."
			if s.Loopback {
				words = "This address is served on its own machine only: expected localhost or 127.0.0.1."
			}
			s.Fail(w, r, http.StatusMisdirectedRequest, words)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// decoded unescapes the parameters of an address. A value that no record can have gives 404.
func (s *server) decoded(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		params := &chi.RouteContext(r.Context()).URLParams
		for i, value := range params.Values {
			if r.URL.RawPath != "" { // otherwise the router has seen the unescaped path
				clean, err := url.PathUnescape(value)
				if err != nil {
					s.NotFound(w, r)
					return
				}
				value = clean
			}
			if !utf8.ValidString(value) || strings.ContainsFunc(value, unicode.IsControl) {
				s.NotFound(w, r)
				return
			}
			params.Values[i] = value
		}
		next.ServeHTTP(w, r)
	})
}

// answered ensures that every request has an answer. A write that was cancelled or timed out
// must not look like a recorded one.
func (s *server) answered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		if ww.Status() != 0 || ww.BytesWritten() > 0 {
			return
		}
		if err := r.Context().Err(); err != nil {
			s.FailStore(ww, r, err)
			return
		}
		s.Log.Error("no answer", "id", middleware.GetReqID(r.Context()), "method", r.Method, "path", r.URL.Path)
		s.Fail(ww, r, http.StatusInternalServerError, "Something went wrong here. Nothing was recorded.")
	})
}

// deadline bounds the time to read a request, handle it and write the answer.
func deadline(d time.Duration) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			control := http.NewResponseController(w)
			end := time.Now().Add(d)
			// Writers of tests do not support deadlines.
			_ = control.SetReadDeadline(end)
			_ = control.SetWriteDeadline(end.Add(time.Second))
			ctx, cancel := context.WithDeadline(r.Context(), end)
			defer cancel()
			next.ServeHTTP(w, r.WithContext(ctx))
		})
	}
}

func limitBody(most int64) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			r.Body = http.MaxBytesReader(w, r.Body, most)
			next.ServeHTTP(w, r)
		})
	}
}

func (s *server) logged(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := time.Now()
		r, who := page.Named(r)
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		level := slog.LevelDebug
		switch {
		case ww.Status() >= 500:
			level = slog.LevelError
		case r.Method != http.MethodGet && r.Method != http.MethodHead, ww.Status() >= 400:
			level = slog.LevelInfo
		}
		s.Log.LogAttrs(r.Context(), level, "request", slog.String("id", middleware.GetReqID(r.Context())), slog.String("person", *who), slog.String("from", s.client(r)),
			slog.String("method", r.Method), slog.String("path", r.URL.Path), slog.Int("status", ww.Status()),
			slog.Int("bytes", ww.BytesWritten()), slog.Duration("took", time.Since(began)))
	})
}

func (s *server) recovered(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil {
				if err, ok := p.(error); ok && errors.Is(err, http.ErrAbortHandler) {
					panic(p)
				}
				s.metrics.panics.Inc()
				s.Log.Error("panic", "id", middleware.GetReqID(r.Context()), "path", r.URL.Path, "panic", p, "stack", string(debug.Stack()))
				s.Fail(w, r, http.StatusInternalServerError, "Something went wrong here. Nothing was recorded.")
			}
		}()
		next.ServeHTTP(w, r)
	})
}
