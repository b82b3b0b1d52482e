package plug

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/unit"
)

// Laid is one plug of a set as it lies on the cloth.
type Laid struct {
	Cylinder, Bank int
	Name           string
	Look           Look
}

// Spread states how much of a set shows a look.
type Spread string

// The spreads.
const (
	OfOne  Spread = "one"
	OfSome Spread = "some"
	OfBank Spread = "bank"
	OfAll  Spread = "all"
)

// SetReading is one look that plugs of a set have in common.
type SetReading struct {
	// Trait is the row of [Meanings] that they show.
	Trait  Meaning
	Spread Spread
	// On lists the cylinders that show it.
	On []int
	// Words states the finding, Points its interpretation.
	Words, Points string
}

// pointing gives the interpretation if one plug, a bank, or all plugs show a look (C: one plug
// that differs matters more than its colour; if a bank or all plugs show it, the plug is not
// the cause).
var pointing = map[string]struct{ one, bank, all string }{
	"hot":       {"that cylinder: its plug's heat range, its injector, or an air leak beside it", "not the plugs: air or fuel of that bank", "not the plugs: mixture, timing, or a set of the wrong heat range"},
	"soot":      {"that cylinder: its spark, or its injector", "not the plugs: fuel of that bank, or its sensor", "not the plugs: mixture, short trips, or a set that is too cold"},
	"fuel":      {"that cylinder did not fire: look for its spark first", "the cylinders of that bank did not fire: what they have in common", "flooded, or no spark at all: not the plugs"},
	"oil-low":   {"that cylinder: rings, guides or seals", "guides or seals of that head", "worn rings or guides; an old engine may live with it"},
	"oil-high":  {"the seal of that well", "the valve cover of that bank", "the valve covers: their seals are due"},
	"water-low": {"the head gasket at that cylinder", "the head gasket of that bank", "coolant everywhere: not the plugs"},
	"ash":       {"that cylinder burns oil", "that bank burns oil", "oil or additives, not the plugs"},
	"worn":      {"that plug, or it is older than the rest", "a bank whose plugs were left in: harder to reach?", "the set is due"},
	"rust":      {"the seal of that well", "water stands on that bank", "washed, or its covers are missing"},
	"bruised":   {"debris in that cylinder, or one wrong plug", "one wrong reach on that bank", "the reach of the set is wrong: stop, and check the pistons"},
	"uncrushed": {"that plug was never tight", "that bank was never tightened", "the set was never tightened"},
	"copy":      {"one plug that differs from the set", "two sets mixed, by bank", "the wrong set, or copies"},
	"tracked":   {"that plug and its boot", "boots and plugs of that bank", "the boots are due with the plugs"},
	"cracked":   {"that plug", "how the plugs of that bank were fitted", "how the set was fitted, or knock"},
	"strap":     {"that plug", "the plugs of that bank: reach, or how they were gapped", "the reach of the set, or how it was gapped"},
	"bridged":   {"that cylinder: deposits", "deposits of that bank", "deposits: oil or fuel, not the plugs"},
}

// ReadSet lists the looks that plugs have in common, the widest spread first. It needs at
// least two plugs.
func ReadSet(plugs []Laid) []SetReading {
	if len(plugs) < 2 {
		return nil
	}
	banks := map[int]int{}
	for _, p := range plugs {
		banks[p.Bank]++
	}
	var all []SetReading
	for _, m := range Meanings {
		points, known := pointing[m.ID]
		if !known {
			continue
		}
		r := SetReading{Trait: m}
		on := map[int]int{}
		var names []string
		for _, p := range plugs {
			if m.When(p.Look) {
				r.On = append(r.On, p.Cylinder)
				on[p.Bank]++
				names = append(names, p.Name)
			}
		}
		switch n := len(r.On); {
		case n == 0:
			continue
		case 5*n >= 4*len(plugs): // one different plug does not make the others abnormal
			r.Spread, r.Points = OfAll, points.all
			r.Words = fmt.Sprintf("%d of %d: %s", n, len(plugs), m.Look)
		case len(banks) > 1 && len(on) == 1 && n > 1 && 3*n >= 2*banks[plugs[slices.IndexFunc(plugs, func(p Laid) bool { return m.When(p.Look) })].Bank]:
			bank := plugs[slices.IndexFunc(plugs, func(p Laid) bool { return m.When(p.Look) })].Bank
			r.Spread, r.Points = OfBank, points.bank
			r.Words = fmt.Sprintf("Bank %d, %d of %d: %s", bank, n, banks[bank], m.Look)
		case n == 1:
			r.Spread, r.Points = OfOne, points.one
			r.Words = fmt.Sprintf("%s alone: %s", unit.Capital(names[0]), m.Look)
		default:
			r.Spread, r.Points = OfSome, points.one
			r.Words = fmt.Sprintf("%s: %s", strings.Join(names, ", "), m.Look)
		}
		all = append(all, r)
	}
	order := []Spread{OfAll, OfBank, OfOne, OfSome}
	slices.SortStableFunc(all, func(a, b SetReading) int { return slices.Index(order, a.Spread) - slices.Index(order, b.Spread) })
	return all
}
