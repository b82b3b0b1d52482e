package calc

import (
	"fmt"
	"math"

	"glenmist/core/spark"
	"glenmist/core/unit"
)

const (
	lawSource = "U = 24.22·δd + 6.08·√(δd): Kuffel, Zaengl and Kuffel, High Voltage Engineering (from memory)"
	lawLimits = "near-uniform fields, δd from 0.01 to 2 cm; points and edges break down lower, worn round edges and lean mixture ask for more"
	ratioHelp = "effective volume ratio at the spark, 5.5 to 7.5 for a ten-to-one engine; never the geometric one"
)

var (
	plugGap  = Input{Name: "gap", Words: "Plug gap", Unit: "mm", Example: "1.0 or 0.039 in", read: between(unit.Gap, 0.1, 5, "0.9 mm or 0.035 in")}
	ratio    = Input{Name: "ratio", Words: "Volume ratio at the spark", Example: "7", Default: "7", read: number("an effective volume ratio from 1 to 20: "+ratioHelp, 1, 20)}
	altitude = Input{Name: "altitude", Words: "Altitude", Unit: "m", Example: "840", Default: "0", read: unit.Altitude.Parse}
	air      = Input{Name: "air", Words: "Temperature of the air", Unit: "°C", Example: "15", Default: "20", read: between(unit.Temperature, -50, 60, "15 or 59 °F")}
	shapes   = Input{Name: "shape", Words: "Faces of the tester's gap", Default: "plug", Options: shapeOptions()}
)

func shapeOptions() []Option {
	var all []Option
	for _, s := range spark.Shapes {
		all = append(all, Option{s.ID, unit.Capital(s.Words)})
	}
	return all
}

// kilovolts is what it takes to jump a gap.
var kilovolts = []Calculator{
	{
		Name: "gap-kv", Title: "Voltage that a plug gap needs in the engine",
		Inputs: []Input{plugGap,
			{Name: "manifold", Words: "Pressure in the manifold, absolute", Unit: "kPa", Example: "35", read: between(unit.Pressure, 10, 350, "35 kPa or 5 psi")},
			{Name: "charge", Words: "Temperature of the charge", Unit: "°C", Example: "57", Default: "57", read: between(unit.Temperature, -40, 200, "57")},
			ratio},
		Formula: "δ = (manifold / 101.3) · (293 / T) · ratio; U = 24.22·δd + 6.08·√(δd)",
		Source:  lawSource, Limits: lawLimits + "; " + ratioHelp,
		run: func(in inputs) ([]Result, error) {
			d := spark.Density(in.figure["manifold"], in.figure["charge"]+273.15, in.figure["ratio"])
			kV, err := spark.Breakdown(in.figure["gap"], d)
			if err != nil {
				return nil, at("gap", err)
			}
			out := []Result{{Name: "needed", Value: kV, Unit: "kV"}, {Name: "density against open air", Value: d}}
			for _, f := range spark.Factors {
				out = append(out, Result{Name: "with " + f.Words, Value: kV * f.Factor, Unit: "kV"})
			}
			return out, nil
		},
	},
	{
		Name: "tester-gap", Title: "Voltage that a spark tester proves",
		Inputs: []Input{
			{Name: "tester", Words: "Gap of the tester", Unit: "mm", Example: "5 mm", read: between(unit.Gap, 0.1, 30, "5 mm or 0.2 in")},
			shapes, altitude, air, plugGap, ratio},
		Formula: "proven = low end of the faces' range · U(tester gap in open air); compared with U(plug gap) at idle, cruise and full load",
		Source:  lawSource + "; pressure of the air by ISO 2533 (from memory); ranges by shape: judgement",
		Limits:  lawLimits + "; only the low end is proven, cold and in the shop: not hot, not under load for long",
		scale: func(in inputs) *spark.Scale {
			scale, _ := tested(in)
			return scale
		},
		run: func(in inputs) ([]Result, error) {
			scale, err := tested(in)
			if err != nil {
				return nil, err
			}
			proof, needs := scale.Proof, scale.Needs
			shape, _ := spark.FindShape(in.text["shape"])
			open := spark.AirDensity(spark.AirKPa(in.figure["altitude"]), in.figure["air"])
			out := []Result{{Name: "proves at least", Value: proof.Low, Unit: "kV"}, {Name: "may have been up to", Value: proof.High, Unit: "kV"}}
			for _, n := range needs {
				said := "not cleared"
				if n.Cleared {
					said = "cleared"
				}
				out = append(out, Result{Name: n.Condition.Words + " needs", Value: n.KV, Unit: "kV"}, Result{Name: n.Condition.Words, Text: said})
			}
			last := needs[len(needs)-1]
			if clears, err := shape.GapFor(last.KV, open); err == nil {
				clears = math.Ceil(10*clears) / 10 // to be set, and not short of it
				out = append(out, Result{Name: "gap that clears " + last.Condition.Words, Value: clears, Unit: "mm"}, Result{Name: "the same", Value: clears / unit.MillimetresPerInch, Unit: "in"})
			} else {
				out = append(out, Result{Name: "gap that clears " + last.Condition.Words, Text: fmt.Sprintf("none within the law's range with %s", shape.Words)})
			}
			return out, nil
		},
	},
}

// tested is what a tester proves beside what the engine needs.
func tested(in inputs) (*spark.Scale, error) {
	shape, _ := spark.FindShape(in.text["shape"])
	kPa := spark.AirKPa(in.figure["altitude"])
	proof, err := shape.Proof(in.figure["tester"], spark.AirDensity(kPa, in.figure["air"]))
	if err != nil {
		return nil, at("tester", err)
	}
	needs, err := spark.Needs(in.figure["gap"], in.figure["ratio"], kPa, proof.Low)
	if err != nil {
		return nil, at("gap", err)
	}
	return &spark.Scale{Proof: proof, Needs: needs}, nil
}
