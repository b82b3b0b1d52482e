package catalogue

import (
	"bytes"
	"fmt"
	"reflect"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/part"
)

func ExampleRead() {
	items, err := Read("Number;Kind;Reach;Torque-low;Torque-high;Fits\nGF-6R;plug;0.748 in;15 lbf·ft;22 lbf·ft;P-07, P-11\n")
	fmt.Println(err, items[0].Number, items[0].Fits)
	fmt.Printf("%.0f mm, %.1f to %.1f N·m\n", items[0].Plug.ReachMM, items[0].Plug.TorqueLow, items[0].Plug.TorqueHigh)
	// Output:
	// <nil> GF-6R [P-07 P-11]
	// 19 mm, 20.3 to 29.8 N·m
}

func sample() []Item {
	return []Item{
		{Kind: engine.Plug, Fits: []string{"P-07"}, Price: 11.5, Make: part.Make{Number: "UP-6R", LifeKm: 60_000, LifeYears: 4, Plug: &part.PlugDesign{Electrode: "nickel", Seat: "gasket", ThreadMM: 14, ReachMM: 19, HexMM: 16,
			HeatRange: "6", Resistor: "yes", ResistorOhms: 5000, Finish: "bright", GapLow: 0.7, GapHigh: 0.8, TorqueLow: 22, TorqueHigh: 28, Terminal: "nut", Lettering: "UP, “6R”"}}},
		{Kind: engine.Coil, Make: part.Make{Number: "UC-31", Coil: &part.CoilDesign{Pins: 3, Tab: "left", StemMM: 120, Holes: 2, SpacingMM: 58, Face: "marked"}}},
		{Kind: engine.Lead, Make: part.Make{Number: "UL-9", Lead: &part.LeadDesign{LengthMM: 640, Core: "carbon-core"}}},
		{Kind: engine.Cap, Make: part.Make{Number: "UD-2", Cap: &part.CapDesign{Towers: 6, Fixing: "clips", HeightMM: 61}}},
		{Kind: engine.Boot, Price: 9, Make: part.Make{Number: "UB-1"}},
	}
}

// What is written reads back alike, by every separator.
func TestCatalogueRoundTrip(t *testing.T) {
	var b bytes.Buffer
	if err := Write(&b, sample()); err != nil {
		t.Fatal(err)
	}
	got, err := Read(b.String())
	if err != nil || !reflect.DeepEqual(got, sample()) {
		t.Errorf("%v\n%+v\n%s", err, got, b.String())
	}
}

// Every wrong line is named with its column and what was expected.
func TestWrongLinesAreNamed(t *testing.T) {
	for text, want := range map[string]string{
		"":                                   "line 1: expected a header",
		"kind,colour\nplug,red":              "line 1, column 2: expected a column of the catalogue",
		"number,price\nA,1":                  "the columns kind and number",
		"kind,number\nwheel,A":               "line 2, kind: expected one of plug",
		"kind,number,reach\nplug,A,long":     "line 2, reach: expected a length",
		"kind,number,reach\nplug,A,900 mm":   "line 2, reach: expected 6 to 40 mm",
		"kind,number,seat\nplug,A,flat":      "line 2, seat: expected gasket or taper",
		"kind,number\nplug,A\nplug,A":        "line 3, number: expected each part once",
		"kind,number,price\nplug,A,dear":     "line 2, price: expected a price",
		"kind,number,price\nplug,,1":         "line 2, number: expected a part number",
		"kind,number,torque-low\nplug,A,900": "line 2, torque-low: expected 3 to 80 N·m",
		"kind,kind,number\nplug,plug,A":      "line 1, column 2",
	} {
		if _, err := Read(text); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
	if items, err := Read("kind\tnumber\treach mm\ncoil\tC\t19\n"); err != nil || items[0].Plug != nil {
		t.Errorf("a coil has the reach of a plug: %+v, %v", items, err)
	}
}

// The number decides; without it an item that names the vehicle; one for any vehicle never by itself.
func TestFindTakesTheNumberFirst(t *testing.T) {
	items := sample()
	for _, c := range []struct {
		kind          part.Kind
		fleet, number string
		want          string
	}{{engine.Plug, "P-07", "", "UP-6R"}, {engine.Plug, "X-1", "", ""}, {engine.Plug, "X-1", "UP-6R", "UP-6R"}, {engine.Coil, "P-07", "", ""}, {engine.Coil, "P-07", "UC-31", "UC-31"}} {
		if got, _ := Find(items, c.kind, c.fleet, c.number); got.Number != c.want {
			t.Errorf("%+v: %q", c, got.Number)
		}
	}
}

func FuzzReadCatalogue(f *testing.F) {
	var b bytes.Buffer
	_ = Write(&b, sample())
	f.Add(b.String())
	f.Add("kind;number;fits\nplug;\"A;B\";x,y")
	f.Add("kind,number\nplug,\"")
	f.Fuzz(func(t *testing.T, text string) {
		items, err := Read(text)
		if err != nil {
			return
		}
		var out bytes.Buffer
		if err := Write(&out, items); err != nil {
			t.Fatal(err)
		}
		if again, err := Read(out.String()); err != nil || len(again) != len(items) {
			t.Errorf("%q reads as %d items, written and read again as %d: %v", text, len(items), len(again), err)
		}
	})
}
