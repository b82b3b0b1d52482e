package engine

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/invalid"
)

// Ignition is the layout of the ignition system.
type Ignition string

// The layouts.
const (
	// CoilOnPlug has one coil for each cylinder, on top of its plug, with a boot between.
	CoilOnPlug Ignition = "coil-on-plug"
	// CoilNearPlug has one coil for each cylinder, beside the plug, with a short lead.
	CoilNearPlug Ignition = "coil-near-plug"
	// WastedSpark has one coil for each pair of companions. The circuit is tower, lead, plug,
	// head, plug, lead, tower.
	WastedSpark Ignition = "wasted-spark"
	// Distributor has one coil for all cylinders, with coil lead, rotor, cap and leads.
	Distributor Ignition = "distributor"
	// Magneto has one coil for each cylinder beside the flywheel, and a stop wire.
	Magneto Ignition = "magneto"
	// SingleCoil has one remote coil, supplied by battery or generator, and a lead.
	SingleCoil Ignition = "single-coil"
)

// Kind is the kind of a part or a site of an engine.
type Kind string

// The kinds of part. Parts have tags and can be moved.
const (
	Coil     Kind = "coil"
	CoilLead Kind = "coil lead"
	Cap      Kind = "cap"
	Rotor    Kind = "rotor"
	Lead     Kind = "lead"
	Boot     Kind = "boot"
	Plug     Kind = "plug"
)

// The kinds of site. Sites cannot be moved.
const (
	Connector   Kind = "connector"
	Seat        Kind = "seat"
	Feed        Kind = "feed"
	Ground      Kind = "ground"
	Driver      Kind = "driver"
	Trigger     Kind = "trigger wire"
	Well        Kind = "plug well"
	Module      Kind = "module contact"
	Pickup      Kind = "pickup"
	Timing      Kind = "base timing"
	LeadOrder   Kind = "lead order"
	StopWire    Kind = "stop wire"
	AirGap      Kind = "air gap"
	Injector    Kind = "injector"
	Compression Kind = "compression"
	AirLeak     Kind = "air leak"
	FuelSupply  Kind = "fuel supply"
)

// The sets of like parts that can be at fault, and are renewed, together.
const (
	Plugs      Kind = "set of plugs"
	Leads      Kind = "set of leads"
	Boots      Kind = "set of boots"
	SetOfCoils Kind = "set of coils"
)

// each is how many of a component an engine has.
type each int

const (
	perCylinder each = iota
	perCoil
	perBank // per bank, and one more for the whole engine if it has two banks
	once
)

type component struct {
	kind Kind
	each each
	part bool
}

// ignitionRow lists the components of a layout from the supply to the plug, in series order
// (C).
type ignitionRow struct {
	ignition   Ignition
	words      string
	components []component
	// scanned is true if the layout can have a control unit that counts misfires.
	scanned bool
	// cylinders is the largest number of cylinders it serves; 0 means no limit.
	cylinders int
	// disturbs lists the sites that are disturbed when a part of a kind is handled at its
	// place.
	disturbs map[Kind][]Kind
}

var ignitionRows = []ignitionRow{
	{CoilOnPlug, "coil on plug", []component{{Feed, perCoil, false}, {Ground, perCoil, false}, {Driver, perCoil, false}, {Trigger, perCoil, false}, {Connector, perCoil, false}, {Coil, perCoil, true},
		{Seat, perCylinder, false}, {Well, perCylinder, false}, {Boot, perCylinder, true}, {Plug, perCylinder, true}}, true, 0,
		map[Kind][]Kind{Coil: {Connector, Seat}, Boot: {Connector, Seat, Well}, Plug: {Connector, Seat, Well}}},
	{CoilNearPlug, "coil near plug", []component{{Feed, perCoil, false}, {Ground, perCoil, false}, {Driver, perCoil, false}, {Trigger, perCoil, false}, {Connector, perCoil, false}, {Coil, perCoil, true},
		{Seat, perCylinder, false}, {Well, perCylinder, false}, {Lead, perCylinder, true}, {Plug, perCylinder, true}}, true, 0,
		map[Kind][]Kind{Coil: {Connector, Seat}, Lead: {Seat, Well}, Plug: {Seat, Well}}},
	{WastedSpark, "wasted spark", []component{{Feed, perCoil, false}, {Ground, perCoil, false}, {Driver, perCoil, false}, {Trigger, perCoil, false}, {Connector, perCoil, false}, {Module, perCoil, false}, {Coil, perCoil, true},
		{LeadOrder, once, false}, {Seat, perCylinder, false}, {Well, perCylinder, false}, {Lead, perCylinder, true}, {Plug, perCylinder, true}}, true, 0,
		map[Kind][]Kind{Coil: {Connector, Module, Seat}, Lead: {Seat, Well}, Plug: {Seat, Well}}},
	{Distributor, "distributor", []component{{Pickup, once, false}, {Feed, once, false}, {Ground, once, false}, {Driver, once, false}, {Trigger, once, false}, {Connector, perCoil, false}, {Coil, perCoil, true},
		{CoilLead, perCoil, true}, {Rotor, perCoil, true}, {Cap, perCoil, true}, {Timing, once, false}, {LeadOrder, once, false},
		{Seat, perCylinder, false}, {Well, perCylinder, false}, {Lead, perCylinder, true}, {Plug, perCylinder, true}}, true, 0,
		map[Kind][]Kind{Coil: {Connector}, CoilLead: {}, Cap: {Seat}, Rotor: {}, Lead: {Seat, Well}, Plug: {Seat, Well}}},
	{Magneto, "magneto", []component{{StopWire, once, false}, {AirGap, perCoil, false}, {Timing, once, false}, {Coil, perCoil, true},
		{Seat, perCylinder, false}, {Boot, perCylinder, true}, {Plug, perCylinder, true}}, false, 2,
		map[Kind][]Kind{Coil: {AirGap, StopWire, Seat}, Boot: {Seat}, Plug: {Seat}}},
	{SingleCoil, "single coil and lead", []component{{Pickup, once, false}, {Feed, once, false}, {Ground, once, false}, {Driver, once, false}, {Trigger, once, false}, {StopWire, once, false}, {Connector, perCoil, false}, {Coil, perCoil, true},
		{Seat, perCylinder, false}, {Lead, perCylinder, true}, {Plug, perCylinder, true}}, true, 1,
		map[Kind][]Kind{Coil: {Connector, Seat}, Lead: {Seat}, Plug: {Seat}}},
}

// everyEngine lists the components that every engine has, whatever its ignition.
var everyEngine = []component{{Injector, perCylinder, false}, {Compression, perCylinder, false}, {AirLeak, perCylinder, false}, {AirLeak, perBank, false}, {FuelSupply, once, false}}

var ignitions = func() map[Ignition]ignitionRow {
	m := map[Ignition]ignitionRow{}
	for _, row := range ignitionRows {
		m[row.ignition] = row
	}
	return m
}()

// Ignitions lists the layouts.
func Ignitions() []Ignition {
	var all []Ignition
	for _, row := range ignitionRows {
		all = append(all, row.ignition)
	}
	return all
}

func ignitionWords() []string {
	var all []string
	for _, row := range ignitionRows {
		all = append(all, string(row.ignition))
	}
	return all
}

// Words returns the layout as it is written in a sentence.
func (i Ignition) Words() string { return ignitions[i].words }

// CoilPlace is one coil of the layout: its letter, its place and the cylinders it serves. Its
// n-th tower leads to its n-th cylinder.
type CoilPlace struct {
	Letter    Letter
	Place     Place
	Cylinders []Cylinder
}

// Tower names the tower that leads to a cylinder: "A1" for the first tower of coil A, "tower
// 5" on a cap.
func (e Engine) Tower(c Cylinder) string {
	for _, coil := range e.Coils() {
		if i := slices.Index(coil.Cylinders, c); i >= 0 && e.Ignition == WastedSpark {
			return fmt.Sprintf("%s%d", coil.Letter, i+1)
		}
	}
	if e.Ignition == Distributor {
		return fmt.Sprintf("cap tower %d", c)
	}
	return ""
}

// Polarity returns the group of plugs that a cylinder's plug can be compared with. On wasted
// spark one plug of each pair fires with reversed polarity and needs a higher voltage. Plugs
// at first towers are group 1, at second towers group 2. It is 0 where all plugs are alike.
func (e Engine) Polarity(c Cylinder) int {
	if e.Ignition != WastedSpark {
		return 0
	}
	for _, coil := range e.Coils() {
		if i := slices.Index(coil.Cylinders, c); i >= 0 {
			return i + 1
		}
	}
	return 0
}

// Coils lists the coils by letter. A letter is not always the number of a cylinder.
func (e Engine) Coils() []CoilPlace {
	if e.derived != nil {
		return e.derived.coils
	}
	groups := e.coilGroups()
	if len(e.CoilOrder) == len(groups) {
		ordered := make([][]Cylinder, 0, len(groups))
		for _, c := range e.CoilOrder {
			if i := slices.IndexFunc(groups, func(g []Cylinder) bool { return slices.Contains(g, c) }); i >= 0 {
				ordered = append(ordered, groups[i])
			}
		}
		groups = ordered
	}
	coils := make([]CoilPlace, len(groups))
	for i, g := range groups {
		coils[i] = CoilPlace{Letter(i), AtCoil(Letter(i)), g}
		if e.OwnCoils() {
			coils[i].Place = At(g[0])
		}
	}
	return coils
}

// OwnCoils reports whether each cylinder has its own coil at its place.
func (e Engine) OwnCoils() bool {
	return e.Ignition == CoilOnPlug || e.Ignition == CoilNearPlug || e.Ignition == Magneto
}

// coilGroups lists the cylinders of each coil, in the order of the lowest cylinder.
func (e Engine) coilGroups() [][]Cylinder {
	var groups [][]Cylinder
	switch {
	case e.OwnCoils():
		for _, c := range e.All() {
			groups = append(groups, []Cylinder{c})
		}
	case e.Ignition == WastedSpark:
		for _, c := range e.All() {
			if mate, ok := e.Companion(c); ok && c < mate {
				groups = append(groups, []Cylinder{c, mate})
			}
		}
	default:
		groups = append(groups, e.All())
	}
	return groups
}

// CoilOf returns the coil that fires a cylinder.
func (e Engine) CoilOf(c Cylinder) CoilPlace {
	for _, coil := range e.Coils() {
		if slices.Contains(coil.Cylinders, c) {
			return coil
		}
	}
	return CoilPlace{}
}

// Circuit returns the cylinders whose plugs are in series with that of c: both of a pair on
// wasted spark, otherwise c alone.
func (e Engine) Circuit(c Cylinder) Set {
	if mate, ok := e.Companion(c); ok && e.Ignition == WastedSpark {
		return SetOf(c, mate)
	}
	return SetOf(c)
}

// CapOrder lists the cylinders by tower around a distributor cap. It is the firing order in
// the rotor's sense of rotation, starting with cylinder 1.
func (e Engine) CapOrder() []Cylinder {
	if e.Ignition != Distributor {
		return nil
	}
	i := max(0, slices.Index(e.FiringOrder, 1))
	return append(slices.Clone(e.FiringOrder[i:]), e.FiringOrder[:i]...)
}

// Item is one component that can fail: a part at its place, or a site.
type Item struct {
	Kind  Kind
	Place Place
	// Feeds is the set of cylinders that depend on it.
	Feeds Set
	// Part is true if it has a tag and can be moved.
	Part bool
}

// Items lists every component that can fail: the ignition first, from the supply to the plug.
func (e Engine) Items() []Item {
	if e.derived != nil {
		return e.derived.items
	}
	var all []Item
	coils := e.Coils()
	for _, c := range slices.Concat(ignitions[e.Ignition].components, everyEngine) {
		if c.kind == Module && !e.Module || c.kind == Ground && e.Wires == 2 || c.kind == Injector && e.Fuel != Injected || c.kind == LeadOrder && e.Cylinders < 2 {
			continue
		}
		add := func(p Place, feeds Set) { all = append(all, Item{c.kind, p, feeds, c.part}) }
		switch c.each {
		case perCylinder:
			for _, cyl := range e.All() {
				add(At(cyl), SetOf(cyl))
			}
		case perCoil:
			for _, coil := range coils {
				add(coil.Place, SetOf(coil.Cylinders...))
			}
		case perBank:
			for b := 1; b <= e.Banks() && e.Banks() > 1; b++ {
				add(AtBank(b), e.BankSet(b))
			}
			if e.Cylinders > 1 {
				add(Whole, e.Everything())
			}
		case once:
			add(Whole, e.Everything())
		}
	}
	return all
}

// Series lists the components in series between the supply and the plug of a cylinder, in that
// order.
func (e Engine) Series(c Cylinder) []Item {
	var chain []Item
	for _, item := range e.Items() {
		if item.Feeds.Has(c) && ignitions[e.Ignition].has(item.Kind) {
			chain = append(chain, item)
		}
	}
	return chain
}

func (r ignitionRow) has(k Kind) bool {
	return slices.ContainsFunc(r.components, func(c component) bool { return c.kind == k })
}

// PartKinds lists the kinds of part that the layout has, from the supply to the
// plug.
func (e Engine) PartKinds() []Kind {
	var kinds []Kind
	for _, c := range ignitions[e.Ignition].components {
		if c.part {
			kinds = append(kinds, c.kind)
		}
	}
	return kinds
}

// Disturbs lists the sites that are disturbed when a part of a kind is handled at a place.
func (e Engine) Disturbs(k Kind, p Place) []Item {
	feeds, ok := e.Feeds(p)
	if !ok {
		return nil
	}
	var sites []Item
	for _, item := range e.Items() {
		if slices.Contains(ignitions[e.Ignition].disturbs[k], item.Kind) && item.Feeds&feeds != 0 {
			sites = append(sites, item)
		}
	}
	return sites
}

// WireRow states which tests are possible with a number of wires at a coil connector.
type WireRow struct {
	Wires int
	Words string
	// Primary is true if the primary winding can be measured with an ohmmeter.
	Primary bool
	Tests   []string
}

// WireRows lists the usual coil connectors (C). The number of wires is a hint and no proof,
// because one wire may be for feedback. The vehicle's record takes precedence.
var WireRows = []WireRow{
	{2, "feed and a primary wire that the control unit switches", true, []string{"feed, loaded and while cranking", "primary resistance", "trigger with a scope or logic probe: the primary kicks back to hundreds of volts, so no bare meter or test lamp into the driver"}},
	{3, "feed, ground and trigger, mostly with the igniter inside", false, []string{"feed, loaded and while cranking", "ground, as a voltage drop", "trigger pulse while cranking", "spark; the primary cannot be measured through the igniter"}},
	{4, "feed, ground, trigger and a feedback or second ground, mostly with the igniter inside", false, []string{"feed, loaded and while cranking", "ground, as a voltage drop", "trigger pulse while cranking", "spark; the primary cannot be measured through the igniter"}},
}

// checkIgnition checks the fields that depend on the layout. The firing order must be valid.
func (e Engine) checkIgnition() error {
	var bad invalid.Errors
	row := ignitions[e.Ignition]
	if row.cylinders > 0 && e.Cylinders > row.cylinders {
		most := "at most 2 cylinders"
		if row.cylinders == 1 {
			most = "one cylinder"
		}
		bad.Add("ignition", fmt.Sprintf("a layout for %d cylinders: %s serves %s", e.Cylinders, row.words, most), string(e.Ignition))
		return bad
	}
	if _, paired := e.Companion(1); e.Ignition == WastedSpark && !paired {
		bad.Add("ignition", fmt.Sprintf("a layout that needs no companions: with %d cylinders%s there are none for wasted spark", e.Cylinders, map[bool]string{true: " that fire unevenly"}[e.Uneven]), string(e.Ignition))
		return bad
	}
	if e.Wires != 0 && (e.Wires < 2 || e.Wires > 4) {
		bad.Add("wires", "2, 3 or 4 wires, or 0 for not known", fmt.Sprint(e.Wires))
	}
	if e.Module && e.Ignition != WastedSpark {
		bad.Add("module", "false: only wasted-spark coils stand on a separate module", "true")
	}
	switch e.Rotor {
	case "":
	case Clockwise, Anticlockwise:
		if e.Ignition != Distributor {
			bad.Add("rotor", "nothing: only a distributor has a rotor", string(e.Rotor))
		}
	default:
		bad.Add("rotor", "clockwise or anticlockwise, or nothing", invalid.Quote(string(e.Rotor)))
	}
	bad.Under("coil_order", e.checkCoilOrder())
	return bad.Err()
}

func (e Engine) checkCoilOrder() error {
	if len(e.CoilOrder) == 0 {
		return nil
	}
	groups := e.coilGroups()
	var taken Set
	for _, c := range e.CoilOrder {
		i := slices.IndexFunc(groups, func(g []Cylinder) bool { return slices.Contains(g, c) })
		if i < 0 || taken&SetOf(groups[i]...) != 0 {
			taken = 0
			break
		}
		taken |= SetOf(groups[i]...)
	}
	if taken == e.Everything() && len(e.CoilOrder) == len(groups) {
		return nil
	}
	var firsts, pairs []string
	for _, g := range groups {
		firsts = append(firsts, fmt.Sprint(int(g[0])))
		pairs = append(pairs, OrderString(g))
	}
	return invalid.Error{
		Expected: fmt.Sprintf("one cylinder of each of the %d coils (%s), in the order of their letters, such as %s", len(groups), strings.Join(pairs, ", "), strings.Join(firsts, "-")),
		Got:      invalid.Quote(OrderString(e.CoilOrder)),
	}
}
