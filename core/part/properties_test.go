package part

import (
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
)

// What comes of each difference, when the new plug is held beside the old (C).
func TestCompare(t *testing.T) {
	old := PlugDesign{ThreadMM: 14, ReachMM: 19, Seat: "gasket", HexMM: 16, Resistor: "yes", Electrode: "fine-wire", HeatRange: "6", Terminal: "nut", Lettering: "GF-6R"}
	for name, c := range map[string]struct {
		change func(*PlugDesign)
		of     []string
		says   string
		grave  bool
	}{
		"the same":                     {func(*PlugDesign) {}, nil, "", false},
		"within a rule's reading":      {func(d *PlugDesign) { d.ReachMM = 19.2 }, nil, "", false},
		"too long":                     {func(d *PlugDesign) { d.ReachMM, d.Lettering = 26.5, "GL-6R" }, []string{"reach", "lettering"}, "bottom out", true},
		"too short":                    {func(d *PlugDesign) { d.ReachMM, d.Lettering = 12.7, "GS-6R" }, []string{"reach", "lettering"}, "too short", true},
		"thicker":                      {func(d *PlugDesign) { d.ThreadMM, d.Lettering = 18, "x" }, []string{"thread", "lettering"}, "does not go in", true},
		"wrong seat":                   {func(d *PlugDesign) { d.Seat, d.Lettering = "taper", "x" }, []string{"seat", "lettering"}, "wrong seat", true},
		"no resistor":                  {func(d *PlugDesign) { d.Resistor, d.Lettering = "no", "x" }, []string{"resistor", "lettering"}, "interference", true},
		"another hex":                  {func(d *PlugDesign) { d.HexMM, d.Lettering = 21, "x" }, []string{"hex", "lettering"}, "socket", false},
		"another name":                 {func(d *PlugDesign) { d.Lettering = "OR-6" }, []string{"lettering"}, "look it up", false},
		"same lettering, no fine wire": {func(d *PlugDesign) { d.Electrode = "nickel" }, []string{"electrode", "copy"}, "", true},
		"not known":                    {func(d *PlugDesign) { *d = PlugDesign{} }, nil, "", false},
	} {
		fresh := old
		c.change(&fresh)
		var of []string
		text, grave := "", false
		all, _ := Compare(engine.Plug, Make{Plug: &old}, Make{Plug: &fresh})
		for _, d := range all {
			of = append(of, d.Of)
			text += d.Judged
			grave = grave || d.Grave
		}
		if !slices.Equal(of, c.of) || !strings.Contains(text, c.says) || grave != c.grave {
			t.Errorf("%s: %v, %q, grave %t", name, of, text, grave)
		}
	}
	if _, known := Compare(engine.Plug, Make{Plug: &old}, Make{Plug: &PlugDesign{}}); known {
		t.Error("an unknown plug is compared")
	}
	for name, c := range map[string]struct {
		kind       Kind
		old, fresh Make
		says       string
	}{
		"magneto coil, other holes": {engine.Coil, Make{Coil: &CoilDesign{Holes: 2, SpacingMM: 58}}, Make{Coil: &CoilDesign{Holes: 2, SpacingMM: 62}}, "bosses"},
		"magneto coil, unmarked":    {engine.Coil, Make{Coil: &CoilDesign{Face: "marked"}}, Make{Coil: &CoilDesign{Face: "unmarked"}}, "lies outward"},
		"lead of another core":      {engine.Lead, Make{Lead: &LeadDesign{Core: "carbon-core"}}, Make{Lead: &LeadDesign{Core: "solid-wire"}}, "tenfold"},
		"cap with too few towers":   {engine.Cap, Make{Cap: &CapDesign{Towers: 6}}, Make{Cap: &CapDesign{Towers: 4}}, "no place"},
		"taller rotor":              {engine.Rotor, Make{Cap: &CapDesign{HeightMM: 30}}, Make{Cap: &CapDesign{HeightMM: 34}}, "can touch"},
		"more ohms":                 {engine.Plug, Make{Plug: &PlugDesign{ResistorOhms: 5000}}, Make{Plug: &PlugDesign{ResistorOhms: 8000}}, "less energy"},
	} {
		if all, known := Compare(c.kind, c.old, c.fresh); !known || len(all) != 1 || !strings.Contains(all[0].Judged, c.says) {
			t.Errorf("%s: %+v", name, all)
		}
	}
}

// Every property that is written can be read back, and an unknown one is empty.
func TestPropertiesRoundTrip(t *testing.T) {
	sample := map[string]string{"thread": "14", "reach": "26.5", "hex": "16", "ohms": "5000", "gap-low": "0.7", "gap-high": "0.8", "torque-low": "20", "torque-high": "25",
		"pins": "3", "stem": "120", "holes": "2", "spacing": "58", "length": "640", "towers": "6", "height": "31", "heat": "6", "lettering": "GF-6R"}
	for _, p := range Properties {
		want := sample[p.ID]
		if p.Choices != nil {
			want = p.Choices[0]
		}
		var m Make
		if got := p.Show(m); got != "" {
			t.Errorf("%s of nothing is %q", p.Path, got)
		}
		if err := p.Put(&m, want); err != nil {
			t.Errorf("%s: %v", p.Path, err)
		}
		if got := p.Show(m); got != want || want == "" {
			t.Errorf("%s: %q was read back as %q", p.Path, want, got)
		}
		if err := m.Check(p.Kinds[0]); err != nil {
			t.Errorf("%s: %v", p.Path, err)
		}
		if p.Choices != nil && p.Put(&m, "no such value") == nil {
			t.Errorf("%s takes a value that it does not offer", p.Path)
		}
	}
}
