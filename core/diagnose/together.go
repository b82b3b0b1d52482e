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

// together takes the answers of one test in several places as far as they are one: what a
// fault shows on one cylinder it mostly shows on all that it troubles. For each fault the
// first item then says what all of them say, and the others nothing.
func (w *weighing) together(items []flatItem, of [][]*shown) {
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
		columns, ok := w.joined[key.String()]
		if !ok {
			columns = w.join(items, of, group)
			w.joined[key.String()] = columns
		}
		for k, i := range group {
			of[i] = columns[k]
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

// join is the items of a group with what several of them say of one fault taken together.
func (w *weighing) join(items []flatItem, of [][]*shown, group []int) [][]*shown {
	out := make([][]*shown, len(group))
	for c, i := range group {
		out[c] = slices.Clone(of[i])
	}
	same := map[string]*shown{} // faults of one mode that show alike in all of them
	var key strings.Builder
	ids := map[*shown]int{}
	for k := range w.faults {
		var bear []int
		for c, i := range group {
			if of[i][k] != nil && (len(bear) == 0 || of[i][k].shop == of[group[bear[0]]][k].shop) {
				bear = append(bear, c)
			}
		}
		if len(bear) < 2 {
			continue
		}
		key.Reset()
		key.WriteString(w.faults[k].Hypothesis.Mode.ID)
		for _, c := range bear {
			s := of[group[c]][k]
			if _, ok := ids[s]; !ok {
				ids[s] = len(ids)
			}
			key.WriteByte(' ')
			key.WriteString(strconv.Itoa(c))
			key.WriteByte(':')
			key.WriteString(strconv.Itoa(ids[s]))
		}
		one := same[key.String()]
		if one == nil {
			one = w.joint(items, of, group, bear, k)
			same[key.String()] = one
		}
		for _, c := range bear {
			out[c][k] = nil
		}
		out[bear[0]][k] = one
	}
	return out
}

// joint is what the items of a group that bear on the k-th fault say of it together.
func (w *weighing) joint(items []flatItem, of [][]*shown, group, bear []int, k int) *shown {
	f := &w.faults[k]
	type answer struct {
		row   asked
		fits  []float64
		empty float64
	}
	var mine []float64
	all := make([]answer, len(bear))
	odd := 0.0
	for n, c := range bear {
		l := items[group[c]]
		all[n].row, _, _, _ = w.a.bears(l, f)
		mine, all[n].fits = w.a.fits(l, f)
		all[n].empty = w.a.Moments[l.moment].Entry.Certainty.Empty()
		odd = max(odd, of[group[c]][k].odd)
	}
	s := &shown{odd: odd, shop: all[0].row.shop}
	for r, rate := range hit {
		apart, same := 1.0, 0.0
		for i, p := range mine {
			product := p
			for _, one := range all {
				product *= one.empty + (1-one.empty)*one.row.as(one.fits[i], rate)
			}
			same += product
		}
		for _, one := range all {
			apart *= one.empty + (1-one.empty)*one.row.told(rate)
		}
		s.told[r] = math.Log(oneAnswer*same + (1-oneAnswer)*apart)
	}
	s.finish()
	return s
}

// fits is how often a fault gives each answer of a test, and how much better what was found
// fits each answer than it fits a sound item.
func (a *Assessment) fits(l flatItem, f *Fault) (mine, fits []float64) {
	h, at := &f.Hypothesis, a.Moments[l.moment].At
	var sound []float64
	if id := l.number.measure; id != "" {
		mine, sound = a.Beliefs.answers(id, h.Mode.ID), a.Beliefs.answers(id, "")
		fits = a.against(l, h, at).weighed()
	} else {
		mine, sound = a.chances(l.check.Test, inHeat(h.Mode.ID, a.Moments[l.moment].Entry.Condition), h, at)
		fits = make([]float64, len(mine))
		t, _ := evidence.FindTest(l.check.Test)
		came := slices.IndexFunc(t.Results, func(r evidence.Result) bool { return r.ID == l.check.Result })
		for i := range fits {
			if l.sparks.from != "" {
				fits[i] = l.sparks.gap()[i][came]
			} else if i == came {
				fits[i] = 1
			}
		}
	}
	total := 0.0
	for i, p := range sound {
		total += p * fits[i]
	}
	for i := range fits {
		fits[i] /= total
	}
	return mine, fits
}
