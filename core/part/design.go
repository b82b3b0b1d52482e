package part

import (
	"fmt"
	"slices"

	"glenmist/core/invalid"
)

// PlugDesign lists the properties that must be equal for one plug to replace another. Empty
// fields are unknown.
type PlugDesign struct {
	// Electrode is the design of the electrodes.
	Electrode Electrode `json:"electrode,omitzero"`
	// Seat is the kind of seal against the head.
	Seat PlugSeat `json:"seat,omitzero"`
	// ThreadMM and ReachMM are the diameter and the length of the thread.
	ThreadMM float64 `json:"thread_mm,omitzero"`
	ReachMM  float64 `json:"reach_mm,omitzero"`
	// HeatRange is the heat range in the maker's notation.
	HeatRange string `json:"heat_range,omitzero"`
	// Resistor is "yes" or "no"; ResistorOhms is its resistance.
	Resistor     string  `json:"resistor,omitzero"`
	ResistorOhms float64 `json:"resistor_ohm,omitzero"`
	// HexMM is the width of its hexagon across the flats.
	HexMM float64 `json:"hex_mm,omitzero"`
	// Terminal is the end that the connector grips.
	Terminal PlugTerminal `json:"terminal,omitzero"`
	// Finish is the finish of its shell.
	Finish Finish `json:"finish,omitzero"`
	// GapLow and GapHigh are its range of gap; TorqueLow and TorqueHigh its range of torque in N·m on
	// a dry thread. 0 means unknown.
	GapLow     float64 `json:"gap_low_mm,omitzero"`
	GapHigh    float64 `json:"gap_high_mm,omitzero"`
	TorqueLow  float64 `json:"torque_low_nm,omitzero"`
	TorqueHigh float64 `json:"torque_high_nm,omitzero"`
	// Lettering is the text on it.
	Lettering string `json:"lettering,omitzero"`
}

// PlugTerminal is the end of a plug that its connector takes hold of.
type PlugTerminal string

// CoilDesign lists the properties that must be equal for one coil to replace another. Empty
// fields are unknown.
type CoilDesign struct {
	// Pins is the number of pins of the connector, Tab the side on which it locks.
	Pins int     `json:"pins,omitzero"`
	Tab  CoilTab `json:"tab,omitzero"`
	// StemMM is its length from flange to mouth.
	StemMM float64 `json:"stem_mm,omitzero"`
	// Holes is the number of its bolt holes, SpacingMM the distance between two. Face is the mark of the
	// outward face of a magneto coil.
	Holes     int     `json:"holes,omitzero"`
	SpacingMM float64 `json:"spacing_mm,omitzero"`
	Face      Face    `json:"face,omitzero"`
	// Lettering is the text on it.
	Lettering string `json:"lettering,omitzero"`
}

// CoilTab is the side on which a connector locks.
type CoilTab string

// CoilTabs lists the sides, seen into the connector with the flange below.
var CoilTabs = []CoilTab{"top", "bottom", "left", "right", "none"}

// Check returns an error for impossible values.
func (d CoilDesign) Check() error {
	var bad invalid.Errors
	if d.Pins != 0 && (d.Pins < 2 || d.Pins > 8) {
		bad.Add("pins", "2 to 8 pins", fmt.Sprint(d.Pins))
	}
	if d.Tab != "" && !slices.Contains(CoilTabs, d.Tab) {
		bad.Add("tab", fmt.Sprintf("one of %v", CoilTabs), invalid.Quote(string(d.Tab)))
	}
	within(&bad, "stem_mm", d.StemMM, 10, 400, "mm")
	if d.Holes != 0 && (d.Holes < 1 || d.Holes > 8) {
		bad.Add("holes", "1 to 8 bolt holes", fmt.Sprint(d.Holes))
	}
	within(&bad, "spacing_mm", d.SpacingMM, 5, 300, "mm")
	if d.Face != "" && !slices.Contains(Faces, d.Face) {
		bad.Add("face", fmt.Sprintf("one of %v", Faces), invalid.Quote(string(d.Face)))
	}
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a coil", MaxNumber, true))
	return bad.Err()
}

// Electrode is a design of plug electrodes.
type Electrode string

// PlugSeat is what seals a plug.
type PlugSeat string

// Electrodes and PlugSeats list the designs.
var (
	Electrodes = []Electrode{"nickel", "fine-wire", "multi-ground", "surface-gap"}
	PlugSeats  = []PlugSeat{"gasket", "taper"}
	// PlugTerminals: a nut that is part of it or screwed on, the bare thread, or a flat cup.
	PlugTerminals = []PlugTerminal{"nut", "thread", "cup"}
)

// Check returns an error for impossible values.
func (d PlugDesign) Check() error {
	var bad invalid.Errors
	if d.Electrode != "" && !slices.Contains(Electrodes, d.Electrode) {
		bad.Add("electrode", fmt.Sprintf("one of %v", Electrodes), invalid.Quote(string(d.Electrode)))
	}
	if d.Seat != "" && !slices.Contains(PlugSeats, d.Seat) {
		bad.Add("seat", "gasket or taper", invalid.Quote(string(d.Seat)))
	}
	if d.Resistor != "" && d.Resistor != "yes" && d.Resistor != "no" {
		bad.Add("resistor", "yes or no", invalid.Quote(d.Resistor))
	}
	if d.Terminal != "" && !slices.Contains(PlugTerminals, d.Terminal) {
		bad.Add("terminal", fmt.Sprintf("one of %v", PlugTerminals), invalid.Quote(string(d.Terminal)))
	}
	for _, row := range []struct {
		field          string
		x, least, most float64
		of             string
	}{{"thread_mm", d.ThreadMM, 8, 18, "mm"}, {"reach_mm", d.ReachMM, 6, 40, "mm"}, {"hex_mm", d.HexMM, 12, 27, "mm"}, {"resistor_ohm", d.ResistorOhms, 100, 50_000, "Ω"},
		{"gap_low_mm", d.GapLow, 0.2, 3, "mm"}, {"gap_high_mm", d.GapHigh, 0.2, 3, "mm"}, {"torque_low_nm", d.TorqueLow, 3, 80, "N·m"}, {"torque_high_nm", d.TorqueHigh, 3, 80, "N·m"}} {
		within(&bad, row.field, row.x, row.least, row.most, row.of)
	}
	if d.GapLow > d.GapHigh && d.GapHigh != 0 {
		bad.Add("gap_high_mm", "the end of the range of the gap, not below its beginning", fmt.Sprintf("%g to %g", d.GapLow, d.GapHigh))
	}
	if d.TorqueLow > d.TorqueHigh && d.TorqueHigh != 0 {
		bad.Add("torque_high_nm", "the end of the range of the torque, not below its beginning", fmt.Sprintf("%g to %g", d.TorqueLow, d.TorqueHigh))
	}
	if d.Finish != "" && !slices.Contains(Finishes, d.Finish) {
		bad.Add("finish", fmt.Sprintf("one of %v", Finishes), invalid.Quote(string(d.Finish)))
	}
	bad.Under("", invalid.Text("heat_range", d.HeatRange, "a heat range", MaxNumber, true))
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a plug", MaxNumber, true))
	return bad.Err()
}
