package fault

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// SetCause is one way in which like parts that were fitted together are faulty together.
type SetCause struct {
	Mode ModeID
	// Words is the cause in the words of a technician.
	Words string
	// Share is the prior share of misfire jobs with this cause, 0 to 1, as in [Mode].
	Share float64
	// CanBePartial is true if only some of the parts can be faulty: two of four plugs can be copies.
	CanBePartial bool
	// AnyTwo is true if every pair of misfiring parts is a hypothesis from the start. Other causes wait until the
	// cylinders were seen to misfire together.
	AnyTwo bool
	Source string
}

// SetCauses lists the common causes (C; judgement). Like parts wear alike. A wrong purchase or a fitting error affects
// all parts of the set.
var SetCauses = []SetCause{
	{Mode: PlugWornGap, Words: "the plugs are worn out as a set", Share: 0.02, AnyTwo: true,
		Source: "C: plugs of one age wear alike, and the weakest misfire first; judgement"},
	{Mode: PlugWrong, Words: "plugs of the wrong kind, or copies", Share: 0.008, CanBePartial: true, AnyTwo: true,
		Source: "C: bought as a set; judgement"},
	{Mode: PlugClosedGap, Words: "gaps set wrongly or closed when they were fitted", Share: 0.004, CanBePartial: true,
		Source: "C: one hand gaps them all; judgement"},
	{Mode: PlugLoose, Words: "plugs not torqued", Share: 0.003, CanBePartial: true,
		Source: "C: one hand fits them all; judgement"},
	{Mode: LeadHighResistance, Words: "the leads are aged as a set", Share: 0.008,
		Source: "C: leads of one age; judgement"},
	{Mode: LeadLeaking, Words: "the insulation of the leads is aged as a set", Share: 0.008,
		Source: "C: leads of one age; judgement"},
	{Mode: BootTracked, Words: "the boots are aged as a set", Share: 0.005,
		Source: "C: boots age with heat; judgement"},
	{Mode: CoilWeakLoad, Words: "coils of one batch and age", Share: 0.003, CanBePartial: true,
		Source: "C: a bad batch, or one age; judgement"},
	{Mode: CoilCracked, Words: "coils of one batch and age, cracked", Share: 0.003, CanBePartial: true,
		Source: "C: a bad batch, or one age; judgement"},
}

// AllMisfire is the probability that all parts of a faulty set misfire. Otherwise every smaller number of parts is
// equally likely, and so is every choice of that many (C; judgement: the required kilovolts differ between cylinders).
const AllMisfire = 0.15

// setKinds maps each kind of part to the repair unit of its set.
var setKinds = map[engine.Kind]Unit{engine.Plug: engine.Plugs, engine.Lead: engine.Leads, engine.Boot: engine.Boots, engine.Coil: engine.SetOfCoils}

// MemberKind returns the kind of the parts of a set; ok is false for other units.
func MemberKind(u Unit) (engine.Kind, bool) {
	for k, set := range setKinds {
		if set == u {
			return k, true
		}
	}
	return "", false
}

// MisfireGroup is a set of cylinders that misfired together, and the positions of the parts at that time.
type MisfireGroup struct {
	Cylinders engine.Set
	At        part.Positions
}

// Sets lists the sets of like parts that can be faulty together. Each cause gives one hypothesis for each group of
// misfiring parts: all parts, those of one bank, any two ([SetCause.AnyTwo]), and each group in seen. Other groups have a
// negligible likelihood. The priors are on the scale of [Enumerate], in addition to its own.
func Sets(e engine.Engine, c Complaint, seen []MisfireGroup) []Hypothesis {
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
		for _, misfiring := range misfiringSets(mode.Unit, e, seen, cause.AnyTwo) {
			h := Hypothesis{Mode: mode, row: row, Place: engine.Whole, Prior: prior * chanceOfMisfiring(misfiring.Len(), e.Cylinders), Set: e.Everything(), Misfiring: misfiring}
			if cause.CanBePartial && misfiring != e.Everything() && misfiring.Len() > 1 { // half of the share: only these parts are faulty
				h.Prior /= 2
				some := h
				some.Set = misfiring
				all = append(all, some)
			}
			all = append(all, h)
		}
	}
	return all
}

// perCylinder reports whether each cylinder has its own part of a kind.
func perCylinder(home part.Positions, k engine.Kind, e engine.Engine) bool {
	return !slices.ContainsFunc(e.All(), func(c engine.Cylinder) bool { return home.Where(part.Of(k, engine.At(c))) != engine.At(c) })
}

// chanceOfMisfiring returns the probability that exactly one given group of a set's parts misfires. The group has n
// parts, the set has all parts.
func chanceOfMisfiring(n, all int) float64 {
	if n == all {
		return AllMisfire
	}
	return (1 - AllMisfire) / float64(all-1) / binomial(all, n)
}

// mostForeseen is the largest number of cylinders for which every pair is listed ([SetCause.AnyTwo]). It bounds the
// number of hypotheses.
const mostForeseen = 6

func binomial(n, k int) float64 {
	lg := func(x int) float64 { v, _ := math.Lgamma(float64(x + 1)); return v }
	return math.Round(math.Exp(lg(n) - lg(k) - lg(n-k)))
}

// misfiringSets lists the groups of home cylinders whose parts may be those that misfire.
func misfiringSets(k engine.Kind, e engine.Engine, seen []MisfireGroup, pairs bool) []engine.Set {
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

// agedSet returns the mean of the age factors of a set's parts.
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

// Unit returns the repair unit: the kind of item, or the kind of set.
func (h *Hypothesis) Unit() Unit {
	if h.IsSet() {
		return setKinds[h.Mode.Unit]
	}
	return h.Mode.Unit
}

// Members lists the tags of the parts of a set.
func (h *Hypothesis) Members() (all []part.Tag) {
	for _, c := range h.Set.List() {
		all = append(all, part.Of(h.Mode.Unit, engine.At(c)))
	}
	return all
}

// Includes reports whether the part is faulty: it is the faulty part or belongs to the faulty set.
func (h *Hypothesis) Includes(t part.Tag) bool {
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

// MisfiresOn reports whether the part is faulty and makes its cylinder misfire. Some parts of a faulty set do not.
func (h *Hypothesis) MisfiresOn(t part.Tag) bool {
	if !h.IsSet() {
		return h.Includes(t)
	}
	c, ok := t.Home().Cylinder()
	return ok && h.Includes(t) && h.Misfiring.Has(c)
}

// Reaches returns the cylinders where the fault can be found: the affected ones, and those with a faulty part of the set
// that does not misfire.
func (h *Hypothesis) Reaches(at part.Positions) engine.Set {
	if h.IsSet() {
		return h.served(at, h.Set)
	}
	return h.Affected(at)
}

// Served returns the cylinders that the faulty parts serve in the given positions.
func (h *Hypothesis) Served(at part.Positions) engine.Set {
	if h.IsSet() {
		return h.served(at, h.Set)
	}
	return engine.SetOf(at.Feeds(h.Tag)...)
}

// served returns the cylinders that the parts from some home cylinders serve in the given positions.
func (h *Hypothesis) served(at part.Positions, homes engine.Set) (now engine.Set) {
	tags := ownTags[h.Mode.Unit]
	for rest := homes; rest != 0; rest &= rest - 1 {
		for _, c := range at.Feeds(tags[rest.First()]) {
			now |= engine.SetOf(c)
		}
	}
	return now
}

// ownTags holds the tag of each cylinder's own part, for the kinds that form sets.
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
