package calc

import (
	"fmt"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/meter"
	"glenmist/core/spark"
	"glenmist/core/unit"
)

// at puts an error at a field.
func at(field string, err error) error {
	var bad invalid.Errors
	bad.Under(field, err)
	return bad
}

// electric is resistance and the coil's primary.
var electric = []Calculator{
	{
		Name: "winding-temperature", Title: "Winding resistance at another temperature",
		Inputs: []Input{
			{Name: "reading", Words: "Reading", Unit: "Ω", Example: "12k4", read: ohms(0, unit.MaxOhms)},
			{Name: "leads", Words: "The meter's leads touched together", Unit: "Ω", Example: "0.2", Default: "0", read: ohms(0, 10)},
			{Name: "temperature", Words: "Temperature of the winding", Unit: "°C", Example: "75", read: between(unit.Temperature, unit.Coldest, 200, "75 or 167 °F")},
			{Name: "to", Words: "Temperature to tell it at", Unit: "°C", Example: "20", Default: "20", read: between(unit.Temperature, unit.Coldest, 200, "20")},
		},
		Formula: "R20 = (R − leads) / (1 + 0.003 93·(T − 20)); R(to) = R20·(1 + 0.003 93·(to − 20))",
		Source:  "copper, 0.003 93 per kelvin at 20 °C: IEC 60028 (from memory)",
		Limits:  "copper windings; not carbon cores, resistor plugs, or coils with an igniter or diode",
		run: func(in inputs) ([]Result, error) {
			r := in.figure["reading"] - in.figure["leads"]
			if r < 0 {
				return nil, at("leads", invalid.Error{Expected: "leads that read no more than the winding with them", Got: unit.Ohms{Value: in.figure["leads"]}.String()})
			}
			cold := unit.CopperAt20(r, in.figure["temperature"])
			return []Result{{Name: "at 20 °C", Value: cold, Unit: "Ω"}, {Name: "at the temperature asked for", Value: unit.CopperAt(cold, in.figure["to"]), Unit: "Ω"},
				{Name: "warm against 20 °C", Value: unit.CopperAt(1, in.figure["temperature"])}}, nil
		},
	},
	{
		Name: "resistance", Title: "Check a resistance against its range",
		Inputs: []Input{
			{Name: "item", Words: "What is measured", Default: string(meter.Secondary), Options: []Option{
				{string(meter.Primary), "Coil primary"}, {string(meter.Secondary), "Coil secondary"}, {string(meter.Lead), "Lead"}, {string(meter.Plug), "Resistor plug"}, {string(meter.Spring), "Spring of a boot"}, {string(meter.Wire), "Wire, end to end"}}},
			{Name: "reading", Words: "Reading", Unit: "Ω", Example: "12k4 or OL"},
			{Name: "leads", Words: "The meter's leads touched together", Unit: "Ω", Example: "0.2", Default: "0", read: ohms(0, 10)},
			{Name: "temperature", Words: "Its temperature", Unit: "°C", Example: "75", Default: "20", read: between(unit.Temperature, unit.Coldest, 200, "75 or 167 °F")},
			{Name: "make", Words: "Make, of a lead", Default: string(meter.CarbonCore), Options: []Option{
				{string(meter.CarbonCore), "Carbon core"}, {string(meter.WireWound), "Wire-wound"}, {string(meter.SolidWire), "Solid wire"}}},
			{Name: "length", Words: "Length, of a lead", Unit: "mm", Example: "60 cm", Optional: true, read: between(unit.Length, 10, 5000, "60 cm or 24 in")},
			{Name: "low", Words: "Maker's range, from", Unit: "Ω", Example: "11k", Optional: true, read: ohms(0, unit.MaxOhms)},
			{Name: "high", Words: "Maker's range, to", Unit: "Ω", Example: "15k", Optional: true, read: ohms(0, unit.MaxOhms)},
		},
		Formula: "reading − meter leads, copper converted to 20 °C; compared with the maker's range and the rule of thumb",
		Source:  "rules of thumb: common practice; copper: IEC 60028 (from memory)",
		Limits:  "a rule of thumb does not replace the maker's range; a pass is weak evidence; compare like parts too",
		run:     resistance,
	},
	{
		Name: "siblings", Title: "Find the reading that is out of line",
		Inputs: []Input{
			{Name: "readings", Words: "Readings, in the order of the cylinders", Unit: "Ω", Example: "12k4 12k6 OL 12k5"},
			{Name: "step", Words: "Smallest step of the meter", Unit: "Ω", Example: "100", Default: "0", read: ohms(0, 1e6)},
		},
		Formula: "z = (reading − median) / max(1.4826·MAD, step, 3 % of the median); out of line beyond 3.5; three or fewer are compared pair by pair",
		Source:  "MAD: Rousseeuw and Croux 1993; 3.5: Iglewicz and Hoaglin 1993 (both from memory); 3 %: judgement",
		Limits:  "parts that should be alike, at one temperature; leads by their length",
		run:     siblings,
	},
	{
		Name: "dwell", Title: "Coil current and energy after a dwell",
		Inputs: []Input{
			{Name: "volts", Words: "Voltage at the coil", Unit: "V", Example: "13.8", read: unit.Volts.Parse},
			{Name: "resistance", Words: "Primary resistance, with what is in series", Unit: "Ω", Example: "0.6", read: ohms(0.01, 100)},
			{Name: "inductance", Words: "Primary inductance", Unit: "mH", Example: "3", read: unit.Inductance.Parse},
			{Name: "dwell", Words: "Dwell", Unit: "ms", Example: "2.5", read: unit.Dwell.Parse},
		},
		Formula: "i = V/R·(1 − e^(−t·R/L)); energy = ½·L·i²",
		Source:  "textbook",
		Limits:  "no current limiting, no saturation of the core, the coil at one temperature",
		run: func(in inputs) ([]Result, error) {
			c := spark.Charging(in.figure["volts"], in.figure["resistance"], in.figure["inductance"], in.figure["dwell"])
			return []Result{{Name: "current", Value: c.Amperes, Unit: "A"}, {Name: "energy", Value: c.MJ, Unit: "mJ"},
				{Name: "time constant", Value: c.Tau, Unit: "ms"}, {Name: "current in the end", Value: c.Final, Unit: "A"}}, nil
		},
	},
}

func resistance(in inputs) ([]Result, error) {
	read, err := unit.ParseOhms(in.text["reading"])
	if err != nil {
		return nil, at("reading", err)
	}
	q := meter.Question{Item: meter.Item(in.text["item"]), Read: read, Leads: in.figure["leads"], Celsius: in.figure["temperature"], Metres: in.figure["length"] / 1000}
	if q.Item == meter.Lead {
		q.Make = meter.Make(in.text["make"])
	}
	low, hasLow := in.figure["low"]
	high, hasHigh := in.figure["high"]
	switch {
	case hasLow != hasHigh:
		return nil, at("high", invalid.Error{Expected: "both ends of the maker's range, or none", Got: "one"})
	case hasLow && low > high:
		return nil, at("high", invalid.Error{Expected: "a range whose low end is not above its high end", Got: fmt.Sprintf("%s to %s", unit.Ohms{Value: low}, unit.Ohms{Value: high})})
	case hasLow:
		q.Maker = meter.Range{Low: low, High: high}
	}
	j := meter.JudgeResistance(q)
	out := []Result{{Name: "told at 20 °C", Text: j.At20.String()}}
	if j.Maker != meter.NotKnown {
		out = append(out, Result{Name: "against the maker's range", Text: string(j.Maker)})
	}
	if j.Thumb != meter.NotKnown {
		out = append(out, Result{Name: fmt.Sprintf("against the rule of thumb, %s to %s", unit.Ohms{Value: j.ThumbRange.Low}, unit.Ohms{Value: j.ThumbRange.High}), Text: string(j.Thumb)})
	}
	verdict := "it does not condemn"
	if j.Fails {
		verdict = "a clear fail"
	}
	return append(out, Result{Name: "verdict", Text: verdict}, Result{Name: "that is", Text: j.Words}), nil
}

func siblings(in inputs) ([]Result, error) {
	fields := strings.FieldsFunc(in.text["readings"], func(r rune) bool { return r == ' ' || r == ';' || r == '\t' })
	if len(fields) < 2 || len(fields) > 4*engine.MaxCylinders {
		return nil, at("readings", invalid.Error{Expected: fmt.Sprintf("2 to %d readings, such as 12k4 12k6 OL 12k5", 4*engine.MaxCylinders), Got: fmt.Sprint(len(fields))})
	}
	var all []meter.Sibling
	for i, f := range fields {
		o, err := unit.ParseOhms(f)
		if err != nil {
			return nil, at("readings", err)
		}
		all = append(all, meter.Sibling{Name: fmt.Sprintf("number %d", i+1), Value: o.Value, Over: o.Over})
	}
	s := meter.CompareSiblings(all, in.figure["step"])
	out := []Result{{Name: "verdict", Text: s.Words}, {Name: "median", Text: unit.Ohms{Value: s.Median}.String()}, {Name: "spread", Text: unit.Ohms{Value: s.Spread}.String()}}
	for _, j := range s.Each {
		if j.Abnormal {
			out = append(out, Result{Name: j.Name, Text: unit.Ohms{Value: j.Value, Over: j.Over}.String()})
		}
	}
	return out, nil
}
