package diagnose

import (
	"math"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// ConditionProfile is how a kind of fault comes and goes with the conditions, and so what drivers say of
// it: the chance of what was said is a witness like any other.
type ConditionProfile struct {
	Modes []string
	// When are the shares of the conditions ([WhenOrder]) of those that fail in one of their own.
	When [5]float64
	// Always are the shares that are said to be there in every condition alike: of slight ones (less
	// than one in twenty), of those between, and of dead ones.
	Always [3]float64
	// Alike says that it shows alike in every condition, whatever was said.
	Alike  bool
	Source string
}

// FailingCondition is in which condition a kind of fault mostly fails.
type FailingCondition struct {
	When evidence.Condition
	// Elsewhere is the share that fails in every other condition as well, where nothing was said.
	Elsewhere float64
	Source    string
}

// FailingConditions lists them: in all alike, and by the largest share of [ConditionProfile].When.
var FailingConditions = []FailingCondition{
	{always, 1, "C"},
	{evidence.Load, 0.45, "C: what kills every spark does so in every condition; judgement"},
	{evidence.Idle, 0.30, "C: likewise"},
	{evidence.Hot, 0.10, "C: what opens when it is hot is sound when it is not"},
}

// slightElsewhere is that share of slight faults that are said to be always there: nobody can
// say of those when (C; judgement).
const slightElsewhere = 0.2

// slight is the rate below which that is so, and dead the one from which on nothing is spared.
var slight, dead = Bands[2], Bands[5]

// chanceItFails is the chance that a run was made in a condition in which a fault of some rate fails.
func (h FailingCondition) chanceItFails(said, run evidence.Condition, rate float64) float64 {
	open := said == evidence.AnyCondition || said == always // it fails in what its kind does
	switch {
	case said == always && rate >= slight, run != evidence.AnyCondition && (run == said || open && run == h.When):
		return 1
	case said == always:
		return slightElsewhere
	case open, run == evidence.AnyCondition:
		return h.Elsewhere
	}
	return 0
}

// failingCondition is that of a manner, as an index into Habits. After a condition was said, what has one of
// its own has that.
func (m *ConditionProfile) failingCondition(said evidence.Condition) int {
	if m.Alike {
		return 0
	}
	if said != evidence.AnyCondition && said != always {
		return 1
	}
	most := slices.Index(m.When[:], slices.Max(m.When[:]))
	return slices.IndexFunc(FailingConditions, func(h FailingCondition) bool { return h.When == WhenOrder[most] })
}

// WhenOrder is the order of [ConditionProfile].When. On a snap throttle counts as under load.
var WhenOrder = [5]evidence.Condition{evidence.Idle, evidence.Load, evidence.Hot, evidence.Cold, evidence.Wet}

// ConditionProfiles lists them; the first that fits counts (C; judgement).
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
	{breaks, [5]float64{.03, .935, .005, .01, .02}, [3]float64{.65, .07, .05}, false,
		"C: a second gap asks for more than there is under load, hot or not; of a slight one nobody can say when"},
	{[]string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, [5]float64{.28, .51, .01, .18, .02}, [3]float64{.70, .15, .68}, false, "C: what bridges the nose takes most of a spark that has to jump high: pulling away, worst while it is cold"},
	{[]string{"air"}, [5]float64{.89, .02, .01, .07, .01}, [3]float64{.50, .05, .30}, false, "C: the same leak is most of the air where there is least: at idle"},
	{[]string{"injector.leaking"}, [5]float64{.50, .02, .02, .45, .01}, [3]float64{.50, .10, .15}, false, "C: it floods a cold start; or the same leak is most of the fuel where there is least: at idle"},
	{[]string{"injector"}, [5]float64{.04, .67, .01, .26, .02}, [3]float64{.40, .15, .70}, false, "C: too little fuel is missed where most is asked for, and cold; too little to light is so in every condition"},
	{[]string{"fuel"}, [5]float64{.02, .93, .02, .02, .01}, [3]float64{.40, .05, .05}, false, "C: a pump that is weak keeps up at idle"},
	{[]string{"feed", "ground"}, [5]float64{.05, .79, .08, .04, .04}, [3]float64{.85, .60, .40}, false, "C: a coil that is starved lacks most where most is asked; one that comes and goes does not care"},
}

// always is what a driver says who says that it is there in every condition alike.
const always evidence.Condition = "always"

// said is what the driver said of the condition: one of [WhenOrder], always, or nothing.
func (a *Assessment) said() evidence.Condition {
	switch {
	case a.FailsWhen == evidence.AnyCondition && slices.Contains(a.Complaint.Signs, evidence.AlwaysThere):
		return always
	}
	return asMuch(a.FailsWhen)
}

// asMuch takes a snap of the throttle for load: as much is asked for.
func asMuch(c evidence.Condition) evidence.Condition {
	if c == evidence.Snap {
		return evidence.Load
	}
	return c
}

// chanceOfStatement is the chance that this is said of a fault of some severity, of those who say anything.
func (m *ConditionProfile) chanceOfStatement(said evidence.Condition, rate float64) float64 {
	share := m.Always[1]
	switch {
	case rate < slight:
		share = m.Always[0]
	case rate >= dead:
		share = m.Always[2]
	}
	switch said {
	case evidence.AnyCondition:
		return 1
	case always:
		return share
	}
	return (1 - share) * m.When[slices.Index(WhenOrder[:], said)]
}

// conditionProfiles is Manners by mode.
var conditionProfiles = func() map[string]*ConditionProfile {
	all := map[string]*ConditionProfile{}
	for _, mode := range fault.Catalogue {
		if i := slices.IndexFunc(ConditionProfiles, func(m ConditionProfile) bool { return matches(m.Modes, mode.ID) }); i >= 0 {
			all[mode.ID] = &ConditionProfiles[i]
		}
	}
	return all
}()

// statedProfile is how a kind of fault behaves after what the driver said: how strongly it misfires, by
// rate as a log ratio to all rates alike, the chance of what was said, and its habit.
type statedProfile struct {
	severe *perRate
	told   float64
	habit  int
}

// statedProfiles holds them by the row of each table, for what was said once.
type statedProfiles struct {
	by    *Beliefs
	said  evidence.Condition
	known map[[2]any]*statedProfile
}

func (t *statedProfiles) of(mode fault.Mode) *statedProfile {
	m, s := t.by.manners[mode.ID], t.by.severities[mode.ID]
	key := [2]any{m, s}
	if have := t.known[key]; have != nil {
		return have
	}
	out := &statedProfile{severe: &perRate{}, habit: m.failingCondition(t.said)}
	for r, rate := range hit {
		out.severe[r] = math.Exp(s[r]) * m.chanceOfStatement(t.said, rate)
		out.told += out.severe[r] / rates
	}
	for r, x := range out.severe {
		out.severe[r] = math.Log(x / out.told)
	}
	t.known[key] = out
	return out
}

// StatementEffect is what the driver's word for the condition does to the shares of some modes, the least and
// the most: how often it is said of them, against how often of all faults that the engine can have. 1
// is nothing.
func (a *Assessment) StatementEffect(modes []fault.Mode) (least, most float64) {
	w := a.weighing
	if w.profiles.said == evidence.AnyCondition {
		return 1, 1
	}
	for i, mode := range modes {
		told := w.profiles.of(mode).told / w.told
		if i == 0 || told < least {
			least = told
		}
		most = max(most, told)
	}
	return least, most
}
