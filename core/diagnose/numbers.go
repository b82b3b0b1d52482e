package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/part"
)

// number is one reading compared with what is expected. It is comparable, so that it can be
// a key.
type number struct {
	measure evidence.MeasureID
	tag     part.Tag
	// x are the deviations of the first n figures, without those in lost; ref is the standard deviation of the
	// expectation; known says that there is an expectation.
	x     deviations
	n     int
	lost  uint8
	ref   float64
	known bool
	// byRange is the deviation of the first figure from the maker's range or a rule of thumb, rangeRef the standard
	// deviation of that expectation; 0 if there is none. Only this comparison shows a fault of the whole set.
	byRange, rangeRef float64
	over              bool
	// least is true if the first figure may be higher.
	least bool
	jumps bool
	blunt bool // read in a way that proves little
	out   bool // outside the maker's range
	// dry is 1 + the moment of the dry compression that a wet one is compared with.
	dry   int
	heard evidence.ResultID
}

// deviations are those of the figures of a reading, in logarithms.
type deviations [knowledge.WaveFigures]float64

// numbers compares each reading of a moment with what is expected: from its siblings in the
// set, the maker's range or a rule of thumb, whichever is the narrowest.
func (a *Assessment) numbers(m evidence.Moment) []number {
	r := m.Entry.Readings()
	measure, _ := evidence.FindMeasure(r.Measure)
	if ok, _ := measure.Sense(a.Engine); !ok {
		return nil
	}
	var out []number
	for i, one := range r.Each {
		n := number{measure: r.Measure, tag: one.Tag, over: one.Over, jumps: one.Jumps, blunt: r.Unloaded, heard: one.Heard, least: one.AtLeast, out: r.Outside(one)}
		switch {
		case one.Over:
		case measure.ID == evidence.KVWave:
			n = a.waveNumber(*r, i)
		case measure.Snap():
			n = a.snapNumber(*r, i)
		default:
			n.x, n.n, n.ref, n.known = a.deviation(m, measure, i)
			if one.Tag != "" && n.known {
				c := comparison{a: a, set: r, measure: measure, i: i, one: one, ranged: true}
				if x, k, ref := c.figures(); k > 0 {
					n.byRange, n.rangeRef = x[0], ref
				}
			}
			n.over = measure.ID == evidence.KVSteady && one.Figures[0] < knowledge.LeastFiring
			if measure.ID == evidence.CompressionWet && n.known {
				_, n.dry, _ = a.dry(m, one.Place)
			}
		}
		out = append(out, n)
	}
	return out
}

// without is the reading compared without another moment that is left out.
func (n number) without(kept keep) number {
	if n.dry > 0 && !kept.has(n.dry-1) {
		n.x, n.n, n.ref, n.known, n.dry = deviations{}, 0, 0, false, 0
	}
	return n
}

// density is the probability density of a reading given the answer of a row.
func density(row *knowledge.NumberRow, n number) float64 {
	d := 1.0
	switch {
	case n.over:
		d = row.Over
	case !n.known:
	default:
		d = 1 - row.Over
		for k := range min(n.n, len(row.Figures)) {
			l := row.Figures[k]
			s := l.Spread
			if held := knowledge.BySiblings[n.measure]; held == 0 || held&(1<<k) != 0 {
				s = math.Hypot(s, n.ref)
			}
			z := (n.x[k] - l.Centre) / s
			switch {
			case n.lost&(1<<k) != 0:
			case k == 0 && n.least: // as likely as all above it
				d *= math.Sqrt(math.Pi/2) * math.Erfc(z/math.Sqrt2)
			default:
				d *= math.Exp(-0.5*sq(z)) / s
			}
		}
	}
	return d
}

// against is a reading as it counts for a fault. A fault that affects most of the siblings too shifts
// their median, so that the comparison does not show it.
func (a *Assessment) against(l flatItem, h *fault.Hypothesis, at part.Positions) number {
	n := l.number
	if h.IsSet() && n.tag != "" && 2*h.Set.Len() > a.Engine.Cylinders {
		n.x, n.n, n.ref, n.known = deviations{n.byRange}, 1, n.rangeRef, n.rangeRef > 0
		return n
	}
	set := a.Moments[l.moment].Entry.Readings()
	affected := h.Reaches(at)
	if affected.Len() < 3 || knowledge.BySiblings[n.measure] == 0 || set == nil {
		return n
	}
	c, _ := l.check.Place.Cylinder()
	var others engine.Set
	for _, one := range set.Each {
		if o, ok := one.Place.Cylinder(); ok && o != c && a.Engine.Polarity(o) == a.Engine.Polarity(c) {
			others |= engine.SetOf(o)
		}
	}
	if others.Len() >= 2 && 2*(others&affected).Len() > others.Len() {
		n.lost |= knowledge.BySiblings[n.measure]
	}
	return n
}

func sq(x float64) float64 { return x * x }

// weighed is the likelihood of each answer for a reading, in the order of its rows, with a floor
// for readings that no row covers.
func (n number) weighed(b *knowledge.Beliefs) []float64 {
	rows := b.Numbers(n.measure)
	of := make([]float64, len(rows))
	for i, row := range rows {
		d := density(row, n)
		switch { // a jump is a break, whatever the figure between
		case n.jumps && i > 0:
			d = knowledge.JumpsIfBad * (knowledge.RestsSound*density(rows[0], n) + (1-knowledge.RestsSound)*d)
		case n.jumps:
			d *= knowledge.JumpsIfSound
		}
		if n.heard != "" && i > 0 {
			if row.Answer == n.heard {
				d *= knowledge.HeardThere
			} else {
				d *= (1 - knowledge.HeardThere) / 2
			}
		}
		if n.heard != "" && i == 0 {
			d *= 1.0 / 30 // of a tight one nothing is heard, or the usual rings
		}
		of[i] = d
	}
	floor := 1e-4 * slices.Max(of)
	if floor == 0 {
		floor = 1e-12
	}
	for i := range of {
		of[i] += floor
	}
	return of
}

// answer is the likeliest answer for a reading of a part of which nothing else is
// known. A reading outside the maker's range is never in line.
func (n number) answer(b *knowledge.Beliefs) evidence.ResultID {
	of := n.weighed(b)
	best := 0
	for i := range of {
		if i == 0 {
			of[i] *= knowledge.MostlySound
		} else {
			of[i] *= (1 - knowledge.MostlySound) / float64(len(of)-1)
		}
		if of[i] > of[best] || best == 0 && n.out && len(of) > 1 {
			best = i
		}
	}
	return b.Numbers(n.measure)[best].Answer
}

// read is the likelihood row of a reading for a fault, with the parts where they were.
func (a *Assessment) read(l flatItem, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (k likelihoodRow, abnormal float64, ok bool) {
	id := l.number.measure
	if !knowledge.ShowsIn[id].Covers(h.Mode.ID) {
		return k, 0, false
	}
	if l.number.tag != "" {
		if !h.Includes(l.number.tag) {
			return k, 0, false
		}
	} else if feeds, _ := a.Engine.Feeds(l.check.Place); h.Reaches(at)&feeds == 0 {
		return k, 0, false
	}
	g := a.reads(l, h, at)
	k = g.row()
	switch { // what is watched from event to event shows a slight fault seldom
	case l.number.blunt:
		k.seen = knowledge.UnloadedSees
	case id == evidence.FeedDrop || id == evidence.GroundDrop: // one that comes and goes reads well between
		k.events = knowledge.WatchedIn[evidence.TriggerPulse]
	case id == evidence.KVWave && knowledge.MissesSome.Covers(h.Mode.ID):
		k.events, k.shop = knowledge.WatchedIn[evidence.Kilovolts], a.comesAndGoes(when, h)
	case id == evidence.KVWave:
		k.shop = a.comesAndGoes(when, h)
	case id == evidence.KVSteady && !knowledge.EveryEvent[evidence.Kilovolts].Covers(h.Mode.ID):
		k.events, k.shop = knowledge.WatchedIn[evidence.Kilovolts], a.comesAndGoes(when, h)
	}
	return k, 1 - g.mine[0], true
}

// reads is the likelihood of a reading given a fault.
func (a *Assessment) reads(l flatItem, h *fault.Hypothesis, at part.Positions) answerChances {
	id := l.number.measure
	g := answerChances{mine: a.Beliefs.Answers(id, h.Mode.ID), fits: a.against(l, h, at).weighed(a.Beliefs), turn: knowledge.RateAnswerOf(knowledge.MeasureTest(id), id, h.Mode.ID)}
	for i, p := range a.Beliefs.Answers(id, "") {
		g.sound += p * g.fits[i]
	}
	return g
}
