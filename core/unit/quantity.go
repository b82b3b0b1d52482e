package unit

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Measure is a quantity that people type with or without unit, such as a length or a pressure.
// It is stored in one unit.
type Measure struct {
	// Name is the quantity; Unit is the stored unit, which also applies to a bare number.
	Name, Unit string
	// Low and High are the limits in that unit, inclusive.
	Low, High float64
	Example   string
	units     []scale
	// Likely is the usual range of a bare number. A number that would be in it in another unit
	// gives an error that asks for the unit. Zero means no such range.
	Likely [2]float64
}

// scale is a unit: value times factor plus offset gives the stored unit. asked is true if a
// bare number may be in it.
type scale struct {
	words          []string
	factor, offset float64
	asked          bool
}

// Conversion factors: the international inch is 25.4 mm (P); the pound-force is 4.448 221 615 260 5 N,
// so 1 lbf·ft is 1.355 818 N·m and 12 lbf·in are exactly 1 lbf·ft (P: NIST SP 811, from memory); 1 kgf·m
// is 9.806 65 N·m (P: standard gravity, from memory); 1 psi is 6.894 757 kPa and 1 inHg 3.386 389 kPa (P: NIST SP 811, from
// memory).
const (
	MillimetresPerInch   = 25.4
	newtonsPerLbf        = 4.4482216152605
	NewtonMetresPerLbfFt = newtonsPerLbf * 12 * MillimetresPerInch / 1000
	NewtonMetresPerLbfIn = newtonsPerLbf * MillimetresPerInch / 1000
	newtonMetresPerKgfM  = 9.80665
	kPaPerPsi            = 6.894757
	kPaPerInHg           = 3.386389
)

// The measures. Limits cover what a workshop can meet (judgement).
var (
	Length = Measure{Name: "length", Unit: "mm", Low: 0, High: 10_000, Example: "0.039 in", units: []scale{
		{[]string{"mm"}, 1, 0, false}, {[]string{"cm"}, 10, 0, false}, {[]string{"m"}, 1000, 0, false}, {[]string{"µm", "um"}, 0.001, 0, false},
		{[]string{"thou", "thousandths", "mil"}, MillimetresPerInch / 1000, 0, true}, {[]string{"in", "inch", "inches", "\"", "″"}, MillimetresPerInch, 0, true}}}
	// Gap is a spark gap. A bare 39 or 0.039 gives an error that asks for the unit.
	Gap = Measure{Name: "gap", Unit: "mm", Low: 0.01, High: 30, Example: "0.9", units: Length.units, Likely: [2]float64{0.15, 12}}

	// Feeler is an air gap at the flywheel. A bare 12 or 0.012 gives an error that asks for
	// the unit.
	Feeler = Measure{Name: "air gap", Unit: "mm", Low: 0.01, High: 5, Example: "0.3", units: Length.units, Likely: [2]float64{0.05, 2}}

	Temperature = Measure{Name: "temperature", Unit: "°C", Low: -60, High: 300, Example: "75", units: []scale{
		{[]string{"°c", "c"}, 1, 0, false}, {[]string{"°f", "f"}, 5.0 / 9, -160.0 / 9, false}, {[]string{"k"}, 1, -273.15, false}}}
	Pressure = Measure{Name: "pressure", Unit: "kPa", Low: 5, High: 400, Example: "98", units: []scale{
		{[]string{"kpa"}, 1, 0, false}, {[]string{"hpa", "mbar"}, 0.1, 0, false}, {[]string{"bar"}, 100, 0, false}, {[]string{"psi"}, kPaPerPsi, 0, false}, {[]string{"inhg"}, kPaPerInHg, 0, false}}}
	Altitude = Measure{Name: "altitude", Unit: "m", Low: -400, High: 6000, Example: "840", units: []scale{
		{[]string{"m"}, 1, 0, false}, {[]string{"km"}, 1000, 0, false}, {[]string{"feet", "ft"}, 12 * MillimetresPerInch / 1000, 0, false}}}
	Torque = Measure{Name: "torque", Unit: "N·m", Low: 0, High: 5000, Example: "25", units: []scale{
		{[]string{"n·m", "nm", "n m", "n*m", "n-m", "n.m", "newton metre", "newton metres", "newton meter", "newton meters", "newton-metres", "newton-meters"}, 1, 0, false},
		{inchPounds, NewtonMetresPerLbfIn, 0, false},
		{footPounds, NewtonMetresPerLbfFt, 0, false},
		{[]string{"kgf·m", "kgfm", "kgf m", "mkg", "kg·m", "kgm", "kg m"}, newtonMetresPerKgfM, 0, false}}}
	// Resistance is a resistance that is given, not read from a meter: it cannot be over range.
	Resistance = Measure{Name: "resistance", Unit: "Ω", Low: 0, High: MaxOhms, Example: "5 k", units: []scale{
		{[]string{"ω", "ohm", "ohms", "r"}, 1, 0, false}, {[]string{"kω", "kohm", "k"}, 1000, 0, false}}}
	Angle = Measure{Name: "angle", Unit: "°", Low: 0, High: 720, Example: "10", units: []scale{{[]string{"°", "deg", "degrees"}, 1, 0, false}}}
	// Advance is ignition timing in crank degrees before top dead centre; a figure below 0 is after it.
	Advance     = Measure{Name: "timing", Unit: "°", Low: -40, High: 70, Example: "10", units: []scale{{[]string{"°", "deg", "degrees", "° btdc", "btdc"}, 1, 0, false}, {[]string{"° atdc", "atdc"}, -1, 0, false}}}
	EngineSpeed = Measure{Name: "engine speed", Unit: "rpm", Low: 100, High: 12_000, Example: "800", units: []scale{{[]string{"rpm", "1/min", "min-1"}, 1, 0, false}}}
	Teeth       = Measure{Name: "number of teeth", Unit: "teeth", Low: 4, High: 120, Example: "13", units: []scale{{[]string{"teeth"}, 1, 0, false}}}
	Volts       = Measure{Name: "voltage", Unit: "V", Low: 0.5, High: 60, Example: "13.8", units: []scale{{[]string{"mv"}, 0.001, 0, false}, {[]string{"v"}, 1, 0, false}}}
	Drop        = Measure{Name: "voltage", Unit: "V", Low: 0, High: 60, Example: "0.3", units: []scale{{[]string{"mv"}, 0.001, 0, false}, {[]string{"v"}, 1, 0, false}}}
	Amperes     = Measure{Name: "current", Unit: "A", Low: 0, High: 3000, Example: "7.5", units: []scale{{[]string{"ma"}, 0.001, 0, false}, {[]string{"a"}, 1, 0, false}}}
	Rise        = Measure{Name: "rise", Unit: "A/ms", Low: 0, High: 100, Example: "2.4", units: []scale{{[]string{"a/ms"}, 1, 0, false}}}
	Kilo        = Measure{Name: "voltage", Unit: "kV", Low: 0, High: 90, Example: "9.5", units: []scale{{[]string{"kv"}, 1, 0, false}, {[]string{"v"}, 0.001, 0, false}}}
	Share       = Measure{Name: "share", Unit: "%", Low: 0, High: 100, Example: "12", units: []scale{{[]string{"%"}, 1, 0, false}}}
	// Compression and FuelBar are gauge pressures. A bare 165 gives an error that asks for the
	// unit.
	Compression = Measure{Name: "pressure", Unit: "bar", Low: 0, High: 40, Example: "11.5", units: gauge, Likely: [2]float64{0, 25}}
	FuelBar     = Measure{Name: "pressure", Unit: "bar", Low: 0, High: 400, Example: "3.5", units: gauge}
	Dwell       = Measure{Name: "time", Unit: "ms", Low: 0.01, High: 1000, Example: "2.5", units: []scale{{[]string{"ms"}, 1, 0, false}, {[]string{"µs", "us"}, 0.001, 0, false}, {[]string{"s"}, 1000, 0, false}}}
	Burn        = Measure{Name: "burn time", Unit: "ms", Low: 0, High: 20, Example: "1.4", units: []scale{{[]string{"ms"}, 1, 0, false}, {[]string{"µs", "us"}, 0.001, 0, false}}}
	Slope       = Measure{Name: "slope", Unit: "kV/ms", Low: -100, High: 100, Example: "-0.2", units: []scale{{[]string{"kv/ms"}, 1, 0, false}}}
	HalfWaves   = Measure{Name: "half waves", Unit: "half waves", Low: 0, High: 1000, Example: "8", units: []scale{{[]string{"half waves"}, 1, 0, false}}}
	Inductance  = Measure{Name: "inductance", Unit: "mH", Low: 0.01, High: 1000, Example: "3", units: []scale{{[]string{"mh"}, 1, 0, false}, {[]string{"µh", "uh"}, 0.001, 0, false}, {[]string{"h"}, 1000, 0, false}}}
)

// inchPounds and footPounds list the ways in which the two units are written.
var inchPounds, footPounds = pounds("in", "inch", "inches"), pounds("ft", "foot", "feet")

func pounds(lengths ...string) (all []string) {
	for _, l := range lengths {
		for _, lb := range []string{"lb", "lbs", "lbf", "pound", "pounds"} {
			for _, between := range []string{" ", "-", "·", "", "."} {
				all = append(all, l+between+lb, lb+between+l)
			}
		}
	}
	return all
}

// gauge lists the units of a pressure gauge in bar.
var gauge = []scale{{[]string{"bar"}, 1, 0, false}, {[]string{"psi"}, kPaPerPsi / 100, 0, true}, {[]string{"kpa"}, 0.01, 0, true}, {[]string{"mpa"}, 10, 0, false}}

// Expected describes valid input, for an error message.
func (m Measure) Expected() string {
	return fmt.Sprintf("a %s from %g to %g %s, such as %s", m.Name, m.Low, m.High, m.Unit, m.Example)
}

// Parse reads a figure with or without a unit: "0.9", "0,9 mm", "0.039 in", "39 thou". A bare
// number is in the unit of the measure. If it is plausible only in another unit, the error
// asks for the unit. Errors are [invalid.Error].
func (m Measure) Parse(s string) (float64, error) {
	bad := invalid.Error{Expected: m.Expected(), Got: invalid.Quote(s)}
	text := strings.ToLower(strings.Join(strings.Fields(s), " "))
	number, factor, offset, bare := text, 1.0, 0.0, true
	longest := 0
	for _, u := range m.units {
		for _, word := range u.words {
			if rest, ok := strings.CutSuffix(text, word); ok && len(word) > longest && rest != "" {
				longest = len(word)
				number, factor, offset, bare = strings.TrimSpace(rest), u.factor, u.offset, false
			}
		}
	}
	v, ok := Figure(number)
	if !ok {
		return 0, bad
	}
	if bare && m.Likely[1] > 0 && !(v >= m.Likely[0] && v <= m.Likely[1]) {
		for _, u := range m.units {
			if x := v * u.factor; u.asked && x >= m.Likely[0] && x <= m.Likely[1] {
				return 0, invalid.Error{Expected: fmt.Sprintf("a %s with its unit: type “%s %s” for %.2g %s, or “%s %s”", m.Name, number, u.words[0], x, m.Unit, number, m.Unit), Got: invalid.Quote(s)}
			}
		}
	}
	v = v*factor + offset
	if !(v >= m.Low && v <= m.High) {
		return 0, bad
	}
	return v, nil
}

// Figure reads a decimal number with a point or a comma and thousands separators. It rejects
// exponents, NaN and infinity.
func Figure(s string) (float64, bool) {
	s = ungroup(strings.TrimSpace(s))
	if strings.Count(s, ",") == 1 && !strings.Contains(s, ".") {
		s = strings.Replace(s, ",", ".", 1)
	}
	s = strings.Replace(s, "−", "-", 1)
	for i, r := range s {
		if (r < '0' || r > '9') && r != '.' && (i > 0 || r != '-' && r != '+') {
			return 0, false
		}
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0, false
	}
	return v, true
}
