package engine

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Arrangement is the geometry of the cylinders.
type Arrangement string

// The arrangements. V and Flat have two banks of equal length.
const (
	Single Arrangement = "single"
	Inline Arrangement = "inline"
	V      Arrangement = "v"
	Flat   Arrangement = "flat"
)

// Mounting is the direction of the crankshaft in the bay.
type Mounting string

// The two mountings.
const (
	Lengthways Mounting = "lengthways"
	Crossways  Mounting = "crossways"
)

// Side is a side of the bay, seen from the front bumper by someone who looks at the engine.
// Left and Right are the viewer's. The radiator is usually at the Front.
type Side string

// The four sides of the bay.
const (
	Front    Side = "front"
	Firewall Side = "firewall"
	Left     Side = "left"
	Right    Side = "right"
)

// Numbering is the scheme by which cylinders of two banks are numbered.
type Numbering string

// The numberings: along one bank and then the other (1-2-3 / 4-5-6), or
// alternating between them (1-3-5-7 / 2-4-6-8).
const (
	Along       Numbering = "along"
	Alternating Numbering = "alternating"
)

// End is an end of the crankshaft.
type End string

// The ends from which cylinders are counted. BeltEnd is the usual one, and the
// zero value.
const (
	BeltEnd     End = ""
	FlywheelEnd End = "flywheel"
)

// Fuel is the kind of fuel metering.
type Fuel string

// The kinds of fuel metering. An engine with a carburettor has no injectors. It has no control
// unit that counts misfires or sets codes.
const (
	Injected    Fuel = ""
	Carburettor Fuel = "carburettor"
)

// Head is the metal of a cylinder head. It decides torque, paste and at which temperature a plug comes
// out.
type Head string

// The metals.
const (
	Alloy Head = ""
	Iron  Head = "iron"
)

// Turn is a sense of rotation, seen from above the distributor cap.
type Turn string

// The two senses. The zero value means "not known".
const (
	Clockwise     Turn = "clockwise"
	Anticlockwise Turn = "anticlockwise"
)

// Engine describes one engine in its bay. The zero value is not usable. Check a value from
// outside with [Engine.Validate].
type Engine struct {
	// Cylinders is the number of cylinders, 1 to [MaxCylinders].
	Cylinders   int         `json:"cylinders"`
	Arrangement Arrangement `json:"arrangement"`
	Mounting    Mounting    `json:"mounting"`
	// BeltEnd is the side of the bay that the belt drive faces. On an engine without belts it
	// is the side opposite the flywheel.
	BeltEnd Side `json:"belt_end"`
	// CountFrom is the end of the crankshaft nearest to cylinder 1.
	CountFrom End `json:"count_from,omitzero"`
	// Numbering and BankOne apply to engines with two banks. BankOne is the side of the bay
	// that bank 1 faces. Bank 1 is by definition the bank with cylinder 1.
	Numbering Numbering `json:"numbering,omitzero"`
	BankOne   Side      `json:"bank_one,omitzero"`

	Ignition Ignition `json:"ignition"`
	// Wires is the number of wires at a coil connector: 2, 3 or 4; 0 means not known.
	Wires int `json:"wires,omitzero"`
	// CoilOrder lists one cylinder of each coil, in the order of the coils' letters. If it is
	// empty, letters follow the lowest cylinder of each coil.
	CoilOrder []Cylinder `json:"coil_order,omitzero"`
	// Module is true if wasted-spark coils sit on a separate ignition module, with blade
	// contacts and an insulating boot between.
	Module bool `json:"module,omitzero"`
	// Rotor is the sense in which a distributor's rotor turns.
	Rotor Turn `json:"rotor,omitzero"`
	Fuel  Fuel `json:"fuel,omitzero"`

	// Head is the metal of the cylinder head; empty means an alloy.
	Head Head `json:"head,omitzero"`

	// FiringOrder lists every cylinder once, in firing order.
	FiringOrder []Cylinder `json:"firing_order"`
	// Uneven is true if the firing intervals are uneven. There are no companion cylinders
	// then.
	Uneven bool `json:"uneven,omitzero"`
	// Covers lists the covers over the ignition.
	Covers []Cover `json:"covers,omitzero"`
	// Specs lists the maker's ranges that are known.
	Specs []Spec `json:"specs,omitzero"`

	derived *derived
}

// derived caches values that follow from an engine and are needed often.
type derived struct {
	items []Item
	coils []CoilPlace
}

// Derive returns the engine with its derived values cached. The result must not be changed.
func (e Engine) Derive() Engine {
	if e.derived == nil {
		e.derived = &derived{slices.Clip(e.Items()), slices.Clip(e.Coils())}
	}
	return e
}

// MaxCylinders is the largest number of cylinders supported.
const MaxCylinders = 12

// counts lists the numbers of cylinders that each arrangement can have.
var counts = map[Arrangement]struct {
	can   []int
	words string
}{
	Single: {[]int{1}, "1 cylinder"},
	Inline: {[]int{2, 3, 4, 5, 6, 8}, "2 to 6, or 8, cylinders in line"},
	V:      {[]int{2, 4, 6, 8, 10, 12}, "2, 4, 6, 8, 10 or 12 cylinders in a V"},
	Flat:   {[]int{2, 4, 6, 8, 10, 12}, "2, 4, 6, 8, 10 or 12 cylinders, flat"},
}

// Counts lists the numbers of cylinders that an arrangement can have.
func Counts(a Arrangement) []int { return slices.Clone(counts[a].can) }

// Validate checks the engine and returns one error for each invalid field.
func (e Engine) Validate() error {
	var bad invalid.Errors
	word := func(field, got string, can ...string) bool {
		if slices.Contains(can, got) {
			return true
		}
		bad.Add(field, oneOf(can), invalid.Quote(got))
		return false
	}
	word("ignition", string(e.Ignition), ignitionWords()...)
	if e.Head != Alloy && e.Head != Iron {
		bad.Add("head", "iron, or none for an alloy", invalid.Quote(string(e.Head)))
	}
	if !word("arrangement", string(e.Arrangement), "single", "inline", "v", "flat") {
		return bad
	}
	if row := counts[e.Arrangement]; !slices.Contains(row.can, e.Cylinders) {
		bad.Add("cylinders", row.words, strconv.Itoa(e.Cylinders))
		return bad
	}
	if word("mounting", string(e.Mounting), "lengthways", "crossways") {
		ends := ends[e.Mounting]
		if !slices.Contains(ends[:], e.BeltEnd) {
			bad.Add("belt_end", fmt.Sprintf("%s or %s for an engine mounted %s", ends[0], ends[1], e.Mounting), invalid.Quote(string(e.BeltEnd)))
		}
		sides := flanks[e.Mounting]
		switch {
		case e.Banks() == 1 && e.BankOne != "":
			bad.Add("bank_one", "nothing: the engine has one bank", invalid.Quote(string(e.BankOne)))
		case e.Banks() == 2 && !slices.Contains(sides[:], e.BankOne):
			bad.Add("bank_one", fmt.Sprintf("%s or %s, the side that bank 1 of an engine mounted %s lies towards", sides[0], sides[1], e.Mounting), invalid.Quote(string(e.BankOne)))
		}
	}
	if e.Banks() == 2 {
		word("numbering", string(e.Numbering), "along", "alternating")
	} else if e.Numbering != "" {
		bad.Add("numbering", "nothing: the engine has one bank", invalid.Quote(string(e.Numbering)))
	}
	word("count_from", string(e.CountFrom), "", "flywheel")
	word("fuel", string(e.Fuel), "", "carburettor")
	bad.Under("firing_order", e.checkOrder())
	if len(bad) == 0 {
		bad.Under("", e.checkIgnition())
		bad.Under("covers", e.checkCovers())
	}
	e.checkSpecs(&bad)
	return bad.Err()
}

// oneOf lists the values that a field accepts; an empty value is left out.
func oneOf(can []string) string {
	var words []string
	for _, w := range can {
		if w != "" {
			words = append(words, w)
		}
	}
	last := len(words) - 1
	s := words[last]
	if last > 0 {
		s = strings.Join(words[:last], ", ") + " or " + s
	}
	if len(words) < len(can) {
		s += ", or nothing"
	}
	return s
}

// All lists the cylinders in numerical order.
func (e Engine) All() []Cylinder {
	all := make([]Cylinder, e.Cylinders)
	for i := range all {
		all[i] = Cylinder(i + 1)
	}
	return all
}

// Everything returns the set of all cylinders.
func (e Engine) Everything() Set { return SetOf(e.All()...) }

// Scanned reports whether the engine has a control unit that sets codes and counts misfires.
func (e Engine) Scanned() bool { return e.Fuel == Injected && ignitions[e.Ignition].scanned }

// Describe returns a summary: "V6, crossways, bank 1 towards the firewall, wasted spark,
// firing 1-2-3-4-5-6".
func (e Engine) Describe() string {
	words := []string{e.Shape(), string(e.Mounting)}
	if e.Banks() == 2 {
		words = append(words, "bank 1 towards the "+e.BankOne.Words())
	}
	words = append(words, e.Ignition.Words())
	if e.Fuel == Carburettor {
		words = append(words, "carburettor")
	}
	if e.Cylinders > 1 {
		words = append(words, "firing "+OrderString(e.FiringOrder))
	}
	return strings.Join(words, ", ")
}

// Shape returns the number and arrangement of cylinders: "4 in line", "V6", "flat four".
func (e Engine) Shape() string {
	switch e.Arrangement {
	case Single:
		return "single cylinder"
	case V:
		return fmt.Sprintf("V%d", e.Cylinders)
	case Flat:
		return fmt.Sprintf("flat %d", e.Cylinders)
	}
	return fmt.Sprintf("%d in line", e.Cylinders)
}

// Words returns the side as it is written in a sentence.
func (s Side) Words() string {
	if s == Front {
		return "radiator"
	}
	return string(s)
}
