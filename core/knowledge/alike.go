package knowledge

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// Alike lists the pairs of modes of an engine that no step of the catalogue can tell
// apart: the same unit or what is never moved, and the same row in every table.
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

// signature is all by which a mode can be known: what it goes with, whom it troubles,
// what touching does, and its rows.
func signature(e engine.Engine, m fault.Mode) string {
	var s strings.Builder
	fmt.Fprint(&s, m.Unit, m.Scope, m.CuredByTouch, m.Robs, m.ID == "injector.leaking")
	for _, t := range evidence.TestsOf(e) {
		row := TestRows[t.ID][m.ID]
		if row == nil {
			row = TestRows[t.ID][""]
		}
		fmt.Fprint(&s, "|", row.Chance)
	}
	fmt.Fprint(&s, "|", AtFault[m.ID])
	if e.Scanned() {
		for _, code := range []string{"coil circuit", "injector circuit", "bank lean", "bank rich"} {
			fmt.Fprint(&s, "|", CodeChances[code][m.ID])
		}
	}
	for _, r := range TrimRows {
		if r.Mode != "" && Matches([]string{r.Mode}, m.ID) {
			fmt.Fprint(&s, "|", r.Shared, r.Mean, r.SD)
		}
	}
	return s.String()
}

// Stated says which row of a test is for a mode; nil is that it answers as where
// nothing of the kind is wrong.
func Stated(t evidence.TestID, mode string) *CheckRow { return TestRows[t][mode] }
