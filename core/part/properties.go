package part

import (
	"cmp"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Property is one property of a kind of part. One table serves the forms, the parts catalogue as CSV,
// and the comparison of a new part with an old one.
type Property struct {
	// ID names the property in forms and as a column of the catalogue. Path is its place in the JSON of
	// a [Make], such as "plug.reach_mm".
	ID, Path    string
	Words, Unit string
	// Name is the property in a sentence; "" means its words in lower case.
	Name string
	// Kinds lists the kinds of part that have it.
	Kinds []Kind
	// Choices lists the values of a property that is chosen; nil if it is typed.
	Choices []string
	// Measure reads a figure with its unit; nil for texts and whole numbers.
	Measure *unit.Measure
	// Other is the consequence of different words. More and Less apply if the new figure is larger or
	// smaller. All empty: it is not compared. Grave means that the new part must not be fitted then.
	Other, More, Less string
	Grave             bool
	// Swap names the property in the reason why two parts cannot be exchanged for a test; "" if a
	// difference does not matter for that.
	Swap string
	// at returns the field, nil if the design is not set; with make true it sets the design first.
	at func(m *Make, create bool) any
}

// field makes the access to a field of a design.
func field[D any](design func(*Make) **D, of func(*D) any) func(*Make, bool) any {
	return func(m *Make, create bool) any {
		d := design(m)
		if *d == nil {
			if !create {
				return nil
			}
			*d = new(D)
		} else if create { // the record that it came from stays as it is
			own := **d
			*d = &own
		}
		return of(*d)
	}
}

func ofPlug(of func(*PlugDesign) any) func(*Make, bool) any {
	return field(func(m *Make) **PlugDesign { return &m.Plug }, of)
}

func ofCoil(of func(*CoilDesign) any) func(*Make, bool) any {
	return field(func(m *Make) **CoilDesign { return &m.Coil }, of)
}

func ofLead(of func(*LeadDesign) any) func(*Make, bool) any {
	return field(func(m *Make) **LeadDesign { return &m.Lead }, of)
}

func ofCap(of func(*CapDesign) any) func(*Make, bool) any {
	return field(func(m *Make) **CapDesign { return &m.Cap }, of)
}

func choices[T ~string](all []T) []string {
	words := make([]string, len(all))
	for i, x := range all {
		words[i] = string(x)
	}
	return words
}

var (
	plugKind  = []Kind{engine.Plug}
	coilKind  = []Kind{engine.Coil}
	leadKinds = []Kind{engine.Lead, engine.CoilLead}
	capKinds  = []Kind{engine.Cap, engine.Rotor}
)

const (
	lookUp      = "not the same part by its lettering: look it up"
	anotherCoil = ": another kind of coil"
)

// Properties lists the properties in the order of comparison (C: new beside old before fitting).
var Properties = []Property{
	{ID: "thread", Swap: "the thread", Path: "plug.thread_mm", Words: "Thread", Unit: "mm", Kinds: plugKind, Measure: &unit.Length, More: "does not go in", Less: "wobbles in the thread and blows out", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.ThreadMM })},
	{ID: "reach", Swap: "the reach", Path: "plug.reach_mm", Words: "Reach", Unit: "mm", Kinds: plugKind, Measure: &unit.Length, More: "too long: it can bottom out on the piston or valves, and its bare threads burn in",
		Less: "too short: the spark sits back in the hole and the head's threads coke up", Grave: true, at: ofPlug(func(d *PlugDesign) any { return &d.ReachMM })},
	{ID: "seat", Swap: "the seat", Path: "plug.seat", Words: "Seat", Kinds: plugKind, Choices: choices(PlugSeats), Other: "wrong seat: it does not seal, and leaks or cracks the head", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.Seat })},
	{ID: "hex", Path: "plug.hex_mm", Words: "Hex", Unit: "mm", Kinds: plugKind, Measure: &unit.Length, More: "another socket, which may not pass the well", Less: "another socket",
		at: ofPlug(func(d *PlugDesign) any { return &d.HexMM })},
	{ID: "resistor", Swap: "the resistor", Path: "plug.resistor", Words: "Resistor", Kinds: plugKind, Choices: []string{"yes", "no"}, Other: "with and without a resistor: interference upsets radio and control units, or ohms add up", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.Resistor })},
	{ID: "ohms", Path: "plug.resistor_ohm", Words: "Resistance", Unit: "Ω", Kinds: plugKind, Measure: &unit.Resistance,
		More: "more ohms: less energy in the spark; look at the maker's list", Less: "fewer ohms: more interference; look at the maker's list", at: ofPlug(func(d *PlugDesign) any { return &d.ResistorOhms })},
	{ID: "electrode", Path: "plug.electrode", Words: "Electrodes", Kinds: plugKind, Choices: choices(Electrodes), Other: "another design: gap, kilovolts and life differ; do not mix in a set", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.Electrode })},
	{ID: "heat", Swap: "the heat range", Path: "plug.heat_range", Words: "Heat range", Kinds: plugKind, Other: "runs hotter or colder than the other: look at the maker's list", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.HeatRange })},
	{ID: "terminal", Path: "plug.terminal", Words: "Terminal", Kinds: plugKind, Choices: choices(PlugTerminals), Other: "the boot or lead does not click on: screw its nut on or off, if it has one", Grave: true,
		at: ofPlug(func(d *PlugDesign) any { return &d.Terminal })},
	{ID: "finish", Path: "plug.finish", Words: "Shell", Kinds: plugKind, Choices: choices(Finishes), at: ofPlug(func(d *PlugDesign) any { return &d.Finish })},
	{ID: "gap-low", Path: "plug.gap_low_mm", Words: "Gap from", Unit: "mm", Kinds: plugKind, Measure: &unit.Gap, at: ofPlug(func(d *PlugDesign) any { return &d.GapLow })},
	{ID: "gap-high", Path: "plug.gap_high_mm", Words: "Gap to", Unit: "mm", Kinds: plugKind, Measure: &unit.Gap, at: ofPlug(func(d *PlugDesign) any { return &d.GapHigh })},
	{ID: "torque-low", Path: "plug.torque_low_nm", Words: "Torque from", Unit: "N·m", Kinds: plugKind, Measure: &unit.Torque, at: ofPlug(func(d *PlugDesign) any { return &d.TorqueLow })},
	{ID: "torque-high", Path: "plug.torque_high_nm", Words: "Torque to", Unit: "N·m", Kinds: plugKind, Measure: &unit.Torque, at: ofPlug(func(d *PlugDesign) any { return &d.TorqueHigh })},
	{ID: "lettering", Path: "plug.lettering", Words: "Lettering", Kinds: plugKind, Other: lookUp, at: ofPlug(func(d *PlugDesign) any { return &d.Lettering })},

	{ID: "pins", Swap: "the number of pins", Path: "coil.pins", Words: "Pins of the connector", Name: "pins", Kinds: coilKind, More: "more pins than the connector has" + anotherCoil, Less: "fewer pins than the connector has" + anotherCoil, Grave: true,
		at: ofCoil(func(d *CoilDesign) any { return &d.Pins })},
	{ID: "tab", Swap: "the side on which the connector locks", Path: "coil.tab", Words: "Tab locks at the", Name: "tab", Kinds: coilKind, Choices: choices(CoilTabs), Other: "the connector does not lock: it works loose and misfires", Grave: true,
		at: ofCoil(func(d *CoilDesign) any { return &d.Tab })},
	{ID: "stem", Path: "coil.stem_mm", Words: "Flange to mouth", Name: "stem", Unit: "mm", Kinds: coilKind, Measure: &unit.Length, More: "too long: the flange does not come down, and the bolt cracks its ear",
		Less: "too short: the boot does not reach the plug, and the spark jumps past it", Grave: true, at: ofCoil(func(d *CoilDesign) any { return &d.StemMM })},
	{ID: "holes", Path: "coil.holes", Words: "Bolt holes", Kinds: coilKind, More: "more bolt holes: another bracket", Less: "fewer bolt holes: another bracket", Grave: true,
		at: ofCoil(func(d *CoilDesign) any { return &d.Holes })},
	{ID: "spacing", Path: "coil.spacing_mm", Words: "Bolt holes apart", Unit: "mm", Kinds: coilKind, Measure: &unit.Length, More: "its bolt holes do not meet the bosses", Less: "its bolt holes do not meet the bosses", Grave: true,
		at: ofCoil(func(d *CoilDesign) any { return &d.SpacingMM })},
	{ID: "face", Path: "coil.face", Words: "Outward face", Kinds: coilKind, Choices: choices(Faces), Other: "only one of them is marked: find out which face lies outward, since fitted the wrong way it fires late or not at all",
		at: ofCoil(func(d *CoilDesign) any { return &d.Face })},
	{ID: "lettering", Path: "coil.lettering", Words: "Lettering", Kinds: coilKind, Other: lookUp, at: ofCoil(func(d *CoilDesign) any { return &d.Lettering })},

	{ID: "length", Path: "lead.length_mm", Words: "Length", Unit: "mm", Kinds: leadKinds, Measure: &unit.Length, More: "longer: it can lie on hot or moving parts; route it through its clips", Less: "shorter: it pulls at its ends and works loose", Grave: false,
		at: ofLead(func(d *LeadDesign) any { return &d.LengthMM })},
	{ID: "core", Path: "lead.core", Words: "Core", Kinds: leadKinds, Choices: choices(Cores), Other: "another conductor: its ohms differ tenfold, and solid wire disturbs control units", Grave: true,
		at: ofLead(func(d *LeadDesign) any { return &d.Core })},
	{ID: "lettering", Path: "lead.lettering", Words: "Lettering", Kinds: leadKinds, Other: lookUp, at: ofLead(func(d *LeadDesign) any { return &d.Lettering })},

	{ID: "towers", Path: "cap.towers", Words: "Towers", Kinds: []Kind{engine.Cap}, More: "more towers than cylinders: another engine's cap", Less: "fewer towers: a lead has no place", Grave: true,
		at: ofCap(func(d *CapDesign) any { return &d.Towers })},
	{ID: "fixing", Path: "cap.fixing", Words: "Held by", Kinds: capKinds, Choices: choices(Fixings), Other: "another fixing: it does not sit firmly, and its contacts strike", Grave: true,
		at: ofCap(func(d *CapDesign) any { return &d.Fixing })},
	{ID: "height", Path: "cap.height_mm", Words: "Height", Unit: "mm", Kinds: capKinds, Measure: &unit.Length, More: "taller: rotor and cap can touch", Less: "lower: the spark has a wider gap to jump inside the cap", Grave: true,
		at: ofCap(func(d *CapDesign) any { return &d.HeightMM })},
	{ID: "lettering", Path: "cap.lettering", Words: "Lettering", Kinds: capKinds, Other: lookUp, at: ofCap(func(d *CapDesign) any { return &d.Lettering })},
}

// PropertiesOf lists the properties of a kind of part.
func PropertiesOf(k Kind) (all []Property) {
	for _, p := range Properties {
		if slices.Contains(p.Kinds, k) {
			all = append(all, p)
		}
	}
	return all
}

// Show returns the value of a property as text, "" if it is unknown.
func (p Property) Show(m Make) string {
	v := p.value(m)
	switch {
	case !v.IsValid() || v.IsZero():
		return ""
	case v.Kind() == reflect.Float64:
		return unit.Decimal(v.Float())
	case v.Kind() == reflect.Int:
		return strconv.FormatInt(v.Int(), 10)
	}
	return v.String()
}

// Figure returns the value of a figure; ok is false for a text and if it is unknown.
func (p Property) Figure(m Make) (x float64, ok bool) {
	v := p.value(m)
	switch {
	case !v.IsValid() || v.IsZero():
		return 0, false
	case v.Kind() == reflect.Float64:
		return v.Float(), true
	case v.Kind() == reflect.Int:
		return float64(v.Int()), true
	}
	return 0, false
}

func (p Property) value(m Make) reflect.Value {
	at := p.at(&m, false)
	if at == nil {
		return reflect.Value{}
	}
	return reflect.ValueOf(at).Elem()
}

// Put reads a text into a property. Empty text leaves it unknown. Errors are [invalid.Error].
func (p Property) Put(m *Make, s string) error {
	s = strings.TrimSpace(s)
	if s == "" {
		return nil
	}
	v := reflect.ValueOf(p.at(m, true)).Elem()
	switch {
	case p.Measure != nil:
		x, err := p.Measure.Parse(s)
		if err != nil {
			return err
		}
		v.SetFloat(math.Round(1000*x) / 1000) // no rule or wrench shows more
	case v.Kind() == reflect.Int:
		n, err := strconv.Atoi(s)
		if err != nil {
			return invalid.Error{Expected: "a whole number, such as 4", Got: invalid.Quote(s)}
		}
		v.SetInt(int64(n))
	case p.Choices != nil && !slices.Contains(p.Choices, s):
		return invalid.Error{Expected: orWords(p.Choices), Got: invalid.Quote(s)}
	default:
		v.SetString(s)
	}
	return nil
}

// orWords names the choices: "gasket or taper", "one of nickel, fine-wire, …".
func orWords(choices []string) string {
	if len(choices) == 2 {
		return choices[0] + " or " + choices[1]
	}
	return "one of " + strings.Join(choices, ", ")
}

// Difference is one way in which a new part differs from the old.
type Difference struct {
	// Of is the property that differs, Words states both values, Judged the consequence.
	Of, Words, Judged string
	// Grave is true if the new part must not be fitted in place of the old one.
	Grave bool
}

// alike is the difference in millimetres below which two lengths count as equal: they are measured
// with a rule.
const alike = 0.3

// Compare lists the differences between a new and an old part of a kind, in the properties known for
// both; known is false if there are none.
func Compare(k Kind, old, fresh Make) (all []Difference, known bool) {
	for _, p := range PropertiesOf(k) {
		if p.Other+p.More+p.Less == "" {
			continue
		}
		was, is := p.Show(old), p.Show(fresh)
		if was == "" || is == "" {
			continue
		}
		known = true
		if d := p.differs(old, fresh); d.Judged != "" {
			all = append(all, d)
		}
	}
	// Equal lettering on a different design indicates a counterfeit.
	if letters := lettering(k, old); letters != "" && letters == lettering(k, fresh) && slices.ContainsFunc(all, func(d Difference) bool { return d.Grave }) {
		all = append(all, Difference{"copy", "the same lettering on two different " + string(k) + "s", "one of them is likely a copy: fit neither until that is cleared", true})
	}
	return all, known
}

func lettering(k Kind, m Make) string {
	for _, p := range PropertiesOf(k) {
		if p.ID == "lettering" {
			return p.Show(m)
		}
	}
	return ""
}

// differs compares one property that is known for both parts. Judged is empty if they are equal.
func (p Property) differs(old, fresh Make) Difference {
	d := Difference{Of: p.ID, Grave: p.Grave}
	name := cmp.Or(p.Name, strings.ToLower(p.Words))
	was, figure := p.Figure(old)
	is, _ := p.Figure(fresh)
	of := p.Unit
	if of != "" {
		of = " " + of
	}
	least := alike
	if p.Unit != "mm" {
		least = 0
	}
	switch {
	case !figure:
		if p.Show(old) == p.Show(fresh) {
			return d
		}
		d.Judged = p.Other
		d.Words = fmt.Sprintf("%s %s, was %s", name, p.Show(fresh), p.Show(old))
		return d
	case is == was || is-was < least && was-is < least:
		return d
	case is > was:
		d.Judged = p.More
	default:
		d.Judged = p.Less
	}
	d.Words = fmt.Sprintf("%s %g%s, was %g%s", name, is, of, was, of)
	return d
}
