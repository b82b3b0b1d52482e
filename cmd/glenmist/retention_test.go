package main

import (
	"bytes"
	"errors"
	"log/slog"
	"os"
	"strings"
	"testing"
	"time"

	"glenmist/core/casefile"
	"glenmist/store"
	"glenmist/store/cluster"
)

// A job is kept for the years that were asked for, counted from its last entry, and no longer.
func TestJobsAreKeptForSomeYears(t *testing.T) {
	c, err := cluster.StartThrowaway(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = c.Stop() }()
	if _, err := store.MigrateAs(t.Context(), c.OwnerURL, c.URL); err != nil {
		t.Fatal(err)
	}
	s, err := store.Open(c.URL)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = s.Close() }()
	data, err := os.ReadFile(examples + "stayed.json")
	if err != nil {
		t.Fatal(err)
	}
	j, err := casefile.Read(bytes.NewReader(data))
	if err == nil {
		_, err = s.Import(t.Context(), j)
	}
	if err != nil {
		t.Fatal(err)
	}
	last := j.Ledger[len(j.Ledger)-1].Done
	for _, step := range []struct {
		after time.Duration
		gone  bool
	}{{-time.Hour, false}, {time.Hour, true}} {
		var said strings.Builder
		r := retention{10, func() time.Time { return last.AddDate(10, 0, 0).Add(step.after) }, slog.New(slog.NewTextHandler(&said, nil))}
		r.once(t.Context(), s)
		if _, err := s.Job(t.Context(), j.Number); (err != nil) != step.gone || strings.Contains(said.String(), "jobs=1") != step.gone {
			t.Errorf("%s after 10 years: %v, %s", step.after, err, said.String())
		}
	}
	if _, err := s.Tombstone(t.Context(), j.Number); err != nil {
		t.Error(errors.Join(errors.New("it left no tombstone"), err))
	}
}
