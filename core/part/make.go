package part

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/meter"
	"glenmist/core/unit"
)

// Make is what is known of a part apart from where it sits: its number, its design and its service
// life. Only the design of its own kind is set; empty fields are unknown.
type Make struct {
	// Number is the part number as printed on it.
	Number string      `json:"number,omitzero"`
	Plug   *PlugDesign `json:"plug,omitzero"`
	Coil   *CoilDesign `json:"coil,omitzero"`
	Lead   *LeadDesign `json:"lead,omitzero"`
	Cap    *CapDesign  `json:"cap,omitzero"`
	// LifeKm and LifeYears are the service life; the first limit that is reached counts. 0 means
	// unknown.
	LifeKm    unit.Kilometres `json:"life_km,omitzero"`
	LifeYears float64         `json:"life_years,omitzero"`
}

// LeadDesign lists the properties of a lead, or of the lead between coil and cap.
type LeadDesign struct {
	LengthMM float64 `json:"length_mm,omitzero"`
	// Core is how its conductor is made.
	Core      meter.Make `json:"core,omitzero"`
	Lettering string     `json:"lettering,omitzero"`
}

// Cores lists the conductors of leads.
var Cores = []meter.Make{meter.CarbonCore, meter.WireWound, meter.SolidWire}

// CapDesign lists the properties of a distributor cap or a rotor.
type CapDesign struct {
	// Towers is the number of towers for leads to plugs; 0 for a rotor.
	Towers int `json:"towers,omitzero"`
	// Fixing is what holds it.
	Fixing Fixing `json:"fixing,omitzero"`
	// HeightMM is the height of a cap, or of a rotor from shaft end to tip.
	HeightMM  float64 `json:"height_mm,omitzero"`
	Lettering string  `json:"lettering,omitzero"`
}

// Fixing is what holds a cap or rotor in place.
type Fixing string

// Fixings lists the fixings.
var Fixings = []Fixing{"clips", "screws", "push-on"}

// Finish is the finish of a plug's shell.
type Finish string

// The finishes: plated bright, or bare and dark.
const (
	Bright Finish = "bright"
	Dark   Finish = "dark"
)

// Finishes lists the finishes of plug shells.
var Finishes = []Finish{Bright, Dark}

// Face is the side of a magneto coil that is marked to lie outward.
type Face string

// Faces lists the marks of a magneto coil.
var Faces = []Face{"marked", "unmarked"}

// Check returns an error for impossible values of a part of a kind, and for the design of another
// kind.
func (m Make) Check(k Kind) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("number", m.Number, "a part number", MaxNumber, true))
	if !(m.LifeKm >= 0 && m.LifeKm <= unit.MaxDistance) {
		bad.Add("life_km", "0 to 5 000 000 km", fmt.Sprint(float64(m.LifeKm)))
	}
	if !(m.LifeYears >= 0 && m.LifeYears <= maxYears) {
		bad.Add("life_years", fmt.Sprintf("0 to %d years", maxYears), fmt.Sprint(m.LifeYears))
	}
	for _, d := range []struct {
		field string
		set   bool
		kinds []Kind
		check func() error
	}{
		{"plug", m.Plug != nil, []Kind{engine.Plug}, func() error { return m.Plug.Check() }},
		{"coil", m.Coil != nil, []Kind{engine.Coil}, func() error { return m.Coil.Check() }},
		{"lead", m.Lead != nil, []Kind{engine.Lead, engine.CoilLead}, func() error { return m.Lead.Check() }},
		{"cap", m.Cap != nil, []Kind{engine.Cap, engine.Rotor}, func() error { return m.Cap.Check() }},
	} {
		switch {
		case d.set && !slices.Contains(d.kinds, k):
			bad.Add(d.field, fmt.Sprintf("the design of a %s only for a %s", d.field, d.field), "one for a "+string(k))
		case d.set:
			bad.Under(d.field, d.check())
		}
	}
	return bad.Err()
}

// Check returns an error for impossible values.
func (d LeadDesign) Check() error {
	var bad invalid.Errors
	within(&bad, "length_mm", d.LengthMM, 50, 3000, "mm")
	if d.Core != "" && !slices.Contains(Cores, d.Core) {
		bad.Add("core", fmt.Sprintf("one of %v", Cores), invalid.Quote(string(d.Core)))
	}
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a lead", MaxNumber, true))
	return bad.Err()
}

// Check returns an error for impossible values.
func (d CapDesign) Check() error {
	var bad invalid.Errors
	if d.Towers != 0 && (d.Towers < 2 || d.Towers > engine.MaxCylinders) {
		bad.Add("towers", fmt.Sprintf("2 to %d towers", engine.MaxCylinders), fmt.Sprint(d.Towers))
	}
	if d.Fixing != "" && !slices.Contains(Fixings, d.Fixing) {
		bad.Add("fixing", fmt.Sprintf("one of %v", Fixings), invalid.Quote(string(d.Fixing)))
	}
	within(&bad, "height_mm", d.HeightMM, 5, 200, "mm")
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a cap or rotor", MaxNumber, true))
	return bad.Err()
}

// within adds an error if a known value lies outside its limits, inclusive.
func within(bad *invalid.Errors, field string, x, least, most float64, of string) {
	if x != 0 && !(x >= least && x <= most) {
		bad.Add(field, fmt.Sprintf("%g to %g %s", least, most, of), fmt.Sprint(x))
	}
}

// Make returns what the record knows of the part itself.
func (r Record) Make() Make {
	m := Make{Number: r.Number, Plug: r.Plug, Coil: r.Coil, Lead: r.Lead, Cap: r.Cap, LifeKm: r.LifeKm, LifeYears: r.LifeYears}
	if m.Coil == nil && r.Pins != 0 {
		m.Coil = &CoilDesign{Pins: r.Pins}
	}
	return m
}

// Renewed returns the record of a new part: its age starts at an odometer reading on a day
// ("2026-05-31"). The life of the old one stays if that of the new one is unknown.
func (r Record) Renewed(m Make, at unit.Kilometres, on string) Record {
	next := Record{Kind: r.Kind, Place: r.Place, Number: m.Number, Plug: m.Plug, Coil: m.Coil, Lead: m.Lead, Cap: m.Cap,
		FittedKm: &at, FittedOn: on, LifeKm: m.LifeKm, LifeYears: m.LifeYears}
	if next.LifeKm == 0 && next.LifeYears == 0 {
		next.LifeKm, next.LifeYears = r.LifeKm, r.LifeYears
	}
	if m.Coil != nil {
		next.Pins = m.Coil.Pins
	}
	return next
}
