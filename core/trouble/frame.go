package trouble

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
)

// Frame is a freeze frame: the running condition when a code set. What was not
// read is nil.
type Frame struct {
	// Code is the code that set it.
	Code *Code `json:"code,omitzero"`
	// RPM is the engine speed in revolutions a minute.
	RPM *float64 `json:"rpm,omitzero"`
	// Load is the calculated load in per cent.
	Load *float64 `json:"load,omitzero"`
	// Coolant is the coolant temperature in degrees Celsius.
	Coolant *float64 `json:"coolant_c,omitzero"`
	// Speed is the vehicle's in kilometres an hour.
	Speed *float64 `json:"speed_kmh,omitzero"`
	// Trims are the fuel trims of each bank then.
	Trims []Trim `json:"trims,omitzero"`
}

// Trim is the fuel trims of one bank in per cent: above zero the control unit
// adds fuel, since the exhaust looks lean.
type Trim struct {
	Bank  int     `json:"bank"`
	Short float64 `json:"short"`
	Long  float64 `json:"long"`
}

// Sum is short and long together.
func (t Trim) Sum() float64 { return t.Short + t.Long }

// Mixture is what fuel trims say in a word.
type Mixture string

// The mixtures. Lean means that fuel is added, rich that it is taken away.
const (
	Even Mixture = "even"
	Lean Mixture = "lean"
	Rich Mixture = "rich"
)

// WorthALook is the sum of the trims from which they are worth a look, in per
// cent (C).
const WorthALook = 10

// Mixture is the trims in a word, for reading; what weighs them uses the figures.
func (t Trim) Mixture() Mixture {
	switch s := t.Sum(); {
	case s > WorthALook:
		return Lean
	case s < -WorthALook:
		return Rich
	}
	return Even
}

// Values that the bus can carry (SAE J1979 live data, from memory): rpm =
// (256A + B)/4, load = A·100/255 %, coolant = A − 40 °C, speed = A km/h, trim =
// (A − 128)·100/128 %.
var (
	rpmRange     = [2]float64{0, 16383.75}
	loadRange    = [2]float64{0, 100}
	coolantRange = [2]float64{-40, 215}
	speedRange   = [2]float64{0, 255}
	trimRange    = [2]float64{-100, 99.22}
)

// Empty reports whether nothing was read.
func (f Frame) Empty() bool {
	return f.Code == nil && f.RPM == nil && f.Load == nil && f.Coolant == nil && f.Speed == nil && len(f.Trims) == 0
}

// Check returns an error for impossible values, given the number of banks.
func (f Frame) Check(banks int) error {
	var bad invalid.Errors
	for _, v := range []struct {
		field string
		value *float64
		in    [2]float64
		unit  string
	}{{"rpm", f.RPM, rpmRange, "rpm"}, {"load", f.Load, loadRange, "%"}, {"coolant_c", f.Coolant, coolantRange, "°C"}, {"speed_kmh", f.Speed, speedRange, "km/h"}} {
		if v.value != nil && !(*v.value >= v.in[0] && *v.value <= v.in[1]) {
			bad.Add(v.field, fmt.Sprintf("%g to %g %s", v.in[0], v.in[1], v.unit), fmt.Sprint(*v.value))
		}
	}
	bad.Under("trims", CheckTrims(f.Trims, banks))
	return bad.Err()
}

// CheckTrims returns an error for impossible trims, given the number of banks.
func CheckTrims(trims []Trim, banks int) error {
	var bad invalid.Errors
	seen := map[int]bool{}
	for i, t := range trims {
		if t.Bank < 1 || t.Bank > banks || seen[t.Bank] {
			expected := "bank 1, the only one of this engine, once"
			if banks > 1 {
				expected = "bank 1 or 2, each once"
			}
			bad.Add(fmt.Sprintf("[%d].bank", i), expected, fmt.Sprint(t.Bank))
			return bad
		}
		seen[t.Bank] = true
		for field, v := range map[string]float64{"short": t.Short, "long": t.Long} {
			if !(v >= trimRange[0] && v <= trimRange[1]) {
				bad.Add(fmt.Sprintf("[%d].%s", i, field), fmt.Sprintf("%g to %g %%", trimRange[0], trimRange[1]), fmt.Sprint(v))
			}
		}
	}
	return bad.Err()
}

// Words is the frame in a short sentence.
func (f Frame) Words() string {
	var words []string
	add := func(v *float64, unit string) {
		if v != nil {
			words = append(words, fmt.Sprintf("%g %s", math.Round(*v*10)/10, unit))
		}
	}
	add(f.RPM, "rpm")
	add(f.Load, "% load")
	add(f.Coolant, "°C")
	add(f.Speed, "km/h")
	if len(f.Trims) > 0 {
		words = append(words, TrimWords(f.Trims))
	}
	s := strings.Join(words, ", ")
	if f.Code != nil {
		s = f.Code.String() + " at " + s
	}
	return s
}

// TrimWords says trims in a short sentence: "trims of bank 1 +18 % (lean)".
func TrimWords(trims []Trim) string {
	words := make([]string, len(trims))
	for i, t := range trims {
		words[i] = fmt.Sprintf("trims of bank %d %+.0f %%", t.Bank, t.Sum())
		if m := t.Mixture(); m != Even {
			words[i] += fmt.Sprintf(" (%s)", m)
		}
	}
	return strings.Join(words, ", ")
}
