package part_test

import (
	"testing"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// A spare that sits in the engine, or that has been used before, is not offered again.
func TestUsedSpareIsNotOfferedAgain(t *testing.T) {
	e := engine.Shelf[0].Engine().Derive()
	home := part.Home(e)
	none := func(part.Tag) bool { return false }
	first, ok := home.FreeSpare(engine.Coil, none)
	if !ok || first != part.Spare(engine.Coil, 1) {
		t.Fatalf("at first %s, %v", first, ok)
	}
	if got, ok := home.FreeSpare(engine.Coil, func(tag part.Tag) bool { return tag == first }); !ok || got != part.Spare(engine.Coil, 2) {
		t.Errorf("after one was used: %s, %v", got, ok)
	}
	if got, ok := home.FreeSpare(engine.Coil, func(part.Tag) bool { return true }); ok {
		t.Errorf("all are used, and %s is offered", got)
	}
	at, err := home.Move([]part.Relocation{{Tag: first, To: "cyl-1"}, {Tag: home.Serving(engine.Coil, 1), To: engine.Bench}})
	if err != nil {
		t.Fatal(err)
	}
	if got, ok := at.FreeSpare(engine.Coil, none); !ok || got != part.Spare(engine.Coil, 2) {
		t.Errorf("while the first is fitted: %s, %v", got, ok)
	}
}
