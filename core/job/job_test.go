package job

import (
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// A job's number and a vehicle's number are parts of addresses: what cannot be opened is refused.
func TestNumbersThatCannotBeAddressesAreRefused(t *testing.T) {
	valid := func() Job {
		return Job{Number: "2026-014", Complaint: "shakes", By: "Wyn", Opened: time.Date(2026, 11, 1, 8, 0, 0, 0, time.UTC),
			Vehicle: Vehicle{Fleet: "P-07", What: "van", Engine: engine.Shelf[0].Engine()}}
	}
	if err := valid().Validate(); err != nil {
		t.Fatal(err)
	}
	for number, ok := range map[string]bool{"1": true, "2026-014": true, "a.b_c-d": true, strings.Repeat("9", 40): true,
		"": false, "new": false, "import": false, ".": false, "..": false, "-1": false, "a/b": false, "a b": false, "ä": false, strings.Repeat("9", 41): false} {
		j := valid()
		j.Number = number
		err := j.Validate()
		if ok != (err == nil) || err != nil && invalid.From(err)[0].Field != "number" {
			t.Errorf("job %q: %v", number, err)
		}
	}
	for fleet, ok := range map[string]bool{"P-07": true, "a/b": true, "ä 7": true, "": false, "new": false, ".": false, "..": false, strings.Repeat("9", 25): false} {
		j := valid()
		j.Vehicle.Fleet = fleet
		err := j.Validate()
		if ok != (err == nil) || err != nil && invalid.From(err)[0].Field != "vehicle.fleet" {
			t.Errorf("vehicle %q: %v", fleet, err)
		}
	}
}
