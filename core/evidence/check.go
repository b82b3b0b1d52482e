package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

type (
	// TestID identifies a test.
	TestID string
	// ResultID identifies a result of a test.
	ResultID string
)

// The tests with a plain answer. Tests with figures have views of their own.
const (
	Smoke        TestID = "smoke"
	FuelPressure TestID = "fuel-pressure"
	StopWireOff  TestID = "stop-wire-off"
	AirGapCheck  TestID = "air-gap"
	LeadRouting  TestID = "lead-routing"
	TimingLamp   TestID = "timing-lamp"

	Spark           TestID = "spark"
	CoilResistance  TestID = "coil-resistance"
	LeadResistance  TestID = "lead-resistance"
	Kilovolts       TestID = "kilovolts"
	TriggerPulse    TestID = "trigger-pulse"
	InjectorTest    TestID = "injector"
	CompressionTest TestID = "compression"

	InjectorExchange TestID = "injector-exchange"
	LeakDown         TestID = "leak-down"
	CrankSignal      TestID = "crank-signal"
	Wiggle           TestID = "wiggle"
	WireTest         TestID = "trigger-wire"
	TriggerWatch     TestID = "trigger-watch"
	StopWireRun      TestID = "stop-wire-run"
	Overlay          TestID = "overlay"
)

// Scope names the object of a test.
type Scope string

// The scopes.
const (
	OfEngine Scope = "engine" // one answer for the whole engine
	OfLeaks  Scope = "leaks"  // one answer, and the place of a leak that was found
	OfItem   Scope = "item"   // one item at its place
)

// Test is a test with a plain answer.
type Test struct {
	ID    TestID
	Words string
	// Short is the label of a button.
	Short string
	// On is the kind of site or part that is tested. An engine without it does not offer the
	// test.
	On engine.Kind
	Of Scope
	// Results lists the answers. The first is the normal one.
	Results []Result
	Caution string
}

// Result is one answer of a test.
type Result struct {
	ID       ResultID
	Words    string
	Abnormal bool
}

const openSpark = "Fuel off, no vapour about; tester grounded with a lead, hands off; with a pacemaker, stay away. Never an open output."

// Tests lists the tests (C).
var Tests = []Test{
	{Spark, "Spark at the plug's end, with a tester", "spark", engine.Plug, OfItem, []Result{{"strong", "strong and steady", false}, {"weak", "weak or yellow", true}, {"intermittent", "comes and goes", true}, {"none", "none", true}}, openSpark},
	{Kilovolts, "Secondary kilovolts against the others", "kilovolts", engine.Plug, OfItem, []Result{{"in-line", "steady, in line with the others", false}, {"high", "high, steady", true}, {"low", "low, steady", true}, {"jumping", "jumps from event to event", true}, {"missing", "some near nothing: sparks missing", true}},
		"Clamp and lead clear of belts and hot exhaust; tens of kV: with a pacemaker, stay away."},
	{CoilResistance, "Resistance of the coil against the others", "coil ohms", engine.Coil, OfItem, []Result{{"in-line", "in line with the others", false}, {"open", "open, or far too high", true}, {"low", "far too low: shorted turns", true}},
		"Ignition off, connector off. Through an igniter or a diode inside the coil nothing can be measured."},
	{LeadResistance, "Resistance of the lead against the others", "lead ohms", engine.Lead, OfItem, []Result{{"in-line", "in line with the others", false}, {"open", "open, far too high, or jumps when wiggled", true}}, "Ignition off; pull it by its boot."},
	{TriggerPulse, "Feed under load, ground and trigger at the coil's connector", "feed and trigger", engine.Trigger, OfItem, []Result{{"there", "all there, steady", false}, {"feed", "feed low or gone under load", true}, {"ground", "ground drops too much", true}, {"intermittent", "trigger comes and goes", true}, {"missing", "trigger missing", true}},
		"Scope or logic probe only: the primary kicks back to hundreds of volts. Cranking: hands clear, out of gear."},
	{InjectorTest, "Injector: resistance, sound, exchange or balance", "injector", engine.Injector, OfItem, []Result{{"in-line", "like the others", false}, {"odd", "unlike the others", true}}, "Fuel pressure let off before a rail is opened; eyes protected; no flame or spark near."},
	{CompressionTest, "Relative compression, by starter current or gauge", "compression", engine.Compression, OfItem, []Result{{"in-line", "like the others", false}, {"low", "low", true}}, "Fuel and ignition off while cranking; out of gear; hands clear of belts and fan."},

	{InjectorExchange, "Injector exchanged with another cylinder's", "injector swap", engine.Injector, OfItem, []Result{{"stayed", "the misfire stayed", false}, {"followed", "the misfire went with it", true}}, "Fuel pressure let off before a rail is opened; new seals; eyes protected; no flame or spark near."},
	{Wiggle, "Connector and wires wiggled while it runs", "wiggle", engine.Connector, OfItem, []Result{{"steady", "no change", false}, {"changes", "the misfire comes or goes", true}}, "Engine running: hands, hair and leads clear of belts, fan and hot exhaust; by the body, with an insulated tool."},
	{WireTest, "Trigger wire from the control unit to the coil, end to end", "wire", engine.Trigger, OfItem, []Result{{"sound", "sound: continuous, to nothing else, also when bent", false}, {"bad", "open, shorted, or changes when bent", true}}, "Ignition off, both ends unplugged; the maker's diagram; no probe pushed into a terminal."},
	{TriggerWatch, "Trigger watched while it runs, until it misfires", "trigger, running", engine.Trigger, OfItem, []Result{{"there", "there at every misfire", false}, {"missing", "missing at the coil as it misfires", true}, {"wire", "missing at the coil, there at the control unit", true}, {"unit", "missing at the control unit’s end as well", true}, {"signal", "missing, and the crank or pickup signal with it", true}, {"quiet", "it did not misfire meanwhile", false}},
		"Scope or logic probe only: the primary kicks back to hundreds of volts. Engine running: hands, hair and leads clear of belts, fan and hot exhaust."},
	{Overlay, "Feed, ground and trigger on wires of their own, in turn, while it runs", "overlay wires", engine.Trigger, OfItem, []Result{{"same", "no difference with any of them", false}, {"feed", "runs clean with a feed of its own", true}, {"ground", "runs clean with a ground of its own", true}, {"trigger", "runs clean with a trigger wire of its own", true}},
		"Leads with a fuse as the circuit has, and no other circuit touched; never near an airbag’s wires. Engine running: hands and leads clear of belts, fan and hot exhaust."},
	{LeakDown, "Leak-down, piston at the top of compression", "leak-down", engine.Compression, OfItem, []Result{{"tight", "like the others", false}, {"valve", "out at intake or exhaust", true}, {"rings", "out at the crankcase", true}, {"gasket", "out at the neighbour or the coolant", true}}, "Air turns the engine: in gear or held, hands and tools clear of belts and fan; eyes protected."},
	{CrankSignal, "Crank or pickup signal while cranking", "crank signal", engine.Pickup, OfEngine, []Result{{"strong", "strong and even", false}, {"weak", "weak, missing teeth or dropping out", true}}, "Out of gear, hands clear of belts and fan while cranking."},

	{Smoke, "Smoke into the intake", "smoke", engine.AirLeak, OfLeaks, []Result{{"tight", "tight everywhere", false}, {"leak", "smoke comes out", true}},
		"Engine off and cool; smoke keeps away from hot exhaust and flames; the machine's own pressure limit."},
	{FuelPressure, "Fuel pressure and volume", "fuel", engine.FuelSupply, OfEngine, []Result{{"in-range", "in range and holds", false}, {"low", "low, or falls under load", true}},
		"Let the pressure off as the maker says; no flame or spark near; eyes protected; rags ready."},
	{StopWireOff, "Spark with the stop wire off the coil", "stop wire", engine.StopWire, OfEngine, []Result{{"still-none", "no better with it off", false}, {"sparks", "sparks well with it off, not with it on", true}},
		"The engine may start and cannot be stopped by the key then: plug out, grounded tester on, fuel off, hands off."},
	{StopWireRun, "Engine run with the stop wire off, and on again", "stop wire, running", engine.StopWire, OfEngine, []Result{{"still", "misfires with it off as well", false}, {"clean", "runs clean with it off, misfires with it on", true}},
		"The engine cannot be stopped by the key then: have a sure way to stop it, as the maker says, before it is started; hands clear of blade, belts and fan."},
	{AirGapCheck, "Air gap by feeler, both legs", "air gap", engine.AirGap, OfEngine, []Result{{"right", "within the maker's range at both legs", false}, {"wide", "wide or uneven", true}},
		"Plug lead off before a hand goes near the flywheel or a blade."},
	{LeadRouting, "Leads against the firing order", "routing", engine.LeadOrder, OfEngine, []Result{{"right", "each lead goes where it belongs", false}, {"exchanged", "two leads were exchanged", true}},
		"Engine and ignition off; one lead at a time; write the tag before it comes off."},
	{TimingLamp, "Base timing with a lamp", "timing", engine.Timing, OfEngine, []Result{{"right", "as the maker says", false}, {"off", "off its mark, or wanders", true}},
		"Hands, hair and the lamp's leads clear of belts and fan."},
}

// Places lists the places where a test can be made, or where it can find something.
func (t Test) Places(e engine.Engine) []engine.Place {
	if t.Of == OfEngine {
		return []engine.Place{engine.Whole}
	}
	var places []engine.Place
	for _, item := range e.Items() {
		if item.Kind == t.On {
			places = append(places, item.Place)
		}
	}
	return places
}

// FindTest finds a test by its id.
func FindTest(id TestID) (Test, bool) {
	i := slices.IndexFunc(Tests, func(t Test) bool { return t.ID == id })
	if i < 0 {
		return Test{}, false
	}
	return Tests[i], true
}

// TestsOf lists the tests that apply to an engine.
func TestsOf(e engine.Engine) []Test {
	var can []Test
	items := e.Items()
	for _, t := range Tests {
		if slices.ContainsFunc(items, func(i engine.Item) bool { return i.Kind == t.On }) {
			can = append(can, t)
		}
	}
	return can
}

// Result finds a result of the test by its id.
func (t Test) Result(id ResultID) (Result, bool) {
	i := slices.IndexFunc(t.Results, func(r Result) bool { return r.ID == id })
	if i < 0 {
		return Result{}, false
	}
	return t.Results[i], true
}

// Check is the result of one of [Tests], about the whole engine, a bank or a cylinder.
type Check struct {
	Test TestID `json:"test"`
	// Place is where the result was found, or the whole engine.
	Place  engine.Place `json:"place"`
	Result ResultID     `json:"result"`
}

// KindCheck is the kind of a [Check].
const KindCheck Kind = "check"

func init() { register(KindCheck, func() Body { return new(Check) }) }

// Check returns the body of the entry, or nil if it is of another kind.
func (e Entry) Check() *Check { return body[Check](e) }

// Kind returns KindCheck.
func (Check) Kind() Kind { return KindCheck }

// Sentence returns the result in a short sentence.
func (c Check) Sentence() string { return c.Words() }

func (c Check) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	can := TestsOf(eng)
	i := slices.IndexFunc(can, func(t Test) bool { return t.ID == c.Test })
	if i < 0 {
		var ids []string
		for _, t := range can {
			ids = append(ids, string(t.ID))
		}
		bad.Add("test", "a test that this engine has something for: "+strings.Join(ids, ", "), invalid.Quote(string(c.Test)))
		return bad
	}
	r, ok := can[i].Result(c.Result)
	if !ok {
		bad.Add("result", fmt.Sprintf("%s or %s", can[i].Results[0].ID, can[i].Results[1].ID), invalid.Quote(string(c.Result)))
	}
	_, known := eng.Feeds(c.Place)
	there := slices.Contains(can[i].Places(eng), c.Place)
	switch {
	case !known:
		bad.Add("place", "a place of this engine, such as cyl-1, coil-A, bank-1 or engine", invalid.Quote(string(c.Place)))
	case can[i].Of == OfEngine && c.Place != engine.Whole, can[i].Of == OfLeaks && !r.Abnormal && c.Place != engine.Whole:
		bad.Add("place", "engine: the answer is about all of it", string(c.Place))
	case can[i].Of == OfItem && !there:
		bad.Add("place", fmt.Sprintf("the place of the %s that was tested", can[i].On), string(c.Place))
	case can[i].Of == OfLeaks && c.Place != engine.Whole && !there:
		bad.Add("place", "a cylinder, a bank or the engine", string(c.Place))
	}
	return bad.Err()
}

// Words returns the check in a short sentence.
func (c Check) Words() string {
	t, _ := FindTest(c.Test)
	r, _ := t.Result(c.Result)
	s := unit.Lower(t.Words) + ": " + r.Words
	switch {
	case t.Of == OfItem && c.Place != engine.Whole:
		s = unit.Lower(t.Words) + ", " + c.Place.String() + ": " + r.Words
	case c.Place != engine.Whole:
		s += " at " + c.Place.String()
	}
	return s
}
