package diagnose

import (
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/trouble"
)

// flatItem is one finding, trim, check or circuit code that is weighed. It is comparable, so that it can be a key.
type flatItem struct {
	moment  int
	seen    evidence.Seen
	trim    trouble.Trim
	check   evidence.Check
	circuit circuitRead
	// number is a reading; check then has its test, its place and its likeliest answer. sparks is the end that a
	// spark test was made at and what it proves.
	number number
	sparks tester
	// covered is the set of measures, as bits in their order, that were read at the same place: for the faults
	// that a measure shows, its figures replace the plain answer.
	covered uint32
	// set is true if the item is all plugs of a board together.
	set bool
	// with are the parts that the test was made through.
	with string
	// before is 1 + the moment of the same test of the same place with other parts in it, 0
	// for none. A fault with the same relation to both tests adds nothing by the second.
	before int
}

// tester is how a spark was tested: where it was taken, and the kilovolts that its gap needs.
type tester struct {
	from      engine.Kind
	low, high float64
}

// Checked is an answer of a test: as it was given, or as figures or sparks give it.
type Checked struct {
	Moment int
	Check  evidence.Check
	At     part.Positions
	item   flatItem
}

// checks lists all answers of a moment.
func (a *Assessment) checks(i int) []Checked {
	m := a.Moments[i]
	answers := kinds[m.Entry.Kind()].answers
	if answers == nil {
		return nil
	}
	var out []Checked
	for _, item := range answers(a, m) {
		item.moment = i
		out = append(out, Checked{i, item.check, m.At, item})
	}
	return out
}

// flatItems lists what is weighed besides runs and codes. Of several looks at one item, or
// of a test made again, it takes the one that tells most, since a repetition adds
// little; of fuel trims the last of each bank.
func (a *Assessment) flatItems(kept keep) []flatItem {
	var out []flatItem
	for _, c := range a.codeEpochs(kept) {
		for _, row := range c.known.circuitRows(a.Engine, c.history) {
			out = append(out, flatItem{moment: c.moment, circuit: row})
		}
	}
	at := map[flatItem]int{} // by what is asked
	// Of two that tell as much the first stays.
	take := func(asked, item flatItem, tells func(flatItem) float64) {
		have, ok := at[asked]
		switch {
		case !ok:
			at[asked] = len(out)
			out = append(out, item)
		case tells(item) > tells(out[have]):
			out[have] = item
		}
	}
	for i, m := range a.Moments {
		if !kept.has(i) {
			continue
		}
		of := kinds[m.Entry.Kind()]
		for _, c := range a.answered[i] {
			c.item.number = c.item.number.without(kept)
			take(a.question(c), c.item, a.tells)
		}
		if of.items != nil {
			of.items(a, i, take)
		}
		if of.trims != nil {
			for _, t := range of.trims(m.Entry) {
				take(flatItem{trim: trouble.Trim{Bank: t.Bank}}, flatItem{moment: i, trim: t}, newest)
			}
		}
	}
	out = measuredFirst(abnormalFirst(out))
	repeated(out)
	return out
}

// abnormalFirst drops the sound looks at items that also have an abnormal finding.
func abnormalFirst(items []flatItem) []flatItem {
	look := func(l flatItem) bool {
		return l.seen.Finding != "" && l.check.Test == "" && l.with == "" && !l.set && l.seen.Plug.Empty()
	}
	return slices.DeleteFunc(items, func(l flatItem) bool {
		return look(l) && !l.seen.Finding.Abnormal() && slices.ContainsFunc(items, func(o flatItem) bool {
			return look(o) && o.seen.Tag == l.seen.Tag && o.seen.Place == l.seen.Place && o.seen.Finding.Abnormal()
		})
	})
}

// lookTells ranks the looks at one item: first one that found something abnormal, then the one
// with more signs read.
func lookTells(f flatItem) float64 {
	rank := 0.0
	if f.seen.Finding.Abnormal() {
		rank = 2
	}
	for _, a := range plug.Aspects {
		if f.seen.Plug.At(a) != "" {
			rank += 1 / float64(2*len(plug.Aspects))
		}
	}
	return rank
}

// tells ranks the answers to one question: first an abnormal one, then one in the failing
// condition, under load, over the widest gap, or with more figures.
func (a *Assessment) tells(f flatItem) float64 {
	rank := a.seenIn(a.Moments[f.moment].Entry.Condition) + f.sparks.low/1000 + float64(f.number.n)/100
	if f.abnormalAnswer() {
		rank = 10
	}
	if f.number.blunt {
		rank--
	}
	return rank
}

// question identifies what was asked: the test, the place, the part that was in it, and the
// figure that was read.
func (a *Assessment) question(c Checked) flatItem {
	asked := flatItem{check: evidence.Check{Test: c.Check.Test}, number: number{measure: group[c.item.number.measure]}}
	if c.item.number.tag != "" {
		asked.with = string(c.item.number.tag)
		return asked
	}
	if t, ok := evidence.FindTest(c.Check.Test); !ok || t.Of == evidence.OfItem {
		asked.check.Place = c.Check.Place
		asked.with = a.Through(t, c.Check.Place, c.At)
	}
	asked.sparks.from = c.item.sparks.from
	return asked
}

// group names measures that show the same by one of them: the second adds nothing.
var group = func() map[evidence.MeasureID]evidence.MeasureID {
	m := map[evidence.MeasureID]evidence.MeasureID{evidence.StarterCurrent: evidence.CompressionDry, evidence.PrimaryRamp: evidence.CoilPrimary, evidence.KVWave: evidence.KVSteady}
	for _, row := range evidence.Measures {
		if m[row.ID] == "" {
			m[row.ID] = row.ID
		}
	}
	return m
}()

// measuredFirst removes plain answers that were also measured at the same place. A spark test
// with a known gap carries the same information and more. A figure replaces the plain answer
// for the faults that it shows.
func measuredFirst(items []flatItem) []flatItem {
	same := func(l, o flatItem) bool { return o.check.Test == l.check.Test && o.check.Place == l.check.Place }
	plain := func(l flatItem) bool { return l.check.Test != "" && l.number.measure == "" && l.sparks.from == "" }
	items = slices.DeleteFunc(items, func(l flatItem) bool {
		return plain(l) && slices.ContainsFunc(items, func(o flatItem) bool { return same(l, o) && o.sparks.from != "" })
	})
	for i := range items {
		for _, o := range items {
			if plain(items[i]) && o.number.measure != "" && same(items[i], o) {
				items[i].covered |= 1 << slices.IndexFunc(evidence.Measures, func(m evidence.Measure) bool { return m.ID == o.number.measure })
			}
		}
	}
	return items
}

// measured reports whether figures replace the plain answer for a mode.
func (l flatItem) measured(mode fault.ModeID) bool {
	for k, m := range evidence.Measures {
		if l.covered&(1<<k) != 0 && knowledge.ShowsIn[m.ID].Covers(mode) {
			return true
		}
	}
	return false
}

// abnormalAnswer reports whether a test's answer is not that of a sound item.
func (l flatItem) abnormalAnswer() bool {
	if l.number.measure != "" {
		return l.check.Result != knowledge.Shipped.Numbers(l.number.measure)[0].Answer
	}
	t, _ := evidence.FindTest(l.check.Test)
	r, _ := t.Result(l.check.Result)
	return r.Abnormal
}

// repeated links each test of an item to the first one at the same place: the
// first with an abnormal answer, without one the first.
func repeated(items []flatItem) {
	type asked struct {
		test    evidence.TestID
		place   engine.Place
		measure evidence.MeasureID
	}
	first := map[asked]int{}
	for i := range items {
		l := &items[i]
		if l.check.Test == "" && l.number.measure == "" {
			continue
		}
		key := asked{l.check.Test, l.check.Place, group[l.number.measure]}
		if k, ok := first[key]; !ok || l.abnormalAnswer() && !items[k].abnormalAnswer() {
			first[key] = i
		}
	}
	for i := range items {
		if k, ok := first[asked{items[i].check.Test, items[i].check.Place, group[items[i].number.measure]}]; ok && k != i {
			items[i].before = items[k].moment + 1
		}
	}
}

// Through names the parts that a test of a place is made through: the plug is not in a
// spark test, since the tester takes its place.
func (a *Assessment) Through(t evidence.Test, place engine.Place, at part.Positions) string {
	c, ok := place.Cylinder()
	if t.On != engine.Plug || !ok {
		return string(at.In(t.On, place))
	}
	var tags []string
	for _, k := range a.Engine.PartKinds() {
		if k != engine.Plug || t.ID != evidence.Spark {
			tags = append(tags, string(at.Serving(k, c)))
		}
	}
	return strings.Join(tags, " ")
}

// alike reports whether a fault has the same relation to the test of an item as at an earlier moment.
func (a *Assessment) alike(f *Fault, then, now int) bool {
	t := f.Hypothesis.Tag
	return f.absent(then) == f.absent(now) && (t == "" || a.Moments[then].At.Where(t) == a.Moments[now].At.Where(t))
}

// bears returns how an item depends on a fault: the row of a table, an additional log ratio,
// and the probability that the fault shows there. ok is false without dependence. For an item
// without abnormal answers, where two faults count separately, that probability is below 0.
func (a *Assessment) bears(l flatItem, f *Fault) (row likelihoodRow, more, abnormal float64, ok bool) {
	m := a.Moments[l.moment]
	if l.moment <= f.ArisesAfter {
		return row, 0, 0, false
	}
	cured := f.absent(l.moment)
	h := &f.Hypothesis
	affected := func() engine.Set {
		if cured {
			return 0
		}
		return h.Affected(m.At)
	}
	switch {
	case l.circuit.code != "":
		row, ok = l.circuit.bears(a.Beliefs, h.Mode.ID, fedBy(*h, a.Engine, m.At), affected())
		if !l.circuit.set {
			return row, 0, -1, ok
		}
		return row, 0, row.odds, ok
	case l.trim.Bank > 0:
		row, abnormal, ok = trimmed(a.Beliefs, l.trim, a.Engine, h.Mode.ID, fedBy(*h, a.Engine, m.At), affected())
		return row, 0, abnormal, ok
	case l.check.Test != "", l.number.measure != "":
		if cured || l.before > 0 && a.alike(f, l.before-1, l.moment) {
			return row, 0, 0, false
		}
		if l.number.measure != "" {
			row, abnormal, ok = a.read(l, m.Entry.Condition, h, m.At)
			return row, 0, abnormal, ok
		}
		if l.measured(h.Mode.ID) && !l.abnormalAnswer() { // a figure does not take back what was found beside it
			return row, 0, 0, false
		}
		return a.checkedBy(l.check, l.sparks, m.Entry.Condition, h, m.At)
	}
	switch {
	case l.with == cameBack:
		row, ok = a.carried(l.moment, f)
		return row, 0, row.odds, ok
	case l.set:
		row, ok = a.setRead(l, f)
		return row, 0, row.odds, ok
	case l.with == "beside":
		row, abnormal, ok = heldBeside(l.seen, f)
		return row, 0, abnormal, ok
	case !l.seen.Plug.Empty():
		row, abnormal, ok = a.plugRead(l, f)
		return row, 0, abnormal, ok
	}
	b := bearing(l.seen, h, m.At, a.ran(l.moment, f), cured)
	if b == knowledge.Bystander {
		return row, 0, 0, false
	}
	row, abnormal = looked(a.Beliefs, l.seen, b)
	if b == knowledge.WornGap && !h.IsSet() {
		row.sound = a.soundGivenOthers(l)
	}
	return row, 0, abnormal, true
}

// soundGivenOthers is the probability of a finding on a sound plug, given the findings on the other plugs. Plugs of one set
// wear alike, so one worn plug among worn plugs says little.
func (a *Assessment) soundGivenOthers(l flatItem) float64 {
	find := func(b knowledge.Bearing, f evidence.Finding) float64 { return a.Beliefs.Look(engine.Plug, b, f) }
	worn := knowledge.Coincident(fault.PlugWornGap)
	fresh := func(f evidence.Finding) float64 {
		return max((find(knowledge.Bystander, f)-worn*find(knowledge.WornGap, f))/(1-worn), 1e-3)
	}
	with, without := worn, 1-worn
	for _, other := range a.Moments[l.moment].Entry.Look().Items {
		if other.Tag != l.seen.Tag && other.Tag.Kind() == engine.Plug && other.Plug.Empty() {
			with, without = with*find(knowledge.WornGap, other.Finding), without*fresh(other.Finding)
		}
	}
	return (with*find(knowledge.WornGap, l.seen.Finding) + without*fresh(l.seen.Finding)) / (with + without)
}

// ran lists where the parts were in the runs with the fault present, up to a moment.
func (a *Assessment) ran(until int, f *Fault) []part.Positions {
	var ran []part.Positions
	if f.ArisesAfter < 0 {
		ran = append(ran, a.home)
	}
	for i, m := range a.Moments[:until] {
		if kinds[m.Entry.Kind()].ran && !f.absent(i) && (len(ran) == 0 || !ran[len(ran)-1].Equal(m.At)) {
			ran = append(ran, m.At)
		}
	}
	return ran
}
