// Package webtest helps the tests of the pages: the demo's jobs, and forms as they are typed.
package webtest

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"glenmist/store"
	"glenmist/store/demo"
)

// Records are the demo's jobs as the store would give them, without a database.
func Records(tb testing.TB) (all []store.Record) {
	tb.Helper()
	jobs, err := demo.Jobs(time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC))
	if err != nil {
		tb.Fatal(err)
	}
	for _, j := range jobs {
		all = append(all, store.Record{Job: j})
	}
	return all
}

// SignIn signs one of the demo's people in by one tap, and returns the cookie of the session.
func SignIn(h http.Handler, name string) (*http.Cookie, error) {
	do := func(r *http.Request) *httptest.ResponseRecorder {
		r.Host = "127.0.0.1"
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	page := do(httptest.NewRequestWithContext(context.Background(), http.MethodGet, "/sign-in", nil)).Body.Bytes()
	id := regexp.MustCompile(`name="person" value="(\d+)">` + regexp.QuoteMeta(name) + " ").FindSubmatch(page)
	if id == nil {
		return nil, fmt.Errorf("%s is not offered", name)
	}
	form := url.Values{"how": {"demo"}, "person": {string(id[1])}}
	r := httptest.NewRequestWithContext(context.Background(), http.MethodPost, "/sign-in", strings.NewReader(form.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	answer := do(r)
	for _, c := range (&http.Response{Header: answer.Header()}).Cookies() {
		if strings.HasSuffix(c.Name, "session") {
			return c, nil
		}
	}
	return nil, fmt.Errorf("%s is not signed in: %q", name, http.StatusText(answer.Code))
}

// As is a handler for requests of somebody who is signed in. A request with a session of its own keeps it.
func As(h http.Handler, session *http.Cookie) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if _, err := r.Cookie(session.Name); err != nil {
			r.AddCookie(session)
		}
		h.ServeHTTP(w, r)
	})
}

// Pick is one of a list by any number, also a negative one.
func Pick[T any](list []T, which int) T { return list[(which%len(list)+len(list))%len(list)] }

// Typed reads a form from lines of name=value.
func Typed(lines string) url.Values {
	v := url.Values{}
	for line := range strings.Lines(lines) {
		name, value, _ := strings.Cut(strings.TrimSuffix(line, "\n"), "=")
		v.Add(name, value)
	}
	return v
}
