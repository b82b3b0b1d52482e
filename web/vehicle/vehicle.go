// Package vehicle is the pages of vehicles with their engines, of opening a job for one, and of the labels
// for its parts.
package vehicle

import (
	"embed"
	"errors"
	"net/http"
	"net/url"
	"slices"
	"strconv"

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
	if err := s.ReadForm(r); err != nil {
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
	if err := s.ReadForm(r); err != nil {
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
		s.Refresh()
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
	s.Done(w, r, typed, "/vehicles/"+url.PathEscape(v.Fleet)+"/engine?"+q.Encode())
}
