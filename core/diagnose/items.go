package diagnose

import (
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// flatItem is one finding, trim, check or circuit code that counts.
type flatItem struct {
	moment  int
	seen    evidence.Seen
	trim    trouble.Trim
	check   evidence.Check
	circuit circuitRead
	// with is the parts that a test was made through, in what is asked.
	with string
	// before is the moment, and one, of the same test of the same place with other parts
	// in it: a fault that stands as it stood then has given its answer.
	before int
}

// flatItems lists what counts beside runs and codes: of several looks at one item,
// or of one test made again, the first odd one, else the first, since a thing
// repeated tells little more; of trims the last of each bank.
func (a *Assessment) flatItems(kept keep) []flatItem {
	var out []flatItem
	for _, c := range a.codeEpochs(kept) {
		for _, row := range c.known.circuitRows(a.Engine, c.history) {
			out = append(out, flatItem{moment: c.moment, circuit: row})
		}
	}
	at := map[flatItem]int{} // by what is asked
	take := func(asked, item flatItem, odd func(flatItem) bool) {
		have, ok := at[asked]
		switch {
		case !ok:
			at[asked] = len(out)
			out = append(out, item)
		case odd(item) && !odd(out[have]):
			out[have] = item
		}
	}
	for i, m := range a.Moments {
		if !kept(i) {
			continue
		}
		trims := []trouble.Trim(nil)
		switch e := m.Entry; {
		case e.Look != nil:
			for _, item := range e.Look.Items {
				take(flatItem{seen: evidence.Seen{Tag: item.Tag, Place: item.Place}}, flatItem{moment: i, seen: item},
					func(f flatItem) bool { return f.seen.Finding.Odd() })
			}
		case e.Check != nil:
			// The same test of another place, or of the place with another part in it, is
			// another test.
			asked := flatItem{check: evidence.Check{Test: e.Check.Test}}
			if t, _ := evidence.FindTest(e.Check.Test); t.Of == evidence.OfItem {
				asked.check.Place = e.Check.Place
				asked.with = a.Through(t, e.Check.Place, m.At)
			}
			take(asked, flatItem{moment: i, check: *e.Check}, flatItem.oddAnswer)
		case e.Trims != nil:
			trims = e.Trims.Banks
		case e.Codes != nil && e.Codes.Frame != nil:
			trims = e.Codes.Frame.Trims
		}
		for _, t := range trims { // the last one counts
			take(flatItem{trim: trouble.Trim{Bank: t.Bank}}, flatItem{moment: i, trim: t}, func(f flatItem) bool { return f.moment == i })
		}
	}
	repeated(out)
	return out
}

// oddAnswer says that a test has found something.
func (l flatItem) oddAnswer() bool {
	t, _ := evidence.FindTest(l.check.Test)
	r, _ := t.Result(l.check.Result)
	return r.Odd
}

// repeated has each test of an item name the one of the same place that counts first: the
// first that has found something, else the first.
func repeated(items []flatItem) {
	type asked struct {
		test  evidence.TestID
		place engine.Place
	}
	first := map[asked]int{}
	for i := range items {
		l := &items[i]
		if l.check.Test == "" {
			continue
		}
		key := asked{l.check.Test, l.check.Place}
		if k, ok := first[key]; !ok || l.oddAnswer() && !items[k].oddAnswer() {
			first[key] = i
		}
	}
	for i := range items {
		if k, ok := first[asked{items[i].check.Test, items[i].check.Place}]; ok && k != i {
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

// alike says that a fault stands to the test of an item as it stood at an earlier moment.
func (a *Assessment) alike(f *Fault, then, now int) bool {
	cured := func(i int) bool { return f.CuredAfter >= 0 && i > f.CuredAfter }
	t := f.Hypothesis.Tag
	return cured(then) == cured(now) && (t == "" || a.Moments[then].At.Where(t) == a.Moments[now].At.Where(t))
}

// bears is what an item says of a fault: the row of a table, a log ratio on top, and
// how much the fault shows there; ok is false when it does not bear on it. Of an item
// with no odd answer two faults speak for themselves: odd is then below 0.
func (a *Assessment) bears(l flatItem, f *Fault) (row asked, more, odd float64, ok bool) {
	m := a.Moments[l.moment]
	cured := f.CuredAfter >= 0 && l.moment > f.CuredAfter
	h := &f.Hypothesis
	sick := func() engine.Set {
		if cured {
			return 0
		}
		return h.Afflicted(m.At)
	}
	switch {
	case l.circuit.code != "":
		row, ok = l.circuit.bears(h.Mode.ID, fedBy(*h, a.Engine, m.At), sick())
		if !l.circuit.set {
			return row, 0, -1, ok
		}
		return row, 0, row.odds, ok
	case l.trim.Bank > 0:
		row, odd, ok = trimmed(l.trim, a.Engine, h.Mode.ID, fedBy(*h, a.Engine, m.At), sick())
		return row, 0, odd, ok
	case l.check.Test != "":
		if cured || l.before > 0 && a.alike(f, l.before-1, l.moment) {
			return row, 0, 0, false
		}
		return a.checkedBy(l.check, h, m.At)
	}
	b := bearing(l.seen, h, m.At, a.ran(l.moment, f), cured)
	if b == Bystander {
		return row, 0, 0, false
	}
	row, odd = a.Beliefs.looked(l.seen, b)
	return row, 0, odd, true
}

// ran lists where the parts sat in the runs with the fault present, up to a moment.
func (a *Assessment) ran(until int, f *Fault) []part.Positions {
	ran := []part.Positions{a.home}
	for i, m := range a.Moments[:until] {
		ranHere := m.Entry.Counters != nil || m.Entry.Watch != nil || m.Entry.Codes != nil
		if ranHere && (f.CuredAfter < 0 || i <= f.CuredAfter) && !ran[len(ran)-1].Equal(m.At) {
			ran = append(ran, m.At)
		}
	}
	return ran
}
