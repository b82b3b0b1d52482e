package fault

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// SetCause states that like parts, fitted together, are at fault together.
type SetCause struct {
	Mode ModeID
	// Words is the cause as a technician says it.
	Words string
	// Share is the share of misfire jobs with this cause before any evidence, as in [Mode].
	Share float64
	// Some is true if it need not be all of a kind: two of four can be copies.
	Some bool
	// Any is true if any two of them are listed whatever was seen: it is common enough to be foreseen.
	Any    bool
	Source string
}

// SetCauses lists the common causes (C; judgement). Wear comes to a set by its age; what was bought or fitted wrong was
// bought or fitted for all of them.
var SetCauses = []SetCause{
	{PlugWornGap, "the plugs are worn out as a set", 0.02, false, true, "C: plugs of one age wear alike, and the weakest misfire first; judgement"},
	{PlugWrong, "plugs of the wrong kind, or copies", 0.008, true, true, "C: bought as a set; judgement"},
	{PlugClosedGap, "gaps set wrongly or closed when they were fitted", 0.004, true, false, "C: one hand gaps them all; judgement"},
	{PlugLoose, "plugs not torqued", 0.003, true, false, "C: one hand fits them all; judgement"},
	{LeadHighResistance, "the leads are aged as a set", 0.008, false, false, "C: leads of one age; judgement"},
	{LeadLeaking, "the insulation of the leads is aged as a set", 0.008, false, false, "C: likewise; judgement"},
	{BootTracked, "the boots are aged as a set", 0.005, false, false, "C: boots age with heat; judgement"},
	{CoilWeakLoad, "coils of one batch and age", 0.003, true, false, "C: a bad batch, or one age; judgement"},
	{CoilCracked, "coils of one batch and age, cracked", 0.003, true, false, "C: likewise; judgement"},
}

// AllSick is the probability that all parts of a set at fault misfire. Otherwise any number of them is as likely, and any
// of them (C; judgement: the set is weak, and the cylinders differ in what they ask for).
const AllSick = 0.15

// setKinds maps a kind of part to the repair unit of its set.
var setKinds = map[engine.Kind]Unit{engine.Plug: engine.Plugs, engine.Lead: engine.Leads, engine.Boot: engine.Boots, engine.Coil: engine.SetOfCoils}

// MemberKind returns the kind of part of which a unit is a set; ok is false for other units.
func MemberKind(u Unit) (engine.Kind, bool) {
	for k, set := range setKinds {
		if set == u {
			return k, true
		}
	}
	return "", false
}

// Troubled is a set of cylinders that misfired together, with the positions of the parts then.
type Troubled struct {
	Cylinders engine.Set
	At        part.Positions
}

// Sets lists the sets of like parts that can be at fault together. Of the parts that misfire it lists all, those of a
// bank, any two if they are common enough, and those that have been seen to misfire; what was never seen so has no
// weight. The priors are on the scale of
// [Enumerate] and come on top of it.
func Sets(e engine.Engine, c Complaint, seen []Troubled) []Hypothesis {
	if e.Cylinders < 2 {
		return nil
	}
	home := part.Home(e)
	var all []Hypothesis
	for _, cause := range SetCauses {
		row := slices.IndexFunc(Catalogue, func(m Mode) bool { return m.ID == cause.Mode })
		mode := Catalogue[row]
		if !perCylinder(home, mode.Unit, e) || mode.Prior[slices.Index(engine.Ignitions(), e.Ignition)] == 0 {
			continue
		}
		prior := cause.Share * c.factor(mode) * c.agedSet(mode, e)
		for _, sick := range sickSets(mode.Unit, e, seen, cause.Any) {
			h := Hypothesis{Mode: mode, row: row, Place: engine.Whole, Prior: prior * chanceOfSick(sick.Len(), e.Cylinders), Set: e.Everything(), Sick: sick}
			if cause.Some && sick != e.Everything() && sick.Len() > 1 { // as likely only those are
				h.Prior /= 2
				some := h
				some.Set = sick
				all = append(all, some)
			}
			all = append(all, h)
		}
	}
	return all
}

// perCylinder reports whether each cylinder has a part of a kind of its own.
func perCylinder(home part.Positions, k engine.Kind, e engine.Engine) bool {
	return !slices.ContainsFunc(e.All(), func(c engine.Cylinder) bool { return home.Where(part.Of(k, engine.At(c))) != engine.At(c) })
}

// chanceOfSick is the probability that a given number of a set's parts misfire, and just these of them.
func chanceOfSick(sick, all int) float64 {
	if sick == all {
		return AllSick
	}
	return (1 - AllSick) / float64(all-1) / binomial(all, sick)
}

// mostForeseen is the largest number of cylinders of which any two are listed before they were seen to misfire: of more
// there are too many.
const mostForeseen = 6

func binomial(n, k int) float64 {
	lg := func(x int) float64 { v, _ := math.Lgamma(float64(x + 1)); return v }
	return math.Round(math.Exp(lg(n) - lg(k) - lg(n-k)))
}

// sickSets lists the sets of home cylinders whose parts of a kind may be those that misfire.
func sickSets(k engine.Kind, e engine.Engine, seen []Troubled, pairs bool) []engine.Set {
	sets := []engine.Set{e.Everything()}
	add := func(s engine.Set) {
		if s != 0 && !slices.Contains(sets, s) {
			sets = append(sets, s)
		}
	}
	for b := 1; b <= e.Banks() && e.Banks() > 1; b++ {
		add(e.BankSet(b))
	}
	for _, c := range e.All() {
		for _, d := range e.All() {
			if pairs && c < d && e.Cylinders <= mostForeseen {
				add(engine.SetOf(c, d))
			}
		}
	}
	for _, t := range seen {
		var homes engine.Set
		for _, c := range t.Cylinders.List() {
			tag := t.At.Serving(k, c)
			if home, ok := tag.Home().Cylinder(); ok && tag.IsOriginal() {
				homes |= engine.SetOf(home)
			}
		}
		add(homes)
	}
	return sets
}

// agedSet is the factor of the ages of a set's parts: their mean.
func (c Complaint) agedSet(m Mode, e engine.Engine) float64 {
	sum := 0.0
	for _, cylinder := range e.All() {
		f := 1.0
		if used, known := c.Used[part.Of(m.Unit, engine.At(cylinder))]; known {
			f = m.Aged(used)
		}
		sum += f
	}
	return sum / float64(e.Cylinders)
}

// IsSet reports whether a set of parts is at fault.
func (h *Hypothesis) IsSet() bool { return h.Set != 0 }

// Unit returns the repair unit: the kind of item, or of a set of parts the kind of set.
func (h *Hypothesis) Unit() Unit {
	if h.IsSet() {
		return setKinds[h.Mode.Unit]
	}
	return h.Mode.Unit
}

// Members lists the parts of a set.
func (h *Hypothesis) Members() (all []part.Tag) {
	for _, c := range h.Set.List() {
		all = append(all, part.Of(h.Mode.Unit, engine.At(c)))
	}
	return all
}

// On reports whether a part is at fault: the part itself, or one of a set.
func (h *Hypothesis) On(t part.Tag) bool {
	if !h.IsSet() {
		return h.Tag != "" && h.Tag == t
	}
	tags := ownTags[h.Mode.Unit]
	for rest := h.Set; rest != 0; rest &= rest - 1 {
		if tags[rest.First()] == t {
			return true
		}
	}
	return false
}

// SickOn reports whether a part at fault makes its cylinder misfire. Of a set some may not.
func (h *Hypothesis) SickOn(t part.Tag) bool {
	if !h.IsSet() {
		return h.On(t)
	}
	c, ok := t.Home().Cylinder()
	return ok && h.On(t) && h.Sick.Has(c)
}

// Reaches returns the cylinders on which the fault can be found: those that it affects, and those with a part of the
// set that does not misfire.
func (h *Hypothesis) Reaches(at part.Positions) engine.Set {
	if h.IsSet() {
		return h.served(at, h.Set)
	}
	return h.Affected(at)
}

// Served returns the cylinders that the faulty part, or the parts of the set, serve now.
func (h *Hypothesis) Served(at part.Positions) engine.Set {
	if h.IsSet() {
		return h.served(at, h.Set)
	}
	return engine.SetOf(at.Feeds(h.Tag)...)
}

// served returns the cylinders that the parts of some home cylinders serve now.
func (h *Hypothesis) served(at part.Positions, homes engine.Set) (now engine.Set) {
	tags := ownTags[h.Mode.Unit]
	for rest := homes; rest != 0; rest &= rest - 1 {
		for _, c := range at.Feeds(tags[rest.First()]) {
			now |= engine.SetOf(c)
		}
	}
	return now
}

// ownTags holds the tag of each cylinder's part, of the kinds that come in sets.
var ownTags = func() map[engine.Kind][engine.MaxCylinders + 1]part.Tag {
	all := map[engine.Kind][engine.MaxCylinders + 1]part.Tag{}
	for kind := range setKinds {
		var tags [engine.MaxCylinders + 1]part.Tag
		for c := range engine.Cylinder(engine.MaxCylinders) {
			tags[c+1] = part.Of(kind, engine.At(c+1))
		}
		all[kind] = tags
	}
	return all
}()
