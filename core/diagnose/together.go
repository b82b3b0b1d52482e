package diagnose

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/evidence"
)

// oneAnswer is how often a fault that troubles several cylinders, or was tested where it sat
// before and where it sits now, gives one test the same answer everywhere (C; judgement): to
// count each as news would make six readings of one weak feed look like six witnesses.
const oneAnswer = 0.8

// joined is the answers of one test in several places.
type joined struct {
	items []flatItem
	// alone is what each says of each fault by itself, columns what is left when what several of
	// them say of a fault is taken together: the first then says it, the others nothing.
	alone, columns [][]*itemFactor
	// of lists the voices of each fault.
	of [][]voice
	// left is what joint voices say in some of their places.
	left map[string]*itemFactor
	ids  map[*itemFactor]int
}

// voice is what the answers in some places, by their positions, say of a fault together.
type voice struct {
	says *itemFactor
	at   []int
}

// together takes the answers of one test in several places as far as they are one: what a
// fault shows on one cylinder it mostly shows on all that it troubles.
func (w *inference) together(s *scope, items []flatItem) {
	s.joint = make([]bool, len(items))
	for _, group := range sameTest(items) {
		var key strings.Builder
		for _, i := range group {
			id, ok := w.ids[items[i]]
			if !ok {
				id = len(w.ids)
				w.ids[items[i]] = id
			}
			key.WriteString(strconv.Itoa(id))
			key.WriteByte(' ')
		}
		j, ok := w.joined[key.String()]
		if !ok {
			j = &joined{left: map[string]*itemFactor{}, ids: map[*itemFactor]int{}}
			for _, i := range group {
				j.items, j.alone = append(j.items, items[i]), append(j.alone, s.items[i])
			}
			w.join(j)
			w.joined[key.String()] = j
		}
		s.tests = append(s.tests, j)
		for c, i := range group {
			s.items[i], s.joint[i] = j.columns[c], true
		}
	}
}

// sameTest lists the items that are answers of one test of an item, by their indexes: those of
// which there are several.
func sameTest(items []flatItem) [][]int {
	type asked struct {
		test    evidence.TestID
		measure evidence.MeasureID
	}
	at := map[asked]int{}
	var all [][]int
	for i, l := range items {
		if l.check.Test == "" && l.number.measure == "" {
			continue
		}
		if t, ok := evidence.FindTest(l.check.Test); ok && t.Of != evidence.OfItem {
			continue
		}
		k := asked{l.check.Test, l.number.measure}
		g, ok := at[k]
		if !ok {
			g = len(all)
			at[k] = g
			all = append(all, nil)
		}
		all[g] = append(all[g], i)
	}
	return slices.DeleteFunc(all, func(g []int) bool { return len(g) < 2 })
}

// join works out what the answers of a test say together, fault by fault.
func (w *inference) join(j *joined) {
	for _, column := range j.alone {
		j.columns = append(j.columns, slices.Clone(column))
	}
	j.of = make([][]voice, len(w.faults))
	for k := range w.faults {
		for _, shop := range []bool{false, true} {
			var at []int
			for c, column := range j.alone {
				if column[k] != nil && column[k].shop == shop {
					at = append(at, c)
				}
			}
			if len(at) == 0 {
				continue
			}
			one := w.said(j, at, k)
			for _, c := range at {
				j.columns[c][k] = nil
			}
			j.columns[at[0]][k] = one
			j.of[k] = append(j.of[k], voice{one, at})
		}
	}
}

// said is what the answers at some positions say of the k-th fault together: one of its mode that
// shows alike in all of them has the same.
func (w *inference) said(j *joined, at []int, k int) *itemFactor {
	if len(at) == 1 {
		return j.alone[at[0]][k]
	}
	key := append(make([]byte, 0, 64), w.faults[k].Hypothesis.Mode.ID...)
	for _, c := range at {
		says := j.alone[c][k]
		if _, ok := j.ids[says]; !ok {
			j.ids[says] = len(j.ids)
		}
		key = strconv.AppendInt(append(key, ' '), int64(c), 10)
		key = strconv.AppendInt(append(key, ':'), int64(j.ids[says]), 10)
	}
	one := j.left[string(key)]
	if one == nil {
		one = w.joint(j, at, k)
		j.left[string(key)] = one
	}
	return one
}

// beside is what a voice of the k-th fault says where another is there as well: of two in one place
// the one that shows more counts, and of like ones the first. It is nil where nothing is left.
func (w *inference) beside(j *joined, v voice, k, other int, first bool) *itemFactor {
	lost := func(c int) bool {
		mine, their := j.alone[c][k], j.alone[c][other]
		return their != nil && (their.odd > mine.odd || their.odd == mine.odd && !first)
	}
	if !slices.ContainsFunc(v.at, lost) {
		return v.says
	}
	left := make([]int, 0, len(v.at))
	for _, c := range v.at {
		if !lost(c) {
			left = append(left, c)
		}
	}
	if len(left) == 0 {
		return nil
	}
	return w.said(j, left, k)
}

// joint is what the answers at some positions say of the k-th fault together.
func (w *inference) joint(j *joined, at []int, k int) *itemFactor {
	f := &w.faults[k]
	type answer struct {
		row   likelihoodRow
		given answerChances
		empty float64
	}
	all := make([]answer, len(at))
	odd := 0.0
	for n, c := range at {
		l := j.items[c]
		all[n].row, _, _, _ = w.a.bears(l, f)
		all[n].given = w.a.givenTo(l, f)
		all[n].empty = w.a.Moments[l.moment].Entry.Certainty.Empty()
		odd = max(odd, j.alone[c][k].odd)
	}
	s := &itemFactor{odd: odd, shop: all[0].row.shop}
	for r, rate := range hit {
		apart, same := 1.0, 0.0
		for i, p := range all[0].given.at(rate) {
			product := p
			for _, one := range all {
				product *= one.empty + (1-one.empty)*one.row.mixUnseen(one.given.fits[i]/one.given.sound, rate)
			}
			same += product
		}
		for _, one := range all {
			apart *= one.empty + (1-one.empty)*one.row.ratioIfShown(rate)
		}
		s.logIfShown[r] = math.Log(oneAnswer*same + (1-oneAnswer)*apart)
	}
	s.finish()
	return s
}

// givenTo is the answer of an item to a fault that bears on it.
func (a *Assessment) givenTo(l flatItem, f *Fault) answerChances {
	m := a.Moments[l.moment]
	if l.number.measure != "" {
		return a.reads(l, &f.Hypothesis, m.At)
	}
	g, _ := a.gives(l.check, l.sparks, m.Entry.Condition, &f.Hypothesis, m.At)
	return g
}
