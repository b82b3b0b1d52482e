package evidence

import (
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// The finding of a plug that was read in full is the gravest of its signs; a gap counts against the
// maker's range.
func TestFindingsOfAPlug(t *testing.T) {
	spec := plug.Range{Low: 0.8, High: 0.9}
	for name, c := range map[string]struct {
		look plug.Look
		want []Finding
	}{
		"normal":                   {plug.Sound, []Finding{PlugNormal}},
		"pale, with a ring":        {plug.Look{Nose: plug.Pale, Ring: plug.Ring}, []Finding{PlugNormal}},
		"white is no finding":      {plug.Look{Nose: plug.White}, []Finding{PlugNormal}},
		"tracked and wet":          {plug.Look{Insulator: plug.Tracked, Wet: plug.Fuel}, []Finding{PlugCracked, PlugFuel}},
		"bridged":                  {plug.Look{Deposit: plug.Bridged}, []Finding{PlugClosed}},
		"closed by its gap":        {plug.Look{GapMM: 0.3}, []Finding{PlugClosed}},
		"worn by its gap":          {plug.Look{GapMM: 1.3, Deposit: plug.Soot}, []Finding{PlugWorn, PlugSoot}},
		"cracked goes before worn": {plug.Look{GapMM: 1.3, Insulator: plug.Cracked}, []Finding{PlugCracked, PlugWorn}},
		"a little wide is not":     {plug.Look{GapMM: 0.95}, []Finding{PlugNormal}},
		"round, but in range":      {plug.Look{GapMM: 0.85, Edges: plug.Rounded}, []Finding{PlugNormal}},
		"round, gap not known":     {plug.Look{Edges: plug.Rounded}, []Finding{PlugWorn}},
		"loose and a copy":         {plug.Look{Hold: plug.Loose, Tip: plug.Missing}, []Finding{PlugWrong, PlugLoose}},
		"oil at the hex alone":     {plug.Look{High: plug.Oil}, []Finding{PlugNormal}},
	} {
		if got := FindingsOf(c.look, spec); !slices.Equal(got, c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
		}
	}
}

func TestWordsOfABoard(t *testing.T) {
	l := Look{Ran: RanDriven}
	for i, of := range []plug.Look{{Edges: plug.Rounded, GapMM: 0.95}, {Edges: plug.Rounded, Insulator: plug.Tracked, GapMM: 1.02}, {Edges: plug.Rounded, GapMM: 0.93}} {
		l.Items = append(l.Items, l.Read(part.Of(engine.Plug, engine.At(engine.Cylinder(i+1))), of))
	}
	l.Items = append(l.Items, Seen{Tag: "B2", Finding: BootTracked})
	want := "all 3 plugs: edges rounded; plugs P1, P3: nothing else; plug P2: burnt track on the insulator; gaps 0.93 to 1.02 mm; boot B2: burnt track inside; engine driven, then shut off"
	if got := strings.Join(l.Words(), "; "); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}

func TestPlugsThatCannotBe(t *testing.T) {
	e := engine.Engine{Cylinders: 4, Arrangement: engine.Inline, Mounting: engine.Crossways, BeltEnd: engine.Left, Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(engine.Inline, 4, "")}.Derive()
	look := func(item Seen) Look { return Look{Items: []Seen{item}} }
	for name, c := range map[string]struct {
		look  Look
		field string
	}{
		"another finding":    {look(Seen{Tag: "P1", Finding: PlugNormal, Plug: plug.Look{Insulator: plug.Cracked}}), "items[0].finding"},
		"a plug's on a boot": {look(Seen{Tag: "B1", Finding: BootSound, Plug: plug.Look{Wet: plug.Dry}}), "items[0].plug"},
		"no such sign":       {look(Seen{Tag: "P1", Finding: PlugNormal, Plug: plug.Look{Nose: "blue"}}), "items[0].plug.nose"},
		"no such gap":        {look(Seen{Tag: "P1", Finding: PlugNormal, Plug: plug.Look{GapMM: 40}}), "items[0].plug.gap_mm"},
		"ran sideways":       {Look{Items: []Seen{{Tag: "P1", Finding: PlugNormal}}, Ran: "sideways"}, "ran"},
		"a range upside":     {Look{Items: []Seen{{Tag: "P1", Finding: PlugNormal}}, Gap: &plug.Range{Low: 1, High: 0.5}}, "gap.high"},
	} {
		if got := invalid.From(c.look.check(e, nil)); len(got) != 1 || got[0].Field != c.field {
			t.Errorf("%s: %v, want one at %s", name, got, c.field)
		}
	}
	thread := part.PlugDesign{ThreadMM: 14}
	for name, c := range map[string]struct {
		beside Beside
		field  string
	}{
		"of a lead":           {Beside{Tag: "L1", Old: thread, New: thread}, "tag"},
		"a coil's of a plug":  {Beside{Tag: "P1", Old: thread, New: thread, OldCoil: part.CoilDesign{Pins: 3}}, "tag"},
		"nothing to compare":  {Beside{Tag: "P1", Old: thread}, "new"},
		"too long":            {Beside{Tag: "P1", Old: thread, New: part.PlugDesign{ThreadMM: 30}}, "new.thread_mm"},
		"too many pins":       {Beside{Tag: "C1", OldCoil: part.CoilDesign{Pins: 3}, NewCoil: part.CoilDesign{Pins: 30}}, "new_coil.pins"},
		"listed by a friend":  {Beside{Tag: "P1", Old: thread, New: thread, Listed: "maybe"}, "listed"},
		"no such seat at all": {Beside{Tag: "P1", Old: thread, New: part.PlugDesign{ThreadMM: 14, Seat: "flat"}}, "new.seat"},
	} {
		if got := invalid.From(c.beside.check(e, nil)); len(got) != 1 || got[0].Field != c.field {
			t.Errorf("%s: %v, want one at %s", name, got, c.field)
		}
	}
}
