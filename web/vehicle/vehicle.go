// Package vehicle is the pages of vehicles with their engines, of opening a job for one, and of the labels
// for its parts.
package vehicle

import (
	"cmp"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Pages are the vehicles, the jobs that are opened for them, and the labels of their parts.
type Pages struct{ *jobs.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New makes the pages.
func New(of *jobs.Pages) *Pages { return &Pages{of} }

type vehiclesPage struct {
	page.Base
	List         []vehicleLine
	Newer, Older string
}

type vehicleLine struct {
	Fleet, What, Engine, Href string
	Jobs                      int
}

// ListVehicles lists the vehicles.
func (s *Pages) ListVehicles(w http.ResponseWriter, r *http.Request) {
	skip, err := strconv.Atoi(r.URL.Query().Get("skip"))
	if err != nil || skip < 0 || skip > 1_000_000 {
		skip = 0
	}
	list, more, err := s.Jobs.Vehicles(r.Context(), skip)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	p := vehiclesPage{Base: s.Base(r, "Vehicles")}
	for _, k := range list {
		p.List = append(p.List, vehicleLine{k.Vehicle.Fleet, k.Vehicle.What, k.Vehicle.Engine.Describe(), "/vehicles/" + url.PathEscape(k.Vehicle.Fleet), k.Jobs})
	}
	if skip > 0 {
		p.Newer = "/vehicles?skip=" + strconv.Itoa(max(0, skip-store.Page))
	}
	if more {
		p.Older = "/vehicles?skip=" + strconv.Itoa(skip+store.Page)
	}
	s.Render(w, r, http.StatusOK, "vehicles.html", p)
}

// vehiclePage is the engine editor.
type vehiclePage struct {
	page.Base
	Form page.Form
	New  bool
	// Job is the job to go back to, or nothing.
	Job     string
	Saved   bool
	Kept    []string // jobs that keep the engine they had
	Preview preview
	Shelf   []engine.Pattern
	Mounts  []mountChoice
	Counts  []int
	Ignits  []ignitionChoice
	Covers  []coverRow
	Parts   []partRow
	Wires   []engine.WireRow
	Stale   bool
	Plugs   []part.Electrode
	Seats   []part.PlugSeat
}

// preview is the plan of what is typed, or what is wrong with it.
type preview struct {
	Plan   *draw.Plan
	Words  string
	Wrong  invalid.Errors
	Series []string
	Wires  *engine.WireRow
}

type mountChoice struct {
	Value, Words string
	mounting     engine.Mounting
	beltEnd      engine.Side
}

var mounts = []mountChoice{
	{"crossways-left", "crossways, belt end on your left", engine.Crossways, engine.Left},
	{"crossways-right", "crossways, belt end on your right", engine.Crossways, engine.Right},
	{"lengthways-front", "lengthways, belt end to the front", engine.Lengthways, engine.Front},
	{"lengthways-firewall", "lengthways, belt end to the firewall", engine.Lengthways, engine.Firewall},
}

type ignitionChoice struct {
	Value engine.Ignition
	Words string
}

type coverRow struct {
	N                                   int
	Name, Hides, Over, Off, On, Gaskets string
}

type partRow struct {
	N                                              int
	Kind, Place, Number, Km, On, LifeKm, LifeYears string
	Pins, Electrode, Seat, Thread, Reach, Heat     string
	Resistor                                       string
	Title                                          string
	IsCoil, IsPlug, Fixed, Open                    bool
	Places                                         []page.Choice
	Kinds                                          []engine.Kind
}

// ShowVehicle shows a vehicle, to be corrected.
func (s *Pages) ShowVehicle(w http.ResponseWriter, r *http.Request) {
	fleet := chi.URLParam(r, "fleet")
	query := r.URL.Query()
	_ = page.BadText(query)
	kept, err := s.Jobs.Vehicle(r.Context(), fleet)
	if errors.Is(err, store.ErrNoVehicle) {
		s.Fail(w, r, http.StatusNotFound, "There is no vehicle of that number.")
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	v := kept.Vehicle
	if p, ok := engine.FindPattern(query.Get("pattern")); ok {
		v.Engine, v.Parts = p.Engine(), nil
	}
	values := vehicleValues(v)
	values.Set("version", strconv.Itoa(kept.Version))
	values.Set("job", query.Get("job"))
	p := s.vehiclePage(r, page.NewForm(values, nil, page.SameName), v)
	p.Saved, p.Kept = query.Get("saved") != "", query["kept"]
	s.Render(w, r, http.StatusOK, "vehicle.html", p)
}

// NewVehicle asks for a vehicle.
func (s *Pages) NewVehicle(w http.ResponseWriter, r *http.Request) {
	query := r.URL.Query()
	_ = page.BadText(query)
	pattern, ok := engine.FindPattern(query.Get("pattern"))
	if !ok {
		pattern = engine.Shelf[0]
	}
	v := job.Vehicle{Fleet: query.Get("fleet"), What: query.Get("what"), Engine: pattern.Engine()}
	values := vehicleValues(v)
	values.Set("version", "-1")
	p := s.vehiclePage(r, page.NewForm(values, nil, page.SameName), v)
	p.New = true
	s.Render(w, r, http.StatusOK, "vehicle.html", p)
}

func (s *Pages) vehiclePage(r *http.Request, f page.Form, v job.Vehicle) vehiclePage {
	p := vehiclePage{Base: s.Base(r, "Engine of "+f.Get("fleet")), Form: f, New: f.Get("version") == "-1", Job: f.Get("job"), Shelf: engine.Shelf,
		Mounts: mounts, Preview: newPreview(v, f.Values), Plugs: part.Electrodes, Seats: part.PlugSeats}
	for n := 1; n <= engine.MaxCylinders; n++ {
		if n != 7 && n != 9 && n != 11 {
			p.Counts = append(p.Counts, n)
		}
	}
	for _, i := range engine.Ignitions() {
		p.Ignits = append(p.Ignits, ignitionChoice{i, i.Words()})
	}
	rows := 1
	for i := 1; i <= engine.MaxCovers; i++ {
		if f.Get(page.RowField("cover-name", i)) != "" || f.Get(page.RowField("cover-hides", i)) != "" {
			rows = min(i+1, engine.MaxCovers)
		}
	}
	for i := 1; i <= rows; i++ {
		g := func(name string) string { return f.Get(page.RowField("cover-"+name, i)) }
		p.Covers = append(p.Covers, coverRow{i, g("name"), g("hides"), g("over"), g("off"), g("on"), g("gaskets")})
	}
	p.Parts = partRows(f, v.Engine)
	return p
}

// partRows makes a row for all parts of each kind, one for each part that is on
// record by itself, and an empty one.
func partRows(f page.Form, e engine.Engine) []partRow {
	var rows []partRow
	n := 0
	for i := 1; i <= part.MaxRecords; i++ {
		if f.Get(page.RowField("part-kind", i)) != "" {
			n = i
		}
	}
	for i := 1; i <= min(n+1, part.MaxRecords); i++ {
		g := func(name string) string { return f.Get(page.RowField("part-"+name, i)) }
		row := partRow{N: i, Kind: g("kind"), Place: g("place"), Number: g("number"), Km: g("km"), On: g("on"), LifeKm: g("life-km"), LifeYears: g("life-years"),
			Pins: g("pins"), Electrode: g("electrode"), Seat: g("seat"), Thread: g("thread"), Reach: g("reach"), Heat: g("heat"), Resistor: g("resistor"), Kinds: e.PartKinds()}
		row.IsCoil, row.IsPlug = row.Kind == string(engine.Coil), row.Kind == string(engine.Plug)
		row.Places = append(row.Places, page.Choice{Value: "", Words: "all"})
		for _, p := range jobs.MovePlaces(e) {
			if p != engine.Bench {
				row.Places = append(row.Places, page.Choice{Value: string(p), Words: p.String()})
			}
		}
		row.Title = "One part that differs"
		if row.Kind != "" {
			row.Title = "All " + row.Kind + "s"
			if row.Place != "" {
				row.Title = unit.Capital(row.Kind) + " of " + engine.Place(row.Place).String()
			}
		}
		rows = append(rows, row)
	}
	return rows
}

func newPreview(v job.Vehicle, typed url.Values) preview {
	p := preview{Words: ""}
	if err := v.Engine.Validate(); err != nil {
		for _, e := range invalid.From(err) {
			e.Field = vehicleField(typed)("engine." + e.Field)
			p.Wrong = append(p.Wrong, e)
		}
		return p
	}
	plan := draw.EnginePlan(v.Engine)
	p.Plan, p.Words = &plan, v.Engine.Describe()
	c := engine.Cylinder(min(2, v.Engine.Cylinders))
	for _, item := range v.Engine.Series(c) {
		words := string(item.Kind)
		if item.Feeds.Len() > 1 && item.Feeds != v.Engine.Everything() {
			words += " of " + item.Place.String()
		}
		p.Series = append(p.Series, words)
	}
	for _, row := range engine.WireRows {
		if row.Wires == v.Engine.Wires {
			p.Wires = &row
		}
	}
	return p
}

// PlanOfForm answers with the plan of what is typed in the engine editor.
func (s *Pages) PlanOfForm(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.FailForm(w, r, err)
		return
	}
	_ = page.BadText(r.PostForm)
	v, _ := vehicleFromForm(r.PostForm)
	s.Render(w, r, http.StatusOK, "preview", newPreview(v, r.PostForm))
}

// carryOver keeps what the form does not show: the ranges that are known for the engine, and those
// properties of parts of the same number that it has no fields for.
func carryOver(v, have job.Vehicle) job.Vehicle {
	v.Engine.Specs = have.Engine.Specs
	for i, r := range v.Parts {
		old, ok := part.For(have.Parts, r.Kind, r.Place)
		if !ok || old.Place != r.Place || old.Number != r.Number {
			continue
		}
		m, was := r.Make(), old.Make()
		for _, p := range part.Properties {
			if !slices.Contains(p.Kinds, r.Kind) || formProperties[p.ID] || p.Show(m) != "" {
				continue
			}
			_ = p.Put(&m, p.Show(was)) // it came out of a checked record
		}
		if r.Pins == 0 && r.Coil == nil && m.Coil != nil {
			m.Coil.Pins = 0
		}
		v.Parts[i].Plug, v.Parts[i].Coil, v.Parts[i].Lead, v.Parts[i].Cap = m.Plug, m.Coil, m.Lead, m.Cap
	}
	return v
}

// formProperties are the properties of parts that the form has fields for: an empty field means unknown.
var formProperties = map[string]bool{"pins": true, "electrode": true, "seat": true, "thread": true, "reach": true, "heat": true, "resistor": true}

// SaveVehicle keeps a vehicle.
func (s *Pages) SaveVehicle(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.FailForm(w, r, err)
		return
	}
	typed := r.PostForm
	if fleet := chi.URLParam(r, "fleet"); fleet != "" {
		typed.Set("fleet", fleet)
	} else {
		typed.Set("version", "-1")
	}
	bad := page.BadText(typed)
	v, wrong := vehicleFromForm(typed)
	bad = append(bad, wrong...)
	version, err := strconv.Atoi(typed.Get("version"))
	if err != nil {
		bad.Add("version", "the version that the form was made for", invalid.Quote(typed.Get("version")))
	}
	show := func(code int, f page.Form, stale bool) {
		p := s.vehiclePage(r, f, v)
		p.Stale = stale
		s.Render(w, r, code, "vehicle.html", p)
	}
	if typed.Get("show") != "" {
		show(http.StatusOK, page.NewForm(typed, nil, page.SameName), false)
		return
	}
	if have, err := s.Jobs.Vehicle(r.Context(), v.Fleet); err == nil && version >= 0 {
		v = carryOver(v, have.Vehicle)
	}
	var kept []string
	if len(bad) == 0 {
		kept, err = s.Jobs.SaveVehicle(r.Context(), v, version)
		switch {
		case errors.Is(err, store.ErrStale):
			if now, err := s.Jobs.Vehicle(r.Context(), v.Fleet); err == nil {
				typed.Set("version", strconv.Itoa(now.Version))
			}
			show(http.StatusConflict, page.NewForm(typed, nil, page.SameName), true)
			return
		case err != nil:
			if bad = page.FieldsOf(err); bad == nil {
				s.FailStore(w, r, err)
				return
			}
		}
	}
	if len(bad) > 0 {
		show(http.StatusUnprocessableEntity, page.NewForm(typed, bad, vehicleField(typed)), false)
		return
	}
	if number := typed.Get("job"); number != "" && len(kept) == 0 {
		s.Done(w, r, typed, "/jobs/"+url.PathEscape(number))
		return
	}
	q := url.Values{"saved": {"yes"}, "kept": kept}
	s.Done(w, r, typed, "/vehicles/"+url.PathEscape(v.Fleet)+"?"+q.Encode())
}

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
