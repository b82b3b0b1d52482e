package meter

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

func read(t *testing.T, s string) unit.Ohms {
	t.Helper()
	o, err := unit.ParseOhms(s)
	if err != nil {
		t.Fatal(err)
	}
	return o
}

// Rules of thumb (C, as values of the trade) and the maker's range, which goes before them.
func TestRangeGoesBeforeRuleOfThumb(t *testing.T) {
	maker := Range{11e3, 15e3}
	for name, c := range map[string]struct {
		q            Question
		thumb, maker Says
		fails        bool
	}{
		"a primary":               {Question{Item: Primary, Read: read(t, "0.9"), Leads: 0.2, Celsius: 20}, Within, NotKnown, false},
		"the meter's leads alone": {Question{Item: Primary, Read: read(t, "0.2"), Leads: 0.2, Celsius: 20}, Below, NotKnown, true},
		"open":                    {Question{Item: Secondary, Read: read(t, "OL"), Celsius: 20, Maker: maker}, Open, Open, true},
		"a secondary":             {Question{Item: Secondary, Read: read(t, "12k4"), Celsius: 20, Maker: maker}, Within, Within, false},
		"warm and within":         {Question{Item: Secondary, Read: read(t, "17k"), Celsius: 75, Maker: maker}, Within, Within, false},
		"the same, cold":          {Question{Item: Secondary, Read: read(t, "17k"), Celsius: 20, Maker: maker}, Within, Above, false},
		"shorted turns":           {Question{Item: Secondary, Read: read(t, "5k2"), Celsius: 20, Maker: maker}, Within, Below, true},
		"a carbon core":           {Question{Item: Lead, Make: CarbonCore, Metres: 0.6, Read: read(t, "14k")}, Within, NotKnown, false},
		"the same, wire-wound":    {Question{Item: Lead, Make: WireWound, Metres: 0.6, Read: read(t, "14k")}, Above, NotKnown, false},
		"a broken core":           {Question{Item: Lead, Make: WireWound, Metres: 0.6, Read: read(t, "180k")}, Above, NotKnown, true},
		"none above 50 kΩ":        {Question{Item: Lead, Make: CarbonCore, Metres: 1.5, Read: read(t, "55k")}, Above, NotKnown, false},
		"a lead of no length":     {Question{Item: Lead, Make: CarbonCore, Read: read(t, "14k")}, NotKnown, NotKnown, false},
		"a resistor plug":         {Question{Item: Plug, Read: read(t, "5k")}, Within, NotKnown, false},
		"a plug without one":      {Question{Item: Plug, Read: read(t, "0.5")}, Below, NotKnown, true},
	} {
		j := JudgeResistance(c.q)
		if j.Thumb != c.thumb || j.Maker != c.maker || j.Fails != c.fails || j.Words == "" {
			t.Errorf("%s: %+v", name, j)
		}
	}
	// P: IEC 60028, from memory: 1216 Ω at 75 °C are 1000 Ω at 20 °C; carbon and resistors are
	// told as they read.
	if j := JudgeResistance(Question{Item: Secondary, Read: unit.Ohms{Value: 12160}, Celsius: 75}); math.Abs(j.At20.Value-10_000) > 5 {
		t.Errorf("%v", j.At20)
	}
	if j := JudgeResistance(Question{Item: Plug, Read: unit.Ohms{Value: 5000}, Celsius: 75}); j.At20.Value != 5000 {
		t.Errorf("%v", j.At20)
	}
}

func TestMeasurable(t *testing.T) {
	e := engine.Engine{Ignition: engine.CoilOnPlug, Wires: 3}
	for item, want := range map[Item]bool{Primary: false, Secondary: false, Lead: false, Plug: true, Wire: true} {
		if ok, why := Measurable(e, item); ok != want || ok == (why != "") {
			t.Errorf("%s: %v, %q", item, ok, why)
		}
	}
	e = engine.Engine{Ignition: engine.CoilNearPlug, Wires: 2}
	for _, item := range []Item{Primary, Secondary, Lead} {
		if ok, why := Measurable(e, item); !ok {
			t.Errorf("%s: %s", item, why)
		}
	}
}
