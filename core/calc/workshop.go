package calc

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

const definition = "definition"

// workshop is lengths, torques, gaps and degrees.
var workshop = []Calculator{
	{
		Name: "length", Title: "Millimetres, inches and thousandths",
		Inputs:  []Input{{Name: "length", Words: "Length", Unit: "mm", Example: "0.039 in", read: unit.Length.Parse}},
		Formula: "1 in = 25.4 mm", Source: "international inch", Limits: "exact",
		run: func(in inputs) ([]Result, error) {
			mm := in.figure["length"]
			return []Result{{Name: "millimetres", Value: mm, Unit: "mm"}, {Name: "inches", Value: mm / unit.MillimetresPerInch, Unit: "in"}, {Name: "thousandths", Value: 1000 * mm / unit.MillimetresPerInch, Unit: "thou"}}, nil
		},
	},
	{
		Name: "torque", Title: "Newton metres, foot-pounds and inch-pounds",
		Inputs:  []Input{{Name: "torque", Words: "Torque", Unit: "N·m", Example: "90 lbf·in", read: unit.Torque.Parse}},
		Formula: "1 lbf·ft = 1.355 818 N·m = 12 lbf·in", Source: "NIST SP 811 (from memory)", Limits: "exact to six figures",
		run: func(in inputs) ([]Result, error) {
			nm := in.figure["torque"]
			return []Result{{Name: "newton metres", Value: nm, Unit: "N·m"}, {Name: "foot-pounds", Value: nm / unit.NewtonMetresPerLbfFt, Unit: "lbf·ft"}, {Name: "inch-pounds", Value: nm / unit.NewtonMetresPerLbfIn, Unit: "lbf·in"}}, nil
		},
	},
	{
		Name: "gauge-wires", Title: "Check a plug gap with gauge wires",
		Inputs: []Input{
			{Name: "wires", Words: "Wires: + passes, − stops, none not tried", Unit: "mm", Example: "0.8+ 0.9 1.0 1.1-"},
			{Name: "low", Words: "Least gap", Unit: "mm", Example: "0.9 mm", read: between(unit.Gap, 0.05, 10, "0.9 mm or 0.035 in")},
			{Name: "high", Words: "Widest gap", Unit: "mm", Example: "1.0 mm", read: between(unit.Gap, 0.05, 10, "1.0 mm or 0.040 in")},
		},
		Formula: "thickest wire that passes ≤ gap < thinnest wire that stops; in if this interval lies within the range, out if it lies outside",
		Source:  definition,
		Limits:  "a worn gap is wider at its edge than a wire shows; surface and multi-ground types are not bent",
		run:     gauge,
	},
	{
		Name: "rim-degrees", Title: "Degrees and millimetres on a rim",
		Inputs: []Input{
			{Name: "diameter", Words: "Diameter of the rim", Unit: "mm", Example: "150", read: between(unit.Length, 10, 2000, "150 mm or 5.9 in")},
			{Name: "degrees", Words: "Degrees", Unit: "°", Example: "10", Optional: true, read: between(unit.Angle, 0, 360, "10")},
			{Name: "along", Words: "Or the length along the rim", Unit: "mm", Example: "13.1", Optional: true, read: between(unit.Length, 0, 6000, "13.1 mm or 0.52 in")},
		},
		Formula: "arc = π·diameter·degrees / 360, and back", Source: definition, Limits: "measured along the rim, not across",
		run: func(in inputs) ([]Result, error) {
			round := math.Pi * in.figure["diameter"]
			degrees, hasDegrees := in.figure["degrees"]
			mm, hasAlong := in.figure["along"]
			switch {
			case hasDegrees == hasAlong:
				return nil, at("along", invalid.Error{Expected: "either degrees or a length along the rim", Got: map[bool]string{true: "both", false: "neither"}[hasAlong]})
			case hasAlong && mm > round:
				return nil, at("along", invalid.Error{Expected: fmt.Sprintf("at most once round, %.0f mm", round), Got: fmt.Sprintf("%g mm", mm)})
			case hasAlong:
				degrees = 360 * mm / round
			default:
				mm = round * degrees / 360
			}
			return []Result{{Name: "degrees", Value: degrees, Unit: "°"}, {Name: "along the rim", Value: mm, Unit: "mm"}, {Name: "the same", Value: mm / unit.MillimetresPerInch, Unit: "in"}, {Name: "a degree", Value: round / 360, Unit: "mm"}}, nil
		},
	},
	{
		Name: "tooth-off", Title: "How far off is one tooth?",
		Inputs: []Input{
			{Name: "teeth", Words: "Teeth of the distributor's gear", Example: "13", read: whole("teeth", 4, 120)},
			{Name: "off", Words: "Teeth off", Example: "1", Default: "1", read: whole("teeth off", 0, 60)},
		},
		Formula: "distributor degrees = 360·off / teeth; crank degrees are twice that", Source: definition + ": a distributor turns at half crank speed",
		Limits: "for a gear on the distributor's own shaft",
		run: func(in inputs) ([]Result, error) {
			d := 360 * in.figure["off"] / in.figure["teeth"]
			return []Result{{Name: "at the distributor", Value: d, Unit: "°"}, {Name: "at the crank", Value: 2 * d, Unit: "°"}}, nil
		},
	},
}

// gauge judges a gap by wires.
func gauge(in inputs) ([]Result, error) {
	wires, err := readWires(in.text["wires"])
	if err != nil {
		return nil, at("wires", err)
	}
	b, err := plug.JudgeWires(wires, in.figure["low"], in.figure["high"])
	if err != nil {
		return nil, err
	}
	out := []Result{{Name: "verdict", Text: string(b.Verdict)}, {Name: "at least", Value: b.Low, Unit: "mm"}}
	if !math.IsInf(b.High, 1) {
		out = append(out, Result{Name: "below", Value: b.High, Unit: "mm"})
	}
	switch {
	case b.Next > 0:
		out = append(out, Result{Name: "try the wire", Value: b.Next, Unit: "mm"}, Result{Name: "the same", Value: b.Next / unit.MillimetresPerInch, Unit: "in"})
	case b.Verdict == plug.CannotTell:
		out = append(out, Result{Name: "try the wire", Text: "none of this set would tell"})
	}
	return out, nil
}

// readWires reads "0.8+ 0.9 1.0-" or "0.030in+ 0.035in-": a plus passes, a minus stops.
func readWires(s string) ([]plug.Wire, error) {
	var wires []plug.Wire
	for _, f := range strings.FieldsFunc(s, func(r rune) bool { return r == ' ' || r == ';' || r == '\t' }) {
		w := plug.Wire{}
		text := f
		for _, mark := range []struct {
			sign   string
			passes bool
		}{{"+", true}, {"-", false}, {"−", false}} {
			if rest, ok := strings.CutSuffix(f, mark.sign); ok {
				text, w.Tried, w.Passes = rest, true, mark.passes
			}
		}
		mm, err := unit.Gap.Parse(text)
		if err != nil {
			return nil, invalid.Error{Expected: fmt.Sprintf("wires such as 0.8+ 0.9 1.0-, each %s", unit.Gap.Expected()), Got: invalid.Quote(f)}
		}
		w.MM = mm
		wires = append(wires, w)
	}
	return wires, nil
}
