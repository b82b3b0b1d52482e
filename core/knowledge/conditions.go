package knowledge

import (
	"slices"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// RowID names the row of a condition profile.
func (m ConditionProfile) RowID() string { return "manner:" + strings.Join(m.Modes, "+") }

// ConditionProfile states in which running conditions the faults of some modes show, as
// drivers report them. The chance of the driver's statement is evidence like any other.
type ConditionProfile struct {
	Modes []string
	// When is the share of each condition, in the order of [WhenOrder], among faults that fail
	// in one condition only. The shares sum to 1.
	When [5]float64
	// Always is the share reported as present in every condition: of slight faults (misfire
	// rate below 1 in 20), of those between, and of dead cylinders. Each is from 0 to 1.
	Always [3]float64
	// Alike is true for faults that show equally in every condition, whatever was reported.
	Alike  bool
	Source string
}

// FailingCondition is the condition in which a kind of fault fails most.
type FailingCondition struct {
	When evidence.Condition
	// Elsewhere is the fraction of such faults that also fail in every other condition, when
	// the driver stated none; from 0 to 1.
	Elsewhere float64
	Source    string
}

// FailingConditions lists them: first the faults that show equally in all, then by the largest
// share of [ConditionProfile].When.
var FailingConditions = []FailingCondition{
	{Always, 1, "C"},
	{evidence.Load, 0.45, "C: what kills every spark does so in every condition; judgement"},
	{evidence.Idle, 0.30, "C: likewise"},
	{evidence.Hot, 0.10, "C: what opens when it is hot is sound when it is not"},
}

// slightElsewhere is Elsewhere for slight faults that are reported as always present: nobody
// can tell when a slight misfire occurs (C; judgement).
const slightElsewhere = 0.2

// slight is the misfire rate below which a fault counts as slight, and dead the rate from
// which on the cylinder counts as dead; both are fractions of firing events.
var SlightRate, DeadRate = Bands[2], Bands[5]

// chanceItFails is the chance that a fault with this misfire rate fails in the condition of a
// run, given the condition that the driver stated.
func (h FailingCondition) ChanceItFails(said, run evidence.Condition, rate float64) float64 {
	open := said == evidence.AnyCondition || said == Always // it fails in what its kind does
	switch {
	case said == Always && rate >= SlightRate, run != evidence.AnyCondition && (run == said || open && run == h.When):
		return 1
	case said == Always:
		return slightElsewhere
	case open, run == evidence.AnyCondition:
		return h.Elsewhere
	}
	return 0
}

// failingCondition is the index into [FailingConditions] of the profile's condition, given the
// driver's statement. Once a condition was stated, a fault that fails in one condition only
// fails in that one.
func (m *ConditionProfile) FailingCondition(said evidence.Condition) int {
	if m.Alike {
		return 0
	}
	if said != evidence.AnyCondition && said != Always {
		return 1
	}
	most := slices.Index(m.When[:], slices.Max(m.When[:]))
	return slices.IndexFunc(FailingConditions, func(h FailingCondition) bool { return h.When == WhenOrder[most] })
}

// WhenOrder is the order of [ConditionProfile].When. On a snap throttle counts as under load.
var WhenOrder = [5]evidence.Condition{evidence.Idle, evidence.Load, evidence.Hot, evidence.Cold, evidence.Wet}

// ConditionProfiles lists the profiles; the first whose modes match counts (C; judgement).
var ConditionProfiles = []ConditionProfile{
	{[]string{"compression"}, [5]float64{.55, .08, .04, .29, .04}, [3]float64{.90, .90, .90}, true, "C: a charge that leaks is lost in every condition, most where it has time: idling, and cold"},
	{[]string{"lead-order", "plug.loose", "plug.closed-gap", "timing"}, [5]float64{.30, .40, .10, .15, .05}, [3]float64{.95, .95, .95}, true, "C: what is in the wrong place stays there"},
	{[]string{"coil.primary-open", "driver", "pickup"}, [5]float64{.20, .15, .50, .08, .07}, [3]float64{.93, .93, .93}, true, "C: a break misses whatever is asked, and is felt most at idle; heat opens some"},
	{[]string{"connector", "module", "trigger", "stop-wire"}, [5]float64{.34, .26, .15, .08, .17}, [3]float64{.94, .94, .94}, true, "C: a poor contact does not care what is asked of the spark, and is felt most at idle; shaking, heat and wet open some"},
	{[]string{"something.else"}, [5]float64{.25, .40, .15, .15, .05}, [3]float64{.88, .88, .88}, true, "C: nothing is known of it"},
	{[]string{"no-fault"}, [5]float64{.25, .40, .06, .17, .12}, [3]float64{.75, .75, .75}, false, "C: likewise, and no condition brings it back"},
	{[]string{"well.water"}, [5]float64{.04, .54, .02, .04, .36}, [3]float64{.50, .05, .35}, false, "C: water lets the spark down when more is asked of it, and when it rains"},
	{[]string{"plug.cracked"}, [5]float64{.03, .83, .01, .03, .10}, [3]float64{.50, .10, .52}, false, "C: a crack lets nearly every spark down where more is asked, and a wide one all of them; under its boot it stays dry"},
	{[]string{"seat"}, [5]float64{.03, .88, .01, .03, .05}, [3]float64{.50, .05, .66}, false, "C: it flashes to the wall of the well, or jumps a gap of its own, at every spark"},
	{[]string{"coil.cracked", "boot.tracked", "boot.torn", "boot.swollen", "lead.leaking", "coil-lead.leaking", "cap.tracked", "rotor.leaking", "well"},
		[5]float64{.03, .72, .02, .02, .21}, [3]float64{.50, .05, .45}, false, "C: insulation gives way where more is asked, or in the wet; what kills every spark does so in every condition"},
	{[]string{"coil.secondary-open"}, [5]float64{.04, .89, .04, .01, .02}, [3]float64{.50, .20, .80}, false, "C: the spark has to jump its break first, whatever is asked"},
	{[]string{"coil.primary-shorted", "coil.secondary-shorted"}, [5]float64{.04, .89, .05, .01, .01}, [3]float64{.50, .10, .55}, false, "C: what a coil lacks is missed where most is asked; a dead one is always dead"},
	{[]string{"coil.weak-load"}, [5]float64{.04, .91, .03, .01, .01}, [3]float64{.35, .05, .07}, false, "C: by its name"},
	{[]string{"coil.weak-hot"}, [5]float64{.02, .03, .93, .01, .01}, [3]float64{.40, .05, .05}, false, "C: by its name"},
	{[]string{"plug.worn-gap"}, [5]float64{.06, .905, .005, .02, .01}, [3]float64{.35, .03, .05}, false, "C: it asks for more than there is, and that under load, whether hot or not; what an idling engine asks for it still gets"},
	{[]string{"plug.wrong", "air-gap"}, [5]float64{.05, .915, .005, .02, .01}, [3]float64{.60, .05, .18}, false, "C: likewise; a wrong one may foul as well, and a weak magneto is weakest while it turns slowly"},
	{[]string{"lead.high-resistance"}, [5]float64{.04, .915, .005, .02, .02}, [3]float64{.80, .35, .05}, false, "C: it weakens every spark alike, hot or not; of a slight one nobody can say when"},
	{Breaks, [5]float64{.03, .935, .005, .01, .02}, [3]float64{.65, .07, .05}, false,
		"C: a second gap asks for more than there is under load, hot or not; of a slight one nobody can say when"},
	{[]string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, [5]float64{.28, .51, .01, .18, .02}, [3]float64{.70, .15, .68}, false, "C: what bridges the nose takes most of a spark that has to jump high: pulling away, worst while it is cold"},
	{[]string{"air"}, [5]float64{.89, .02, .01, .07, .01}, [3]float64{.50, .05, .30}, false, "C: the same leak is most of the air where there is least: at idle"},
	{[]string{"injector.leaking"}, [5]float64{.50, .02, .02, .45, .01}, [3]float64{.50, .10, .15}, false, "C: it floods a cold start; or the same leak is most of the fuel where there is least: at idle"},
	{[]string{"injector"}, [5]float64{.04, .67, .01, .26, .02}, [3]float64{.40, .15, .70}, false, "C: too little fuel is missed where most is asked for, and cold; too little to light is so in every condition"},
	{[]string{"fuel"}, [5]float64{.02, .93, .02, .02, .01}, [3]float64{.40, .05, .05}, false, "C: a pump that is weak keeps up at idle"},
	{[]string{"feed", "ground"}, [5]float64{.05, .79, .08, .04, .04}, [3]float64{.85, .60, .40}, false, "C: a coil that is starved lacks most where most is asked; one that comes and goes does not care"},
}

// always stands for the statement that the misfire is present in every condition.
const Always evidence.Condition = "always"

// chanceOfStatement is the chance that this is said of a fault of some severity, of those who say anything.
func (m *ConditionProfile) ChanceOfStatement(said evidence.Condition, rate float64) float64 {
	share := m.Always[1]
	switch {
	case rate < SlightRate:
		share = m.Always[0]
	case rate >= DeadRate:
		share = m.Always[2]
	}
	switch said {
	case evidence.AnyCondition:
		return 1
	case Always:
		return share
	}
	return (1 - share) * m.When[slices.Index(WhenOrder[:], said)]
}

// conditionProfiles is [ConditionProfiles] by mode.
var ProfileByMode = func() map[string]*ConditionProfile {
	all := map[string]*ConditionProfile{}
	for _, mode := range fault.Catalogue {
		if i := slices.IndexFunc(ConditionProfiles, func(m ConditionProfile) bool { return Matches(m.Modes, mode.ID) }); i >= 0 {
			all[mode.ID] = &ConditionProfiles[i]
		}
	}
	return all
}()

// Level is one way in which a fault can show in a condition: at its own rate, weaker
// by some steps of the grid of infer.Rates, or not at all.
type Level struct {
	Words string
	// Steps of the grid down from the rate; -1 is not at all.
	Steps int
	// In the condition in which it fails, in another than that; and in any, of what shows alike in all.
	There, Elsewhere, Alike float64
	Source                  string
}

// tenth is the steps of the grid that make a rate about ten times lower.
const tenth = 9

// Levels is what is believed of faults in the conditions. It is one hidden answer for
// each condition, however many runs are made in it (C; judgement).
var Levels = []Level{
	{"at its full rate", 0, 0.94, 0.10, 0.95, "C; judgement"},
	{"about a tenth of it", tenth, 0.03, 0.22, 0.03, "C: slighter when little is asked of the spark; judgement"},
	{"not at all", -1, 0.03, 0.68, 0.02, "C: a clean run in the wrong condition counts for little, but against what does not care for the condition; judgement"},
}
