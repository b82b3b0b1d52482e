package evidence

import (
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/meter"
	"glenmist/core/unit"
)

// MeasureID identifies a measured quantity.
type MeasureID string

// The measures.
const (
	CoilPrimary    MeasureID = "coil-primary"
	CoilSecondary  MeasureID = "coil-secondary"
	LeadOhms       MeasureID = "lead"
	CoilLeadOhms   MeasureID = "coil-lead"
	PlugOhms       MeasureID = "plug"
	SpringOhms     MeasureID = "spring"
	FeedDrop       MeasureID = "feed-drop"
	GroundDrop     MeasureID = "ground-drop"
	WireOhms       MeasureID = "trigger-wire"
	AirGapLegs     MeasureID = "air-gap"
	StarterCurrent MeasureID = "starter-current"
	CompressionDry MeasureID = "compression-dry"
	CompressionWet MeasureID = "compression-wet"
	LeakDownLoss   MeasureID = "leak-down"
	InjectorOhms   MeasureID = "injector"
	FuelBar        MeasureID = "fuel-pressure"
	PrimaryRamp    MeasureID = "primary-ramp"
	KVSteady       MeasureID = "kilovolts"
	KVSnap         MeasureID = "kilovolts-snap"
	KVWave         MeasureID = "kilovolts-wave"
	KVSnapWave     MeasureID = "kilovolts-snap-wave" //nolint:gosec // no secret
	BaseTiming     MeasureID = "base-timing"
)

// Figure describes one figure of a reading, with its unit.
type Figure struct {
	Words string
	// Of parses the figure as it is typed. It is nil for a resistance, which can be over
	// range.
	Of *unit.Measure
}

// Unit returns the unit in which the figure is stored.
func (f Figure) Unit() string {
	if f.Of == nil {
		return "Ω"
	}
	return f.Of.Unit
}

// Parse reads a figure with or without its unit; over is true if the meter was over range.
func (f Figure) Parse(s string) (value float64, over bool, err error) {
	if f.Of != nil {
		value, err = f.Of.Parse(s)
		return value, false, err
	}
	o, err := unit.ParseOhms(s)
	return o.Value, o.Over, err
}

// Expected describes valid input, for an error message.
func (f Figure) Expected() string {
	if f.Of != nil {
		return f.Of.Expected()
	}
	return "a resistance from 0 to 1 GΩ, in ohms"
}

// believed reports whether a value is inside the limits of the figure.
func (f Figure) believed(v float64) bool {
	if f.Of != nil {
		return v >= f.Of.Low && v <= f.Of.High
	}
	return v >= 0 && v <= unit.MaxOhms
}

// Measure is a quantity that is measured on each part or at each place.
type Measure struct {
	ID           MeasureID
	Words, Short string
	// Test is the test whose results these figures give.
	Test TestID
	// On is the kind of part or site that is measured.
	On engine.Kind
	// Figures lists the figures of one reading. The first is always present.
	Figures []Figure
	// Item names the rules of thumb that apply, or "".
	Item meter.Item
	// Copper means that values refer to 20 °C. Length means that the length of a lead counts.
	// Leads means that the resistance of the meter's leads is subtracted.
	Copper, Length, Leads bool
	// Loaded is true if a reading without load proves little.
	Loaded bool
	// Bends is true if the item is bent or pulled during the measurement. A reading that jumps
	// then means a break.
	Bends bool
	// AtPlace is true if the value belongs to the place, whichever part is fitted there.
	AtPlace bool
	// Degrees is true if readings differ from what is expected by degrees, not by a factor.
	Degrees bool
	// Beyond is true if the quantity is outside the ignition. Scoped is true if it comes from
	// a capture and is not typed.
	Beyond, Scoped bool
	Do             string
	Source         string
}

// Kilovolts reports whether the measure is of kilovolts.
func (m Measure) Kilovolts() bool { return m.Test == Kilovolts || m.Snap() }

// Snap reports whether it is of kilovolts on a snap of the throttle.
func (m Measure) Snap() bool { return m.ID == KVSnap || m.ID == KVSnapWave }

func one(words string, of *unit.Measure) []Figure { return []Figure{{words, of}} }

// Measures lists the quantities in the order offered (C).
var Measures = []Measure{
	{ID: CoilPrimary, Words: "Primary winding of the coil", Short: "primary", Test: CoilResistance, On: engine.Coil, Figures: one("resistance", nil), Item: meter.Primary, Copper: true, Leads: true, Bends: true,
		Do: "Ignition off, connector off. Hold the meter's leads together first: what they show is taken off.", Source: "C"},
	{ID: CoilSecondary, Words: "Secondary winding of the coil", Short: "secondary", Test: CoilResistance, On: engine.Coil, Figures: one("resistance", nil), Item: meter.Secondary, Copper: true, Bends: true,
		Do: "Ignition off, coil off its plug or lead. From tower to primary terminal, or from tower to tower of a pair, as the maker says.", Source: "C"},
	{ID: LeadOhms, Words: "Lead, end to end", Short: "lead", Test: LeadResistance, On: engine.Lead, Figures: one("resistance", nil), Item: meter.Lead, Length: true, Bends: true,
		Do: "Both ends off; pull it by its boots. Bend it along its length while you read: a jump is a break.", Source: "C"},
	{ID: CoilLeadOhms, Words: "Coil lead, end to end", Short: "coil lead", Test: LeadResistance, On: engine.CoilLead, Figures: one("resistance", nil), Item: meter.Lead, Length: true, Bends: true,
		Do: "Both ends off; bend it along its length while you read.", Source: "C"},
	{ID: PlugOhms, Words: "Resistor of the plug", Short: "plug", On: engine.Plug, Figures: one("resistance", nil), Item: meter.Plug,
		Do: "Plug out and dry, from terminal to centre electrode.", Source: "C"},
	{ID: SpringOhms, Words: "Spring or rod in the boot", Short: "spring", On: engine.Boot, Figures: one("resistance", nil), Item: meter.Spring, Leads: true, Bends: true,
		Do: "Boot off its coil, from end to end, and pull it a little while you read.", Source: "C"},
	{ID: FeedDrop, Words: "Feed: volts lost on the way to the coil, under load", Short: "feed", Test: TriggerPulse, On: engine.Feed, Figures: []Figure{{"at the battery", &unit.Drop}, {"at the pin", &unit.Drop}}, Loaded: true, Bends: true,
		Do: "Cranking or running, or with a lamp as a load at the pin: battery first, then the feed pin, both to the battery’s own ground.", Source: "C"},
	{ID: GroundDrop, Words: "Ground: volts between the coil’s ground and the battery’s, under load", Short: "ground", Test: TriggerPulse, On: engine.Ground, Figures: one("dropped", &unit.Drop), Loaded: true, Bends: true,
		Do: "Cranking or running: from the ground pin to the battery’s negative post.", Source: "C"},
	{ID: WireOhms, Words: "Trigger wire, end to end", Short: "trigger wire", Test: WireTest, On: engine.Trigger, Figures: one("resistance", nil), Item: meter.Wire, Leads: true, Bends: true,
		Do: "Both ends unplugged, by the maker’s diagram; bend it along its run while you read.", Source: "C"},
	{ID: AirGapLegs, Words: "Air gap to the flywheel, by feeler", Short: "air gap", Test: AirGapCheck, On: engine.AirGap, Figures: []Figure{{"first leg", &unit.Feeler}, {"second leg", &unit.Feeler}},
		Do: "Magnets turned to the coil. Try the feeler at one leg, then at the other.", Source: "C"},
	{ID: BaseTiming, Words: "Base timing by lamp, before top dead centre", Short: "base timing", Test: TimingLamp, On: engine.Timing, Figures: one("timing", &unit.Advance), Degrees: true,
		Do: "Warm, idle low, control input off as the maker says. Lamp on cylinder 1: read the advance dial, or the mark at the pointer. A figure below 0 is after top dead centre.", Source: "C"},
	{ID: KVSteady, Words: "Secondary kilovolts, steady at warm idle", Short: "steady kV", Test: Kilovolts, On: engine.Plug, Figures: []Figure{{"usual", &unit.Kilo}, {"lowest", &unit.Kilo}, {"highest", &unit.Kilo}}, AtPlace: true,
		Do: "Clamp or adapter on each cylinder in turn, warm, at idle: the peak that starts the arc, as it mostly is, and the lowest and highest seen over a minute. An adapter on a coil gives relative values.", Source: "C"},
	{ID: KVSnap, Words: "Secondary kilovolts under snap throttle", Short: "snap kV", On: engine.Plug, Figures: []Figure{{"steady", &unit.Kilo}, {"on snap", &unit.Kilo}}, AtPlace: true,
		Do: "Steady at idle first, then the highest peak of a quick opening of the throttle, the same on each cylinder.", Source: "C"},
	{ID: KVWave, Words: "Secondary kilovolts, out of a capture", Short: "capture", Test: Kilovolts, On: engine.Plug, AtPlace: true, Scoped: true,
		Figures: []Figure{{"usual", &unit.Kilo}, {"lowest", &unit.Kilo}, {"highest", &unit.Kilo}, {"burn", &unit.Burn}, {"line", &unit.Kilo}, {"slope", &unit.Slope}, {"fired", &unit.Share}, {"rings", &unit.HalfWaves}},
		Do:      "Record some seconds at warm idle with a scope, better with a snap of the throttle in them.", Source: "C"},
	{ID: KVSnapWave, Words: "Secondary kilovolts under snap throttle, out of a capture", Short: "snap of a capture", On: engine.Plug, AtPlace: true, Scoped: true,
		Figures: []Figure{{"steady", &unit.Kilo}, {"on snap", &unit.Kilo}, {"burn on snap", &unit.Burn}, {"fired on snap", &unit.Share}},
		Do:      "Record some seconds at warm idle with a scope, then a snap of the throttle.", Source: "C"},

	{ID: StarterCurrent, Words: "Relative compression by starter current", Short: "starter current", Test: CompressionTest, On: engine.Compression, Figures: one("hump", &unit.Amperes), Beyond: true,
		Do: "Fuel and ignition off, clamp on the starter’s cable, crank: the height of each cylinder’s hump.", Source: "C"},
	{ID: CompressionDry, Words: "Compression, dry", Short: "dry compression", Test: CompressionTest, On: engine.Compression, Figures: one("pressure", &unit.Compression), Beyond: true,
		Do: "All plugs out, throttle open, battery good: the highest that the gauge climbs to, the same number of turns on each.", Source: "C"},
	{ID: CompressionWet, Words: "Compression, wet: a spoonful of oil in", Short: "wet compression", Test: CompressionTest, On: engine.Compression, Figures: one("pressure", &unit.Compression), Beyond: true,
		Do: "A spoonful of engine oil into the cylinder, then again: rings rise, a valve or gasket does not. The plug will be oily afterwards.", Source: "C"},
	{ID: LeakDownLoss, Words: "Leak-down", Short: "leak-down", Test: LeakDown, On: engine.Compression, Figures: one("loss", &unit.Share), Beyond: true,
		Do: "Piston at the top of compression, air in: read the loss, and listen at intake, exhaust, filler and coolant.", Source: "C"},
	{ID: InjectorOhms, Words: "Resistance of the injector", Short: "injector", Test: InjectorTest, On: engine.Injector, Figures: one("resistance", nil), Leads: true, Beyond: true, Bends: true,
		Do: "Connector off, engine at one temperature.", Source: "C"},
	{ID: FuelBar, Words: "Fuel pressure", Short: "fuel", Test: FuelPressure, On: engine.FuelSupply, Figures: []Figure{{"at rest", &unit.FuelBar}, {"under load", &unit.FuelBar}}, Beyond: true,
		Do: "At rest and running, then under load; the maker’s range decides.", Source: "C"},
	{ID: PrimaryRamp, Words: "Primary current by clamp", Short: "current ramp", Test: CoilResistance, On: engine.Coil, Figures: []Figure{{"at the end", &unit.Amperes}, {"rise at first", &unit.Rise}, {"dwell", &unit.Dwell}},
		Do: "Clamp on the feed: the current at the end of the dwell, how steeply it begins, and the dwell. Shorted turns begin with a jump.", Source: "C"},
}

// FindMeasure finds a measure by its id.
func FindMeasure(id MeasureID) (Measure, bool) {
	i := slices.IndexFunc(Measures, func(m Measure) bool { return m.ID == id })
	if i < 0 {
		return Measure{}, false
	}
	return Measures[i], true
}

// Part reports whether it is measured on tagged parts instead of places.
func (m Measure) Part(e engine.Engine) bool {
	return !m.AtPlace && slices.Contains(e.PartKinds(), m.On)
}

// There reports whether the engine has an item with this quantity.
func (m Measure) There(e engine.Engine) bool {
	return slices.ContainsFunc(e.Items(), func(i engine.Item) bool { return i.Kind == m.On })
}

// Sense reports whether the quantity can be measured on the engine, and if not, why.
func (m Measure) Sense(e engine.Engine) (ok bool, why string) {
	if m.Item == "" {
		return true, ""
	}
	return meter.Measurable(e, m.Item)
}

func measureIDs() string {
	var ids []string
	for _, m := range Measures {
		ids = append(ids, string(m.ID))
	}
	return strings.Join(ids, ", ")
}

// ParseMeasure reads the id of a measure that applies to the engine.
func ParseMeasure(e engine.Engine, s string) (Measure, error) {
	m, ok := FindMeasure(MeasureID(s))
	if !ok || !m.There(e) {
		return m, invalid.Error{Expected: "a measure that this engine has something for: " + measureIDs(), Got: invalid.Quote(s)}
	}
	return m, nil
}
