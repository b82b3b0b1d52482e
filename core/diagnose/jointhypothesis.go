// Package diagnose computes the posterior probability of every fault that the engine can
// have, alone and in pairs, from the evidence of a job. The computation is exact: it sums
// over the scope of each fault, over whether handling cured it, over the misfire rate, and
// over whether the fault shows in a condition. Nothing is sampled. Which cylinders a fault
// affects follows from the ignition layout and from where the parts sit. The formulas, with
// the identifiers used here, are in docs/reasoning-model.md.
package diagnose

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// Fault is one possible fault, and whether handling its item has cured it.
type Fault struct {
	Hypothesis fault.Hypothesis
	// ArisesAfter is the index of the moment whose work caused it; -1 if it was present when the job came in.
	ArisesAfter int
	// CuredAfter is the index of the moment that cured it, or -1.
	CuredAfter int
	// Spent is true when its item has been handled so often that one more time is not
	// expected to cure it.
	Spent bool
	// P is the posterior probability that it is present, alone or with another.
	P float64
	// Suspect is the index of its repair unit in the assessment's Suspects.
	Suspect int
	// prior is its prior share among single faults; before is the prior probability that
	// it is present, alone or with another. later is the probability that it came beside another one, for
	// one that handling left behind.
	prior, before, later float64
	track                int
	profile              *statedProfile
	index                int // among all faults
}

// absent reports whether the fault is not present at a moment: it has not arisen yet, or it is cured.
func (f *Fault) absent(moment int) bool {
	return moment <= f.ArisesAfter || f.CuredAfter >= 0 && moment > f.CuredAfter
}

// JointHypothesis is a set of faults taken together: one fault, or two.
type JointHypothesis struct {
	// Index is its place among the assessment's joint hypotheses.
	Index  int
	Faults []*Fault
	P      float64
	// Rates is, for each fault, the posterior over the grid of misfire rates given this
	// joint hypothesis. Two faults that affect a common cylinder share one rate.
	Rates []infer.PerRate
}

// Key names the joint hypothesis by its faults.
func (w JointHypothesis) Key() string {
	key := w.Faults[0].Hypothesis.Key()
	for _, f := range w.Faults[1:] {
		key += " + " + f.Hypothesis.Key()
	}
	return key
}

// track is the course of a fault: the cylinders that it affects after each move, until it is
// cured, and its failing condition. Faults with the same track cannot be told apart by
// running the engine.
type track struct {
	affected []engine.Set
	arises   int // index of the moment that left it behind, or -1
	cured    int // index of the moment that cured it, or -1
	failing  int // index into FailingConditions
	burst    int // index into Bursts
	// pairs is true if a fault of the track can be one of two, acceptsLater if one is a set, and later if handling caused
	// one.
	pairs, acceptsLater, later bool
}

// at is the affected cylinders at the i-th moment.
func (t *track) at(i, epoch int) engine.Set {
	if i <= t.arises || t.cured >= 0 && i > t.cured {
		return 0
	}
	return t.affected[epoch]
}

// first is the affected cylinders when the job came in.
func (t *track) first() engine.Set {
	if t.arises >= 0 {
		return 0
	}
	return t.affected[0]
}

// meets reports whether two tracks ever affect a common cylinder.
func (t *track) meets(o *track) bool {
	for k := range t.affected {
		if t.affected[k]&o.affected[k] != 0 {
			return true
		}
	}
	return false
}

// mostArising bounds the number of faults that handling can have caused. The latest work comes first.
const mostArising = 64

// faultList collects the faults of an engine, and their tracks.
type faultList struct {
	all      []Fault
	tracks   []*track
	known    map[string]int // tracks by their courses
	key      []byte
	epochs   []part.Positions
	moments  []evidence.Moment
	touching []HandledItems
}

// faults lists the faults of an engine, given what has been touched and which cylinders were seen to misfire, and their
// tracks.
func faults(e engine.Engine, c fault.Complaint, told *statedProfiles, moments []evidence.Moment, sick []fault.MisfireGroup) ([]Fault, []*track) {
	l := &faultList{known: map[string]int{}, epochs: []part.Positions{part.Home(e)}, moments: moments}
	for _, m := range moments {
		if m.Epoch == len(l.epochs) {
			l.epochs = append(l.epochs, m.At)
		}
		l.touching = append(l.touching, Handled(e, m))
	}
	hypotheses := fault.Enumerate(e, c)
	l.all = make([]Fault, 0, len(hypotheses)*3/2)
	sound := 0.0
	for _, h := range hypotheses {
		if h.Mode.Unit == fault.NoFault {
			sound += h.Prior
		}
		l.addCourses(Fault{Hypothesis: h, ArisesAfter: -1, prior: h.Prior, profile: told.of(h.Mode)})
	}
	for _, h := range fault.Sets(e, c, sick) {
		l.addCourses(Fault{Hypothesis: h, ArisesAfter: -1, prior: h.Prior, profile: told.of(h.Mode)})
	}
	before := len(l.all)
	for i := len(moments) - 1; i >= 0 && len(l.all) < before+mostArising; i-- {
		for _, h := range leftBehind(hypotheses, l.touching[i], moments[i].Entry) {
			l.addCourses(Fault{Hypothesis: h, ArisesAfter: i, prior: sound * h.Prior, later: h.Prior, profile: told.unstated(h.Mode)})
		}
	}
	return l.all, l.tracks
}

// mostMisfireGroups bounds the number of groups of cylinders that were seen to misfire.
const mostMisfireGroups = 8

// misfireGroups lists the groups of cylinders that the entries have shown to misfire, the newest last.
func (a *Assessment) misfireGroups() (all []fault.MisfireGroup) {
	add := func(s engine.Set, at part.Positions) {
		if s != 0 && !slices.ContainsFunc(all, func(t fault.MisfireGroup) bool { return t.Cylinders == s && t.At.Equal(at) }) {
			all = append(all, fault.MisfireGroup{Cylinders: s, At: at})
		}
	}
	var coded engine.Set
	var ever engine.Set // every cylinder that has misfired
	for i, m := range a.Moments {
		switch b := m.Entry.Body.(type) {
		case *evidence.Codes:
			for _, r := range b.Read {
				if c, ok := r.Code.MisfireCylinder(); ok && int(c) <= a.Engine.Cylinders {
					coded |= engine.SetOf(c)
				}
			}
			add(coded, a.home)
		case *evidence.Counters:
			if _, shown := clearlyMisfiring(*b); a.counts(i) {
				add(shown, m.At)
				ever |= shown
				add(moreThanTheirs(*b), m.At)
			}
		case *evidence.Watch:
			add(engine.SetOf(b.Cylinders...), m.At)
			ever |= engine.SetOf(b.Cylinders...)
		}
	}
	add(ever|coded, a.home)
	return all[max(0, len(all)-mostMisfireGroups):]
}

// leftBehind lists the faults that the work of an entry can have caused, with their probabilities as priors.
func leftBehind(hypotheses []fault.Hypothesis, hands HandledItems, e evidence.Entry) (all []fault.Hypothesis) {
	if e.Move() == nil && e.Renewal() == nil { // only moves and renewals cause faults
		return nil
	}
	for _, h := range hypotheses {
		if p := h.Mode.BrokenByTouch(); p > 0 && hands.Touches(h) {
			h.Prior = p
			all = append(all, h)
		}
	}
	if r := e.Renewal(); r != nil {
		for _, one := range r.Parts {
			all = append(all, fault.NewPart(one.Out, one.In, hypotheses)...)
		}
	}
	return all
}

// addCourses adds a fault several times: once for each handling that can have cured it, and once as uncured.
func (l *faultList) addCourses(f Fault) {
	h := f.Hypothesis
	affected := make([]engine.Set, len(l.epochs))
	for k, at := range l.epochs {
		affected[k] = h.Affected(at)
	}
	share, joins := f.prior*f.profile.pStated, f.later
	add := func(left float64, cured int, spent bool) {
		f.CuredAfter, f.Spent, f.prior, f.later = cured, spent, share*left, joins*left
		f.track, f.index = l.on(&track{affected, f.ArisesAfter, cured, f.profile.failing, knowledge.BurstOf(&h), false, false, false}), len(l.all)
		l.tracks[f.track].pairs = l.tracks[f.track].pairs || h.Pairs()
		l.tracks[f.track].acceptsLater = l.tracks[f.track].acceptsLater || h.IsSet()
		l.tracks[f.track].later = l.tracks[f.track].later || f.ArisesAfter >= 0
		l.all = append(l.all, f)
	}
	left, tries, most := 1.0, 0, tried(h.Mode) // left of its share, not cured
	for i, t := range l.touching {
		if i <= f.ArisesAfter {
			continue
		}
		p := 0.0
		switch {
		case l.moments[i].Entry.Fit() != nil && fitted(l.moments[i], h):
			p = knowledge.FitCures
		case tries < most && t.Touches(h):
			p = h.Mode.CuredByTouch
			tries++
		}
		if p > 0 {
			add(left*p, i, true)
			left *= 1 - p
		}
	}
	add(left, -1, tries >= most)
}

// on returns the index of a track.
func (l *faultList) on(t *track) int {
	l.key = append(l.key[:0], byte(t.arises), byte(t.arises>>8), byte(t.cured), byte(t.cured>>8), byte(t.failing), byte(t.burst))
	for _, s := range t.affected {
		l.key = append(l.key, byte(s>>8), byte(s))
	}
	i, ok := l.known[string(l.key)]
	if !ok {
		i = len(l.tracks)
		l.known[string(l.key)] = i
		l.tracks = append(l.tracks, t)
	}
	return i
}

// tried is how often handling counts as a chance to cure a fault (C; judgement). It is up to
// three times for a fault that handling often cures. For others it is twice: when the part on
// which it sits came off, and when it was moved itself.
func tried(m fault.Mode) int {
	switch {
	case m.CuredByTouch == 0:
		return 0
	case m.CuredByTouch < 0.3:
		return 2
	}
	return knowledge.MostTries
}

// fitted reports whether a repair was made at the place of a fault.
func fitted(m evidence.Moment, h fault.Hypothesis) bool {
	return h.Tag == "" && evidence.UnitKey(h.Unit(), h.Place) == m.Entry.Fit().Unit
}

// HandledItems are the parts and places that the work of an entry touched.
type HandledItems struct {
	tags  []part.Tag
	sites []engine.Item
	// feeds is the cylinders whose own parts were handled; at says where they sat.
	feeds engine.Set
	at    part.Positions
}

// Handled is what a moment's work touched: what was moved, renewed or inspected, and
// what has to come off for that.
func Handled(e engine.Engine, m evidence.Moment) HandledItems {
	h := HandledItems{at: m.Before}
	take := func(k engine.Kind, p engine.Place) {
		feeds, ok := e.Feeds(p)
		if !ok {
			return
		}
		if feeds.Len() == 1 {
			h.feeds |= feeds
		}
		h.sites = append(h.sites, e.Disturbs(k, p)...)
	}
	if m.Entry.Move() != nil {
		for _, r := range m.Entry.Move().Parts {
			h.tags = append(h.tags, r.Tag)
			take(r.Tag.Kind(), m.Before.Where(r.Tag))
			take(r.Tag.Kind(), r.To)
		}
	}
	if r := m.Entry.Renewal(); r != nil {
		for _, one := range r.Parts {
			h.tags = append(h.tags, one.Out, one.In)
			take(one.Out.Kind(), one.Place)
		}
	}
	if m.Entry.Look() != nil && !m.Entry.Look().Moving {
		for _, item := range m.Entry.Look().Items {
			if item.Tag != "" {
				h.tags = append(h.tags, item.Tag)
				take(item.Tag.Kind(), m.At.Where(item.Tag))
				continue
			}
			h.sites = append(h.sites, engine.Item{Kind: engine.Connector, Place: item.Place})
		}
	}
	return h
}

// Touches reports whether the work touched the item of a fault.
func (t HandledItems) Touches(h fault.Hypothesis) bool {
	if h.IsSet() {
		return false
	}
	if h.Tag == "" {
		return slices.ContainsFunc(t.sites, func(s engine.Item) bool { return s.Kind == h.Mode.Unit && s.Place == h.Place })
	}
	if slices.Contains(t.tags, h.Tag) {
		return true
	}
	if h.Tag.Kind() == engine.Plug {
		return false // pulling what sits on it neither tightens nor dries a plug
	}
	feeds := t.at.Feeds(h.Tag)
	return len(feeds) == 1 && t.feeds.Has(feeds[0])
}
