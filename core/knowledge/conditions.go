package knowledge

import (
	"fmt"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// ConditionProfile states in which running conditions the faults of some modes show, as
// drivers report them. The driver's statement is evaluated like other evidence.
type ConditionProfile struct {
	Modes fault.Keys
	// When is the share of each of [Conditions] among faults that fail in one condition only.
	When ByCondition
	// Always is the share that drivers report as present in every condition.
	Always BySeverity
	// Alike is true for faults that show equally in every condition, whatever was reported.
	Alike  bool
	Source string
}

// BySeverity holds a share, 0 to 1, for slight faults (misfire rate below 1 in 20), for dead
// cylinders, and for those between.
type BySeverity struct{ Slight, Between, Dead float64 }

// Conditions lists the conditions in which a fault can fail. A snap of the throttle counts as
// under load.
var Conditions = []evidence.Condition{evidence.Idle, evidence.Load, evidence.Hot, evidence.Cold, evidence.Wet}

// Always is the statement that the misfire is present in every condition.
const Always evidence.Condition = "always"

// RowID returns the row id. Its first part is kept from the first file version.
func (m ConditionProfile) RowID() string { return "manner:" + m.Modes.String() }

// profileTable holds the profile of each mode. The first row that covers a mode counts.
var profileTable = Register(TableOf[ConditionProfile, map[fault.ModeID]*ConditionProfile]{
	Title: "When they fail, and what drivers say", In: OfFaults, Ships: ConditionProfiles,
	Describe: func(m *ConditionProfile) Row {
		r := Row{ID: m.RowID(), Of: "What drivers say of it: " + modeWords(m.Modes), Source: m.Source,
			Figures: m.When.figures(func(c evidence.Condition) string { return "Fails " + c.Words() })}
		for _, of := range []struct {
			words string
			share *float64
		}{{"slight", &m.Always.Slight}, {"middling", &m.Always.Between}, {"dead", &m.Always.Dead}} {
			r.Figures = append(r.Figures, Figure{Words: "Said to be always there if " + of.words, As: Percent, At: of.share, Least: LeastChance, Most: 1 - LeastChance})
		}
		r.Says = fmt.Sprintf("always, in every condition: %.3g\u202f%%", 100*m.Always.Slight)
		if m.Always.Slight != m.Always.Between || m.Always.Between != m.Always.Dead {
			r.Says = fmt.Sprintf("always, in every condition: %.3g\u202f%% of slight ones, %.3g\u202f%% of those between, %.3g\u202f%% of dead ones", 100*m.Always.Slight, 100*m.Always.Between, 100*m.Always.Dead)
		}
		r.Says += "; else " + m.When.says(evidence.Condition.Words, 0)
		if m.Alike {
			r.Says += "; whatever was said, it shows alike in every condition"
		}
		return r
	},
	Copy: func(m *ConditionProfile) { copyChances(&m.When) },
	Index: func(rows []ConditionProfile) map[fault.ModeID]*ConditionProfile {
		all := map[fault.ModeID]*ConditionProfile{}
		for _, mode := range fault.Catalogue {
			if i := slices.IndexFunc(rows, func(m ConditionProfile) bool { return m.Modes.Covers(mode.ID) }); i >= 0 {
				all[mode.ID] = &rows[i]
			}
		}
		return all
	},
})

// Profile returns the condition profile of a mode.
func (b *Beliefs) Profile(mode fault.ModeID) *ConditionProfile { return profileTable.Of(b)[mode] }

// FailingCondition returns the index into [FailingConditions] for the driver's statement. A
// fault that fails in one condition only fails in the stated one.
func (m *ConditionProfile) FailingCondition(said evidence.Condition) int {
	if m.Alike {
		return 0
	}
	if said != evidence.AnyCondition && said != Always {
		return 1
	}
	most := m.When[0]
	for _, one := range m.When[1:] {
		if one.P > most.P {
			most = one
		}
	}
	return slices.IndexFunc(FailingConditions, func(h FailingCondition) bool { return h.When == most.Of })
}

// LooseShare is the share of drivers' statements that are independent of the fault (C; judgement: about one in five).
const LooseShare = 0.2

// LooseStatement is a statement that drivers make independently of the fault.
type LooseStatement struct {
	Said  evidence.Condition
	Share float64
}

// LooseStatements lists their shares, which sum to 1 (C; judgement).
var LooseStatements = []LooseStatement{{Always, 0.30}, {evidence.Load, 0.25}, {evidence.Idle, 0.17}, {evidence.Hot, 0.12}, {evidence.Cold, 0.10}, {evidence.Wet, 0.06}}

func looseShareOf(said evidence.Condition) float64 {
	i := slices.IndexFunc(LooseStatements, func(l LooseStatement) bool { return l.Said == said })
	return LooseStatements[i].Share
}

var _ = Register(TableOf[LooseStatement, struct{}]{
	Title: "Drivers' statements independent of the fault", In: OfFaults, Ships: LooseStatements,
	Describe: func(l *LooseStatement) Row {
		return Row{Of: "Wrong or loose statements (one in five)", Says: fmt.Sprintf("%s: %.0f\u202f%%", l.Said.Words(), 100*l.Share), Source: "C; judgement"}
	},
})

// ChanceOfStatement returns the probability of the driver's statement for a fault of some
// severity, among drivers who state anything: one of [Conditions], [Always], or nothing.
func (m *ConditionProfile) ChanceOfStatement(said evidence.Condition, rate float64) float64 {
	share := m.Always.Between
	switch {
	case rate < SlightRate:
		share = m.Always.Slight
	case rate >= DeadRate:
		share = m.Always.Dead
	}
	switch said {
	case evidence.AnyCondition:
		return 1
	case Always:
	default:
		share = (1 - share) * m.When.At(said)
	}
	return (1-LooseShare)*share + LooseShare*looseShareOf(said)
}

// FailingCondition is the condition in which a kind of fault usually fails.
type FailingCondition struct {
	When evidence.Condition
	// Elsewhere is the fraction of such faults that also fail in every other condition if the
	// driver stated none; 0 to 1.
	Elsewhere float64
	Source    string
}

// FailingConditions lists the faults that show equally in all conditions first, then one entry
// for each largest share of [ConditionProfile].When.
var FailingConditions = []FailingCondition{
	{Always, 1, "C"},
	{evidence.Load, 0.45, "C: what kills every spark does so in every condition; judgement"},
	{evidence.Idle, 0.30, "C: likewise"},
	{evidence.Hot, 0.10, "C: what opens when it is hot is sound when it is not"},
}

var _ = Register(TableOf[FailingCondition, struct{}]{
	Title: "What mostly fails in one condition", In: OfFaults, Ships: FailingConditions[1:],
	Describe: func(h *FailingCondition) Row {
		return Row{Of: "What mostly fails " + h.When.Words() + ", where nothing was said",
			Says: fmt.Sprintf("fails in every other condition as well: %.3g\u202f%%", 100*h.Elsewhere), Source: h.Source}
	},
})

// slightElsewhere is Elsewhere for slight faults that are reported as always present. Drivers
// cannot tell when a slight misfire occurs (C; judgement).
const slightElsewhere = 0.2

// SlightRate is the misfire rate, per firing event, below which a fault counts as slight.
var SlightRate = Bands[BandNowAndThen+1]

// DeadRate is the misfire rate from which a cylinder counts as dead.
var DeadRate = Bands[BandDead]

// ChanceItFails returns the probability that a fault fails in the condition of a run, given
// its misfire rate and the driver's statement.
func (h FailingCondition) ChanceItFails(said, run evidence.Condition, rate float64) float64 {
	if said == evidence.AnyCondition {
		return h.fails(said, run, rate)
	}
	return (1-LooseShare)*h.fails(said, run, rate) + LooseShare*h.fails(evidence.AnyCondition, run, rate)
}

// fails is [FailingCondition.ChanceItFails] for a correct statement.
func (h FailingCondition) fails(said, run evidence.Condition, rate float64) float64 {
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

// Level is one way in which a fault shows in a condition: at its own rate, some grid steps
// lower, or not at all.
type Level struct {
	Words string
	// Steps is the number of grid steps below the rate; -1 means not at all.
	Steps int
	// There is the probability in the failing condition, Elsewhere in others, Alike for faults
	// that show equally in all.
	There, Elsewhere, Alike float64
	Source                  string
}

// tenth is the number of grid steps that divide a rate by about ten.
const tenth = 9

// Levels lists the levels. Each condition has one hidden level, however many runs are made in
// it (C; judgement).
var Levels = []Level{
	{"at its full rate", 0, 0.94, 0.10, 0.95, "C; judgement"},
	{"about a tenth of it", tenth, 0.03, 0.22, 0.03, "C: slighter when little is asked of the spark; judgement"},
	{"not at all", -1, 0.03, 0.68, 0.02, "C: a clean run in the wrong condition counts for little, but against what does not care for the condition; judgement"},
}

var _ = Register(TableOf[Level, struct{}]{
	Title: "How a fault shows in a condition", In: OfFaults, Ships: Levels,
	Describe: func(l *Level) Row {
		return Row{Of: "In a condition a fault shows " + l.Words,
			Says: fmt.Sprintf("where it fails %.3g\u202f%%, elsewhere %.3g\u202f%%; if it does not care for the condition %.3g\u202f%%", 100*l.There, 100*l.Elsewhere, 100*l.Alike), Source: l.Source}
	},
})

// ConditionProfiles lists the profiles; the first that covers a mode counts (C; judgement).
var ConditionProfiles = []ConditionProfile{
	{fault.Keys{fault.AnyCompression}, ByCondition{{evidence.Idle, 0.47}, {evidence.Load, 0.15}, {evidence.Hot, 0.07}, {evidence.Cold, 0.25}, {evidence.Wet, 0.06}},
		BySeverity{Slight: 0.55, Between: 0.60, Dead: 0.65},
		true, "C: a charge that leaks is lost in every condition, most where it has time: idling, and cold; a driver says what bothers him"},
	{fault.Keys{fault.AnyLeadOrder, fault.PlugLoose, fault.PlugClosedGap, fault.AnyTiming}, ByCondition{{evidence.Idle, 0.28}, {evidence.Load, 0.39}, {evidence.Hot, 0.12}, {evidence.Cold, 0.14}, {evidence.Wet, 0.07}},
		BySeverity{Slight: 0.79, Between: 0.79, Dead: 0.79}, true, "C: what is in the wrong place stays there"},
	{fault.Keys{fault.CoilPrimaryOpen, fault.AnyDriver, fault.AnyPickup}, ByCondition{{evidence.Idle, 0.21}, {evidence.Load, 0.21}, {evidence.Hot, 0.41}, {evidence.Cold, 0.09}, {evidence.Wet, 0.08}},
		BySeverity{Slight: 0.55, Between: 0.60, Dead: 0.70},
		true, "C: a break misses whatever is asked, and is felt most at idle; heat opens some"},
	{fault.Keys{fault.AnyConnector, fault.AnyModule, fault.AnyTrigger, fault.AnyStopWire}, ByCondition{{evidence.Idle, 0.28}, {evidence.Load, 0.26}, {evidence.Hot, 0.22}, {evidence.Cold, 0.09}, {evidence.Wet, 0.15}},
		BySeverity{Slight: 0.50, Between: 0.50, Dead: 0.65},
		true, "C: a poor contact does not care what is asked of the spark, and is felt most at idle; shaking, heat and wet open some"},
	{fault.Keys{fault.SomethingElse}, ByCondition{{evidence.Idle, 0.24}, {evidence.Load, 0.40}, {evidence.Hot, 0.15}, {evidence.Cold, 0.14}, {evidence.Wet, 0.07}},
		BySeverity{Slight: 0.73, Between: 0.73, Dead: 0.73}, true, "C: nothing is known of it"},
	{fault.Keys{fault.AnyNoFault}, ByCondition{{evidence.Idle, 0.24}, {evidence.Load, 0.40}, {evidence.Hot, 0.08}, {evidence.Cold, 0.16}, {evidence.Wet, 0.12}},
		BySeverity{Slight: 0.64, Between: 0.64, Dead: 0.64}, false, "C: likewise, and no condition brings it back"},
	{fault.Keys{fault.WellWater}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.50}, {evidence.Hot, 0.06}, {evidence.Cold, 0.06}, {evidence.Wet, 0.30}},
		BySeverity{Slight: 0.45, Between: 0.11, Dead: 0.34},
		false, "C: water lets the spark down when more is asked of it, and when it rains"},
	{fault.Keys{fault.PlugCracked}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.71}, {evidence.Hot, 0.05}, {evidence.Cold, 0.06}, {evidence.Wet, 0.10}},
		BySeverity{Slight: 0.45, Between: 0.15, Dead: 0.47},
		false, "C: a crack lets nearly every spark down where more is asked, and a wide one all of them; under its boot it stays dry"},
	{fault.Keys{fault.AnySeat}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.74}, {evidence.Hot, 0.05}, {evidence.Cold, 0.06}, {evidence.Wet, 0.07}},
		BySeverity{Slight: 0.45, Between: 0.11, Dead: 0.57},
		false, "C: it flashes to the wall of the well, or jumps a gap of its own, at every spark"},
	{fault.Keys{fault.CoilCracked, fault.BootTracked, fault.BootTorn, fault.BootSwollen, fault.LeadLeaking, fault.CoilLeadLeaking,
		fault.CapTracked, fault.RotorLeaking, fault.AnyWell}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.63}, {evidence.Hot, 0.06}, {evidence.Cold, 0.05}, {evidence.Wet, 0.18}},
		BySeverity{Slight: 0.45, Between: 0.11, Dead: 0.41},
		false, "C: insulation gives way where more is asked, or in the wet; what kills every spark does so in every condition"},
	{fault.Keys{fault.CoilSecondaryOpen}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.69}, {evidence.Hot, 0.15}, {evidence.Cold, 0.04}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.45, Between: 0.23, Dead: 0.68}, false, "C: the spark has to jump its break first, whatever is asked"},
	{fault.Keys{fault.CoilPrimaryShorted, fault.CoilSecondaryShorted}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.64}, {evidence.Hot, 0.20}, {evidence.Cold, 0.04}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.45, Between: 0.15, Dead: 0.49},
		false, "C: what a coil lacks is missed where most is asked; a dead one is always dead"},
	{fault.Keys{fault.CoilWeakLoad}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.78}, {evidence.Hot, 0.06}, {evidence.Cold, 0.04}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.34, Between: 0.11, Dead: 0.13}, false, "C: by its name"},
	{fault.Keys{fault.CoilWeakHot}, ByCondition{{evidence.Idle, 0.07}, {evidence.Load, 0.12}, {evidence.Hot, 0.73}, {evidence.Cold, 0.04}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.38, Between: 0.11, Dead: 0.11}, false, "C: by its name"},
	{fault.Keys{fault.PlugWornGap}, ByCondition{{evidence.Idle, 0.10}, {evidence.Load, 0.77}, {evidence.Hot, 0.04}, {evidence.Cold, 0.05}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.34, Between: 0.10, Dead: 0.11},
		false, "C: it asks for more than there is, and that under load, whether hot or not; what an idling engine asks for it still gets"},
	{fault.Keys{fault.PlugWrong, fault.AnyAirGap}, ByCondition{{evidence.Idle, 0.09}, {evidence.Load, 0.78}, {evidence.Hot, 0.04}, {evidence.Cold, 0.05}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.52, Between: 0.11, Dead: 0.21},
		false, "C: likewise; a wrong one may foul as well, and a weak magneto is weakest while it turns slowly"},
	{fault.Keys{fault.LeadHighResistance}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.79}, {evidence.Hot, 0.04}, {evidence.Cold, 0.05}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.68, Between: 0.34, Dead: 0.11},
		false, "C: it weakens every spark alike, hot or not; of a slight one nobody can say when"},
	{Breaks, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.80}, {evidence.Hot, 0.04}, {evidence.Cold, 0.04}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.56, Between: 0.13, Dead: 0.11},
		false, "C: a second gap asks for more than there is under load, hot or not; of a slight one nobody can say when"},
	{fault.Keys{fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled}, ByCondition{{evidence.Idle, 0.27}, {evidence.Load, 0.47}, {evidence.Hot, 0.05}, {evidence.Cold, 0.17}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.60, Between: 0.19, Dead: 0.58},
		false, "C: what bridges the nose takes most of a spark that has to jump high: pulling away, worst while it is cold"},
	{fault.Keys{fault.AnyAir}, ByCondition{{evidence.Idle, 0.71}, {evidence.Load, 0.11}, {evidence.Hot, 0.05}, {evidence.Cold, 0.09}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.45, Between: 0.11, Dead: 0.30},
		false, "C: the same leak is most of the air where there is least: at idle"},
	{fault.Keys{fault.InjectorLeaking}, ByCondition{{evidence.Idle, 0.42}, {evidence.Load, 0.11}, {evidence.Hot, 0.06}, {evidence.Cold, 0.37}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.45, Between: 0.15, Dead: 0.19},
		false, "C: it floods a cold start; or the same leak is most of the fuel where there is least: at idle"},
	{fault.Keys{fault.AnyInjector}, ByCondition{{evidence.Idle, 0.08}, {evidence.Load, 0.60}, {evidence.Hot, 0.05}, {evidence.Cold, 0.23}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.38, Between: 0.19, Dead: 0.60},
		false, "C: too little fuel is missed where most is asked for, and cold; too little to light is so in every condition"},
	{fault.Keys{fault.AnyFuel}, ByCondition{{evidence.Idle, 0.07}, {evidence.Load, 0.69}, {evidence.Hot, 0.15}, {evidence.Cold, 0.05}, {evidence.Wet, 0.04}},
		BySeverity{Slight: 0.38, Between: 0.11, Dead: 0.11}, false, "C: a pump that is weak keeps up at idle"},
	{fault.Keys{fault.AnyFeed, fault.AnyGround}, ByCondition{{evidence.Idle, 0.09}, {evidence.Load, 0.69}, {evidence.Hot, 0.10}, {evidence.Cold, 0.06}, {evidence.Wet, 0.06}},
		BySeverity{Slight: 0.71, Between: 0.52, Dead: 0.38},
		false, "C: a coil that is starved lacks most where most is asked; one that comes and goes does not care"},
}
