package diagnose

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// together groups the answers of one test in several places that depend on each other: what a
// fault shows on one cylinder it mostly shows on all that it affects.
func (w *inference) together(e *infer.Evidence, items []flatItem) {
	e.Grouped = make([]bool, len(items))
	for _, group := range sameTest(items) {
		var key strings.Builder
		for _, i := range group {
			key.WriteString(strconv.Itoa(w.id(items[i])))
			key.WriteByte(' ')
		}
		g, ok := w.groups[key.String()]
		if !ok {
			var of []flatItem
			var alone [][]*infer.Factor
			for _, i := range group {
				of, alone = append(of, items[i]), append(alone, e.Items[i])
			}
			class := func(k int) string {
				h := &w.faults[k].Hypothesis
				if h.IsSet() {
					return "set " + string(h.Mode.ID)
				}
				return string(h.Mode.ID)
			}
			g = infer.NewGroup(alone, class, func(at []int, k int) *infer.Factor { return w.joint(of, alone, at, k) })
			w.groups[key.String()] = g
		}
		e.Groups = append(e.Groups, g)
		for c, i := range group {
			e.Items[i], e.Grouped[i] = g.Together[c], true
		}
	}
}

// sameTest lists the groups of dependent items, by index: the answers of one test in several places, and the looks at
// several parts of one kind.
func sameTest(items []flatItem) [][]int {
	type asked struct {
		test    evidence.TestID
		measure evidence.MeasureID
		looked  engine.Kind
	}
	at := map[asked]int{}
	var all [][]int
	for i, l := range items {
		k := asked{l.check.Test, l.number.measure, ""}
		if l.check.Test == "" && l.number.measure == "" {
			if !l.looked() {
				continue
			}
			k.looked = l.seen.Tag.Kind()
		}
		if t, ok := evidence.FindTest(l.check.Test); ok && t.Of != evidence.OfItem {
			continue
		}
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

// joint is the likelihood factor of the answers at some positions together, for the k-th fault.
func (w *inference) joint(of []flatItem, alone [][]*infer.Factor, at []int, k int) *infer.Factor {
	f := &w.faults[k]
	if of[at[0]].looked() {
		return w.jointLooks(alone, at, k)
	}
	type answer struct {
		row   likelihoodRow
		given answerChances
		empty float64
	}
	all := make([]answer, len(at))
	abnormal := 0.0
	for n, c := range at {
		l := of[c]
		all[n].row, _, _, _ = w.a.bears(l, f)
		all[n].given = w.a.givenTo(l, f)
		all[n].empty = w.a.Moments[l.moment].Entry.Certainty.Empty()
		abnormal = max(abnormal, alone[c][k].Weight)
	}
	var told infer.PerRate
	for r, rate := range infer.Grid {
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
		told[r] = math.Log(knowledge.OneAnswer*same + (1-knowledge.OneAnswer)*apart)
	}
	w.boundSet(f, &told)
	return infer.NewFactor(told, abnormal, all[0].row.shop, knowledge.InTheShop)
}

// jointLooks is the likelihood factor of looks at several parts of a kind, for the k-th fault.
func (w *inference) jointLooks(alone [][]*infer.Factor, at []int, k int) *infer.Factor {
	var told infer.PerRate
	weight, occasional := math.Inf(-1), false
	for _, c := range at {
		one := alone[c][k]
		told.Add(&one.LogIfShown)
		weight, occasional = max(weight, one.Weight), one.Occasional
	}
	w.boundSet(&w.faults[k], &told)
	return infer.NewFactor(told, weight, occasional, knowledge.InTheShop)
}

// boundSet bounds the joint likelihood ratio of several parts of a set. With probability p ([knowledge.Coincident]) the
// whole set is in that state while something else is the cause: ratio' = 1 / (p + (1 − p) / ratio).
func (w *inference) boundSet(f *Fault, told *infer.PerRate) {
	if !f.Hypothesis.IsSet() {
		return
	}
	innocent := knowledge.Coincident(f.Hypothesis.Mode.ID)
	for r, x := range told {
		told[r] = -infer.LogMix(innocent, 0, 1-innocent, -x)
	}
}

// looked reports whether an item is a plain look at a part.
func (l flatItem) looked() bool {
	return l.seen.Tag != "" && l.check.Test == "" && l.number.measure == "" && l.with == "" && !l.set && l.seen.Plug.Empty()
}

// givenTo is the likelihood of an item's answer given a fault that the item depends on.
func (a *Assessment) givenTo(l flatItem, f *Fault) answerChances {
	m := a.Moments[l.moment]
	if l.number.measure != "" {
		return a.reads(l, &f.Hypothesis, m.At)
	}
	g, _ := a.gives(l.check, l.sparks, m.Entry.Condition, &f.Hypothesis, m.At)
	return g
}
