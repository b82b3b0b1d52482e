package plan

import (
	"cmp"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
)

// valuation compares steps by expected wasted time, in minutes: work, parts and wrong verdicts
// that do not end the misfire. The right repair takes the same time whatever is done first, and is left out.
//
// The wasted time from some probabilities on is estimated as the cost of checking units one
// after the other, in order of probability over cost, until the faulty one is found. Checking a unit is the work
// that its gates still need. This is exact for one fault and independent perfect checks (Simon and Kadane 1975;
// Heckerman, Breese and Rommelse 1995, both from memory). A check fails with probability mistaken and then leads
// to a wasted repair. The search looks two steps ahead.
type valuation struct {
	// p is the probability of each joint hypothesis that is not left out.
	p      []float64
	joints []*diagnose.JointHypothesis
	// units are the suspects of each joint hypothesis, by index; the second is -1 for a single
	// fault.
	units [][2]int
	// confirm is the minutes of work that a unit's gates still need, and vain the cost of
	// repairing the unit when it is not at fault, by suspect.
	confirm, vain []float64
	// gates are those of each suspect that is not left out.
	gates   [][]gate.Gate
	scratch scratch
}

type scratch struct {
	mass []float64
	// wrong is the cost of beginning with a unit that is not at fault, and ratio its
	// probability over that cost.
	wrong, ratio []float64
	rank         []int
	order        []int
}

// Bounds of the valuation: joint hypotheses less likely than leastJoint are left out, and each
// unit after the first mostUnits costs beyond minutes more. The second step is one
// of the SecondSteps best first steps, after an outcome with a probability of at least leastOutcome.
const (
	leastJoint   = 3e-4
	mostUnits    = 16
	beyond       = 180.0
	SecondSteps  = 5
	leastOutcome = 0.04
	// mistaken is the probability that a check condemns a sound unit (judgement).
	mistaken = 0.15
)

func newValuation(a *diagnose.Assessment, shop Shop) *valuation {
	r := &valuation{confirm: make([]float64, len(a.Suspects)), vain: make([]float64, len(a.Suspects)), gates: make([][]gate.Gate, len(a.Suspects))}
	total := 0.0
	done := settled(a)
	for i := range a.JointHypotheses {
		w := &a.JointHypotheses[i]
		if w.P < leastJoint {
			continue
		}
		u := [2]int{w.Faults[0].Suspect, -1}
		if len(w.Faults) == 2 && w.Faults[1].Suspect != u[0] {
			u[1] = w.Faults[1].Suspect
		}
		switch { // what has been put right costs no more
		case u[1] >= 0 && done[a.Suspects[u[0]].Key()]:
			u = [2]int{u[1], -1}
		case u[1] >= 0 && done[a.Suspects[u[1]].Key()]:
			u[1] = -1
		}
		r.joints, r.units, r.p = append(r.joints, w), append(r.units, u), append(r.p, w.P)
		total += w.P
	}
	for i := range r.p {
		r.p[i] /= total
	}
	for k, s := range a.Suspects {
		access := 0.0
		if s.Real() {
			_, access = a.Engine.Access(s.Place, a.Off)
		}
		r.vain[k] = shop.InVain(a.Beliefs, s.Unit, access)
		if s.P < leastJoint || !s.Real() {
			continue
		}
		r.gates[k] = gate.Of(a, s)
		for _, g := range r.gates[k] {
			if !g.Met {
				r.confirm[k] += gateMinutes(g, a, s)
			}
		}
	}
	n := len(a.Suspects)
	r.scratch = scratch{make([]float64, n), make([]float64, n), make([]float64, n), make([]int, n), make([]int, 0, n)}
	return r
}

// toGo is the expected wasted time from weights of the joint hypotheses, times the sum of the weights, which need
// not be 1.
func (r *valuation) toGo(p, confirm []float64, units [][2]int) (cost float64) {
	s := &r.scratch
	clear(s.mass)
	total := 0.0
	for i, q := range p {
		total += q
		s.mass[units[i][0]] += q
		if u := units[i][1]; u >= 0 {
			s.mass[u] += q
		}
	}
	if total <= 0 {
		return 0
	}
	s.order = s.order[:0]
	for u, m := range s.mass {
		s.rank[u] = mostUnits
		if m > 1e-3*total {
			s.order = append(s.order, u)
			s.wrong[u] = confirm[u] + mistaken*r.vain[u]
			if confirm[u] == 0 { // nothing is left but to fit it
				s.wrong[u] = r.vain[u]
			}
			s.ratio[u] = m / s.wrong[u]
		}
	}
	slices.SortFunc(s.order, func(x, y int) int {
		switch {
		case s.ratio[x] > s.ratio[y]:
			return -1
		case s.ratio[x] < s.ratio[y]:
			return 1
		}
		return x - y
	})
	if len(s.order) > mostUnits {
		s.order = s.order[:mostUnits]
	}
	var done, partly [mostUnits]float64 // joint hypotheses that are right at that rank, and those half right
	for k, u := range s.order {
		s.rank[u] = k
	}
	for i, q := range p {
		x := s.rank[units[i][0]]
		if u := units[i][1]; u >= 0 {
			y := s.rank[u]
			if x > y {
				x, y = y, x
			}
			if x < mostUnits {
				partly[x] += q
			}
			x = y
		}
		if x < mostUnits {
			done[x] += q
		}
	}
	left := total
	for k, u := range s.order {
		right := done[k] + partly[k]
		cost += confirm[u]*right + s.wrong[u]*(left-right)
		left -= done[k]
	}
	return cost + max(0, left)*beyond
}

// order lists the units that may be at fault by probability over cost, the greatest first.
func (r *valuation) order() []int {
	r.toGo(r.p, r.confirm, r.units)
	return slices.Clone(r.scratch.order)
}

// fitNow is the expected wasted time when the unit at an index is repaired at once.
func (r *valuation) fitNow(u int) float64 {
	rest := slices.Clone(r.p)
	left := 0.0
	for i, of := range r.units {
		if of[0] == u || of[1] == u {
			rest[i] = 0
		}
		left += rest[i]
	}
	cost := r.toGo(rest, r.confirm, r.units)
	return left*r.vain[u] + cost
}

// option is a card with its expected wasted time.
type option struct {
	card Card
	// table is the probability of each outcome given each joint hypothesis that is not left out.
	table [][]float64
	// opens is the gate work that the card does, in minutes by suspect.
	opens map[int]float64
	// units are those of the valuation, except that a boot that the card moves with its coil
	// is renewed with the coil.
	units [][2]int
	// cost is the expected wasted time when the card is done next, in minutes.
	cost float64
	// covers are the minutes of each cover that has to come off.
	covers map[string]float64
}

// shares is the minutes that another step saves when it is done while the covers are off for this one.
func (o *option) shares(other *option) (minutes float64) {
	for name, m := range other.covers {
		if _, off := o.covers[name]; off {
			minutes += m
		}
	}
	return minutes
}

// weigh computes the expected wasted time of each card and sorts them, the best first. It returns the
// expected wasted time without any of them.
func (r *valuation) weigh(a *diagnose.Assessment, cards []Card) (options []option, without float64) {
	without = r.toGo(r.p, r.confirm, r.units)
	for _, c := range cards {
		o := option{card: c, opens: r.opens(a, &c), units: r.joined(a, &c)}
		for _, name := range c.Covers {
			if o.covers == nil {
				o.covers = map[string]float64{}
			}
			cover, _ := a.Engine.Cover(name)
			o.covers[name] = cover.Off + cover.On
		}
		for _, chance := range c.chances {
			row := make([]float64, len(r.joints))
			for i, w := range r.joints {
				row[i] = chance[w.Index]
			}
			o.table = append(o.table, row)
		}
		o.cost = c.Minutes + r.after(&o, r.p, r.confirm, r.units, nil)
		options = append(options, o)
	}
	best := func(x, y option) int { return cmp.Compare(x.cost, y.cost) }
	slices.SortStableFunc(options, best)
	second := options[:min(len(options), SecondSteps)]
	costs := make([]float64, len(options))
	for i := range options {
		costs[i] = options[i].card.Minutes + r.after(&options[i], r.p, r.confirm, r.units, second)
	}
	for i := range options {
		options[i].cost = costs[i]
	}
	slices.SortStableFunc(options, best)
	return options, without
}

// joined is the units of the joint hypotheses when a card moves a part together with another, or nil.
func (r *valuation) joined(a *diagnose.Assessment, c *Card) [][2]int {
	find := func(t part.Tag) int {
		return slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Tag == t })
	}
	var units [][2]int
	for _, along := range c.Parts {
		for _, lead := range c.Parts {
			rides := along.Tag.Kind() == engine.Boot && lead.Tag.Kind() == engine.Coil && a.Now.Where(along.Tag) == a.Now.Where(lead.Tag) && along.To == lead.To
			from, to := find(along.Tag), find(lead.Tag)
			if !rides || from < 0 || to < 0 || movedTogether(a, along.Tag) {
				continue
			}
			if units == nil {
				units = slices.Clone(r.units)
			}
			for i, u := range units {
				for k := range u {
					if u[k] == from {
						units[i][k] = to
					}
				}
				if units[i][0] == units[i][1] {
					units[i][1] = -1
				}
			}
		}
	}
	return units
}

// movedTogether reports whether a boot has moved with its coil already, so that no move can separate them any more.
func movedTogether(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Move() != nil && ridesIn(m.Entry.Move().Parts, t) })
}

// after is the expected wasted time after a step, with a second step where that pays.
func (r *valuation) after(o *option, p, confirm []float64, units [][2]int, second []option) float64 {
	if len(o.table) == 0 {
		return r.toGo(p, confirm, units)
	}
	if o.units != nil {
		units = o.units
	}
	opened := confirm
	if len(o.opens) > 0 {
		opened = slices.Clone(confirm)
		for u, minutes := range o.opens {
			opened[u] = max(0, opened[u]-minutes)
		}
	}
	sum := 0.0
	next := make([]float64, len(p))
	for _, row := range o.table {
		total := 0.0
		for i, q := range p {
			next[i] = q * row[i]
			total += next[i]
		}
		if total < 1e-6 {
			continue
		}
		cost := r.toGo(next, opened, units)
		if total >= leastOutcome {
			for k := range second {
				if second[k].card.Title == o.card.Title {
					continue
				}
				cost = min(cost, total*(second[k].card.Minutes-o.shares(&second[k]))+r.after(&second[k], next, opened, units, nil))
			}
		}
		sum += cost
	}
	return sum
}

// opens is the gate work that a card does, in minutes by suspect.
func (r *valuation) opens(a *diagnose.Assessment, c *Card) map[int]float64 {
	var out map[int]float64
	for k, gates := range r.gates {
		s := a.Suspects[k]
		for _, g := range gates {
			if !g.Met && openedBy(g, c, s) {
				if out == nil {
					out = map[int]float64{}
				}
				out[k] += gateMinutes(g, a, s)
			}
		}
	}
	return out
}

// openedBy reports whether a card is the work that a gate asks for.
func openedBy(g gate.Gate, c *Card, s diagnose.Suspect) bool {
	for _, r := range c.Parts {
		if g.Follows && r.Tag == s.Tag {
			return true
		}
		if g.Follows && s.Tag == "" && r.Tag.Home() == s.Place {
			return true
		}
	}
	if c.Test != "" && g.Test == c.Test {
		return true
	}
	for _, want := range g.Look {
		for _, item := range c.Look {
			if item.Tag == want.Tag && item.Place == want.Place {
				return true
			}
		}
	}
	return false
}

// minutes is about how long the work for a gate takes.
func gateMinutes(g gate.Gate, a *diagnose.Assessment, s diagnose.Suspect) float64 {
	_, access := a.Engine.Access(s.Place, a.Off)
	if s.Tag != "" {
		_, access = a.Engine.Access(a.Now.Where(s.Tag), a.Off)
	}
	switch {
	case g.Test != "":
		return Find(checkSteps[g.Test]).Minutes + access
	case len(g.Look) > 0 && g.Look[0].Place != "":
		return Find(LookConnector).Minutes + access
	case len(g.Look) > 0 && !g.Follows:
		return Find(LookPlugLead).Minutes/2 + access
	}
	return Find(SwapCoil).Minutes + access
}
