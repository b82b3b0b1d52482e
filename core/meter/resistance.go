// Package meter judges resistances against the maker's range and rules of thumb, and equal
// items against each other. The maker's range is often unknown; the other cylinders are always
// available.
package meter

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// Item is what is measured.
type Item string

// The items.
const (
	Primary   Item = "coil-primary"
	Secondary Item = "coil-secondary"
	Lead      Item = "lead"
	Plug      Item = "plug"
	Spring    Item = "spring"
	Wire      Item = "wire"
)

// Make is how a lead is made: they differ tenfold.
type Make string

// The makes of lead.
const (
	AnyMake    Make = ""
	CarbonCore Make = "carbon-core"
	WireWound  Make = "wire-wound"
	SolidWire  Make = "solid-wire"
)

// Range is an interval in ohms, inclusive.
type Range struct{ Low, High float64 }

// Rule is a rule of thumb: the usual range of readings at 20 °C.
type Rule struct {
	Item  Item
	Make  Make
	Words string
	// Range in ohms. With PerMetre it is per metre of lead, and Most bounds the whole lead.
	Range
	PerMetre bool
	Most     float64
	// Copper is true if the reading is converted to 20 °C before it is judged.
	Copper bool
	Source string
}

// Rules lists the rules. They warn and never condemn by themselves.
var Rules = []Rule{
	{Primary, AnyMake, "coil primary", Range{0.3, 3}, false, 0, true, "C: where it can be measured"},
	{Secondary, AnyMake, "coil secondary", Range{5e3, 20e3}, false, 0, true, "C"},
	{Lead, CarbonCore, "lead with a carbon core", Range{10e3, 40e3}, true, 50e3, false, "C: none above 50 kΩ in all"},
	{Lead, WireWound, "wire-wound lead", Range{1e3, 10e3}, true, 50e3, false, "C"},
	{Lead, SolidWire, "lead of solid wire", Range{0, 5}, true, 50, false, "C: near zero"},
	{Plug, AnyMake, "resistor plug", Range{3e3, 8e3}, false, 0, false, "C"},
	{Spring, AnyMake, "spring or contact rod of a boot", Range{0, 5}, false, 0, false, "C; judgement: a rod with a resistor in it reads kilohms, by its maker"},
	{Wire, AnyMake, "wire, end to end", Range{0, 1}, false, 0, false, "C; judgement: a reading without load proves little"},
}

// RuleOf returns the rule of an item; ok is false for a lead of unknown make.
func RuleOf(item Item, made Make) (Rule, bool) {
	for _, r := range Rules {
		if r.Item == item && r.Make == made {
			return r, true
		}
	}
	return Rule{}, false
}

// For returns the range for a lead of some metres, or for an item without length.
func (r Rule) For(metres float64) Range {
	if !r.PerMetre {
		return r.Range
	}
	return Range{r.Low * metres, min(r.High*metres, r.Most)}
}

// Says compares a reading with a range.
type Says string

// The values of [Says].
const (
	Within   Says = "within"
	Below    Says = "below"
	Above    Says = "above"
	Open     Says = "open"
	NotKnown Says = "no range"
)

// farBelow is the fraction of the low end below which turns are shorted or the meter's leads
// touch. farAbove is the multiple of the high end that counts as open (C; judgement).
const (
	farBelow = 0.5
	farAbove = 3
)

// Against compares a reading with a range.
func Against(o unit.Ohms, r Range) Says {
	switch {
	case o.Over:
		return Open
	case r == Range{}:
		return NotKnown
	case o.Value < r.Low:
		return Below
	case o.Value > r.High:
		return Above
	}
	return Within
}

// Question is one reading with the data to judge it.
type Question struct {
	Item Item
	Make Make
	// Metres is the length of a lead, or 0 if unknown.
	Metres float64
	// Read is the display of the meter; Leads is the resistance of its own leads in ohms.
	Read  unit.Ohms
	Leads float64
	// Celsius is the temperature of the item.
	Celsius float64
	// Maker is the maker's range at 20 °C, or zero.
	Maker Range
}

// Judgement is the result for one reading.
type Judgement struct {
	// At20 is the reading without the meter's leads, converted to 20 °C if it is copper.
	At20 unit.Ohms
	// Maker and Thumb compare it with either range; ThumbRange is the range of the rule.
	Maker, Thumb Says
	ThumbRange   Range
	Rule         Rule
	// Fails is true if the reading condemns the part: open, or far outside the maker's range, or, where there
	// is none, far outside the rule's. A pass is weak evidence, and so is a small miss.
	Fails bool
	Words string
}

// JudgeResistance judges a reading.
func JudgeResistance(q Question) Judgement {
	rule, known := RuleOf(q.Item, q.Make)
	if q.Item == Lead && q.Metres <= 0 {
		known = false
	}
	j := Judgement{At20: q.Read, Thumb: NotKnown}
	if !q.Read.Over {
		j.At20.Value = max(0, q.Read.Value-q.Leads)
		if r, ok := RuleOf(q.Item, AnyMake); ok && r.Copper {
			j.At20.Value = unit.CopperAt20(j.At20.Value, q.Celsius)
		}
	}
	if known {
		j.Rule, j.ThumbRange = rule, rule.For(q.Metres)
		j.Thumb = Against(j.At20, j.ThumbRange)
	}
	j.Maker = Against(j.At20, q.Maker)
	if q.Maker == (Range{}) {
		j.Maker = NotKnown
	}
	by := q.Maker
	if by == (Range{}) {
		by = j.ThumbRange
	}
	switch {
	case j.At20.Over:
		j.Fails, j.Words = true, "open, or beyond the meter: read it again on the highest range, and bend it while you read"
	case by == Range{}:
		j.Words = "no range to hold it against: compare it with its siblings"
	case j.At20.Value > farAbove*by.High:
		j.Fails, j.Words = true, "far too high: as good as open"
	case by.Low > 0 && j.At20.Value < farBelow*by.Low:
		j.Fails, j.Words = true, "far too low: shorted turns, or the leads touch"
	case Against(j.At20, by) == Within:
		j.Words = "a pass, which is weak evidence: insulation fails at 20 kV and not at the meter's volt"
	default:
		j.Words = fmt.Sprintf("%s the range by a little: compare it with its siblings before it is blamed", Against(j.At20, by))
	}
	return j
}

// Measurable reports whether an item of an engine can be measured at all, and why not.
func Measurable(e engine.Engine, item Item) (ok bool, why string) {
	switch item {
	case Primary:
		if e.Wires > 2 {
			return false, fmt.Sprintf("a coil with %d wires mostly has its igniter inside: the primary cannot be measured through it", e.Wires)
		}
	case Secondary:
		if e.Ignition == engine.CoilOnPlug && e.Wires > 2 {
			return false, "through an igniter or a diode inside the coil nothing can be measured: by its siblings on a spark test, or by kilovolts"
		}
	case Lead:
		if e.Ignition == engine.CoilOnPlug {
			return false, "there are no leads: the coils sit on the plugs"
		}
	}
	return true, ""
}
