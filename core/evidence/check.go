package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// TestID names a test, and ResultID one of its results.
type (
	TestID   string
	ResultID string
)

// The tests with a plain answer. Those with figures have views of their own.
const (
	Smoke        TestID = "smoke"
	FuelPressure TestID = "fuel-pressure"
	StopWireOff  TestID = "stop-wire-off"
	AirGapCheck  TestID = "air-gap"
	LeadRouting  TestID = "lead-routing"
	TimingLamp   TestID = "timing-lamp"
)

// Test is a test with a plain answer.
type Test struct {
	ID    TestID
	Words string
	// On is the kind of site that it asks about: an engine without it has no such
	// test.
	On engine.Kind
	// Anywhere says that the result belongs to a place: a cylinder, a bank or all.
	Anywhere bool
	Results  []Result
	Caution  string
}

// Result is one answer. The first of a test is that all is well.
type Result struct {
	ID    ResultID
	Words string
	Odd   bool
}

// Tests lists them (C).
var Tests = []Test{
	{Smoke, "Smoke into the intake", engine.AirLeak, true, []Result{{"tight", "tight everywhere", false}, {"leak", "smoke comes out", true}},
		"Engine off and cool; smoke keeps away from hot exhaust and flames; the machine's own pressure limit."},
	{FuelPressure, "Fuel pressure and volume", engine.FuelSupply, false, []Result{{"in-range", "in range and holds", false}, {"low", "low, or falls under load", true}},
		"Let the pressure off as the maker says; no flame or spark near; eyes protected; rags ready."},
	{StopWireOff, "Spark with the stop wire off the coil", engine.StopWire, false, []Result{{"still-none", "no better with it off", false}, {"sparks", "sparks well with it off, not with it on", true}},
		"The engine may start and cannot be stopped by the key then: plug out, grounded tester on, fuel off, hands off."},
	{AirGapCheck, "Air gap by feeler, both legs", engine.AirGap, false, []Result{{"right", "within the maker's range at both legs", false}, {"wide", "wide or uneven", true}},
		"Plug lead off before a hand goes near the flywheel or a blade."},
	{LeadRouting, "Leads against the firing order", engine.LeadOrder, false, []Result{{"right", "each lead goes where it belongs", false}, {"exchanged", "two leads were exchanged", true}},
		"Engine and ignition off; one lead at a time; write the tag before it comes off."},
	{TimingLamp, "Base timing with a lamp", engine.Timing, false, []Result{{"right", "as the maker says", false}, {"off", "off its mark, or wanders", true}},
		"Hands, hair and the lamp's leads clear of belts and fan."},
}

// FindTest is the test of an id.
func FindTest(id TestID) (Test, bool) {
	i := slices.IndexFunc(Tests, func(t Test) bool { return t.ID == id })
	if i < 0 {
		return Test{}, false
	}
	return Tests[i], true
}

// TestsOf lists the tests that an engine has something for.
func TestsOf(e engine.Engine) []Test {
	var can []Test
	for _, t := range Tests {
		if slices.ContainsFunc(e.Items(), func(i engine.Item) bool { return i.Kind == t.On }) {
			can = append(can, t)
		}
	}
	return can
}

// Result finds a result of the test.
func (t Test) Result(id ResultID) (Result, bool) {
	i := slices.IndexFunc(t.Results, func(r Result) bool { return r.ID == id })
	if i < 0 {
		return Result{}, false
	}
	return t.Results[i], true
}

func (c Check) check(eng engine.Engine) error {
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
	switch {
	case !known:
		bad.Add("place", "a place of this engine, such as cyl-1, bank-1 or engine", invalid.Quote(string(c.Place)))
	case c.Place != engine.Whole && (!can[i].Anywhere || !r.Odd):
		bad.Add("place", "engine: the answer is about all of it", string(c.Place))
	case c.Place != engine.Whole && !has(eng, can[i].On, c.Place):
		bad.Add("place", "a cylinder, a bank or the engine", string(c.Place))
	}
	return bad.Err()
}

// Words is the check in a short sentence.
func (c Check) Words() string {
	t, _ := FindTest(c.Test)
	r, _ := t.Result(c.Result)
	s := strings.ToLower(t.Words[:min(1, len(t.Words))]) + t.Words[min(1, len(t.Words)):] + ": " + r.Words
	if c.Place != engine.Whole {
		s += " at " + c.Place.String()
	}
	return s
}
