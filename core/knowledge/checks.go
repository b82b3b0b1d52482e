package knowledge

import (
	"slices"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// RowID names the row of a test.
func (c CheckRow) RowID() string {
	of := "other"
	if c.Modes != nil {
		of = strings.Join(c.Modes, "+")
	}
	return "test:" + string(c.Test) + "/" + of
}

// CheckRow states how a test with a plain answer turns out on what is at fault, or,
// with no modes, on what is not.
type CheckRow struct {
	Test evidence.TestID
	// Modes are the faults that the row is for, by their ids or the first part of
	// them; none is any other fault.
	Modes []string
	// Chance of each answer, in the order of the test's results. They sum to 1.
	Chance []float64
	Source string
}

// CheckRows is what is believed of the tests (C; judgement). For a test of one
// item a row holds where the fault bears on that item's cylinder or coil; of a
// fault elsewhere the test says what it says of a sound one. The first row that
// fits counts.
var CheckRows = []CheckRow{
	//                                       strong weak  comes none
	{evidence.Spark, []string{"coil.primary-open"}, []float64{.14, .02, .76, .08}, "C: a break mostly closes again"},
	{evidence.Spark, []string{"coil.primary-shorted", "coil.secondary-shorted", "coil.secondary-open"}, []float64{.03, .20, .17, .60}, "C: yellow and thin, or none over a gap that asks for much"},
	{evidence.Spark, []string{"coil.weak-hot"}, []float64{.84, .10, .04, .02}, "C: a good spark from cold does not clear a coil"},
	{evidence.Spark, []string{"coil.weak-load"}, []float64{.08, .27, .27, .38}, "C: a gap that asks for as much as load does finds it"},
	{evidence.Spark, []string{"coil.cracked"}, []float64{.06, .18, .26, .50}, "C: an open gap finds what an idling plug does not"},
	{evidence.Spark, []string{"connector", "module", "pickup"}, []float64{.24, .04, .62, .10}, "C: sparks missing among sound ones"},
	{evidence.Spark, []string{"feed", "ground"}, []float64{.17, .25, .36, .22}, "C: few volts, a weak spark"},
	{evidence.Spark, []string{"trigger", "driver"}, []float64{.20, .03, .60, .17}, "C"},
	{evidence.Spark, []string{"lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor.worn", "cap.tower-burnt"}, []float64{.64, .18, .10, .08}, "C: it jumps the break as well"},
	{evidence.Spark, []string{"lead.leaking", "coil-lead.leaking", "boot", "well", "cap", "rotor"}, []float64{.06, .18, .26, .50}, "C: an open gap finds a leak that an idling plug does not"},
	{evidence.Spark, []string{"seat"}, []float64{.36, .10, .14, .40}, "C: what is put on a tester is pushed home by it, a coil that stands off is not"},
	{evidence.Spark, []string{"stop-wire"}, []float64{.10, .10, .30, .50}, "C"},
	{evidence.Spark, []string{"air-gap"}, []float64{.20, .50, .10, .20}, "C"},
	{evidence.Spark, nil, []float64{.982, .010, .004, .004}, "C: what is there is seen; a thin one is taken for weak now and then"},

	//                                          in line high low jumps
	{evidence.Kilovolts, []string{"plug.worn-gap"}, []float64{.02, .94, .01, .03}, "C: one high, steady"},
	{evidence.Kilovolts, []string{"plug.closed-gap"}, []float64{.03, .01, .94, .02}, "C: one low, steady"},
	{evidence.Kilovolts, []string{"plug.wrong"}, []float64{.37, .42, .15, .06}, "C"},
	{evidence.Kilovolts, []string{"plug.loose"}, []float64{.10, .02, .85, .03}, "C: less charge, as where compression is lost"},
	{evidence.Kilovolts, []string{"lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor.worn", "cap.tower-burnt"}, []float64{.02, .93, .01, .04}, "C: a gap in series"},
	{evidence.Kilovolts, []string{"seat"}, []float64{.38, .08, .42, .12}, "C: a gap in series, or it flashes over to the well"},
	{evidence.Kilovolts, []string{"plug.cracked", "boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well", "coil.cracked"}, []float64{.42, .02, .44, .12}, "C: where it misfires, a path that should not be there breaks down before the gap does; the others it leaves alone"},
	{evidence.Kilovolts, []string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, []float64{.22, .02, .72, .04}, "C: one low, steady"},
	{evidence.Kilovolts, []string{"coil.weak-hot", "coil.weak-load"}, []float64{.85, .03, .07, .05}, "C: enough at idle"},
	{evidence.Kilovolts, []string{"coil.primary-open", "connector", "module", "trigger", "driver", "pickup", "stop-wire"}, []float64{.18, .02, .06, .74}, "C: whole sparks missing among sound ones"},
	{evidence.Kilovolts, []string{"feed", "ground", "air-gap"}, []float64{.42, .04, .18, .36}, "C: fewer volts, or none"},
	{evidence.Kilovolts, []string{"coil"}, []float64{.39, .03, .52, .06}, "C: what it still gives is low, and steady"},
	{evidence.Kilovolts, []string{"compression"}, []float64{.04, .01, .93, .02}, "C: little charge needs little"},
	{evidence.Kilovolts, []string{"injector.leaking"}, []float64{.86, .03, .08, .03}, "C: rich needs less"},
	{evidence.Kilovolts, []string{"injector", "air", "fuel"}, []float64{.46, .46, .02, .06}, "C: lean needs more"},
	{evidence.Kilovolts, nil, []float64{.90, .04, .03, .03}, "C: secondary side good in this condition"},

	{evidence.CoilResistance, []string{"coil.primary-open"}, []float64{.60, .37, .03}, "C: many open only when warm"},
	{evidence.CoilResistance, []string{"coil.secondary-open"}, []float64{.04, .94, .02}, "C"},
	{evidence.CoilResistance, []string{"coil.primary-shorted", "coil.secondary-shorted"}, []float64{.20, .02, .78}, "C: a few turns hide in the tolerance"},
	{evidence.CoilResistance, []string{"coil.weak-load"}, []float64{.96, .02, .02}, "C: what it lacks no meter sees"},
	{evidence.CoilResistance, []string{"coil"}, []float64{.96, .02, .02}, "C: insulation fails at 20 kV, not at the meter's volt"},
	{evidence.CoilResistance, nil, []float64{.96, .02, .02}, "C"},
	{evidence.LeadResistance, []string{"lead.open", "lead.high-resistance"}, []float64{.03, .97}, "C: a fail is strong"},
	{evidence.LeadResistance, []string{"lead.leaking"}, []float64{.93, .07}, "C: a pass is weak: its core is sound"},
	{evidence.LeadResistance, nil, []float64{.96, .04}, "C"},
	//                                           there feed ground comes missing
	{evidence.TriggerPulse, []string{"feed"}, []float64{.05, .89, .02, .03, .01}, "C: loaded, a poor feed shows"},
	{evidence.TriggerPulse, []string{"ground"}, []float64{.06, .02, .88, .03, .01}, "C: as a voltage drop"},
	{evidence.TriggerPulse, []string{"trigger", "driver"}, []float64{.14, .01, .01, .66, .18}, "C"},
	{evidence.TriggerPulse, []string{"pickup"}, []float64{.24, .01, .01, .54, .20}, "C"},
	{evidence.TriggerPulse, nil, []float64{.982, .004, .004, .006, .004}, "C: a probe that slips"},
	//                                         there missing wire unit signal quiet
	{evidence.TriggerWatch, []string{"trigger"}, []float64{.05, .10, .73, .06, .02, .04}, "C: where the trigger fails there is no spark, and the probe is on it when it does"},
	{evidence.TriggerWatch, []string{"driver"}, []float64{.05, .10, .06, .72, .03, .04}, "C: what does not leave the unit is not lost in the wire"},
	{evidence.TriggerWatch, []string{"pickup"}, []float64{.05, .05, .02, .06, .78, .04}, "C: a third channel on the signal that the driver goes by"},
	{evidence.TriggerWatch, nil, []float64{.95, .004, .002, .002, .002, .04}, "C: a probe that slips does so between misfires as well"},
	//                                     same feed ground trigger
	{evidence.Overlay, []string{"feed"}, []float64{.05, .90, .03, .02}, "C: what is starved by its wire runs on a better one"},
	{evidence.Overlay, []string{"ground"}, []float64{.05, .03, .90, .02}, "C: likewise"},
	{evidence.Overlay, []string{"trigger"}, []float64{.06, .02, .02, .90}, "C: likewise"},
	{evidence.Overlay, []string{"connector", "module"}, []float64{.90, .04, .03, .03}, "C: what is clipped on beside a contact moves it a little"},
	{evidence.Overlay, nil, []float64{.89, .08, .02, .01}, "C: one in ten slight misfires pauses of itself for five minutes, and the feed is mostly laid first"},
	{evidence.WireTest, []string{"trigger"}, []float64{.13, .87}, "C: some breaks close when the wire lies still"},
	{evidence.WireTest, []string{"connector"}, []float64{.92, .08}, "C: the pin is part of the way, and mostly sound when it lies still"},
	{evidence.WireTest, nil, []float64{.97, .03}, "C"},
	{evidence.InjectorTest, []string{"injector"}, []float64{.06, .94}, "C"},
	{evidence.InjectorTest, nil, []float64{.95, .05}, "C"},
	{evidence.CompressionTest, []string{"compression"}, []float64{.03, .97}, "C"},
	{evidence.CompressionTest, []string{"plug.loose"}, []float64{.10, .90}, "C: it goes out past the plug"},
	{evidence.CompressionTest, nil, []float64{.96, .04}, "C"},

	{evidence.InjectorExchange, []string{"injector"}, []float64{.06, .94}, "C"},
	{evidence.InjectorExchange, nil, []float64{.97, .03}, "C"},
	{evidence.Wiggle, []string{"connector"}, []float64{.25, .75}, "C"},
	{evidence.Wiggle, []string{"module", "feed", "ground", "trigger"}, []float64{.82, .18}, "C"},
	{evidence.Wiggle, []string{"seat"}, []float64{.95, .05}, "C: the coil moves a little with its connector"},
	{evidence.Wiggle, nil, []float64{.97, .03}, "C"},
	//                                       tight valve rings gasket
	{evidence.LeakDown, []string{"compression.valve"}, []float64{.03, .88, .05, .04}, "C: heard at intake or exhaust"},
	{evidence.LeakDown, []string{"compression.rings"}, []float64{.03, .05, .88, .04}, "C: heard at the filler"},
	{evidence.LeakDown, []string{"compression.gasket"}, []float64{.03, .06, .04, .87}, "C: bubbles, or the neighbour's plug hole"},
	{evidence.LeakDown, nil, []float64{.96, .015, .015, .01}, "C"},
	{evidence.CrankSignal, []string{"pickup"}, []float64{.12, .88}, "C"},
	{evidence.CrankSignal, nil, []float64{.97, .03}, "C"},

	{evidence.Smoke, []string{"air"}, []float64{.12, .88}, "C: finds most leaks on the intake side"},
	{evidence.Smoke, nil, []float64{.97, .03}, "C"},
	{evidence.FuelPressure, []string{"fuel"}, []float64{.06, .94}, "C: a pump can hold pressure and lack volume"},
	{evidence.FuelPressure, nil, []float64{.97, .03}, "C"},
	{evidence.StopWireOff, []string{"stop-wire"}, []float64{.05, .95}, "C"},
	{evidence.StopWireOff, nil, []float64{.98, .02}, "C"},
	{evidence.StopWireRun, []string{"stop-wire"}, []float64{.06, .94}, "C"},
	{evidence.StopWireRun, nil, []float64{.90, .10}, "C: a slight misfire pauses of itself, or something was touched"},
	{evidence.AirGapCheck, []string{"air-gap"}, []float64{.08, .92}, "C"},
	{evidence.AirGapCheck, nil, []float64{.96, .04}, "C"},
	{evidence.LeadRouting, []string{"lead-order"}, []float64{.05, .95}, "C: counted off against the firing order"},
	{evidence.LeadRouting, nil, []float64{.975, .025}, "C: one can miscount"},
	{evidence.TimingLamp, []string{"timing"}, []float64{.08, .92}, "C"},
	{evidence.TimingLamp, nil, []float64{.96, .04}, "C"},
}

// matches says whether a mode is among some ids or first parts of them.
func Matches(modes []string, id string) bool {
	family, _, _ := strings.Cut(id, ".")
	return slices.Contains(modes, id) || slices.Contains(modes, family)
}

// kvJumps is the answer of the kilovolts, in their order, that speaks of one cylinder by itself;
// those before it are told by comparison.
const KVJumps = 3

// checkRows is CheckRows by test and mode; "" is any other fault, and none.
var TestRows = func() map[evidence.TestID]map[string]*CheckRow {
	m := map[evidence.TestID]map[string]*CheckRow{}
	for i := range CheckRows {
		row := &CheckRows[i]
		if m[row.Test] == nil {
			m[row.Test] = map[string]*CheckRow{}
		}
		of := m[row.Test]
		if row.Modes == nil {
			of[""] = row
		}
		for _, mode := range fault.Catalogue {
			if of[mode.ID] == nil && Matches(row.Modes, mode.ID) {
				of[mode.ID] = row
			}
		}
	}
	return m
}()

// watchedIn is how many firing events a test watches: a fault that misfires one time
// in a hundred is seldom caught in twenty (arithmetic; the numbers C). Tests of what
// stands still watch none.
var WatchedIn = map[evidence.TestID]int{evidence.Spark: 20, evidence.Kilovolts: 30, evidence.TriggerPulse: 30, evidence.StopWireOff: 20, evidence.CrankSignal: 50,
	evidence.TriggerWatch: fiveMinutes, evidence.StopWireRun: fiveMinutes, evidence.Overlay: fiveMinutes}

// fiveMinutes is the firing events of a cylinder in five minutes of idling (arithmetic: 700 a
// minute, one in two revolutions).
const fiveMinutes = 1750

// everyEvent lists the faults that a test shows at every event, whether it misfires or not: a
// wide gap, a series resistance or a lean charge asks for more kilovolts each time, a thin one for fewer;
// and a tester's gap asks for more than an idling cylinder, so that what leaks or is weak falls
// short of it each time, where the plug is still served most times (physics; C).
var EveryEvent = map[evidence.TestID][]string{
	evidence.Kilovolts: slices.Concat([]string{"plug.worn-gap", "plug.closed-gap", "plug.wrong", "plug.loose", "lead.high-resistance", "compression", "injector.clogged", "injector.electrical", "air"}, Breaks),
	evidence.Spark:     slices.Concat([]string{"coil.secondary-open", "coil.weak-load"}, givesWay),
}

// Watching is how many firing events a test watches, 0 for what stands still, and the faults that it
// shows at every one.
func Watching(test evidence.TestID) (events int, every []string) {
	return WatchedIn[test], EveryEvent[test]
}

// How a leak's place is told (C; judgement): these are shares of all places, which
// are then brought to a sum of 1.
const (
	LeakThere  = 0.85 // where it is
	LeakAround = 0.12 // at places that overlap it, the rest farther off
)
