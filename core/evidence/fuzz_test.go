package evidence

import (
	"slices"
	"testing"

	"glenmist/core/engine"
)

func FuzzParseMeasure(f *testing.F) {
	for i, m := range Measures {
		f.Add(string(m.ID), i)
	}
	f.Fuzz(func(t *testing.T, s string, which int) {
		e := engine.Shelf[(which%len(engine.Shelf)+len(engine.Shelf))%len(engine.Shelf)].Engine().Derive()
		m, err := ParseMeasure(e, s)
		if err == nil && (string(m.ID) != s || !m.There(e) || len(m.Figures) == 0) {
			t.Errorf("%q reads as %+v", s, m)
		}
	})
}

func FuzzParseFinding(f *testing.F) {
	for kind, rows := range findingsOn {
		for _, row := range rows {
			f.Add(string(kind), string(row.Finding))
		}
	}
	f.Fuzz(func(t *testing.T, kind, s string) {
		k := engine.Kind(kind)
		finding, err := ParseFinding(k, s)
		if err == nil && !slices.ContainsFunc(FindingsOn(k), func(row FindingWords) bool { return row.Finding == finding }) {
			t.Errorf("%q on %q reads as %q", s, kind, finding)
		}
	})
}
