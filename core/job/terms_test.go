package job_test

import (
	"slices"
	"strings"
	"testing"
	"unicode/utf8"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/trouble"
)

// A job is found by its vehicle, complaint, codes, tags, notes and people, its layout and the part of its verdict.
func TestTerms(t *testing.T) {
	j := jobtest.AnyTime(4)
	j.Number, j.By, j.Complaint = "2026-041", "Wyn Fellgarth", "jerks uphill"
	j = jobtest.With(t, j,
		evidence.Entry{Note: "smelt of fuel", Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0302, State: trouble.Stored}, {Code: 0x0300, State: trouble.Stored}}}},
		evidence.Entry{Body: &evidence.Watch{Cylinders: []engine.Cylinder{2}}})
	got := j.Terms()
	for _, word := range []string{"2026-041", "jerks uphill", "Wyn Fellgarth", "P0302", "smelt of fuel", j.Vehicle.Fleet} {
		if !strings.Contains(got.Text, word) {
			t.Errorf("%q is not in %q", word, got.Text)
		}
	}
	if !slices.Equal(got.Codes, []string{"P0302", "P0300"}) || !slices.Contains(got.People, "x") || got.Layout != j.Vehicle.Engine.Ignition || got.Kind != "" {
		t.Errorf("%+v", got)
	}
	j.Complaint = strings.Repeat("ö", job.MaxTerms)
	if text := j.Terms().Text; len(text) > job.MaxTerms || !utf8.ValidString(text) {
		t.Errorf("%d bytes, valid %v", len(text), utf8.ValidString(text))
	}
}
