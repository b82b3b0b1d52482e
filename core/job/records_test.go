package job

import (
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// The newest renewal of a place counts. A record that the vehicle's page has of a later day stays, and so do other places.
func TestFittedTakesTheNewestPartOfEachPlace(t *testing.T) {
	on := func(day string) time.Time {
		at, err := time.Parse("2006-01-02", day)
		if err != nil {
			t.Fatal(err)
		}
		return at
	}
	visit := func(km unit.Kilometres, day, number string, place engine.Place) Job {
		one := evidence.Renewed{Place: place, Out: part.Of(engine.Coil, place), In: part.Of(engine.Coil, place) + "-2", Make: part.Make{Number: number}}
		return Job{Distance: km, Ledger: evidence.Ledger{{Seq: 1, Done: on(day), Body: &evidence.Renewal{Parts: []evidence.Renewed{one}}}}}
	}
	records := []part.Record{{Kind: engine.Plug, Number: "UP-6R"}, {Kind: engine.Coil, Place: "cyl-3", Number: "C-9", FittedOn: "2026-06-01"}}
	got := Fitted(records, []Job{visit(50_000, "2024-05-01", "C-1", "cyl-2"), visit(90_000, "2026-03-01", "C-2", "cyl-2"), visit(91_000, "2026-04-01", "C-3", "cyl-3")})
	want := map[engine.Place]string{"": "UP-6R", "cyl-2": "C-2", "cyl-3": "C-9"}
	if len(got) != len(want) {
		t.Fatalf("%+v", got)
	}
	for _, r := range got {
		if r.Number != want[r.Place] {
			t.Errorf("%s at %q is %q, want %q", r.Kind, r.Place, r.Number, want[r.Place])
		}
	}
}
