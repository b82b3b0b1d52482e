package diagnose

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// Suspect is one repair unit: a tagged part, something that stays at a
// cylinder, "something else" or "no fault now".
type Suspect struct {
	Unit fault.Unit
	// Tag is the part, for a unit that travels, and With the parts that have
	// travelled with it all along, so that no move can tell them apart.
	Tag  part.Tag
	With []part.Tag
	// Place is where it is now.
	Place engine.Place
	// Mode is the likeliest way it failed.
	Mode fault.Mode
	// P is the probability that the fault is in this unit, Prior what it was
	// before any evidence.
	P, Prior float64
	// Shares says how P divides over the unit's hypotheses, the largest first.
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
	// Shared says that the entry adds little because others say the same: it
	// speaks alone for what all of them together come to.
	Shared bool
	// Text says it in words.
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

// Real says that the suspect is a unit that can be put right, not "something
// else" or "no fault now".
func (s Suspect) Real() bool { return s.Unit != fault.Else && s.Unit != fault.NoFault }

// Name is the suspect in words: "coil C2 with boot B2", "connector of cylinder 2".
func (s Suspect) Name() string {
	switch {
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

// unitOf says which repair unit a hypothesis belongs to. A boot or lead that has
// been moved, and always with the same coil, goes with that coil: the repair
// renews both, and nothing that was done could tell them apart. One on which a look has found
// something is told apart by that, and stands by itself.
func (a *Assessment) unitOf(h fault.Hypothesis) unitKey {
	switch h.Mode.Unit {
	case fault.Else, fault.NoFault:
		return unitKey{unit: h.Mode.Unit, place: engine.Whole}
	}
	if h.Tag == "" {
		return unitKey{unit: h.Mode.Unit, place: h.Place}
	}
	if slices.Contains(rides, h.Mode.Unit) && a.Engine.OwnCoils() {
		home := h.Tag.Home()
		coil, moved := part.Of(engine.Coil, home), false
		for _, m := range a.Moments {
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

// foundAbnormal says whether a look has found anything on a boot or lead itself: that its well is
// wet or that it was not home says nothing of what it is.
func (a *Assessment) foundAbnormal(t part.Tag) bool {
	own := []evidence.Finding{evidence.BootTracked, evidence.BootTorn, evidence.BootSpring, evidence.LeadBurnt}
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Look != nil && slices.ContainsFunc(m.Entry.Look.Items, func(item evidence.Seen) bool { return item.Tag == t && slices.Contains(own, item.Finding) })
	})
}

func suspects(a *Assessment, post infer.Posterior) []Suspect {
	var list []Suspect
	index := map[unitKey]int{}
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
		at := slices.IndexFunc(it.Shares, func(sh Share) bool { return sh.Hypothesis.Key() == h.Key() })
		if at < 0 {
			it.Shares = append(it.Shares, Share{h, f.P})
		} else {
			it.Shares[at].P += f.P
		}
	}
	for i, l := range post.Linked { // two faults of one unit are one unit at fault
		if u := member[l.X]; u == member[l.Y] {
			list[u].P -= post.P[i]
		}
	}
	for i := range list {
		slices.SortStableFunc(list[i].Shares, func(x, y Share) int { return cmp.Compare(y.P, x.P) })
		list[i].Mode = list[i].Shares[0].Hypothesis.Mode
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

// Weights in natural log odds: the least that an entry must add to all others, or
// say alone where others say the same, to be worth a line; and what it adds when
// others have said nearly all of it.
const (
	tells      = 0.05
	tellsAlone = 0.3
	little     = 0.25
)

// weight is what the reasons are ordered by.
func (r Reason) weight() float64 {
	if r.Shared {
		return math.Abs(r.Alone) / 2
	}
	return math.Abs(r.LogOdds)
}

// Explain leaves each entry out in turn, notes what that does to each suspect,
// and returns the assessment.
func (a *Assessment) Explain() *Assessment {
	list := a.Suspects
	for i, m := range a.Moments {
		switch m.Entry.Kind() {
		case evidence.KindMove, evidence.KindVerdict, evidence.KindCovers:
			continue // a move is weighed by what is seen after it
		}
		rest, only := a.bySuspect(without(i)), a.bySuspect(alone(i))
		for k := range list {
			before := logit(list[k].Prior)
			r := Reason{Entry: m.Entry.Seq, LogOdds: logit(list[k].P) - logit(rest[k]), Alone: logit(only[k]) - before}
			r.Shared = math.Abs(r.LogOdds) < little && math.Abs(r.Alone) >= tellsAlone && r.Alone*(logit(list[k].P)-before) > 0
			if math.Abs(r.LogOdds) >= tells || r.Shared {
				r.Text = a.say(m, list[k])
				list[k].Reasons = append(list[k].Reasons, r)
			}
		}
	}
	for k := range list {
		slices.SortStableFunc(list[k].Reasons, func(x, y Reason) int {
			return cmp.Compare(y.weight(), x.weight())
		})
	}
	return a
}

// bySuspect adds up the faults by repair unit.
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

// logit keeps away from certainty, which no evidence here can give.
func logit(p float64) float64 {
	p = min(max(p, 1e-12), 1-1e-12)
	return math.Log(p) - math.Log1p(-p)
}

// say puts an entry in words as it bears on one suspect.
func (a *Assessment) say(m evidence.Moment, s Suspect) string {
	what := Sentence(m.Entry)
	if r := m.Entry.Readings; r != nil && r.Measure == evidence.KVWave {
		what = a.waveSentence(*r)
	}
	if m.Entry.Codes == nil && m.Entry.Counters == nil && m.Entry.Watch == nil || !s.Real() {
		return what
	}
	if s.Tag != "" {
		return fmt.Sprintf("%s; %s was %s", what, s.Tag, part.At(m.At.Where(s.Tag)))
	}
	return what
}

// Sentence is what an entry says, in one short sentence.
func Sentence(e evidence.Entry) string {
	switch {
	case e.Codes != nil:
		if len(e.Codes.Read) == 0 {
			return "no codes"
		}
		words := make([]string, len(e.Codes.Read))
		for i, r := range e.Codes.Read {
			words[i] = r.Code.String() + " " + string(r.State)
			if meaning, weighs := r.Code.Meaning(); !weighs {
				if r.Text != "" {
					meaning += ": “" + r.Text + "”"
				}
				words[i] += " (" + meaning + ", noted)"
			} else if _, misfire := r.Code.MisfireCylinder(); !misfire && r.Code != trouble.RandomMisfire {
				words[i] += " (" + meaning + ")"
			}
		}
		s := strings.Join(words, ", ")
		if e.Codes.Frame != nil {
			s += "; freeze frame " + e.Codes.Frame.Words()
		}
		return s
	case e.Counters != nil:
		return countWords(*e.Counters)
	case e.Watch != nil:
		if len(e.Watch.Cylinders) == 0 {
			return "watched: ran clean"
		}
		return "watched: misfire on " + engine.SetOf(e.Watch.Cylinders...).String()
	case e.Fit != nil:
		return evidence.UnitWords(e.Fit.Unit) + " put right"
	case e.Move != nil:
		return "moved " + part.Describe(e.Move.Parts)
	case e.Look != nil:
		words := e.Look.Words()
		if e.Look.Moving {
			return "as it came off: " + strings.Join(words, "; ")
		}
		return strings.Join(words, "; ")
	case e.Verdict != nil:
		s := fmt.Sprintf("verdict signed: %s at %s", evidence.UnitWords(e.Verdict.Unit), unit.Percent(e.Verdict.P))
		if e.Verdict.Revises > 0 {
			s += fmt.Sprintf(", after that of entry %d", e.Verdict.Revises)
		}
		return s
	case e.Withdraw != nil:
		return fmt.Sprintf("entry %d withdrawn: %s", e.Withdraw.Entry, e.Withdraw.Reason)
	case e.Trims != nil:
		return trouble.TrimWords(e.Trims.Banks)
	case e.Check != nil:
		return e.Check.Words()
	case e.Readings != nil:
		return e.Readings.Words()
	case e.Sparks != nil:
		return e.Sparks.Words()
	case e.Beside != nil:
		return e.Beside.Words()
	case e.Covers != nil:
		return coverWords(*e.Covers)
	}
	return ""
}

// coverWords says covers as "engine cover and plenum off".
func coverWords(c evidence.Covers) string {
	var words []string
	if len(c.Off) > 0 {
		words = append(words, strings.Join(c.Off, " and ")+" off")
	}
	if len(c.On) > 0 {
		words = append(words, strings.Join(c.On, " and ")+" back on")
	}
	return strings.Join(words, ", ")
}

// countWords says a run's counters as "cylinder 5: 23 of 1 500; the others 0 to 2".
func countWords(c evidence.Counters) string {
	of := unit.Thousands(c.Revolutions / 2)
	most := slices.Max(c.Counts)
	if most == 0 {
		return "no misfire in " + of + " on any cylinder"
	}
	if len(c.Counts) == 1 {
		return unit.Thousands(most) + " of " + of
	}
	// Those that stand out are named, the others joined.
	var high []string
	var others []int
	for i, n := range c.Counts {
		if n >= Enough && 5*n >= most || n == most && most < Enough {
			high = append(high, fmt.Sprintf("%d: %s", i+1, unit.Thousands(n)))
		} else {
			others = append(others, n)
		}
	}
	word := "cylinder "
	if len(high) > 1 {
		word = "cylinders "
	}
	s := fmt.Sprintf("%s%s of %s", word, strings.Join(high, ", "), of)
	if len(others) == 0 {
		return s
	}
	s += "; others " + unit.Thousands(slices.Min(others))
	if slices.Max(others) > slices.Min(others) {
		s += " to " + unit.Thousands(slices.Max(others))
	}
	return s
}
