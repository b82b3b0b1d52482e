// Package catalogue is the parts that a workshop fits: what goes where, with number, design, price and
// life. It reads and writes CSV.
package catalogue

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Item is one part of the catalogue.
type Item struct {
	Kind part.Kind `json:"kind"`
	// Fits names the vehicles that it is fitted to, by their numbers; empty means any.
	Fits []string `json:"fits,omitzero"`
	// Price is in the workshop's currency.
	Price float64 `json:"price,omitzero"`
	part.Make
}

// Bounds of a catalogue.
const (
	MaxItems = 2000
	maxFits  = 100
	maxFleet = 24
)

// Kinds lists the kinds of part that a catalogue holds.
var Kinds = []part.Kind{engine.Plug, engine.Coil, engine.Boot, engine.Lead, engine.CoilLead, engine.Cap, engine.Rotor}

// Check returns an error for each invalid field.
func (i Item) Check() error {
	var bad invalid.Errors
	if !slices.Contains(Kinds, i.Kind) {
		bad.Add("kind", fmt.Sprintf("one of %s", kindWords()), invalid.Quote(string(i.Kind)))
		return bad
	}
	bad.Under("", invalid.Text("number", i.Number, "a part number", part.MaxNumber, false))
	if len(i.Fits) > maxFits {
		bad.Add("fits", fmt.Sprintf("at most %d vehicles", maxFits), fmt.Sprint(len(i.Fits)))
	}
	for _, f := range i.Fits {
		bad.Under("", invalid.Text("fits", f, "the numbers of vehicles, with commas between", maxFleet, false))
		if strings.ContainsAny(f, ",;") {
			bad.Add("fits", "numbers without commas in them", invalid.Quote(f))
		}
	}
	if !(i.Price >= 0 && i.Price <= evidence.MaxPrice) {
		bad.Add("price", fmt.Sprintf("a price from 0 to %.0f", evidence.MaxPrice), fmt.Sprint(i.Price))
	}
	unnumbered := i.Make
	unnumbered.Number = ""
	bad.Under("", unnumbered.Check(i.Kind))
	return bad.Err()
}

func kindWords() string {
	words := make([]string, len(Kinds))
	for i, k := range Kinds {
		words[i] = string(k)
	}
	return strings.Join(words, ", ")
}

// Same reports whether two items are the same entry of the catalogue: by kind and number.
func (i Item) Same(o Item) bool { return i.Kind == o.Kind && i.Number == o.Number }

// For reports whether the item is meant for a vehicle.
func (i Item) For(fleet string) bool { return len(i.Fits) == 0 || slices.Contains(i.Fits, fleet) }

// Find returns the item of a kind for a vehicle: the one of a number if that is listed, otherwise one
// that names the vehicle. An item for any vehicle is taken only by its number.
func Find(items []Item, k part.Kind, fleet, number string) (Item, bool) {
	for _, i := range items {
		if i.Kind == k && number != "" && i.Number == number {
			return i, true
		}
	}
	for _, i := range items {
		if i.Kind == k && slices.Contains(i.Fits, fleet) {
			return i, true
		}
	}
	return Item{}, false
}
