package unit

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
)

// Ohms is the display of a resistance meter: a figure, or over range.
type Ohms struct {
	Value float64 // in ohms; 0 when over range
	Over  bool    // no figure: open circuit, or beyond the range of the meter
}

// MaxOhms is the largest valid figure. Above it a meter shows over range.
const MaxOhms = 1e9

// ohmSteps lists the letters for the unit or the decimal point: "12k4" is 12.4 kilohms, "4R7"
// 4.7 ohms (P: IEC 60062, from memory).
var ohmSteps = map[byte]float64{'r': 1, 'k': 1e3, 'm': 1e6}

// overRange lists the spellings of over range.
var overRange = []string{"ol", "o.l", "o.l.", "0l", "0.l", "over range", "over", "open", "inf", "∞", "1."}

// ParseOhms reads a resistance: "0.6", "12k4", "12.4 kΩ", "1.2 M", "4R7", "OL". A small m
// means mega too; milliohms are typed as "0.2". Errors are [invalid.Error].
func ParseOhms(s string) (Ohms, error) {
	bad := invalid.Error{Expected: "a resistance from 0 to 1 GΩ, such as 0.6, 12k4, 12.4 kΩ or 1.2 M, or OL for over range", Got: invalid.Quote(s)}
	text := strings.ToLower(strings.Join(strings.Fields(s), " "))
	for _, word := range overRange {
		if text == word {
			return Ohms{Over: true}, nil
		}
	}
	for _, word := range []string{"ohms", "ohm", "ω", "Ω"} { // the sign and the letter
		if rest, ok := strings.CutSuffix(text, word); ok {
			text = strings.TrimSpace(rest)
			break
		}
	}
	factor := 1.0
	if at := strings.IndexAny(text, "rkm"); at >= 0 {
		factor = ohmSteps[text[at]]
		before, after := strings.TrimSpace(text[:at]), strings.TrimSpace(text[at+1:])
		switch {
		case after == "":
			text = before
		case before != "" && strings.IndexFunc(before+after, func(r rune) bool { return r < '0' || r > '9' }) < 0:
			text = before + "." + after // the letter is the point
		default:
			return Ohms{}, bad
		}
	}
	v, ok := Figure(text)
	if v *= factor; !ok || v < 0 || v > MaxOhms {
		return Ohms{}, bad
	}
	return Ohms{Value: v}, nil
}

// String returns three significant figures: "0.62 Ω", "12.4 kΩ", "over range".
func (o Ohms) String() string {
	if o.Over {
		return "over range"
	}
	for _, u := range []struct {
		from float64
		word string
	}{{1e6, "MΩ"}, {1e3, "kΩ"}} {
		if o.Value >= u.from*0.9995 {
			return trimFigure(o.Value/u.from) + " " + u.word
		}
	}
	return trimFigure(o.Value) + " Ω"
}

func trimFigure(v float64) string {
	digits := 2
	switch {
	case v >= 99.95:
		digits = 0
	case v >= 9.995:
		digits = 1
	}
	s := fmt.Sprintf("%.*f", digits, v)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

// copper is the temperature coefficient of copper at 20 °C, per kelvin (P: IEC 60028,
// from memory).
const copper = 0.00393

// Coldest is the lowest temperature at which a reading is converted, in °C.
const Coldest = -60

// CopperAt20 converts the resistance of a copper winding at a temperature in °C, from Coldest
// up, to 20 °C.
func CopperAt20(ohms, celsius float64) float64 {
	return ohms / (1 + copper*(math.Max(celsius, Coldest)-20))
}

// CopperAt converts from 20 °C to a temperature.
func CopperAt(ohmsAt20, celsius float64) float64 {
	return ohmsAt20 * (1 + copper*(math.Max(celsius, Coldest)-20))
}
