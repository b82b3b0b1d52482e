package web_test

import (
	"net/http"
	"testing"
)

// Saving the engine editor keeps what it does not show: the ranges of the maker, and the design of parts
// beyond its fields.
func TestEngineEditorKeepsWhatItDoesNotShow(t *testing.T) {
	at := open(t, "KP-1", "four-across")
	post(t, at+"/worksheet/figure", values("of", "torque-coil-bolt", "figure", "8 Nm", "whose", "maker"))
	page := get(t, "/vehicles/KP-1")
	form := fields(page)
	if a := post(t, "/vehicles/KP-1", form); a.StatusCode != http.StatusSeeOther {
		t.Fatalf("%d %s", a.StatusCode, a.readable())
	}
	kept, err := jobs.Vehicle(t.Context(), "KP-1")
	if err != nil || len(kept.Vehicle.Engine.Specs) != 1 {
		t.Errorf("the ranges are %+v, %v", kept.Vehicle.Engine.Specs, err)
	}
}
