package diagnose

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/part"
)

// Suspect is one repair unit: a tagged part, something that stays at a
// cylinder, "something else" or "no fault now".
type Suspect struct {
	Unit fault.Unit
	// Tag is the part, for a unit that travels, and With the parts that have
	// travelled with it all along, so that no move can tell them apart; of a set, its parts.
	Tag  part.Tag
	With []part.Tag
	// Place is where it is now.
	Place engine.Place
	// Mode is the likeliest way it failed.
	Mode fault.Mode
	// P is the probability that the fault is in this unit, Prior what it was
	// before any evidence.
	P, Prior float64
	// Shares states how P divides over the unit's hypotheses, the largest first.
	Shares []Share
	// Reasons are the entries that speak for or against, the weightiest first.
	Reasons []Reason
}

// Share is one hypothesis of a suspect.
type Share struct {
	Hypothesis fault.Hypothesis
	P          float64
}

// Reason is what one entry adds.
type Reason struct {
	// Entry is the entry's number.
	Entry int
	// LogOdds is how far the entry moves the suspect's log odds (natural): those
	// with all evidence less those with the entry left out.
	LogOdds float64
	// Alone is how far the entry would move them if it were the only one.
	Alone float64
	// Shared is true if the entry adds little because other entries show the same: Alone
	// is then what matters.
	Shared bool
	// Text says it in words; package explain fills it in.
	Text string
}

// Key names the unit in a signed verdict: "coil C2", "connector cyl-2".
func (s Suspect) Key() string {
	switch {
	case s.Tag != "":
		return string(s.Unit) + " " + string(s.Tag)
	case s.Real():
		return string(s.Unit) + " " + string(s.Place)
	}
	return string(s.Unit)
}

// Real reports whether the suspect is a unit that can be put right, not "something
// else" or "no fault now".
func (s Suspect) Real() bool { return s.Unit != fault.Else && s.Unit != fault.NoFault }

// IsSet reports whether the suspect is a set of parts. With then lists the parts of its likeliest hypothesis.
func (s Suspect) IsSet() bool {
	_, ok := fault.MemberKind(s.Unit)
	return ok
}

// Name is the suspect in words: "coil C2 with boot B2", "connector of cylinder 2".
func (s Suspect) Name() string {
	switch {
	case s.IsSet():
		return string(s.Unit)
	case s.Tag != "":
		name := s.Tag.Words()
		for _, t := range s.With {
			name += " with " + t.Words()
		}
		return name
	case s.Real() && s.Place != engine.Whole:
		return fmt.Sprintf("%s of %s", s.Unit, s.Place)
	}
	return string(s.Unit)
}

type unitKey struct {
	unit  fault.Unit
	tag   part.Tag
	place engine.Place
}

// rides lists the kinds of part that can stay on their coil when it is moved.
var rides = []engine.Kind{engine.Boot, engine.Lead}

// unitOf returns which repair unit a hypothesis belongs to. A boot or lead that has
// been moved, and always with the same coil, goes with that coil: the repair
// renews both, and nothing that was done could tell them apart. One on which a look has found
// something is told apart by that, and stands by itself.
func (a *Assessment) unitOf(h fault.Hypothesis) unitKey {
	switch h.Mode.Unit {
	case fault.Else, fault.NoFault:
		return unitKey{unit: h.Mode.Unit, place: engine.Whole}
	}
	if h.Tag == "" {
		return unitKey{unit: h.Unit(), place: h.Place}
	}
	if slices.Contains(rides, h.Mode.Unit) && a.Engine.OwnCoils() {
		home := h.Tag.Home()
		coil, moved := part.Of(engine.Coil, home), false
		for _, m := range a.beforeRepair(coil, h.Tag) {
			if m.At.Where(coil) != m.At.Where(h.Tag) {
				return unitKey{unit: h.Mode.Unit, tag: h.Tag}
			}
			moved = moved || m.At.Where(coil) != home
		}
		if moved && !a.foundAbnormal(h.Tag) {
			return unitKey{unit: engine.Coil, tag: coil}
		}
	}
	return unitKey{unit: h.Mode.Unit, tag: h.Tag}
}

// beforeRepair lists the moments up to the renewal of one of two parts, or all moments if the engine
// misfired again after it: a repair that holds separates nothing that was one suspect before.
func (a *Assessment) beforeRepair(x, y part.Tag) []evidence.Moment {
	for i, m := range a.Moments {
		r := m.Entry.Renewal()
		if r == nil || !slices.ContainsFunc(r.Parts, func(one evidence.Renewed) bool { return one.Out == x || one.Out == y }) {
			continue
		}
		if slices.ContainsFunc(a.Moments[i:], func(m evidence.Moment) bool { return m.Entry.ShowsMisfire() }) {
			break
		}
		return a.Moments[:i]
	}
	return a.Moments
}

// foundAbnormal reports whether a look has found anything on a boot or lead itself: that its well is
// wet or that it was not home says nothing of what it is.
func (a *Assessment) foundAbnormal(t part.Tag) bool {
	own := []evidence.Finding{evidence.BootTracked, evidence.BootTorn, evidence.BootSpring, evidence.LeadBurnt}
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Look() != nil && slices.ContainsFunc(m.Entry.Look().Items, func(item evidence.Seen) bool { return item.Tag == t && slices.Contains(own, item.Finding) })
	})
}

func suspects(a *Assessment, post infer.Posterior) []Suspect {
	var list []Suspect
	index := map[unitKey]int{}
	type shareOf struct {
		unit int
		key  string
	}
	shares := map[shareOf]int{}
	member := make([]int, len(a.Faults))
	for s := range a.Faults {
		f := &a.Faults[s]
		h := f.Hypothesis
		key := a.unitOf(h)
		i, ok := index[key]
		if !ok {
			i = len(list)
			index[key] = i
			list = append(list, Suspect{Unit: key.unit, Tag: key.tag, Place: key.place})
			if key.tag != "" {
				list[i].Place = a.Now.Where(key.tag)
			}
		}
		member[s] = i
		it := &list[i]
		it.P += f.P
		it.Prior += f.before
		if h.Tag != "" && h.Tag != it.Tag && !slices.Contains(it.With, h.Tag) {
			it.With = append(it.With, h.Tag)
		}
		of := shareOf{i, h.Key()}
		if at, ok := shares[of]; ok {
			it.Shares[at].P += f.P
		} else {
			shares[of] = len(it.Shares)
			it.Shares = append(it.Shares, Share{h, f.P})
		}
	}
	for i, l := range post.Linked { // two faults of one unit are one unit at fault
		if u := member[l.X]; u == member[l.Y] {
			list[u].P -= post.P[i]
		}
	}
	for i := range list {
		list[i].P = min(max(list[i].P, 0), 1) // rounding
		slices.SortStableFunc(list[i].Shares, func(x, y Share) int { return cmp.Compare(y.P, x.P) })
		likeliest := &list[i].Shares[0].Hypothesis
		list[i].Mode = likeliest.Mode
		for _, sh := range list[i].Shares { // of a coil with its boot, a mode of the coil
			if sh.Hypothesis.Unit() == list[i].Unit {
				list[i].Mode = sh.Hypothesis.Mode
				break
			}
		}
		if likeliest.IsSet() {
			list[i].With = a.bought(likeliest)
		}
	}
	order := make([]int, len(list)) // order[new] = old
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(x, y int) int { return cmp.Compare(list[y].P, list[x].P) })
	sorted := make([]Suspect, len(list))
	rank := make([]int, len(list))
	for now, was := range order {
		sorted[now], rank[was] = list[was], now
	}
	for s := range a.Faults {
		a.Faults[s].Suspect = rank[member[s]]
	}
	return sorted
}

// bought lists the parts that are renewed for a faulty set: its own parts, and those of the same kind that nobody has looked
// at, because they were bought and fitted together.
func (a *Assessment) bought(h *fault.Hypothesis) []part.Tag {
	whole := *h
	whole.Set = a.Engine.Everything()
	return slices.DeleteFunc(whole.Members(), func(t part.Tag) bool {
		return !h.Includes(t) && slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
			return m.Entry.Look() != nil && slices.ContainsFunc(m.Entry.Look().Items, func(s evidence.Seen) bool { return s.Tag == t })
		})
	})
}

// Weights in natural log odds. An entry is listed if it adds at least tells to the others, or
// at least tellsAlone by itself where others carry the same information. The last is what it
// adds if others carry nearly all of it.
const (
	tells      = 0.05
	tellsAlone = 0.3
	little     = 0.25
)

// weight orders the reasons, the greatest first.
func (r Reason) weight() float64 {
	if r.Shared {
		return math.Abs(r.Alone) / 2
	}
	return math.Abs(r.LogOdds)
}

// AddReasons leaves each entry out in turn and notes what that does to each suspect. The reasons
// have no words yet.
func (a *Assessment) AddReasons() {
	list := a.Suspects
	for i, m := range a.Moments {
		if !Weighs(m.Entry.Kind()) {
			continue // a move is weighed by what is seen after it
		}
		rest, only := a.bySuspect(without(i)), a.bySuspect(alone(i))
		for k := range list {
			before := logit(list[k].Prior)
			r := Reason{Entry: m.Entry.Seq, LogOdds: logit(list[k].P) - logit(rest[k]), Alone: logit(only[k]) - before}
			r.Shared = math.Abs(r.LogOdds) < little && math.Abs(r.Alone) >= tellsAlone && r.Alone*(logit(list[k].P)-before) > 0
			if math.Abs(r.LogOdds) >= tells || r.Shared {
				list[k].Reasons = append(list[k].Reasons, r)
			}
		}
	}
	for k := range list {
		slices.SortStableFunc(list[k].Reasons, func(x, y Reason) int {
			return cmp.Compare(y.weight(), x.weight())
		})
	}
}

// RecomputePosterior computes the posterior without caches and returns the probability of the first fault. The benchmark
// compares the cost of reasons with it.
func (a *Assessment) RecomputePosterior() float64 {
	return a.weighing.model.Posterior(a.weighing.evidence(everything), false).Any[0]
}

// bySuspect sums the faults by repair unit.
func (a *Assessment) bySuspect(kept keep) []float64 {
	sums := make([]float64, len(a.Suspects))
	post := a.weighing.posterior(kept, false)
	for k, p := range post.Any {
		sums[a.Faults[k].Suspect] += p
	}
	for i, l := range post.Linked {
		if u := a.Faults[l.X].Suspect; u == a.Faults[l.Y].Suspect {
			sums[u] -= post.P[i]
		}
	}
	return sums
}

// logit is ln(p / (1 − p)), bounded away from certainty.
func logit(p float64) float64 {
	p = min(max(p, 1e-12), 1-1e-12)
	return math.Log(p) - math.Log1p(-p)
}
