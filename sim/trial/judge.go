package trial

import (
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

// Holds reports whether a suspect's unit, or a unit renewed with it, holds a hidden fault. For
// "something else" and "no fault now" it compares with what is hidden.
func (s Setup) Holds(of diagnose.Suspect) bool {
	if !of.Real() {
		return slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return h.Mode.Unit == of.Unit })
	}
	v := evidence.Verdict{Unit: of.Key()}
	for _, t := range of.With {
		v.With = append(v.With, t.Words())
	}
	return s.holds(v)
}

// units lists the keys of the repair units that cure a fault. For a gasket between two
// cylinders, each of the two does.
func units(h fault.Hypothesis) []string {
	if h.Tag != "" {
		return []string{string(h.Mode.Unit) + " " + string(h.Tag)}
	}
	if h.IsSet() { // the set, or one of its parts
		all := []string{evidence.UnitKey(h.Unit(), engine.Whole)}
		for _, t := range h.Members() {
			all = append(all, string(t.Kind())+" "+string(t))
		}
		return all
	}
	if h.Pair != 0 && h.Mode.Unit == engine.Compression {
		var all []string
		for _, c := range h.Pair.List() {
			all = append(all, evidence.UnitKey(h.Mode.Unit, engine.At(c)))
		}
		return all
	}
	return []string{evidence.UnitKey(h.Mode.Unit, h.Place)}
}

// cures reports whether renewing a unit, with the parts that are renewed along, cures a fault.
func cures(unit string, with []string, h fault.Hypothesis) bool {
	return slices.ContainsFunc(units(h), func(u string) bool { return u == unit || slices.Contains(with, u) })
}

// holds reports whether a verdict is on a unit that holds a hidden fault.
func (s Setup) holds(v evidence.Verdict) bool {
	return slices.ContainsFunc(s.Hidden, func(h fault.Hypothesis) bool { return cures(v.Unit, v.With, h) })
}

// leftByWork reports whether a verdict names a site where earlier work left a fault.
func leftByWork(b *simulator.Engine, v evidence.Verdict) bool {
	return slices.ContainsFunc(b.Left, func(i engine.Item) bool { return evidence.UnitKey(i.Kind, i.Place) == v.Unit })
}

// all reports whether every hidden fault has been named.
func (s Setup) all(named []string) bool {
	for _, h := range s.Hidden {
		if !slices.ContainsFunc(named, func(u string) bool { return cures(u, nil, h) }) {
			return false
		}
	}
	return true
}

// partsBought returns the number of parts that a verdict buys, without those renewed along.
func partsBought(v evidence.Verdict) int {
	of := plan.Repair{}
	for _, row := range plan.Repairs { // “lead order” and “lead” have a common prefix
		if strings.HasPrefix(v.Unit, string(row.Unit)+" ") && len(row.Unit) > len(of.Unit) {
			of = row
		}
	}
	if of.Price > 0 {
		return 1
	}
	return 0
}
