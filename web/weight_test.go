package web_test

import (
	"bytes"
	"compress/gzip"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/trouble"
)

// The page of a job of a six-cylinder with ten entries takes at most 15 kB over the wire.
func TestJobPageIsLight(t *testing.T) {
	at := open(t, "LI-1", "v6-across")
	rec, err := jobs.Job(t.Context(), strings.TrimPrefix(at, "/jobs/"))
	if err != nil {
		t.Fatal(err)
	}
	var entries []evidence.Entry
	for i := range 10 {
		e := evidence.Entry{Done: moment.Add(time.Duration(i) * time.Minute), By: "Wyn", Condition: evidence.Load, Body: &evidence.Watch{Cylinders: []engine.Cylinder{4}}}
		switch i {
		case 0:
			e.Condition, e.Body = "", &evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(4), State: trouble.Stored}}}
		case 1:
			e.Body = &evidence.Counters{Revolutions: 3000, Counts: []int{0, 1, 0, 120, 0, 2}, Fresh: true}
		case 2:
			e.Condition, e.Body = "", &evidence.Look{Items: []evidence.Seen{{Tag: "P4", Finding: evidence.PlugNormal}}}
		}
		entries = append(entries, e)
	}
	if _, err := jobs.Append(t.Context(), rec, entries...); err != nil {
		t.Fatal(err)
	}
	page := get(t, at)
	var packed bytes.Buffer
	z := gzip.NewWriter(&packed)
	_, _ = z.Write([]byte(page.body))
	_ = z.Close()
	t.Logf("the page of a job: %d bytes, %d compressed", len(page.body), packed.Len())
	if packed.Len() > 15_000 {
		t.Errorf("the page of a job takes %d bytes, want at most 15 000", packed.Len())
	}
}
