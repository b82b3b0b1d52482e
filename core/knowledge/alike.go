package knowledge

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/unit"
)

// Alike lists the pairs of modes of an engine that no step of the catalogue can distinguish.
// They belong to the same unit, or to units that are never moved, and have equal rows in every
// table.
func Alike(e engine.Engine) (pairs [][2]fault.Mode) {
	layout := slices.Index(engine.Ignitions(), e.Ignition)
	has := map[engine.Kind]bool{}
	for _, item := range e.Items() {
		has[item.Kind] = true
	}
	same := map[string][]fault.Mode{}
	var order []string
	for _, m := range fault.Catalogue {
		if m.Prior[layout] == 0 || !has[m.Unit] {
			continue
		}
		key := signature(e, m)
		if same[key] == nil {
			order = append(order, key)
		}
		same[key] = append(same[key], m)
	}
	for _, key := range order {
		for i, m := range same[key] {
			for _, other := range same[key][:i] {
				pairs = append(pairs, [2]fault.Mode{other, m})
			}
		}
	}
	return pairs
}

// signature lists all properties by which a mode can be recognised: its unit, its affected
// cylinders, the effect of handling, and its rows.
func signature(e engine.Engine, m fault.Mode) string {
	var s strings.Builder
	fmt.Fprint(&s, m.Unit, m.Scope, m.CuredByTouch, m.Robs, m.ID == fault.InjectorLeaking)
	for _, t := range evidence.TestsOf(e) {
		row := Shipped.Test(t.ID, m.ID)
		if row == nil {
			row = Shipped.Test(t.ID, "")
		}
		fmt.Fprint(&s, "|", row)
	}
	fmt.Fprint(&s, "|", AtFault[m.ID])
	if e.Scanned() {
		for _, code := range []CodeKind{CoilCircuit, InjectorCircuit, BankLean, BankRich} {
			fmt.Fprint(&s, "|", Shipped.Code(code, m.ID))
		}
	}
	for _, r := range TrimRows {
		if r.Mode != nil && r.Mode.Covers(m.ID) {
			fmt.Fprint(&s, "|", r.Shared, r.NormalComponent)
		}
	}
	return s.String()
}

// alikePair is two modes of a layout that nothing distinguishes.
type alikePair struct {
	layout engine.Ignition
	modes  [2]fault.Mode
}

var _ = Register(TableOf[alikePair, struct{}]{
	Title: "Faults that no step tells apart", In: OfTests, Ships: func() (all []alikePair) {
		for _, layout := range engine.Ignitions() {
			i := slices.IndexFunc(engine.Shelf, func(p engine.Pattern) bool { return p.Engine().Ignition == layout })
			for _, pair := range Alike(engine.Shelf[i].Engine()) {
				all = append(all, alikePair{layout, pair})
			}
		}
		return all
	}(),
	Describe: func(p *alikePair) Row {
		return Row{Of: unit.Capital(p.layout.Words()), Says: p.modes[0].Words + ", and " + p.modes[1].Words, Source: "derived: the same unit and the same row in every table"}
	},
})

var _ = Register(TableOf[evidence.Test, struct{}]{
	Title: "Which test says what of which fault", In: OfTests, Ships: evidence.Tests,
	Describe: func(t *evidence.Test) Row {
		var stated fault.Keys
		for _, m := range fault.Catalogue {
			if Shipped.States(t.ID, m.ID) {
				stated = append(stated, m.ID)
			}
		}
		return Row{Of: t.Words, Says: "stated for " + modeWords(stated) + "; every other mode answers as where nothing of the kind is wrong", Source: "derived from the rows above"}
	},
})
