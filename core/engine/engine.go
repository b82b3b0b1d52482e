package engine

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Arrangement is how the cylinders stand.
type Arrangement string

// The arrangements. V and Flat have two banks of equal length.
const (
	Single Arrangement = "single"
	Inline Arrangement = "inline"
	V      Arrangement = "v"
	Flat   Arrangement = "flat"
)

// Mounting is how the crankshaft lies in the bay.
type Mounting string

// The two mountings.
const (
	Lengthways Mounting = "lengthways"
	Crossways  Mounting = "crossways"
)

// Side is a side of the bay as seen standing at the front bumper and looking
// at the engine: Left and Right are the onlooker's. Front is where the radiator
// mostly stands.
type Side string

// The four sides of the bay.
const (
	Front    Side = "front"
	Firewall Side = "firewall"
	Left     Side = "left"
	Right    Side = "right"
)

// Numbering is how the numbers run over two banks.
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

// Fuel is how the fuel is metered.
type Fuel string

// The two ways. An engine with a carburettor has no injectors, and no control
// unit that counts misfires or sets codes.
const (
	Injected    Fuel = ""
	Carburettor Fuel = "carburettor"
)

// Turn is a sense of rotation, seen from above the cap.
type Turn string

// The two senses; the zero value is "not known".
const (
	Clockwise     Turn = "clockwise"
	Anticlockwise Turn = "anticlockwise"
)

// Engine is one engine as it lies in its bay. Its zero value is not usable;
// check a value that comes from outside with [Engine.Validate].
type Engine struct {
	// Cylinders is how many there are.
	Cylinders   int         `json:"cylinders"`
	Arrangement Arrangement `json:"arrangement"`
	Mounting    Mounting    `json:"mounting"`
	// BeltEnd is the side of the bay that the belt drive faces; on an engine
	// without belts, the side away from the flywheel.
	BeltEnd Side `json:"belt_end"`
	// CountFrom is the end of the crankshaft next to cylinder 1.
	CountFrom End `json:"count_from,omitzero"`
	// Numbering and BankOne are for engines with two banks: how the numbers run,
	// and the side of the bay that bank 1 lies towards. Bank 1 is by definition
	// the bank with cylinder 1.
	Numbering Numbering `json:"numbering,omitzero"`
	BankOne   Side      `json:"bank_one,omitzero"`

	Ignition Ignition `json:"ignition"`
	// Wires is how many wires a coil connector has: 2, 3 or 4; 0 is not known.
	Wires int `json:"wires,omitzero"`
	// CoilOrder lists one cylinder of each coil, in the order of the coils'
	// letters. Empty means that the letters go by the lowest cylinder of each.
	CoilOrder []Cylinder `json:"coil_order,omitzero"`
	// Module says that wasted-spark coils stand on a separate ignition module,
	// with blade contacts and an insulating boot between.
	Module bool `json:"module,omitzero"`
	// Rotor is the sense in which a distributor's rotor turns.
	Rotor Turn `json:"rotor,omitzero"`
	Fuel  Fuel `json:"fuel,omitzero"`

	// FiringOrder lists every cylinder once, in the order in which they fire.
	FiringOrder []Cylinder `json:"firing_order"`
	// Uneven says that they fire at uneven intervals: there are no companions then.
	Uneven bool `json:"uneven,omitzero"`
	// Covers are what lies over the ignition.
	Covers []Cover `json:"covers,omitzero"`
	// Specs are the maker's ranges that are known.
	Specs []Spec `json:"specs,omitzero"`

	derived *derived
}

// derived is what follows from an engine and is asked for again and again.
type derived struct {
	items []Item
	coils []CoilPlace
}

// Derive is the engine with what follows from it worked out once. It must not be changed
// after that.
func (e Engine) Derive() Engine {
	if e.derived == nil {
		e.derived = &derived{slices.Clip(e.Items()), slices.Clip(e.Coils())}
	}
	return e
}

// MaxCylinders is the most an engine can have here.
const MaxCylinders = 12

// counts lists the numbers of cylinders that an arrangement can have.
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

// Validate says what of the engine cannot be, field by field.
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

// oneOf says what may stand in a field; an empty word may be left out.
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

// Everything is the set of all cylinders.
func (e Engine) Everything() Set { return SetOf(e.All()...) }

// Scanned says that the engine has a control unit that sets codes and counts
// misfires.
func (e Engine) Scanned() bool { return e.Fuel == Injected && ignitions[e.Ignition].scanned }

// Describe is the engine in a few words: "V6, crossways, bank 1 towards the
// firewall, wasted spark, firing 1-2-3-4-5-6".
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

// Shape is how many cylinders stand how: "4 in line", "V6", "flat four".
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

// Words is the side as said in a sentence.
func (s Side) Words() string {
	if s == Front {
		return "radiator"
	}
	return string(s)
}
