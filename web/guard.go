package web

import (
	"context"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5/middleware"
)

// Bounds of a request's body.
const (
	maxForm   = 64 << 10
	maxUpload = 3 << 20 // a case file of 2 MB and the form around it
)

// policy allows what the server itself serves and nothing else: no inline
// script or style, no frames, no other origin. data: is for the small pictures in
// the style sheet's form controls.
const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; " +
	"img-src 'self' data:; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

func secured(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("Content-Security-Policy", policy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		h.Set("Permissions-Policy", "camera=(), microphone=(), geolocation=()")
		next.ServeHTTP(w, r)
	})
}

// crossOrigin refuses writes that another site's page sends.
func crossOrigin(s *server) func(http.Handler) http.Handler {
	guard := http.NewCrossOriginProtection()
	guard.SetDenyHandler(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		s.fail(w, r, http.StatusForbidden, "This was sent from another site, so nothing was recorded.")
	}))
	return guard.Handler
}

// atHome refuses requests for a host that is not this machine's own, when only
// this machine is served.
func (s *server) atHome(next http.Handler) http.Handler {
	if !s.Loopback {
		return next
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		host := r.Host
		if h, _, err := net.SplitHostPort(host); err == nil {
			host = h
		}
		host = strings.Trim(host, "[]")
		if ip := net.ParseIP(host); host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			s.fail(w, r, http.StatusMisdirectedRequest, "This address is served on its own machine only: expected localhost or 127.0.0.1.")
			return
		}
		next.ServeHTTP(w, r)
	})
}

// deadline bounds reading the request, working on it and writing the answer.
func deadline(d time.Duration) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			control := http.NewResponseController(w)
			end := time.Now().Add(d)
			// Not every writer can set deadlines (those of tests cannot).
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
		ww := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(ww, r)
		level := slog.LevelDebug
		switch {
		case ww.Status() >= 500:
			level = slog.LevelError
		case r.Method != http.MethodGet && r.Method != http.MethodHead:
			level = slog.LevelInfo
		}
		s.Log.LogAttrs(r.Context(), level, "request", slog.String("id", middleware.GetReqID(r.Context())),
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
				s.Log.Error("panic", "path", r.URL.Path, "panic", p)
				s.fail(w, r, http.StatusInternalServerError, "Something went wrong here. Nothing was recorded.")
			}
		}()
		next.ServeHTTP(w, r)
	})
}
