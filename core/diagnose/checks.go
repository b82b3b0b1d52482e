package diagnose

import (
	"math"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

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
func matches(modes []string, id string) bool {
	family, _, _ := strings.Cut(id, ".")
	return slices.Contains(modes, id) || slices.Contains(modes, family)
}

// checkedBy is what a test's answer says of a fault with the parts at some positions;
// more is a log ratio that goes with it, and odd how often the fault shows in it. when is the
// condition in which it was made.
func (a *Assessment) checkedBy(c evidence.Check, by tester, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (k likelihoodRow, more, odd float64, ok bool) {
	test, _ := evidence.FindTest(c.Test)
	if test.Of == evidence.OfItem && !a.bearsOn(test, c.Place, h, at) {
		return k, 0, 0, false
	}
	g, ok := a.gives(c, by, when, h, at)
	if !ok || matches(beyondEnd[by.from], h.Mode.ID) {
		return k, 0, 0, false
	}
	k = g.row()
	k.events = watchedIn[c.Test]
	if matches(everyEvent[c.Test], h.Mode.ID) {
		k.events = 0
	}
	if k.events > 0 || c.Test == evidence.Spark && a.FailsWhen != evidence.Load && a.FailsWhen != evidence.Snap {
		k.shop = a.comesAndGoes(when, h) // a tester's gap asks for as much as load does
	}
	if r, _ := test.Result(c.Result); test.Of == evidence.OfLeaks && r.Odd {
		more = math.Log(a.placed(c.Place, h) * float64(len(a.leaks)))
	}
	return k, more, 1 - g.mine[0], true
}

// gives is a test's answer as a fault gives it, with the parts at some positions; ok is false where its
// mode has no row.
func (a *Assessment) gives(c evidence.Check, by tester, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (g answerChances, ok bool) {
	mine, sound, levelled := a.chances(c.Test, inHeat(h.Mode.ID, when), h, at)
	if mine == nil {
		return g, false
	}
	test, _ := evidence.FindTest(c.Test)
	came := slices.IndexFunc(test.Results, func(r evidence.Result) bool { return r.ID == c.Result })
	g = answerChances{mine: mine, fits: make([]float64, len(mine))}
	if !levelled {
		g.turn = turned(c.Test, "", h.Mode.ID)
	}
	g.fits[came] = 1
	if by.from != "" {
		through := by.gap()
		for i := range g.fits {
			g.fits[i] = through[i][came]
		}
	}
	for i, p := range sound {
		g.sound += p * g.fits[i]
	}
	if t := g.turn; t != nil && by.from != "" { // the sparks that are not missing are as strong as ever
		for _, i := range []int{t.seldom, t.often} {
			g.fits[i] = mistaken
			if i == came {
				g.fits[i] = 1 - 3*mistaken
			}
		}
	}
	return g, true
}

// inHeat is the mode that a fault shows as in a test: a coil that is weak when it is hot shows by
// then what one shows that is weak under load.
func inHeat(mode string, when evidence.Condition) string {
	if mode == "coil.weak-hot" && when == evidence.Hot {
		return "coil.weak-load"
	}
	return mode
}

// chances are those of each answer of a test with a fault there that shows as a mode and without, or
// nil where the mode has no row. Kilovolts that are high or low on every cylinder alike are in line with
// the others: they are levelled.
func (a *Assessment) chances(test evidence.TestID, mode string, h *fault.Hypothesis, at part.Positions) (mine, sound []float64, levelled bool) {
	row := a.Beliefs.checks[test][mode]
	if row == nil {
		return nil, nil, false
	}
	mine, sound = row.Chance, a.Beliefs.checks[test][""].Chance
	if test == evidence.Kilovolts && a.Engine.Cylinders > 2 && h.Afflicted(at) == a.Engine.Everything() {
		level := 0.0
		for _, p := range sound[:kvJumps] {
			level += p
		}
		jumps := mine[kvJumps]
		mine = slices.Clone(sound)
		for i := range kvJumps {
			mine[i] *= (1 - jumps) / level
		}
		mine[kvJumps] = jumps
		return mine, sound, true
	}
	return mine, sound, false
}

// kvJumps is the answer of the kilovolts, in their order, that speaks of one cylinder by itself;
// those before it are told by comparison.
const kvJumps = 3

// checkRows is CheckRows by test and mode; "" is any other fault, and none.
var checkRows = func() map[evidence.TestID]map[string]*CheckRow {
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
			if of[mode.ID] == nil && matches(row.Modes, mode.ID) {
				of[mode.ID] = row
			}
		}
	}
	return m
}()

// watchedIn is how many firing events a test watches: a fault that misfires one time
// in a hundred is seldom caught in twenty (arithmetic; the numbers C). Tests of what
// stands still watch none.
var watchedIn = map[evidence.TestID]int{evidence.Spark: 20, evidence.Kilovolts: 30, evidence.TriggerPulse: 30, evidence.StopWireOff: 20, evidence.CrankSignal: 50,
	evidence.TriggerWatch: fiveMinutes, evidence.StopWireRun: fiveMinutes, evidence.Overlay: fiveMinutes}

// fiveMinutes is the firing events of a cylinder in five minutes of idling (arithmetic: 700 a
// minute, one in two revolutions).
const fiveMinutes = 1750

// everyEvent lists the faults that a test shows at every event, whether it misfires or not: a
// wide gap, a series resistance or a lean charge asks for more kilovolts each time, a thin one for fewer;
// and a tester's gap asks for more than an idling cylinder, so that what leaks or is weak falls
// short of it each time, where the plug is still served most times (physics; C).
var everyEvent = map[evidence.TestID][]string{
	evidence.Kilovolts: slices.Concat([]string{"plug.worn-gap", "plug.closed-gap", "plug.wrong", "plug.loose", "lead.high-resistance", "compression", "injector.clogged", "injector.electrical", "air"}, breaks),
	evidence.Spark:     slices.Concat([]string{"coil.secondary-open", "coil.weak-load"}, givesWay),
}

// Watching is how many firing events a test watches, 0 for what stands still, and the faults that it
// shows at every one.
func Watching(test evidence.TestID) (events int, every []string) {
	return watchedIn[test], everyEvent[test]
}

// inTheShop is the chance that a fault which fails in a condition of its own shows in
// the shop, at idle or cranking: in every test there, or in none (C; judgement).
const inTheShop = 0.6

// comesAndGoes says that a fault may not show at all in what is tested in a condition.
func (a *Assessment) comesAndGoes(when evidence.Condition, h *fault.Hypothesis) bool {
	return a.seenIn(when) < 1 && !conditionProfiles[h.Mode.ID].Alike
}

// seenIn is the chance that a fault shows at all in a test made in a condition: surely in that
// in which it fails, and at idle where that is not said.
func (a *Assessment) seenIn(when evidence.Condition) float64 {
	if a.FailsWhen == evidence.AnyCondition || a.FailsWhen == evidence.Idle || a.FailsWhen == when {
		return 1
	}
	return inTheShop
}

// bearsOn says whether a fault bears on the item of a test: a part that is tested
// must be the one at fault, and of what cannot be tested alone the cylinder must be
// one that the fault troubles.
func (a *Assessment) bearsOn(t evidence.Test, place engine.Place, h *fault.Hypothesis, at part.Positions) bool {
	if t.ID == evidence.CoilResistance || t.ID == evidence.LeadResistance {
		return h.Tag != "" && h.Tag == at.In(t.On, place)
	}
	feeds, _ := a.Engine.Feeds(place)
	return h.Afflicted(at)&feeds != 0
}

// How a leak's place is told (C; judgement): these are shares of all places, which
// are then brought to a sum of 1.
const (
	leakThere  = 0.85 // where it is
	leakAround = 0.12 // at places that overlap it, the rest farther off
)

// placed is the chance that a leak is told at a place, of all the places it could
// be told at.
func (a *Assessment) placed(at engine.Place, h *fault.Hypothesis) float64 {
	places := a.leaks
	of, _ := a.Engine.Feeds(h.Place)
	sum, mine := 0.0, 0.0
	weigh := func(i engine.Item) float64 {
		switch {
		case i.Place == h.Place:
			return leakThere
		case i.Feeds&of != 0:
			return leakAround / float64(len(places))
		}
		return (1 - leakThere - leakAround) / float64(len(places))
	}
	for _, i := range places {
		sum += weigh(i)
		if i.Place == at {
			mine = weigh(i)
		}
	}
	return mine / sum
}

// fedBy is the cylinders that depend on what is at fault, where it sits.
func fedBy(h fault.Hypothesis, e engine.Engine, at part.Positions) engine.Set {
	if h.Tag != "" {
		return engine.SetOf(at.Feeds(h.Tag)...)
	}
	feeds, _ := e.Feeds(h.Place)
	return feeds
}
