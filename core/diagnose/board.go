package diagnose

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/floats"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// reading is one plug that was read in full, with the figures it is compared with.
type reading struct {
	look plug.Look
	// gap is ln(gap / expected gap), ref the standard deviation of the expectation, and measured says that there
	// is a gap at all.
	gap, ref float64
	measured bool
	// wet is the weight of a tip wet with fuel, and oil that of one wet with oil.
	wet, oil float64
	// by are the knowledge tables in use.
	by *knowledge.Beliefs
}

// chance is the probability of the reading on a plug that stands in some relation to the fault, in one kind of set.
func (r reading) chance(set int, s stand) float64 {
	b, misfires := s.how, s.misfires
	p := 1.0
	for _, a := range plug.Aspects {
		i := a.Index(r.look.At(a))
		if i < 0 {
			continue
		}
		row := r.by.Sign(set, b, misfires, a.ID)
		of := row[i]
		if a.ID == "nose" && r.look.Deposit != "" {
			of = r.nose(set, b, misfires, of)
		}
		if a.ID == "wet" { // where it tells nothing, all are as likely to be wet
			told := min(r.wet, r.oil)
			if r.look.Wet == plug.Oil {
				told = r.oil
			}
			of = told*of + (1-told)*knowledge.WetAnyway[i]
		}
		p *= of
	}
	if r.measured {
		l, ok := r.by.Gap(b)
		if !ok || b == knowledge.Bystander || s.alike && r.ref == knowledge.GapBySiblings {
			l, _ = r.by.Gap(knowledge.Bystander)
			l.Centre += knowledge.Sets[set].Gap
		}
		s := math.Hypot(l.Spread, r.ref)
		// A reading is written down wrong now and then.
		p *= 0.997*math.Exp(-0.5*sq((r.gap-l.Centre)/s))/s + 0.003
	}
	return p
}

// nose returns the probability of the nose's colour given the deposit, relative to its
// probability alone. Black is mostly soot, so it is rare without soot.
func (r reading) nose(set int, b knowledge.Bearing, misfires bool, alone float64) float64 {
	under := (1 - knowledge.BlackUnderSoot) / 4
	if r.look.Nose == plug.Black {
		under = knowledge.BlackUnderSoot
	}
	if r.look.Deposit == plug.Soot {
		return under
	}
	deposit, _ := plug.FindAspect("deposit")
	soot := r.by.Sign(set, b, misfires, "deposit")[deposit.Index(plug.Soot)]
	return max(alone-under*soot, 0.1*alone) / (1 - soot)
}

// board is the plugs that were read in full at one moment.
type board struct {
	of   []evidence.Seen
	read []reading
	// others[i][s] is the probability of kind of set s given all plugs but the i-th.
	others [][]float64
	// cells holds the probabilities of each plug's reading and how its relations to the faults; both are filled
	// when they are first needed.
	cells []map[stand]*boardCell
	how   map[int][]knowledge.Bearing
}

// boardCell is the probability of a plug's reading in one relation to a fault: in each kind of
// set, its logarithm, and the mean over the kinds of set given the other plugs.
type boardCell struct {
	each, log []float64
	mean      float64
}

// stand is the relation of a plug to a fault. misfires is true if its cylinder misfires, alike if the fault is on most
// plugs, so that a comparison of gaps does not show it.
type stand struct {
	how             knowledge.Bearing
	misfires, alike bool
}

// cell is the boardCell of the i-th plug in one relation to a fault.
func (b *board) cell(i int, key stand) *boardCell {
	c := b.cells[i][key]
	if c == nil {
		c = &boardCell{each: make([]float64, len(knowledge.Sets)), log: make([]float64, len(knowledge.Sets))}
		for s, w := range b.others[i] {
			c.each[s] = b.read[i].chance(s, key)
			c.log[s] = math.Log(c.each[s])
			c.mean += w * c.each[s]
		}
		b.cells[i][key] = c
	}
	return c
}

// boardOf makes the board of a moment. Gaps are compared with the maker's range, without one with the other
// plugs of the set, without those with plugs in general.
func (a *Assessment) boardOf(m evidence.Moment) *board {
	look := m.Entry.Look()
	if look == nil {
		return nil
	}
	b := &board{}
	var looks []plug.Look
	for _, item := range look.Items {
		if !item.Plug.Empty() {
			b.of, looks = append(b.of, item), append(looks, item.Plug)
		}
	}
	if len(b.of) == 0 {
		return nil
	}
	spec := look.Spec()
	for i, item := range b.of {
		r := reading{by: a.Beliefs, look: item.Plug, wet: look.Ran.Wet(), oil: 1, measured: item.Plug.GapMM > 0}
		if a.oiledBefore(m, item) {
			r.oil = knowledge.Oiled
		}
		if r.measured {
			against, ref := knowledge.UsualGap, knowledge.GapByThumb
			if siblings := plug.Siblings(looks, i); siblings > 0 {
				against, ref = siblings, knowledge.GapBySiblings
			}
			if middle := spec.Middle(); middle > 0 {
				against, ref = middle, knowledge.GapByMaker
			}
			r.gap, r.ref = math.Log(item.Plug.GapMM/against), ref
		}
		b.read = append(b.read, r)
	}
	each := make([][]float64, len(b.read))
	for i, r := range b.read {
		each[i] = make([]float64, len(knowledge.Sets))
		for s := range knowledge.Sets {
			each[i][s] = r.chance(s, stand{how: knowledge.Bystander})
		}
	}
	weigh := func(but int) []float64 {
		w := make([]float64, len(knowledge.Sets))
		sum := 0.0
		for s := range knowledge.Sets {
			w[s] = knowledge.Sets[s].Share
			for i := range each {
				if i != but {
					w[s] *= each[i][s]
				}
			}
			sum += w[s]
		}
		for s := range w {
			w[s] /= sum
		}
		return w
	}
	b.how = map[int][]knowledge.Bearing{}
	for i := range b.read {
		b.others, b.cells = append(b.others, weigh(i)), append(b.cells, map[stand]*boardCell{})
	}
	return b
}

// oiledBefore reports whether oil was poured into the cylinder of a plug before it was looked at.
func (a *Assessment) oiledBefore(m evidence.Moment, item evidence.Seen) bool {
	feeds := engine.SetOf(m.At.Feeds(item.Tag)...)
	for _, o := range a.Moments {
		if o.Entry.Seq == m.Entry.Seq {
			return false
		}
		if r := o.Entry.Readings(); r != nil && r.Measure == evidence.CompressionWet {
			for _, one := range r.Each {
				if at, _ := a.Engine.Feeds(one.Place); at&feeds != 0 {
					return true
				}
			}
		}
	}
	return false
}

// standing is the relation of a plug to a fault with the parts at some positions.
func standing(item evidence.Seen, h *fault.Hypothesis, at part.Positions, ran []part.Positions, cured bool) knowledge.Bearing {
	feeds := engine.SetOf(at.Feeds(item.Tag)...)
	switch {
	case h.Includes(item.Tag):
	case knowledge.MarkPlug.Covers(h.Mode.ID) && h.Served(at)&feeds != 0:
		return knowledge.UnderTrack
	case h.Mode.Unit == engine.Well && h.Affected(at)&feeds != 0 && !cured:
		return knowledge.UnderWet
	}
	return bearing(evidence.Seen{Tag: item.Tag}, h, at, ran, cured)
}

// stands are the relations of the plugs of a board to a fault at its moment.
func (a *Assessment) stands(f *Fault, moment int) []knowledge.Bearing {
	b := a.boards[moment]
	how, known := b.how[f.index]
	if known {
		return how
	}
	at, ran, cured := a.Moments[moment].At, a.ran(moment, f), f.CuredAfter >= 0 && moment > f.CuredAfter
	for _, item := range b.of {
		how = append(how, standing(item, &f.Hypothesis, at, ran, cured))
	}
	b.how[f.index] = how
	return how
}

// plugRead is the likelihood factor of one plug that was read in full, for one fault.
func (a *Assessment) plugRead(l flatItem, f *Fault) (row likelihoodRow, abnormal float64, ok bool) {
	b := a.boards[l.moment]
	i := slices.IndexFunc(b.of, func(s evidence.Seen) bool { return s.Tag == l.seen.Tag })
	how := a.stands(f, l.moment)[i]
	if how == knowledge.Bystander {
		return row, 0, false
	}
	now := a.standsNow(f, l.moment, i)
	still := now
	still.misfires = false
	row = likelihoodRow{odds: b.cell(i, now).mean, sound: b.cell(i, stand{how: knowledge.Bystander}).mean, still: b.cell(i, still).mean, seen: 1, events: knowledge.LeaveTrace}
	return row, 1 - row.sound/(row.odds+row.sound), true
}

// standsNow is the relation of the i-th plug of a board to a fault, at the moment of the board.
func (a *Assessment) standsNow(f *Fault, moment, i int) stand {
	h, how := &f.Hypothesis, a.stands(f, moment)[i]
	s := stand{how: how, misfires: how != knowledge.Bystander}
	if h.IsSet() {
		tag := a.boards[moment].of[i].Tag
		feeds := engine.SetOf(a.Moments[moment].At.Feeds(tag)...)
		s.misfires = s.misfires && h.Affected(a.Moments[moment].At)&feeds != 0
		s.alike = 2*h.Set.Len() > a.Engine.Cylinders
	}
	return s
}

// setRead is the likelihood factor of the plugs of a board together, beyond the product of their own factors:
// a fault that marks several plugs makes their common look more likely.
func (a *Assessment) setRead(l flatItem, f *Fault) (row likelihoodRow, ok bool) {
	b := a.boards[l.moment]
	how := a.stands(f, l.moment)
	n := 0
	for _, h := range how {
		if h != knowledge.Bystander {
			n++
		}
	}
	if n < 2 {
		return row, false
	}
	now := make([]stand, len(b.of))
	for i := range b.of {
		now[i] = a.standsNow(f, l.moment, i)
	}
	joint, sound := make([]float64, len(knowledge.Sets)), make([]float64, len(knowledge.Sets))
	for s, set := range knowledge.Sets {
		joint[s], sound[s] = math.Log(set.Share), math.Log(set.Share)
		for i := range b.read {
			joint[s] += b.cell(i, now[i]).log[s]
			sound[s] += b.cell(i, stand{how: knowledge.Bystander}).log[s]
		}
	}
	more := floats.LogSumExp(joint) - floats.LogSumExp(sound)
	for i := range b.of {
		if how[i] != knowledge.Bystander {
			more -= math.Log(b.cell(i, now[i]).mean / b.cell(i, stand{how: knowledge.Bystander}).mean)
		}
	}
	row = likelihoodRow{odds: math.Exp(more), sound: 1, seen: 1, events: knowledge.LeaveTrace}
	if f.Hypothesis.IsSet() { // the parts of a set look alike, whether they misfire or not
		row.events = 0
	}
	return row, true
}

// heldBeside is the likelihood factor of comparing a plug with the listed one, for one fault.
func heldBeside(item evidence.Seen, f *Fault) (row likelihoodRow, abnormal float64, ok bool) {
	if !f.Hypothesis.Includes(item.Tag) || f.Hypothesis.Mode.ID != fault.PlugWrong {
		return row, 0, false
	}
	row = likelihoodRow{odds: knowledge.BesideShows, sound: knowledge.BesideWrong, seen: 1}
	if item.Plug.Lettering == plug.Right {
		row.odds, row.sound = 1-row.odds, 1-row.sound
	}
	return row, knowledge.BesideShows, true
}
