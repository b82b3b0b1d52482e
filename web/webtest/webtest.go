// Package webtest helps the tests of the pages: the demo's jobs, and forms as they are typed.
package webtest

import (
	"net/url"
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
