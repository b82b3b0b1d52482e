package calc

import (
	"glenmist/core/invalid"
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
		Name: "winding-temperature", Title: "What does a warm winding read cold?",
		Inputs: []Input{
			{Name: "reading", Words: "Reading", Unit: "Ω", Example: "12k4", read: ohms(0, unit.MaxOhms)},
			{Name: "leads", Words: "The meter's leads touched together", Unit: "Ω", Example: "0.2", Default: "0", read: ohms(0, 10)},
			{Name: "temperature", Words: "Temperature of the winding", Unit: "°C", Example: "75", read: between(unit.Temperature, unit.Coldest, 200, "75 or 167 °F")},
			{Name: "to", Words: "Temperature to tell it at", Unit: "°C", Example: "20", Default: "20", read: between(unit.Temperature, unit.Coldest, 200, "20")},
		},
		Formula: "R20 = (R − leads) / (1 + 0.003 93·(T − 20)); R(to) = R20·(1 + 0.003 93·(to − 20))",
		Source:  "copper, 0.003 93 per kelvin at 20 °C: IEC 60028 (from memory)",
		Limits:  "copper windings; not carbon cores, resistor plugs or what has an igniter or diode in it",
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
		Name: "dwell", Title: "What does a coil take up in this dwell?",
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
