package vehicle

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// vehicleField is the form's field for a path of the vehicle, as it was typed.
func vehicleField(typed url.Values) func(path string) string {
	return func(path string) string {
		path = strings.TrimPrefix(path, "engine.")
		var i int
		if n, _ := fmt.Sscanf(path, "covers[%d]", &i); n == 1 {
			_, field, _ := strings.Cut(path, "].")
			field, _, _ = strings.Cut(field, "[")
			return page.RowField("cover-"+field, nth(coverRows(typed), i))
		}
		if n, _ := fmt.Sscanf(path, "parts[%d]", &i); n == 1 {
			_, field, _ := strings.Cut(path, "].")
			if name := recordFields[field]; name != "" {
				field = name
			}
			return page.RowField("part-"+field, nth(recordRows(typed), i))
		}
		if path == "mounting" || path == "belt_end" {
			return "mount"
		}
		return path
	}
}

// recordFields is the form's names of a record's fields, where they differ.
var recordFields = map[string]string{"fitted_km": "km", "fitted_on": "on", "life_km": "life-km", "life_years": "life-years", "plug.electrode": "electrode",
	"plug.seat": "seat", "plug.thread_mm": "thread", "plug.reach_mm": "reach", "plug.heat_range": "heat", "plug.resistor": "resistor", "plug": "electrode"}

func nth(rows []int, i int) int {
	if i < len(rows) {
		return rows[i]
	}
	return i + 1
}

// coverRows and recordRows list the rows of the form that hold anything.
func coverRows(f url.Values) []int {
	var rows []int
	for i := 1; i <= engine.MaxCovers; i++ {
		if f.Get(page.RowField("cover-name", i))+f.Get(page.RowField("cover-hides", i))+f.Get(page.RowField("cover-over", i)) != "" {
			rows = append(rows, i)
		}
	}
	return rows
}

func recordRows(f url.Values) []int {
	var rows []int
	for i := 1; i <= part.MaxRecords; i++ {
		if f.Get(page.RowField("part-kind", i)) == "" {
			continue
		}
		for _, name := range []string{"place", "number", "km", "on", "life-km", "life-years", "pins", "electrode", "seat", "thread", "reach", "heat", "resistor"} {
			if strings.TrimSpace(f.Get(page.RowField("part-"+name, i))) != "" {
				rows = append(rows, i)
				break
			}
		}
	}
	return rows
}

// vehicleValues is the form of a vehicle.
func vehicleValues(v job.Vehicle) url.Values {
	e := v.Engine
	f := url.Values{"fleet": {v.Fleet}, "what": {v.What}, "cylinders": {strconv.Itoa(e.Cylinders)}, "arrangement": {string(e.Arrangement)},
		"mount": {string(e.Mounting) + "-" + string(e.BeltEnd)}, "count_from": {string(e.CountFrom)}, "numbering": {string(e.Numbering)}, "bank_one": {string(e.BankOne)},
		"ignition": {string(e.Ignition)}, "wires": {strconv.Itoa(e.Wires)}, "rotor": {string(e.Rotor)}, "fuel": {string(e.Fuel)}, "head": {string(e.Head)},
		"firing_order": {engine.OrderString(e.FiringOrder)}, "coil_order": {engine.OrderString(e.CoilOrder)}}
	if e.Module {
		f.Set("module", "yes")
	}
	if e.Uneven {
		f.Set("uneven", "yes")
	}
	for i, c := range e.Covers {
		set := func(name, value string) { f.Set(page.RowField("cover-"+name, i+1), value) }
		var hides []string
		for _, p := range c.Hides {
			hides = append(hides, strings.TrimPrefix(string(p), "cyl-"))
		}
		set("name", c.Name)
		set("hides", strings.Join(hides, ", "))
		set("over", strings.Join(c.Over, ", "))
		set("off", fmt.Sprint(c.Off))
		set("on", fmt.Sprint(c.On))
		set("gaskets", strings.Join(c.Gaskets, ", "))
	}
	for i, r := range orderedRecords(v) {
		set := func(name, value string) {
			if value != "0" {
				f.Set(page.RowField("part-"+name, i+1), value)
			}
		}
		set("kind", string(r.Kind))
		set("place", string(r.Place))
		set("number", r.Number)
		if r.FittedKm != nil {
			f.Set(page.RowField("part-km", i+1), fmt.Sprintf("%.0f", float64(*r.FittedKm)))
		}
		set("on", r.FittedOn)
		set("life-km", fmt.Sprintf("%.0f", float64(r.LifeKm)))
		set("life-years", fmt.Sprint(r.LifeYears))
		set("pins", strconv.Itoa(r.Pins))
		if d := r.Plug; d != nil {
			set("electrode", string(d.Electrode))
			set("seat", string(d.Seat))
			set("thread", fmt.Sprint(d.ThreadMM))
			set("reach", fmt.Sprint(d.ReachMM))
			set("heat", d.HeatRange)
			set("resistor", d.Resistor)
		}
	}
	return f
}

// orderedRecords is the records of a vehicle with one for all parts of each kind
// first, empty where nothing is known.
func orderedRecords(v job.Vehicle) []part.Record {
	var all []part.Record
	for _, k := range slices.Backward(v.Engine.PartKinds()) {
		r := part.Record{Kind: k}
		for _, have := range v.Parts {
			if have.Kind == k && have.Place == "" {
				r = have
			}
		}
		all = append(all, r)
	}
	for _, have := range v.Parts {
		if have.Place != "" {
			all = append(all, have)
		}
	}
	return all
}

// vehicleForm is a vehicle as it is typed; its covers and parts are rows of tables.
type vehicleForm struct {
	Fleet       string             `form:"fleet"`
	What        string             `form:"what"`
	Arrangement engine.Arrangement `form:"arrangement"`
	Ignition    engine.Ignition    `form:"ignition"`
	Fuel        engine.Fuel        `form:"fuel"`
	Head        engine.Head        `form:"head"`
	CountFrom   engine.End         `form:"count_from"`
	Cylinders   int                `form:"cylinders" required:"yes" expected:"a number of cylinders, 1 to 12"`
	Mount       string             `form:"mount"`
	Numbering   engine.Numbering   `form:"numbering"`
	BankOne     engine.Side        `form:"bank_one"`
	Wires       int                `form:"wires" expected:"2, 3 or 4 wires, or 0 for not known"`
	Module      bool               `form:"module"`
	Uneven      bool               `form:"uneven"`
	Rotor       engine.Turn        `form:"rotor"`
	FiringOrder []engine.Cylinder  `form:"firing_order"`
	CoilOrder   []engine.Cylinder  `form:"coil_order"`
}

// vehicleFromForm reads a vehicle. What is left empty is the usual; a choice that
// the engine has no use for is left out.
func vehicleFromForm(typed url.Values) (job.Vehicle, invalid.Errors) {
	var f vehicleForm
	bad := page.Decode(typed, &f)
	v := job.Vehicle{Fleet: f.Fleet, What: f.What}
	e := &v.Engine
	e.Arrangement, e.Ignition, e.Fuel, e.Head, e.CountFrom, e.Cylinders = f.Arrangement, f.Ignition, f.Fuel, f.Head, f.CountFrom, f.Cylinders
	e.Wires, e.Uneven, e.FiringOrder, e.CoilOrder = f.Wires, f.Uneven, f.FiringOrder, f.CoilOrder
	if e.Arrangement == engine.Single {
		e.Cylinders = 1
	}
	for _, m := range mounts {
		if m.Value == f.Mount {
			e.Mounting, e.BeltEnd = m.mounting, m.beltEnd
		}
	}
	if e.Mounting == "" {
		bad.Add("mount", "one of the four ways the engine can lie", invalid.Quote(f.Mount))
		return v, bad
	}
	if e.Banks() == 2 {
		e.Numbering, e.BankOne = cmp.Or(f.Numbering, engine.Along), cmp.Or(f.BankOne, e.Mounting.Flanks()[0])
	}
	e.Module = f.Module && e.Ignition == engine.WastedSpark
	if e.Ignition == engine.Distributor {
		e.Rotor = f.Rotor
	}
	if strings.TrimSpace(typed.Get("firing_order")) == "" {
		e.FiringOrder = engine.UsualOrder(e.Arrangement, e.Cylinders, e.Numbering)
	}
	e.Covers = coversFromForm(typed, &bad)
	v.Parts = recordsFromForm(typed, &bad)
	if len(bad) > 0 {
		return v, bad
	}
	return v, append(bad, invalid.From(v.Validate())...)
}

// coverForm is a row of the table of covers; the times are minutes.
type coverForm struct {
	Name    string    `form:"name"`
	Over    page.List `form:"over"`
	Gaskets page.List `form:"gaskets"`
	Hides   page.List `form:"hides"`
	Off     float64   `form:"off"`
	On      float64   `form:"on"`
}

func coversFromForm(typed url.Values, bad *invalid.Errors) []engine.Cover {
	var covers []engine.Cover
	for _, i := range coverRows(typed) {
		var f coverForm
		*bad = append(*bad, page.DecodeRow(typed, "cover", i, &f)...)
		c := engine.Cover{Name: f.Name, Over: f.Over, Gaskets: f.Gaskets, Off: f.Off, On: f.On}
		for _, w := range f.Hides {
			c.Hides = append(c.Hides, jobs.PlaceTyped(w))
		}
		covers = append(covers, c)
	}
	return covers
}

// partForm is a row of the table of parts.
type partForm struct {
	Kind      engine.Kind      `form:"kind"`
	Place     engine.Place     `form:"place"`
	Number    string           `form:"number"`
	FittedKm  *unit.Kilometres `form:"km"`
	FittedOn  string           `form:"on"`
	LifeKm    unit.Kilometres  `form:"life-km"`
	LifeYears float64          `form:"life-years"`
	Pins      int              `form:"pins"`
	Electrode part.Electrode   `form:"electrode"`
	Seat      part.PlugSeat    `form:"seat"`
	ThreadMM  float64          `form:"thread"`
	ReachMM   float64          `form:"reach"`
	HeatRange string           `form:"heat"`
	Resistor  string           `form:"resistor"`
}

func recordsFromForm(typed url.Values, bad *invalid.Errors) []part.Record {
	var records []part.Record
	for _, i := range recordRows(typed) {
		var f partForm
		*bad = append(*bad, page.DecodeRow(typed, "part", i, &f)...)
		r := part.Record{Kind: f.Kind, Place: f.Place, Number: f.Number, FittedKm: f.FittedKm, FittedOn: f.FittedOn,
			LifeKm: f.LifeKm, LifeYears: f.LifeYears, Pins: f.Pins}
		d := part.PlugDesign{Electrode: f.Electrode, Seat: f.Seat, ThreadMM: f.ThreadMM, ReachMM: f.ReachMM, HeatRange: f.HeatRange, Resistor: f.Resistor}
		if d != (part.PlugDesign{}) {
			r.Plug = &d
		}
		records = append(records, r)
	}
	return records
}
