package unit

import (
	"math"
	"strings"
	"testing"
)

// Figures as people type them, in either system of units.
func TestMeasures(t *testing.T) {
	for _, c := range []struct {
		measure Measure
		typed   string
		want    float64
	}{
		{Length, "0.039 in", 0.9906}, {Length, "39 thou", 0.9906}, {Length, "39thou", 0.9906}, {Length, "1,0 mm", 1}, {Length, "1", 1}, {Length, "2.5cm", 25}, {Length, "1,200 mm", 1200},
		{Gap, "0.9", 0.9}, {Gap, "0.035in", 0.889},
		{Temperature, "167 °F", 75}, {Temperature, "-40f", -40}, {Temperature, "75", 75}, {Temperature, "348.15 K", 75}, {Temperature, "−10 °C", -10},
		{Pressure, "1 bar", 100}, {Pressure, "14.696 psi", 101.325}, {Pressure, "980 hPa", 98}, {Pressure, "29.92 inHg", 101.32},
		{Torque, "90 lbf·in", 10.168632}, {Torque, "18 ft-lb", 24.404724}, {Torque, "25 Nm", 25}, {Torque, "2.5 kgf·m", 24.516625},
		{Feeler, "0.3", 0.3}, {Feeler, "12 thou", 0.3048}, {Kilo, "9.5", 9.5}, {Kilo, "9500 V", 9.5}, {Compression, "165 psi", 11.3763}, {Compression, "11,5 bar", 11.5}, {FuelBar, "350 kPa", 3.5},
		{Amperes, "7500 mA", 7.5}, {Drop, "60 mV", 0.06}, {Share, "12 %", 12}, {Rise, "4.5 A/ms", 4.5},
		{Altitude, "2750 ft", 838.2}, {Volts, "13,8 V", 13.8}, {Dwell, "2500 µs", 2.5}, {Inductance, "3000 uH", 3}, {Angle, "10°", 10},
	} {
		if got, err := c.measure.Parse(c.typed); err != nil || math.Abs(got-c.want) > 1e-3 {
			t.Errorf("%s %q: %v, %v; want %v", c.measure.Name, c.typed, got, err, c.want)
		}
	}
	for _, c := range []struct {
		measure     Measure
		typed, says string
	}{
		{Length, "", "length from"}, {Length, "one", "length from"}, {Length, "1e3", "length from"}, {Length, "NaN", "length from"}, {Length, "-1", "length from"}, {Length, "mm", "length from"}, {Length, "1 mm mm", "length from"},
		{Gap, "39", "“39 thou” for 0.99 mm"}, {Gap, "0.039", "“0.039 in” for 0.99 mm"}, {Gap, "900 mm", "gap from"},
		{Feeler, "12", "“12 thou” for 0.3 mm"}, {Compression, "165", "“165 psi” for 11 bar"}, {Compression, "1150", "“1150 kpa” for 12 bar"}, {Kilo, "120", "voltage from"}, {Drop, "-0.1", "voltage from"}, {Share, "130 %", "share from"},
		{Temperature, "900", "temperature from"}, {Temperature, "-100 K", "temperature from"},
	} {
		if got, err := c.measure.Parse(c.typed); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s %q: %v, %v; want an error with %q", c.measure.Name, c.typed, got, err, c.says)
		}
	}
}

func TestOhms(t *testing.T) {
	for typed, want := range map[string]string{
		"0.6": "0.6 Ω", "12k4": "12.4 kΩ", "12.4 kΩ": "12.4 kΩ", "12,4k": "12.4 kΩ", "12400": "12.4 kΩ", "1.2 M": "1.2 MΩ", "1M2": "1.2 MΩ", "4R7": "4.7 Ω", "0R62": "0.62 Ω",
		"OL": "over range", "0L": "over range", "Over range": "over range", "∞": "over range", "5 kohm": "5 kΩ", "470 ohms": "470 Ω", "0": "0 Ω", "999.6": "1 kΩ", "1 000": "1 kΩ",
	} {
		got, err := ParseOhms(typed)
		if err != nil || got.String() != want {
			t.Errorf("%q: %v, %v; want %s", typed, got, err, want)
		}
		if again, err := ParseOhms(got.String()); err != nil || again.Over != got.Over || math.Abs(again.Value-got.Value) > 0.005*got.Value {
			t.Errorf("%q: %v read back is %v, %v", typed, got, again, err)
		}
	}
	for _, typed := range []string{"", "-5", "10000 M", "k4", "12k4k", "1.2.3", "12 k 4 x", "NaN", "1e3", "ohm", "k", "5 V"} {
		if got, err := ParseOhms(typed); err == nil {
			t.Errorf("%q is read as %v", typed, got)
		}
	}
}

// P: IEC 60028, from memory: a winding at 75 °C reads 1.216 times its 20 °C value.
func TestCopper(t *testing.T) {
	if got := CopperAt20(1.216, 75); math.Abs(got-1) > 5e-4 {
		t.Errorf("%v", got)
	}
	for _, c := range []float64{-60, -20, 0, 20, 95, 200} {
		if got := CopperAt20(CopperAt(7.5, c), c); math.Abs(got-7.5) > 1e-12 {
			t.Errorf("there and back at %v °C: %v", c, got)
		}
	}
}

func FuzzParseOhms(f *testing.F) {
	for _, s := range []string{"12k4", "0.6", "OL", "1.2 M", "4R7", "-5", "12,4kΩ", "k"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		o, err := ParseOhms(s)
		if err == nil && !o.Over && !(o.Value >= 0 && o.Value <= MaxOhms) {
			t.Errorf("%q is %v", s, o)
		}
	})
}

func FuzzMeasure(f *testing.F) {
	for _, s := range []string{"0.039 in", "39 thou", "1,0 mm", "75 °F", "-40", "1e9", "″"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for _, m := range []Measure{Length, Gap, Temperature, Pressure, Torque} {
			if v, err := m.Parse(s); err == nil && !(v >= m.Low && v <= m.High) {
				t.Errorf("%s %q is %v", m.Name, s, v)
			}
		}
	})
}
