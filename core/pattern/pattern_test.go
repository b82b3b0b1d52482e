package pattern

import (
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/trouble"
)

func codes(t *testing.T, texts ...string) evidence.Entry {
	t.Helper()
	c := &evidence.Codes{}
	for _, text := range texts {
		code, err := trouble.Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		c.Read = append(c.Read, trouble.Reading{Code: code, State: trouble.Stored})
	}
	return evidence.Entry{Body: c}
}

func counts(n ...int) evidence.Entry {
	return evidence.Entry{Body: &evidence.Counters{Revolutions: 3000, Counts: n, Fresh: true}}
}

func trims(one, two float64) evidence.Entry {
	return evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Long: one}, {Bank: 2, Long: two}}}}
}

// The tables of the trade on layouts and complaints (C), case by case: what the
// cylinders have in common, and where the first look belongs.
func TestPatterns(t *testing.T) {
	for name, c := range map[string]struct {
		engine  string
		entries []evidence.Entry
		shape   Shape
		title   string
		points  string // part of what it points at
		first   string // part of the first look
	}{
		"one, coil on plug":     {"four-across", []evidence.Entry{codes(t, "P0302")}, One, "One cylinder: 2", "coil", "connector and boot"},
		"one of a pair":         {"six-pairs", []evidence.Entry{counts(0, 90, 0, 1, 0, 0)}, One, "One cylinder: 2", "the coil last", "plug and lead"},
		"both of a pair":        {"six-pairs", []evidence.Entry{counts(0, 90, 0, 1, 85, 0)}, CoilPair, "Both cylinders of one coil: 2 and 5", "both branches", "before the coil"},
		"companions, own coils": {"v8-leads", []evidence.Entry{codes(t, "P0301", "P0306")}, Companions, "Two companions: 1 and 6", "two faults", "cam signal"},
		"side by side in a cap": {"six-distributor", []evidence.Entry{{Body: &evidence.Watch{Cylinders: []engine.Cylinder{5, 3}}}}, CapPair, "Neighbours in the distributor cap: 3 and 5", "tracked cap", "inside of the cap"},
		"neighbours":            {"four-across", []evidence.Entry{codes(t, "P0302", "P0303")}, Beside, "Two neighbours in the block: 2 and 3", "head gasket", "compression"},
		"a bank":                {"v6-across", []evidence.Entry{counts(80, 75, 90, 0, 1, 0)}, Bank, "All of bank 1: 1, 2 and 3", "that bank", "trims"},
		"a lean bank":           {"v6-across", []evidence.Entry{counts(80, 75, 90, 0, 1, 0), trims(21, 2)}, Bank, "All of bank 1: 1, 2 and 3, bank 1 lean", "air leak of that bank", "smoke test"},
		"all, lean":             {"four-across", []evidence.Entry{codes(t, "P0300", "P0171", "P0301", "P0302", "P0303", "P0304")}, All, "All cylinders, bank 1 lean", "unmetered air", "smoke test, then fuel pressure; no coil is touched"},
		"several, lean":         {"six-along", []evidence.Entry{codes(t, "P0301", "P0304", "P0306", "P0171")}, Several, "Several cylinders: 1, 4 and 6, bank 1 lean", "unmetered air", "no coil is touched before"},
		"all on a distributor":  {"six-distributor", []evidence.Entry{{Body: &evidence.Watch{Cylinders: []engine.Cylinder{1, 2, 3, 4, 5, 6}}}}, All, "All cylinders", "rotor", "coil's lead"},
		"the only one":          {"single-magneto", []evidence.Entry{{Body: &evidence.Watch{Cylinders: []engine.Cylinder{1}}}}, All, "Its only cylinder", "stop wire", "known-good plug"},
		"near the worst":        {"six-along", []evidence.Entry{counts(31, 0, 12, 28, 1, 0)}, Several, "Several cylinders: 1, 3 and 4", "worn plugs", "age of the plugs"},
		"none named":            {"four-across", []evidence.Entry{codes(t, "P0300")}, Unnamed, "A misfire that names no cylinder", "wanders", "counters"},
		"nothing found":         {"four-across", []evidence.Entry{codes(t)}, None, "No misfire code was read", "", ""},
		"clean after a code":    {"four-across", []evidence.Entry{codes(t, "P0302"), counts(0, 0, 0, 0)}, None, "The last run showed no misfire", "", ""},
		"counts clear a code":   {"four-across", []evidence.Entry{codes(t, "P0301", "P0304"), counts(0, 0, 1, 120)}, One, "One cylinder: 4", "coil", "connector"},
	} {
		p, _ := engine.FindPattern(c.engine)
		e := p.Engine()
		var l evidence.Ledger
		for i, entry := range c.entries {
			entry.Done, entry.By = time.Date(2026, 11, 2, 8, i, 0, 0, time.UTC), "x"
			if entry.Trims() != nil && e.Banks() == 1 {
				entry.Trims().Banks = entry.Trims().Banks[:1]
			}
			longer, err := l.Add(e, entry)
			if err != nil {
				t.Fatalf("%s: %v", name, err)
			}
			l = longer
		}
		got, ok := Of(e, l.Replay(e))
		if !ok || got.Shape != c.shape || got.Title(e) != c.title || !strings.Contains(got.Points, c.points) || !strings.Contains(got.First, c.first) {
			t.Errorf("%s: %s, %q: points at %q, first %q", name, got.Shape, got.Title(e), got.Points, got.First)
		}
	}
}

// Each row is stated with its source, and each shape has one that fits any engine
// without anything known of the mixture.
func TestPatternsAreStatedWithSources(t *testing.T) {
	for _, r := range Rows {
		if r.Points == "" || r.Why == "" || r.First == "" || r.Source == "" {
			t.Errorf("row %+v", r)
		}
	}
	for _, p := range engine.Shelf {
		for _, s := range []Shape{Unnamed, One, Companions, Beside, Bank, All, Several} {
			e := p.Engine()
			if s == Companions && (e.Ignition == engine.WastedSpark || e.Cylinders < 3) {
				continue
			}
			if r := row(e, s, trouble.Even); r.Points == "" {
				t.Errorf("%s on %s points nowhere", s, p.ID)
			}
		}
	}
	if _, ok := Of(engine.Shelf[0].Engine(), nil); ok {
		t.Error("a pattern without anything read")
	}
}
