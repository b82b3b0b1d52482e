package knowledge

import (
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/unit"
)

// TestRow is the probability of each answer of a test if a fault of the given modes is present
// and shows. No modes means all other faults, and none. The first row of a test that covers a
// mode counts.
type TestRow struct {
	Test    evidence.TestID
	Modes   fault.Keys
	Answers Answers
	Source  string
}

// RowID returns the row id.
func (c TestRow) RowID() string { return "test:" + string(c.Test) + "/" + orOther(c.Modes) }

// testTable holds the probabilities by test and mode, in the order of the test's results; ""
// is any other fault, and none.
var testTable = Register(TableOf[TestRow, map[evidence.TestID]map[fault.ModeID][]float64]{
	Title: "Tests", In: OfTests, Ships: TestRows,
	Describe: func(r *TestRow) Row {
		t, _ := evidence.FindTest(r.Test)
		words := func(id evidence.ResultID) string { return answerWords(r.Test, id) }
		return Row{ID: r.RowID(), Of: t.Words + ", when " + whenAtFault(r.Modes), Says: r.Answers.says(words, 0), Source: r.Source, Figures: r.Answers.figures(words)}
	},
	Copy: func(r *TestRow) { copyChances(&r.Answers) },
	Index: func(rows []TestRow) map[evidence.TestID]map[fault.ModeID][]float64 {
		m := map[evidence.TestID]map[fault.ModeID][]float64{}
		for _, row := range rows {
			of := m[row.Test]
			if of == nil {
				of = map[fault.ModeID][]float64{}
				m[row.Test] = of
			}
			p := row.Answers.In(results(row.Test))
			if row.Modes == nil {
				of[""] = p
			}
			for _, mode := range fault.Catalogue {
				if of[mode.ID] == nil && row.Modes.Covers(mode.ID) {
					of[mode.ID] = p
				}
			}
		}
		return m
	},
})

// results returns the answers of a test in order.
func results(id evidence.TestID) []evidence.ResultID {
	t, _ := evidence.FindTest(id)
	all := make([]evidence.ResultID, len(t.Results))
	for i, r := range t.Results {
		all[i] = r.ID
	}
	return all
}

// Test returns the probability of each answer of a test, in the order of its results, for a
// mode, or nil if no row covers it; "" is any other fault, and none.
func (b *Beliefs) Test(id evidence.TestID, mode fault.ModeID) []float64 {
	return testTable.Of(b)[id][mode]
}

// States reports whether a row of a test covers a mode.
func (b *Beliefs) States(id evidence.TestID, mode fault.ModeID) bool { return b.Test(id, mode) != nil }

// KVJumps is the index of the first kilovolt answer that refers to one cylinder alone. The answers
// before it are comparisons with other cylinders.
var KVJumps = slices.Index(results(evidence.Kilovolts), evidence.Jumping)

// TestRows lists the tests with a plain answer (C; figures by judgement).
var TestRows = []TestRow{
	{evidence.Spark, fault.Keys{fault.CoilPrimaryOpen},
		Answers{{evidence.Strong, 0.14}, {evidence.Weak, 0.02}, {evidence.ComesAndGoes, 0.76}, {evidence.NoSpark, 0.08}},
		"C: a break mostly closes again"},
	{evidence.Spark, fault.Keys{fault.CoilPrimaryShorted, fault.CoilSecondaryShorted, fault.CoilSecondaryOpen},
		Answers{{evidence.Strong, 0.03}, {evidence.Weak, 0.2}, {evidence.ComesAndGoes, 0.17}, {evidence.NoSpark, 0.6}},
		"C: yellow and thin, or none over a gap that asks for much"},
	{evidence.Spark, fault.Keys{fault.CoilWeakHot},
		Answers{{evidence.Strong, 0.56}, {evidence.Weak, 0.2}, {evidence.ComesAndGoes, 0.12}, {evidence.NoSpark, 0.12}},
		"C: a good spark from cold does not clear a coil, and it is tested warm as often as cold"},
	{evidence.Spark, fault.Keys{fault.CoilWeakLoad},
		Answers{{evidence.Strong, 0.08}, {evidence.Weak, 0.27}, {evidence.ComesAndGoes, 0.27}, {evidence.NoSpark, 0.38}},
		"C: a gap that asks for as much as load does finds it"},
	{evidence.Spark, fault.Keys{fault.CoilCracked},
		Answers{{evidence.Strong, 0.06}, {evidence.Weak, 0.18}, {evidence.ComesAndGoes, 0.26}, {evidence.NoSpark, 0.5}},
		"C: an open gap finds what an idling plug does not"},
	{evidence.Spark, fault.Keys{fault.AnyConnector, fault.AnyModule, fault.AnyPickup},
		Answers{{evidence.Strong, 0.24}, {evidence.Weak, 0.04}, {evidence.ComesAndGoes, 0.62}, {evidence.NoSpark, 0.1}},
		"C: sparks missing among sound ones"},
	{evidence.Spark, fault.Keys{fault.AnyFeed, fault.AnyGround},
		Answers{{evidence.Strong, 0.17}, {evidence.Weak, 0.25}, {evidence.ComesAndGoes, 0.36}, {evidence.NoSpark, 0.22}},
		"C: few volts, a weak spark"},
	{evidence.Spark, fault.Keys{fault.AnyTrigger, fault.AnyDriver},
		Answers{{evidence.Strong, 0.2}, {evidence.Weak, 0.03}, {evidence.ComesAndGoes, 0.6}, {evidence.NoSpark, 0.17}}, "C"},
	{evidence.Spark, fault.Keys{fault.LeadOpen, fault.LeadHighResistance, fault.CoilLeadOpen, fault.BootSpring, fault.RotorWorn,
		fault.CapTowerBurnt},
		Answers{{evidence.Strong, 0.64}, {evidence.Weak, 0.18}, {evidence.ComesAndGoes, 0.1}, {evidence.NoSpark, 0.08}},
		"C: it jumps the break as well"},
	{evidence.Spark, fault.Keys{fault.LeadLeaking, fault.CoilLeadLeaking, fault.AnyBoot, fault.AnyWell, fault.AnyCap,
		fault.AnyRotor},
		Answers{{evidence.Strong, 0.06}, {evidence.Weak, 0.18}, {evidence.ComesAndGoes, 0.26}, {evidence.NoSpark, 0.5}},
		"C: an open gap finds a leak that an idling plug does not"},
	{evidence.Spark, fault.Keys{fault.AnySeat},
		Answers{{evidence.Strong, 0.36}, {evidence.Weak, 0.1}, {evidence.ComesAndGoes, 0.14}, {evidence.NoSpark, 0.4}},
		"C: what is put on a tester is pushed home by it, a coil that stands off is not"},
	{evidence.Spark, fault.Keys{fault.AnyStopWire},
		Answers{{evidence.Strong, 0.1}, {evidence.Weak, 0.1}, {evidence.ComesAndGoes, 0.3}, {evidence.NoSpark, 0.5}}, "C"},
	{evidence.Spark, fault.Keys{fault.AnyAirGap},
		Answers{{evidence.Strong, 0.2}, {evidence.Weak, 0.5}, {evidence.ComesAndGoes, 0.1}, {evidence.NoSpark, 0.2}}, "C"},
	{evidence.Spark, nil,
		Answers{{evidence.Strong, 0.982}, {evidence.Weak, 0.01}, {evidence.ComesAndGoes, 0.004}, {evidence.NoSpark, 0.004}},
		"C: what is there is seen; a thin one is taken for weak now and then"},

	{evidence.Kilovolts, fault.Keys{fault.PlugWornGap},
		Answers{{evidence.InLine, 0.02}, {evidence.High, 0.93}, {evidence.Low, 0.01}, {evidence.Jumping, 0.03}, {evidence.Missing, 0.01}},
		"C: one high, steady"},
	{evidence.Kilovolts, fault.Keys{fault.PlugClosedGap},
		Answers{{evidence.InLine, 0.03}, {evidence.High, 0.01}, {evidence.Low, 0.93}, {evidence.Jumping, 0.02}, {evidence.Missing, 0.01}},
		"C: one low, steady"},
	{evidence.Kilovolts, fault.Keys{fault.PlugWrong},
		Answers{{evidence.InLine, 0.37}, {evidence.High, 0.42}, {evidence.Low, 0.14}, {evidence.Jumping, 0.05}, {evidence.Missing, 0.02}},
		"C"},
	{evidence.Kilovolts, fault.Keys{fault.PlugLoose},
		Answers{{evidence.InLine, 0.1}, {evidence.High, 0.02}, {evidence.Low, 0.84}, {evidence.Jumping, 0.03}, {evidence.Missing, 0.01}},
		"C: less charge, as where compression is lost"},
	{evidence.Kilovolts, fault.Keys{fault.LeadOpen, fault.LeadHighResistance, fault.CoilLeadOpen, fault.BootSpring,
		fault.RotorWorn, fault.CapTowerBurnt},
		Answers{{evidence.InLine, 0.02}, {evidence.High, 0.9}, {evidence.Low, 0.01}, {evidence.Jumping, 0.05}, {evidence.Missing, 0.02}},
		"C: a gap in series; moved while it is read it jumps"},
	{evidence.Kilovolts, fault.Keys{fault.AnySeat},
		Answers{{evidence.InLine, 0.32}, {evidence.High, 0.08}, {evidence.Low, 0.34}, {evidence.Jumping, 0.24}, {evidence.Missing, 0.02}},
		"C: a gap in series, or it flashes over to the well, now here and now there"},
	{evidence.Kilovolts, fault.Keys{fault.PlugCracked, fault.AnyBoot, fault.LeadLeaking, fault.CoilLeadLeaking, fault.AnyCap,
		fault.AnyRotor, fault.AnyWell, fault.CoilCracked},
		Answers{{evidence.InLine, 0.32}, {evidence.High, 0.02}, {evidence.Low, 0.36}, {evidence.Jumping, 0.28}, {evidence.Missing, 0.02}},
		"C: a jump is mostly a path outside the chamber; a flash-over caps the peak; where it does not misfire the others are as ever"},
	{evidence.Kilovolts, fault.Keys{fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled},
		Answers{{evidence.InLine, 0.2}, {evidence.High, 0.02}, {evidence.Low, 0.7}, {evidence.Jumping, 0.05}, {evidence.Missing, 0.03}},
		"C: one low, steady"},
	{evidence.Kilovolts, fault.Keys{fault.CoilWeakHot, fault.CoilWeakLoad},
		Answers{{evidence.InLine, 0.84}, {evidence.High, 0.02}, {evidence.Low, 0.09}, {evidence.Jumping, 0.03}, {evidence.Missing, 0.02}},
		"C: enough at idle"},
	{evidence.Kilovolts, MissesSome,
		Answers{{evidence.InLine, 0.22}, {evidence.High, 0.02}, {evidence.Low, 0.05}, {evidence.Jumping, 0.05}, {evidence.Missing, 0.66}},
		"C: no primary current, no event: near nothing among sound ones, and no jump"},
	{evidence.Kilovolts, fault.Keys{fault.AnyFeed, fault.AnyGround, fault.AnyAirGap},
		Answers{{evidence.InLine, 0.42}, {evidence.High, 0.03}, {evidence.Low, 0.28}, {evidence.Jumping, 0.04}, {evidence.Missing, 0.23}},
		"C: fewer volts, or none"},
	{evidence.Kilovolts, fault.Keys{fault.AnyCoil},
		Answers{{evidence.InLine, 0.3}, {evidence.High, 0.03}, {evidence.Low, 0.55}, {evidence.Jumping, 0.07}, {evidence.Missing, 0.05}},
		"C: what it still gives is low, and steady"},
	{evidence.Kilovolts, fault.Keys{fault.AnyCompression},
		Answers{{evidence.InLine, 0.04}, {evidence.High, 0.01}, {evidence.Low, 0.92}, {evidence.Jumping, 0.02}, {evidence.Missing, 0.01}},
		"C: little charge needs little"},
	{evidence.Kilovolts, fault.Keys{fault.InjectorLeaking},
		Answers{{evidence.InLine, 0.84}, {evidence.High, 0.03}, {evidence.Low, 0.08}, {evidence.Jumping, 0.03}, {evidence.Missing, 0.02}},
		"C: rich needs less"},
	{evidence.Kilovolts, fault.Keys{fault.AnyInjector, fault.AnyAir, fault.AnyFuel},
		Answers{{evidence.InLine, 0.45}, {evidence.High, 0.46}, {evidence.Low, 0.02}, {evidence.Jumping, 0.06}, {evidence.Missing, 0.01}},
		"C: lean needs more; a turbulent charge jumps upwards"},
	{evidence.Kilovolts, nil,
		Answers{{evidence.InLine, 0.91}, {evidence.High, 0.035}, {evidence.Low, 0.033}, {evidence.Jumping, 0.02}, {evidence.Missing, 0.002}},
		"C: secondary side good in this condition"},

	{evidence.CoilResistance, fault.Keys{fault.CoilPrimaryOpen},
		Answers{{evidence.InLine, 0.6}, {evidence.OpenCircuit, 0.37}, {evidence.Low, 0.03}}, "C: many open only when warm"},
	{evidence.CoilResistance, fault.Keys{fault.CoilSecondaryOpen},
		Answers{{evidence.InLine, 0.04}, {evidence.OpenCircuit, 0.94}, {evidence.Low, 0.02}}, "C"},
	{evidence.CoilResistance, fault.Keys{fault.CoilPrimaryShorted, fault.CoilSecondaryShorted},
		Answers{{evidence.InLine, 0.2}, {evidence.OpenCircuit, 0.02}, {evidence.Low, 0.78}},
		"C: a few turns hide in the tolerance"},
	{evidence.CoilResistance, fault.Keys{fault.CoilWeakLoad},
		Answers{{evidence.InLine, 0.96}, {evidence.OpenCircuit, 0.02}, {evidence.Low, 0.02}}, "C: what it lacks no meter sees"},
	{evidence.CoilResistance, fault.Keys{fault.AnyCoil},
		Answers{{evidence.InLine, 0.96}, {evidence.OpenCircuit, 0.02}, {evidence.Low, 0.02}},
		"C: insulation fails at 20 kV, not at the meter's volt"},
	{evidence.CoilResistance, nil,
		Answers{{evidence.InLine, 0.96}, {evidence.OpenCircuit, 0.02}, {evidence.Low, 0.02}}, "C"},

	{evidence.LeadResistance, fault.Keys{fault.LeadOpen, fault.LeadHighResistance},
		Answers{{evidence.InLine, 0.03}, {evidence.OpenCircuit, 0.97}}, "C: a fail is strong"},
	{evidence.LeadResistance, fault.Keys{fault.LeadLeaking},
		Answers{{evidence.InLine, 0.93}, {evidence.OpenCircuit, 0.07}}, "C: a pass is weak: its core is sound"},
	{evidence.LeadResistance, nil,
		Answers{{evidence.InLine, 0.96}, {evidence.OpenCircuit, 0.04}}, "C"},

	{evidence.TriggerPulse, fault.Keys{fault.AnyFeed},
		Answers{{evidence.AllThere, 0.05}, {evidence.FeedLow, 0.89}, {evidence.GroundDrops, 0.02}, {evidence.ComesAndGoes, 0.03},
			{evidence.Missing, 0.01}}, "C: loaded, a poor feed shows"},
	{evidence.TriggerPulse, fault.Keys{fault.AnyGround},
		Answers{{evidence.AllThere, 0.06}, {evidence.FeedLow, 0.02}, {evidence.GroundDrops, 0.88}, {evidence.ComesAndGoes, 0.03},
			{evidence.Missing, 0.01}}, "C: as a voltage drop"},
	{evidence.TriggerPulse, fault.Keys{fault.AnyTrigger, fault.AnyDriver},
		Answers{{evidence.AllThere, 0.14}, {evidence.FeedLow, 0.01}, {evidence.GroundDrops, 0.01}, {evidence.ComesAndGoes, 0.66},
			{evidence.Missing, 0.18}}, "C"},
	{evidence.TriggerPulse, fault.Keys{fault.AnyPickup},
		Answers{{evidence.AllThere, 0.24}, {evidence.FeedLow, 0.01}, {evidence.GroundDrops, 0.01}, {evidence.ComesAndGoes, 0.54},
			{evidence.Missing, 0.2}}, "C"},
	{evidence.TriggerPulse, nil,
		Answers{{evidence.AllThere, 0.982}, {evidence.FeedLow, 0.004}, {evidence.GroundDrops, 0.004},
			{evidence.ComesAndGoes, 0.006}, {evidence.Missing, 0.004}}, "C: a probe that slips"},

	{evidence.TriggerWatch, fault.Keys{fault.AnyTrigger},
		Answers{{evidence.AllThere, 0.05}, {evidence.Missing, 0.1}, {evidence.LostInWire, 0.73}, {evidence.LostInUnit, 0.06},
			{evidence.LostWithSignal, 0.02}, {evidence.StayedQuiet, 0.04}},
		"C: where the trigger fails there is no spark, and the probe is on it when it does"},
	{evidence.TriggerWatch, fault.Keys{fault.AnyDriver},
		Answers{{evidence.AllThere, 0.05}, {evidence.Missing, 0.1}, {evidence.LostInWire, 0.06}, {evidence.LostInUnit, 0.72},
			{evidence.LostWithSignal, 0.03}, {evidence.StayedQuiet, 0.04}},
		"C: what does not leave the unit is not lost in the wire"},
	{evidence.TriggerWatch, fault.Keys{fault.AnyPickup},
		Answers{{evidence.AllThere, 0.05}, {evidence.Missing, 0.05}, {evidence.LostInWire, 0.02}, {evidence.LostInUnit, 0.06},
			{evidence.LostWithSignal, 0.78}, {evidence.StayedQuiet, 0.04}},
		"C: a third channel on the signal that the driver goes by"},
	{evidence.TriggerWatch, nil,
		Answers{{evidence.AllThere, 0.95}, {evidence.Missing, 0.004}, {evidence.LostInWire, 0.002}, {evidence.LostInUnit, 0.002},
			{evidence.LostWithSignal, 0.002}, {evidence.StayedQuiet, 0.04}},
		"C: a probe that slips does so between misfires as well"},

	{evidence.Overlay, fault.Keys{fault.AnyFeed},
		Answers{{evidence.NoDifference, 0.05}, {evidence.FeedLow, 0.9}, {evidence.GroundDrops, 0.03},
			{evidence.OwnTrigger, 0.02}}, "C: what is starved by its wire runs on a better one"},
	{evidence.Overlay, fault.Keys{fault.AnyGround},
		Answers{{evidence.NoDifference, 0.05}, {evidence.FeedLow, 0.03}, {evidence.GroundDrops, 0.9},
			{evidence.OwnTrigger, 0.02}}, "C: likewise"},
	{evidence.Overlay, fault.Keys{fault.AnyTrigger},
		Answers{{evidence.NoDifference, 0.06}, {evidence.FeedLow, 0.02}, {evidence.GroundDrops, 0.02},
			{evidence.OwnTrigger, 0.9}}, "C: likewise"},
	{evidence.Overlay, fault.Keys{fault.AnyConnector, fault.AnyModule},
		Answers{{evidence.NoDifference, 0.9}, {evidence.FeedLow, 0.04}, {evidence.GroundDrops, 0.03},
			{evidence.OwnTrigger, 0.03}}, "C: what is clipped on beside a contact moves it a little"},
	{evidence.Overlay, nil,
		Answers{{evidence.NoDifference, 0.89}, {evidence.FeedLow, 0.08}, {evidence.GroundDrops, 0.02},
			{evidence.OwnTrigger, 0.01}},
		"C: one in ten slight misfires pauses of itself for five minutes, and the feed is mostly laid first"},

	{evidence.WireTest, fault.Keys{fault.AnyTrigger},
		Answers{{evidence.TestsSound, 0.13}, {evidence.TestsBad, 0.87}}, "C: some breaks close when the wire lies still"},
	{evidence.WireTest, fault.Keys{fault.AnyConnector},
		Answers{{evidence.TestsSound, 0.92}, {evidence.TestsBad, 0.08}},
		"C: the pin is part of the way, and mostly sound when it lies still"},
	{evidence.WireTest, nil,
		Answers{{evidence.TestsSound, 0.97}, {evidence.TestsBad, 0.03}}, "C"},

	{evidence.InjectorTest, fault.Keys{fault.AnyInjector},
		Answers{{evidence.InLine, 0.06}, {evidence.UnlikeOthers, 0.94}}, "C"},
	{evidence.InjectorTest, nil,
		Answers{{evidence.InLine, 0.95}, {evidence.UnlikeOthers, 0.05}}, "C"},

	{evidence.CompressionTest, fault.Keys{fault.AnyCompression},
		Answers{{evidence.InLine, 0.03}, {evidence.Low, 0.97}}, "C"},
	{evidence.CompressionTest, fault.Keys{fault.PlugLoose},
		Answers{{evidence.InLine, 0.1}, {evidence.Low, 0.9}}, "C: it goes out past the plug"},
	{evidence.CompressionTest, nil,
		Answers{{evidence.InLine, 0.96}, {evidence.Low, 0.04}}, "C"},

	{evidence.InjectorExchange, fault.Keys{fault.AnyInjector},
		Answers{{evidence.Stayed, 0.06}, {evidence.WentWithIt, 0.94}}, "C"},
	{evidence.InjectorExchange, nil,
		Answers{{evidence.Stayed, 0.97}, {evidence.WentWithIt, 0.03}}, "C"},

	{evidence.Wiggle, fault.Keys{fault.AnyConnector},
		Answers{{evidence.NoChange, 0.25}, {evidence.Changes, 0.75}}, "C"},
	{evidence.Wiggle, fault.Keys{fault.AnyModule, fault.AnyFeed, fault.AnyGround, fault.AnyTrigger},
		Answers{{evidence.NoChange, 0.82}, {evidence.Changes, 0.18}}, "C"},
	{evidence.Wiggle, fault.Keys{fault.AnySeat},
		Answers{{evidence.NoChange, 0.95}, {evidence.Changes, 0.05}}, "C: the coil moves a little with its connector"},
	{evidence.Wiggle, nil,
		Answers{{evidence.NoChange, 0.97}, {evidence.Changes, 0.03}}, "C"},

	{evidence.LeakDown, fault.Keys{fault.CompressionValve},
		Answers{{evidence.Tight, 0.03}, {evidence.PastValve, 0.88}, {evidence.PastRings, 0.05}, {evidence.PastGasket, 0.04}},
		"C: heard at intake or exhaust"},
	{evidence.LeakDown, fault.Keys{fault.CompressionRings},
		Answers{{evidence.Tight, 0.03}, {evidence.PastValve, 0.05}, {evidence.PastRings, 0.88}, {evidence.PastGasket, 0.04}},
		"C: heard at the filler"},
	{evidence.LeakDown, fault.Keys{fault.CompressionGasket},
		Answers{{evidence.Tight, 0.03}, {evidence.PastValve, 0.06}, {evidence.PastRings, 0.04}, {evidence.PastGasket, 0.87}},
		"C: bubbles, or the neighbour's plug hole"},
	{evidence.LeakDown, nil,
		Answers{{evidence.Tight, 0.96}, {evidence.PastValve, 0.015}, {evidence.PastRings, 0.015}, {evidence.PastGasket, 0.01}},
		"C"},

	{evidence.CrankSignal, fault.Keys{fault.AnyPickup},
		Answers{{evidence.Strong, 0.12}, {evidence.Weak, 0.88}}, "C"},
	{evidence.CrankSignal, nil,
		Answers{{evidence.Strong, 0.97}, {evidence.Weak, 0.03}}, "C"},

	{evidence.Smoke, fault.Keys{fault.AnyAir},
		Answers{{evidence.Tight, 0.12}, {evidence.Leaks, 0.88}}, "C: finds most leaks on the intake side"},
	{evidence.Smoke, nil,
		Answers{{evidence.Tight, 0.97}, {evidence.Leaks, 0.03}}, "C"},

	{evidence.FuelPressure, fault.Keys{fault.AnyFuel},
		Answers{{evidence.InRange, 0.06}, {evidence.Low, 0.94}}, "C: a pump can hold pressure and lack volume"},
	{evidence.FuelPressure, nil,
		Answers{{evidence.InRange, 0.97}, {evidence.Low, 0.03}}, "C"},

	{evidence.StopWireOff, fault.Keys{fault.AnyStopWire},
		Answers{{evidence.StillNone, 0.05}, {evidence.SparksWithout, 0.95}}, "C"},
	{evidence.StopWireOff, fault.Keys{fault.AnyCoil, fault.AnyAirGap, fault.AnyTiming},
		Answers{{evidence.StillNone, 0.999}, {evidence.SparksWithout, 0.001}}, "C: what sparks well with the wire off has a coil, a gap and a flywheel key that make a spark; what is left is a slip"},
	{evidence.StopWireOff, nil,
		Answers{{evidence.StillNone, 0.985}, {evidence.SparksWithout, 0.015}}, "C: it sparks with the wire off and not with it on: a slip"},

	{evidence.StopWireRun, fault.Keys{fault.AnyStopWire},
		Answers{{evidence.StillMisfires, 0.06}, {evidence.CleanWithout, 0.94}}, "C"},
	{evidence.StopWireRun, nil,
		Answers{{evidence.StillMisfires, 0.9}, {evidence.CleanWithout, 0.1}},
		"C: a slight misfire pauses of itself, or something was touched"},

	{evidence.AirGapCheck, fault.Keys{fault.AnyAirGap},
		Answers{{evidence.AsItShould, 0.08}, {evidence.TooWide, 0.92}}, "C"},
	{evidence.AirGapCheck, nil,
		Answers{{evidence.AsItShould, 0.96}, {evidence.TooWide, 0.04}}, "C"},

	{evidence.LeadRouting, fault.Keys{fault.AnyLeadOrder},
		Answers{{evidence.AsItShould, 0.05}, {evidence.Exchanged, 0.95}}, "C: counted off against the firing order"},
	{evidence.LeadRouting, nil,
		Answers{{evidence.AsItShould, 0.975}, {evidence.Exchanged, 0.025}}, "C: one can miscount"},

	{evidence.TimingLamp, fault.Keys{fault.AnyTiming},
		Answers{{evidence.AsItShould, 0.08}, {evidence.OffItsMark, 0.92}}, "C"},
	{evidence.TimingLamp, nil,
		Answers{{evidence.AsItShould, 0.96}, {evidence.OffItsMark, 0.04}}, "C"},
}

// WatchedIn is the number of firing events that a test observes. A fault that misfires one
// time in a hundred is seldom seen in twenty events (arithmetic; the numbers C). Tests of
// components at rest observe none.
var WatchedIn = map[evidence.TestID]int{evidence.Spark: 20, evidence.Kilovolts: 30, evidence.TriggerPulse: 30, evidence.StopWireOff: 20, evidence.CrankSignal: 50,
	evidence.TriggerWatch: fiveMinutes, evidence.StopWireRun: fiveMinutes, evidence.Overlay: fiveMinutes}

// fiveMinutes is the number of firing events of a cylinder in five minutes at idle
// (arithmetic: 700 revolutions a minute, one event in two revolutions).
const fiveMinutes = 1750

// EveryEvent lists the faults that a test shows at every event, with or without misfire. A
// wide gap, a series resistance or a lean charge raises the voltage each time; a rich or thin
// charge lowers it. A tester's gap needs more than an idling cylinder, so leaking insulation
// and weak coils fall short of it each time (physics; C).
var EveryEvent = map[evidence.TestID]fault.Keys{
	evidence.Kilovolts: slices.Concat(fault.Keys{fault.PlugWornGap, fault.PlugClosedGap, fault.PlugWrong, fault.PlugLoose, fault.LeadHighResistance, fault.AnyCompression, fault.InjectorClogged, fault.InjectorElectrical, fault.AnyAir}, Breaks),
	evidence.Spark:     slices.Concat(fault.Keys{fault.CoilSecondaryOpen, fault.CoilWeakLoad}, givesWay),
}

// The probability of the reported place of a leak (C; judgement). The values are shares of all
// places and are scaled to a sum of 1.
const (
	LeakThere  = 0.85 // at the true place
	LeakAround = 0.12 // at places that overlap it; the rest farther away
)

// watching is the number of events that a test observes.
type watching struct {
	test   evidence.TestID
	events int
}

var _ = Register(TableOf[watching, struct{}]{
	Title: "What a test watches", In: OfTests, Ships: func() (all []watching) {
		for _, t := range evidence.Tests {
			if n := WatchedIn[t.ID]; n > 0 {
				all = append(all, watching{t.ID, n})
			}
		}
		return all
	}(),
	Describe: func(w *watching) Row {
		t, _ := evidence.FindTest(w.test)
		says := unit.Thousands(w.events) + " firing events: what misfires seldom shows in few of them"
		if every := EveryEvent[w.test]; every != nil {
			says += "; it shows every time, of " + modeWords(every)
		}
		return Row{Of: "What a test watches: " + t.Words, Says: says, Source: "C; judgement"}
	},
})
