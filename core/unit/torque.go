package unit

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
)

// Torques is a range of torque in newton metres, as a maker gives it. Low and High are equal for a
// single figure.
type Torques struct{ Low, High float64 }

// The torques that a bolt or plug of an ignition can have, in newton metres (judgement: below a screw
// that a hand can hold, above the head bolts).
const (
	LeastTorque = 0.5
	MostTorque  = 150.0
)

// ParseTorque reads a torque or a range of torque with its unit: "12 ft-lbs", "66 inch pounds",
// "30 newton meters", "14-22 ft-lb", "15 ± 2 Nm". A bare number is refused with the question which
// unit it is in. Errors are [invalid.Error].
func ParseTorque(s string) (Torques, error) { return parseTorque(s, MostTorque) }

// ParseTorqueRange reads the range of a torque wrench, such as "5-25 Nm" or "20-110 lbf·ft": up to 1000
// N·m. Errors are [invalid.Error].
func ParseTorqueRange(s string) (Torques, error) { return parseTorque(s, 1000) }

func parseTorque(s string, most float64) (Torques, error) {
	bad := invalid.Error{Expected: "a torque with its unit, such as 25 N·m, 18 lbf·ft or 14-22 ft-lb", Got: invalid.Quote(s)}
	text := strings.ToLower(strings.NewReplacer("–", "-", "—", "-", "+/-", "±", "+-", "±", " to ", "-").Replace(strings.Join(strings.Fields(s), " ")))
	word, factor := "", 0.0
	for _, u := range Torque.units {
		for _, w := range u.words {
			if strings.HasSuffix(text, w) && len(w) > len(word) {
				word, factor = w, u.factor
			}
		}
	}
	number := strings.TrimSpace(strings.TrimSuffix(text, word))
	var first, second string
	var spread, two bool
	if first, second, spread = strings.Cut(number, "±"); !spread {
		first, second, two = strings.Cut(number, "-")
	}
	a, ok := Figure(first)
	b := a
	if ok && (spread || two) {
		b, ok = Figure(second)
	}
	if !ok {
		return Torques{}, bad
	}
	if spread {
		a, b = a-b, a+b
	}
	if word == "" {
		return Torques{}, invalid.Error{Expected: fmt.Sprintf("the unit of the torque: type “%s N·m”, “%s lbf·ft” or “%s lbf·in”", number, number, number), Got: invalid.Quote(s)}
	}
	t := Torques{a * factor, b * factor}
	switch {
	case t.Low > t.High:
		return Torques{}, invalid.Error{Expected: "a range that begins with its lower end, such as 14-22 ft-lb", Got: invalid.Quote(s)}
	case !(t.Low >= LeastTorque && t.High <= most):
		return Torques{}, invalid.Error{Expected: fmt.Sprintf("a torque from %g to %g N·m; check its unit: 90 lbf·in are 10 N·m, 90 lbf·ft are 122 N·m", LeastTorque, most), Got: invalid.Quote(s)}
	}
	return t, nil
}

// Mid is the middle of the range in newton metres.
func (t Torques) Mid() float64 { return (t.Low + t.High) / 2 }

// Amount is a figure with its unit.
type Amount struct {
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
}

// TorqueAlso returns a torque in newton metres in pound-force feet and pound-force inches, rounded to
// what a wrench can be set to: tenths of a foot-pound and whole inch-pounds.
func TorqueAlso(nm float64) []Amount {
	return []Amount{{math.Round(10*nm/NewtonMetresPerLbfFt) / 10, "lbf·ft"}, {math.Round(nm / NewtonMetresPerLbfIn), "lbf·in"}}
}
