package plug

import (
	"fmt"

	"glenmist/core/part"
)

// Difference is one way in which a new plug differs from the old.
type Difference struct {
	// Of is the field that differs, Words states both values, Judged the consequence.
	Of, Words, Judged string
	// Grave is true if the new plug must not be fitted in place of the old one.
	Grave bool
}

// row states the consequence of a difference in one field of a design.
type row[D any] struct {
	of, name, unit string
	// text or figure reads the field of a design; one of them is set.
	text   func(D) string
	figure func(D) float64
	// other is the consequence of different words; more and less apply if the new figure is
	// larger or smaller.
	other, more, less string
	grave             bool
}

// plugRows lists the consequences of differences between plugs (C: new beside old before
// fitting).
var plugRows = []row[part.PlugDesign]{
	{"thread_mm", "thread", " mm", nil, func(d part.PlugDesign) float64 { return d.ThreadMM }, "", "does not go in", "wobbles in the thread and blows out", true},
	{"reach_mm", "reach", " mm", nil, func(d part.PlugDesign) float64 { return d.ReachMM }, "", "too long: it can bottom out on the piston or valves, and its bare threads burn in", "too short: the spark sits back in the hole and the head's threads coke up", true},
	{"seat", "seat", "", func(d part.PlugDesign) string { return string(d.Seat) }, nil, "wrong seat: it does not seal, and leaks or cracks the head", "", "", true},
	{"hex_mm", "hex", " mm", nil, func(d part.PlugDesign) float64 { return d.HexMM }, "", "another socket, which may not pass the well", "another socket", false},
	{"resistor", "resistor", "", func(d part.PlugDesign) string { return d.Resistor }, nil, "with and without a resistor: interference upsets radio and control units, or ohms add up", "", "", true},
	{"electrode", "electrodes", "", func(d part.PlugDesign) string { return string(d.Electrode) }, nil, "another design: gap, kilovolts and life differ; do not mix in a set", "", "", true},
	{"heat_range", "heat range", "", func(d part.PlugDesign) string { return d.HeatRange }, nil, "runs hotter or colder than the other: look at the maker's list", "", "", true},
	{"terminal", "terminal", "", func(d part.PlugDesign) string { return string(d.Terminal) }, nil, "the boot or lead does not click on: screw its nut on or off, if it has one", "", "", true},
	{"lettering", "lettering", "", func(d part.PlugDesign) string { return d.Lettering }, nil, "not the same part by its lettering: look it up", "", "", false},
}

// coilRows lists the consequences of differences between coils (C: pins and tab of the
// connector).
var coilRows = []row[part.CoilDesign]{
	{"pins", "pins", "", nil, func(d part.CoilDesign) float64 { return float64(d.Pins) }, "", "more pins than the connector has: another kind of coil", "fewer pins than the connector has: another kind of coil", true},
	{"tab", "tab", "", func(d part.CoilDesign) string { return string(d.Tab) }, nil, "the connector does not lock: it works loose and misfires", "", "", true},
	{"stem_mm", "stem", " mm", nil, func(d part.CoilDesign) float64 { return d.StemMM }, "", "too long: the flange does not come down, and the bolt cracks its ear", "too short: the boot does not reach the plug, and the spark jumps past it", true},
	{"lettering", "lettering", "", func(d part.CoilDesign) string { return d.Lettering }, nil, "not the same part by its lettering: look it up", "", "", false},
}

// Figures with a smaller difference count as equal: thread and reach are measured with a rule.
const alikeMM = 0.3

// compare lists the differences between a new and an old part in the fields known for both.
func compare[D any](rows []row[D], old, fresh D) []Difference {
	var all []Difference
	for _, row := range rows {
		d := Difference{Of: row.of, Grave: row.grave}
		if row.figure != nil {
			was, is := row.figure(old), row.figure(fresh)
			switch {
			case was == 0 || is == 0, is-was < alikeMM && was-is < alikeMM:
				continue
			case is > was:
				d.Judged = row.more
			default:
				d.Judged = row.less
			}
			d.Words = fmt.Sprintf("%s %g%s, was %g%s", row.name, is, row.unit, was, row.unit)
		} else {
			was, is := row.text(old), row.text(fresh)
			if was == "" || is == "" || was == is {
				continue
			}
			d.Words, d.Judged = fmt.Sprintf("%s %s, was %s", row.name, is, was), row.other
		}
		all = append(all, d)
	}
	return all
}

// compared reports whether a field is known for both.
func compared[D any](rows []row[D], old, fresh D) bool {
	for _, row := range rows {
		switch {
		case row.figure != nil && row.figure(old) != 0 && row.figure(fresh) != 0, row.text != nil && row.text(old) != "" && row.text(fresh) != "":
			return true
		}
	}
	return false
}

// Compare lists the differences between a new and an old plug in the fields known for both.
func Compare(old, fresh part.PlugDesign) []Difference {
	all := compare(plugRows, old, fresh)
	// Equal lettering on a different design, or a fine wire plug without fine wire, indicates
	// a counterfeit.
	if old.Lettering != "" && old.Lettering == fresh.Lettering {
		for _, d := range all {
			if d.Grave {
				all = append(all, Difference{"copy", "the same lettering on two different plugs", "one of them is likely a copy: fit neither until that is cleared", true})
				break
			}
		}
	}
	return all
}

// Compared reports whether a field is known for both plugs.
func Compared(old, fresh part.PlugDesign) bool { return compared(plugRows, old, fresh) }

// CompareCoils lists the differences between a new and an old coil in the fields known for
// both.
func CompareCoils(old, fresh part.CoilDesign) []Difference { return compare(coilRows, old, fresh) }

// ComparedCoils reports whether a field is known for both coils.
func ComparedCoils(old, fresh part.CoilDesign) bool { return compared(coilRows, old, fresh) }
