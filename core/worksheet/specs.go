package worksheet

import (
	"math"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Spec is a figure that a vehicle can have of its own.
type Spec struct {
	// Of names it as a spec of the engine.
	Of, Words string
	Measure   *unit.Measure
	// Single is true for a figure that is no range.
	Single bool
}

// Specs lists them in the order of a form.
var Specs = []Spec{
	{engine.PlugGap, "Gap of the plugs", &unit.Gap, false},
	{SpecPlugTorque, "Torque of the plugs", &unit.Torque, false},
	{SpecCoilBolt, "Torque of a coil bolt", &unit.Torque, false},
	{SpecCoverBolt, "Torque of a cover bolt", &unit.Torque, false},
	{SpecPlenumBolt, "Torque of the intake plenum", &unit.Torque, false},
	{SpecClampBolt, "Torque of the distributor clamp", &unit.Torque, false},
	{SpecMagnetoBolt, "Torque of a magneto bolt", &unit.Torque, false},
	{SpecAirGap, "Air gap of the magneto", &unit.Feeler, false},
	{SpecBaseTiming, "Base timing before top dead centre", &unit.Advance, false},
	{SpecIdleSpeed, "Idle speed for the timing", &unit.EngineSpeed, false},
	{SpecGearTeeth, "Teeth of the distributor's gear", &unit.Teeth, true},
	{SpecPulley, "Diameter of the pulley", &unit.Length, true},
	{SpecWellDepth, "Depth of the plug wells", &unit.Length, true},
}

// SpecOf finds a figure by its name.
func SpecOf(of string) (Spec, bool) {
	for _, s := range Specs {
		if s.Of == of {
			return s, true
		}
	}
	return Spec{}, false
}

// Example shows how the figure is typed.
func (s Spec) Example() string {
	switch {
	case s.Measure == &unit.Torque:
		return "22-28 Nm, or 18 lbf·ft"
	case s.Measure == &unit.Length:
		return "150 mm"
	case s.Single:
		return s.Measure.Example + " " + s.Measure.Unit
	case s.Measure == &unit.Advance:
		return "6 to 8"
	case s.Measure == &unit.EngineSpeed:
		return "600-800 rpm"
	}
	return "0.7-0.8 mm"
}

// Show writes a figure as it can be typed.
func (s Spec) Show(have engine.Spec) string {
	low, high := unit.Decimal(round(have.Low)), unit.Decimal(round(have.High))
	if have.Low == have.High {
		return low + " " + s.Measure.Unit
	}
	return low + " to " + high + " " + s.Measure.Unit
}

func round(x float64) float64 { return math.Round(1000*x) / 1000 }

// Parse reads a figure or a range with its unit. A torque must have its unit. Errors are
// [invalid.Error].
func (s Spec) Parse(text string) (engine.Spec, error) {
	if s.Measure == &unit.Torque {
		t, err := unit.ParseTorque(text)
		return engine.Spec{Of: s.Of, Low: t.Low, High: t.High}, err
	}
	text = strings.TrimSpace(strings.NewReplacer("–", "-", "—", "-").Replace(text))
	first, second, two := strings.Cut(text, " to ")
	if !two && len(text) > 1 {
		if i := strings.IndexByte(text[1:], '-'); i >= 0 {
			first, second, two = text[:i+1], text[i+2:], true
		}
	}
	if s.Single && two {
		return engine.Spec{}, invalid.Error{Expected: "one figure, such as " + s.Example(), Got: invalid.Quote(text)}
	}
	last := first
	if two {
		last = second
		if first = strings.TrimSpace(first); bare(first) { // "0.028-0.031 in": the unit is behind both
			first += unitOf(second)
		}
	}
	low, err := s.Measure.Parse(first)
	if err != nil {
		return engine.Spec{}, err
	}
	high, err := s.Measure.Parse(last)
	if err != nil {
		return engine.Spec{}, err
	}
	if low > high {
		return engine.Spec{}, invalid.Error{Expected: "a range that begins with its lower end, such as " + s.Example(), Got: invalid.Quote(text)}
	}
	return engine.Spec{Of: s.Of, Low: low, High: high}, nil
}

// bare reports whether a figure has no unit.
func bare(s string) bool {
	_, ok := unit.Figure(s)
	return ok
}

// unitOf returns what stands behind the digits of a figure.
func unitOf(s string) string {
	i := strings.LastIndexAny(s, "0123456789")
	return s[i+1:]
}

// Wants lists the figures that a vehicle can have of its own for a step.
func (s Step) Wants() (all []string) {
	if s.Figure != nil && s.Figure.of != "" {
		all = append(all, s.Figure.of)
	}
	switch {
	case s.ID == "prepare.tools":
		all = append(all, SpecWellDepth)
	case s.ID == stepMeshed:
		all = append(all, SpecGearTeeth)
	case s.ID == stepLamp:
		all = append(all, SpecBaseTiming, SpecIdleSpeed, SpecPulley)
	case s.Phase == Gap && s.Ask != nil && s.Ask.Of == AskGap:
		all = append(all, engine.PlugGap)
	case s.Phase == Torque && strings.HasPrefix(s.ID, "torque.plug"):
		all = append(all, SpecPlugTorque)
	}
	seen := map[string]bool{}
	kept := all[:0]
	for _, of := range all {
		if !seen[of] {
			kept = append(kept, of)
		}
		seen[of] = true
	}
	return kept
}
