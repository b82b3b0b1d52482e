package store_test

import (
	"strings"
	"testing"

	"glenmist/store"
)

// Copies are whole jobs with vehicles of their own, found by their numbers; filling goes on where it stopped.
func TestMultiply(t *testing.T) {
	s, _ := fresh(t)
	if err := s.Multiply(t.Context(), 10); err == nil {
		t.Error("it copies jobs of an empty workshop")
	}
	entries := 0
	base := demoJobs(t)[:4]
	for _, j := range base {
		j.Number = ""
		if _, err := s.Open(t.Context(), j); err != nil {
			t.Fatal(err)
		}
		entries += len(j.Ledger)
	}
	for _, n := range []int{2, 54, 104, 104} {
		if err := s.Multiply(t.Context(), n); err != nil {
			t.Fatalf("%d: %v", n, err)
		}
		if numbers, err := s.Numbers(t.Context()); err != nil || len(numbers) != max(4, n) {
			t.Errorf("%d jobs, want %d: %v", len(numbers), max(4, n), err)
		}
	}
	vehicles, copied := map[string]int{}, 0
	list, err := s.FindAll(t.Context(), store.Query{Words: "X-00000"})
	if err != nil || len(list) != 100 {
		t.Fatalf("%d copies are found, %v", len(list), err)
	}
	for _, one := range list {
		rec, err := s.Job(t.Context(), one.Job.Number)
		if err == nil {
			err = rec.Job.Validate()
		}
		if err != nil || !strings.HasPrefix(rec.Job.Vehicle.Fleet, "X-") {
			t.Fatalf("%s of %s: %v", one.Job.Number, rec.Job.Vehicle.Fleet, err)
		}
		vehicles[rec.Job.Vehicle.Fleet]++
		copied += len(rec.Job.Ledger)
	}
	if len(vehicles) != 12 || copied != 25*entries+100*4 {
		t.Errorf("%d vehicles, %d entries, want 12 and %d", len(vehicles), copied, 25*entries+100*4)
	}
}
