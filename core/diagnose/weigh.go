package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// inference holds what the sums over the evidence have in common, so that one entry
// can be left out without working out the others again. Everything in it is a log
// ratio: how much likelier what was seen is if a fault is there than if nothing is.
type inference struct {
	a      *Assessment
	faults []Fault
	tracks []*track
	// tables[i] is the i-th moment's counters or watch.
	tables []*runTable
	runs   map[runKey]*perRate
	codes  map[codeKey]*perRate
	items  map[flatItem][]*itemFactor
	// joined are the items of one test that are taken together, by which they are.
	joined map[string]*joined
	ids    map[flatItem]int
	// shapes are what can be troubled at each moment; shapeOf[t][t] is a track's, and
	// shapeOf[t][u] that of two that meet, or -1.
	shapes  []*shape
	shapeOf [][]int
	// dependentPairs lists the pairs whose likelihood is no product; linked[x][y] says which
	// they are. unrelated[k][t]: track t contains faults that are linked to fault k but share
	// no cylinder with it.
	dependentPairs []dependentPair
	linked         [][]bool
	unrelated      [][]bool
	// members are the faults of a track that can be one of two.
	members [][]int
	// profiles are how the kinds of fault behave after what the driver said, whose chance is told.
	profiles *statedProfiles
	pStated  float64
	oneRates map[[2]*perRate]float64
	// logPrior is the log of each fault's share.
	logPrior []float64
	// pairFactor is what the share of a pair is of the product of its faults' shares.
	pairFactor float64
}

// shape is which cylinders are affected when the job came in, and at each moment.
type shape struct {
	first   engine.Set
	at      []engine.Set
	failing int // index into FailingConditions; of two faults the smaller
}

// oneRate is that of two severities, worked out once.
func (w *inference) oneRate(x, y *perRate) float64 {
	key := [2]*perRate{x, y}
	sum, ok := w.oneRates[key]
	if !ok {
		sum = oneRate(x, y)
		w.oneRates[key] = sum
	}
	return sum
}

type runKey struct {
	moment   int
	affected engine.Set
}

type codeKey struct {
	known    codesKnown
	affected engine.Set
	history  bool
}

// perRate holds one figure for each rate of the grid.
type perRate [rates]float64

func addTo(sum, more *perRate) {
	for r := range sum {
		sum[r] += more[r]
	}
}

// itemFactor is what one item says of a fault that bears on it: the log ratio at each
// rate, and how much the fault shows there: of two the one that shows more counts.
type itemFactor struct {
	// logRatio is that of the item alone.
	logRatio perRate
	odd      float64
	// shop says that the item was asked in the shop, where a fault may not show at all: it
	// does so in all that is asked there or in nothing. If it does, the log ratio is told;
	// elsewhere told is ratio.
	shop       bool
	logIfShown perRate
	// inverse is e to the minus told.
	inverse perRate
}

// newItemFactor is what a row says; certainty is that of the witness.
func newItemFactor(row likelihoodRow, more, odd float64, certainty evidence.Certainty) *itemFactor {
	s := &itemFactor{odd: odd, shop: row.shop}
	for r, rate := range hit {
		s.logIfShown[r] = row.logRatioIfShown(rate) + more
	}
	mixUninformative(&s.logIfShown, certainty)
	s.finish()
	return s
}

// finish fills in the rest from what is told.
func (s *itemFactor) finish() {
	s.logRatio = s.logIfShown
	for r, x := range s.logIfShown {
		s.inverse[r] = math.Exp(-x)
		if s.shop {
			s.logRatio[r] = logMix(1-inTheShop, 0, inTheShop, x)
		}
	}
}

func newInference(a *Assessment) *inference {
	w := &inference{a: a, tables: make([]*runTable, len(a.Moments)), runs: map[runKey]*perRate{}, codes: map[codeKey]*perRate{}, items: map[flatItem][]*itemFactor{}, joined: map[string]*joined{}, ids: map[flatItem]int{}, oneRates: map[[2]*perRate]float64{}}
	w.profiles = &statedProfiles{by: a.Beliefs, said: a.said(), known: map[[2]any]*statedProfile{}}
	w.faults, w.tracks = faults(a.Engine, a.Complaint, w.profiles, a.Moments)
	for k := range w.faults {
		w.pStated += w.faults[k].prior
	}
	for k := range w.faults {
		w.faults[k].prior /= w.pStated
	}
	for i := range a.Moments {
		if a.counts(i) {
			w.tables[i] = a.runTable(i)
		}
	}
	w.shape()
	w.findDependentPairs()
	return w
}

// shape finds what the tracks, and those that meet, trouble at each moment.
func (w *inference) shape() {
	known := map[string]int{}
	var key []byte
	find := func(of ...*track) int {
		s := &shape{at: make([]engine.Set, len(w.a.Moments)), failing: of[0].failing}
		for _, t := range of {
			s.first |= t.affected[0]
			s.failing = min(s.failing, t.failing)
			for i, m := range w.a.Moments {
				s.at[i] |= t.at(i, m.Epoch)
			}
		}
		key = append(key[:0], byte(s.failing), byte(s.first>>8), byte(s.first))
		for i, set := range s.at {
			if w.tables[i] == nil && w.a.Moments[i].Entry.Codes == nil {
				continue
			}
			key = append(key, byte(set>>8), byte(set))
		}
		i, ok := known[string(key)]
		if !ok {
			i = len(w.shapes)
			known[string(key)] = i
			w.shapes = append(w.shapes, s)
		}
		return i
	}
	n := len(w.tracks)
	w.shapeOf = make([][]int, n)
	cells := make([]int, n*n)
	for i, t := range w.tracks {
		w.shapeOf[i] = cells[i*n : (i+1)*n]
		for k, o := range w.tracks[:i] {
			w.shapeOf[i][k] = -1
			if t.meets(o) {
				w.shapeOf[i][k] = find(t, o)
			}
			w.shapeOf[k][i] = w.shapeOf[i][k]
		}
		w.shapeOf[i][i] = find(t)
	}
}

// run is the log ratio of the i-th moment's run when some cylinders are affected.
func (w *inference) run(i int, affected engine.Set) *perRate {
	key := runKey{i, affected}
	lik, ok := w.runs[key]
	if !ok {
		lik = &perRate{}
		if affected != 0 {
			*lik = w.tables[i].ratio(affected)
			mixUninformative(lik, w.a.Moments[i].Entry.Certainty)
		}
		w.runs[key] = lik
	}
	return lik
}

// mixUninformative allows for a witness who may have told nothing.
func mixUninformative(lik *perRate, c evidence.Certainty) {
	empty := c.Empty()
	for r, x := range lik {
		lik[r] = logMix(1-empty, x, empty, 0)
	}
}

// running is the log ratio, at each rate, of all the runs and codes that are kept,
// for what a shape troubles, and the log chance that no random misfire code was set
// on its account.
func (w *inference) running(t *shape, s *scope) (sum, noRandom perRate) {
	var group perRate
	for _, g := range s.conditions {
		clear(group[:])
		some := false
		for _, i := range g.moments {
			if t.at[i] != 0 {
				addTo(&group, w.run(i, t.at[i]))
				some = true
			}
		}
		if some {
			g.levels[t.failing].shows(&group)
			addTo(&sum, &group)
		}
	}
	for k, c := range s.codes {
		affected := t.at[c.moment]
		if c.history {
			affected = t.first
		}
		if affected == 0 {
			continue
		}
		key := codeKey{c.known, affected, c.history}
		lik, ok := w.codes[key]
		if !ok {
			lik = &perRate{}
			*lik = logCodeLikelihood(c.known, affected)
			w.codes[key] = lik
		}
		addTo(&sum, lik)
		if k == 0 {
			noRandom = logRandomCode(c.known, w.a.Engine, affected)
		}
	}
	return sum, noRandom
}

// item is what one finding, trim, check or circuit code says of each fault; nil for
// those that do not bear on it.
func (w *inference) item(l flatItem) []*itemFactor {
	of, ok := w.items[l]
	if ok {
		return of
	}
	of = make([]*itemFactor, len(w.faults))
	type key struct {
		row  any
		more float64
	}
	same := map[key]*itemFactor{} // many faults show alike
	certainty := w.a.Moments[l.moment].Entry.Certainty
	for k := range w.faults {
		row, more, odd, ok := w.a.bears(l, &w.faults[k])
		if !ok {
			continue
		}
		have := same[key{row, more}]
		if have == nil {
			have = newItemFactor(row, more, odd, certainty)
			same[key{row, more}] = have
		}
		of[k] = have
	}
	w.items[l] = of
	return of
}

// likelihoodRow is a row of a table with the answer that came: its log ratio to what a
// sound engine answers, by the misfire rate.
type likelihoodRow struct {
	odds, sound float64 // chance of the answer if the fault shows, and without it
	// seldom and often are more of it, of what misfires now and then and of what nearly always does, which by tells.
	seldom, often float64
	by            Tally
	still         float64 // and if it is there and does not show; 0 is as without it
	events        int     // that were watched: few show a slight fault; 0 needs none
	seen          float64 // chance that this test shows it at all
	shop          bool    // asked in the shop, where the fault may not show in anything
}

// logRatioIfShown is its log ratio if the fault shows where it was asked.
func (k likelihoodRow) logRatioIfShown(rate float64) float64 { return math.Log(k.ratioIfShown(rate)) }

// ratio is the ratio itself, whether the fault shows there or not.
func (k likelihoodRow) ratio(rate float64) float64 {
	if k.shop {
		return (1 - inTheShop) + inTheShop*k.ratioIfShown(rate)
	}
	return k.ratioIfShown(rate)
}

// ratioIfShown is the ratio if the fault shows where it was asked.
func (k likelihoodRow) ratioIfShown(rate float64) float64 {
	odds := k.odds
	if k.seldom+k.often > 0 {
		second := k.by.of(rate)
		odds += (1-second)*k.seldom + second*k.often
	}
	return k.mixUnseen(odds/k.sound, rate)
}

// mixUnseen is that if it shows so many times mixUnseen often mixUnseen on a sound one.
func (k likelihoodRow) mixUnseen(times, rate float64) float64 {
	f := k.seen
	if k.events > 0 {
		f *= -math.Expm1(float64(k.events) * math.Log1p(-rate))
	}
	if k.still > 0 {
		return (1-f)*k.still/k.sound + f*times
	}
	return (1 - f) + f*times
}

// scope is the moments that count in one sum.
type scope struct {
	conditions []runGroup
	codes      []codeEpoch
	items      [][]*itemFactor
	// tests are those of the items that are answers of one test, and joint says which they are.
	tests []*joined
	joint []bool
}

// runGroup is the runs in one condition: the fault shows in all of them or in none.
type runGroup struct {
	moments []int
	levels  []*levels // by failing condition
}

func (w *inference) scope(kept keep) *scope {
	s := &scope{codes: w.a.codeEpochs(kept)}
	at := map[evidence.Condition]int{}
	for i, t := range w.tables {
		if t == nil || !kept(i) {
			continue
		}
		when := asMuch(w.a.Moments[i].Entry.Condition)
		g, ok := at[when]
		if !ok {
			g = len(s.conditions)
			at[when] = g
			s.conditions = append(s.conditions, runGroup{levels: showing(w.profiles.said, when)})
		}
		s.conditions[g].moments = append(s.conditions[g].moments, i)
	}
	items := w.a.flatItems(kept)
	for _, l := range items {
		s.items = append(s.items, w.item(l))
	}
	w.together(s, items)
	return s
}
