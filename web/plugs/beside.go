package plugs

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// BesideView compares a new plug or coil with the old one before fitting.
var BesideView = jobs.View{
	Name: "beside", Title: "New beside old", Tab: "New part", Key: "B", Does: "Compare a new plug or coil with the old one",
	Phases: []course.Phase{course.Fix}, Kind: evidence.KindBeside,
	Blank: func(it jobs.Loaded, query url.Values) url.Values {
		v := url.Values{}
		for name, values := range query { // typed values are evaluated while typing
			if len(name) < 30 && len(values) > 0 && len(values[0]) < 80 {
				v[name] = values[:1]
			}
		}
		tags := besideTags(it, part.Tag(v.Get("tag")).Kind())
		if !slices.Contains(tags, part.Tag(v.Get("tag"))) && len(tags) > 0 {
			v.Set("tag", string(it.Assessment().Now.Serving(tags[0].Kind(), it.Assessment().Worst())))
		}
		tag := part.Tag(v.Get("tag"))
		if r, ok := part.For(it.Assessment().Records, tag.Kind(), tag.Home()); ok {
			old := ofRecord(r)
			for _, row := range designFields[tag.Kind()] {
				if name := "old-" + row.Name; !query.Has(name) {
					v.Set(name, row.show(old))
				}
			}
		}
		return v
	},
	Read:  readBeside,
	Field: func(_ jobs.Loaded, _ url.Values, path string) string { return besideField(path) },
	Model: func(it jobs.Loaded, f page.Form) any {
		m := besideModel{Listed: evidence.Listeds, Kind: part.Tag(f.Get("tag")).Kind()}
		if designFields[m.Kind] == nil {
			m.Kind = engine.Plug
		}
		for _, t := range besideTags(it, m.Kind) {
			m.Tags = append(m.Tags, page.Choice{Value: string(t), Words: unit.Capital(t.Words()) + " " + part.At(it.Assessment().Now.Where(t))})
		}
		m.Kinds = []page.Choice{{Value: string(it.Assessment().Now.Serving(engine.Plug, it.Assessment().Worst())), Words: "Plug"}}
		if coil := it.Assessment().Now.Serving(engine.Coil, it.Assessment().Worst()); coil != "" {
			m.Kinds = append(m.Kinds, page.Choice{Value: string(coil), Words: "Coil"})
		}
		for _, row := range designFields[m.Kind] {
			m.Fields = append(m.Fields, designLine{row.Name, row.Words, row.Unit, row.Choices})
		}
		e, bad := readBeside(it, f.Values)
		if b := e.Beside(); b != nil && len(bad) == 0 && b.Compared() {
			m.Judged, m.Differences, m.Says = true, b.Differences(), b.Says()
			for _, d := range m.Differences {
				m.Grave = m.Grave || d.Grave
			}
		}
		return m
	},
}

type besideModel struct {
	Kind        engine.Kind
	Kinds, Tags []page.Choice
	Fields      []designLine
	Listed      []struct{ Value, Words string }
	Judged      bool
	Grave       bool
	Differences []plug.Difference
	Says        plug.Sign
}

type designLine struct {
	Name, Words, Unit string
	Choices           []string
}

// design holds the properties of a plug or coil that decide whether it fits.
type design struct {
	part.PlugDesign
	coil part.CoilDesign
}

// ofRecord returns the design from a vehicle's record.
func ofRecord(r part.Record) (d design) {
	if r.Plug != nil {
		d.PlugDesign = *r.Plug
	}
	if d.Lettering == "" {
		d.Lettering = r.Number
	}
	d.coil = part.CoilDesign{Pins: r.Pins, Lettering: r.Number}
	return d
}

// designField is one property, read on both parts.
type designField struct {
	Name, Words, Unit string
	Choices           []string
	show              func(design) string
	put               func(*design, string) error
}

func text(to func(*design) *string) func(*design, string) error {
	return func(d *design, s string) error { *to(d) = s; return nil }
}

func length(to func(*design) *float64) func(*design, string) error {
	return func(d *design, s string) (err error) { *to(d), err = unit.Length.Parse(s); return err }
}

// designFields lists the properties in the order of comparison.
var designFields = map[engine.Kind][]designField{
	engine.Plug: {
		{"lettering", "Lettering", "", nil, func(d design) string { return d.Lettering }, text(func(d *design) *string { return &d.Lettering })},
		{"reach", "Reach", "mm", nil, func(d design) string { return millimetres(d.ReachMM) }, length(func(d *design) *float64 { return &d.ReachMM })},
		{"thread", "Thread", "mm", nil, func(d design) string { return millimetres(d.ThreadMM) }, length(func(d *design) *float64 { return &d.ThreadMM })},
		{"seat", "Seat", "", []string{"gasket", "taper"}, func(d design) string { return string(d.Seat) }, func(d *design, s string) error { d.Seat = part.PlugSeat(s); return nil }},
		{"hex", "Hex", "mm", nil, func(d design) string { return millimetres(d.HexMM) }, length(func(d *design) *float64 { return &d.HexMM })},
		{"resistor", "Resistor", "", []string{"yes", "no"}, func(d design) string { return d.Resistor }, text(func(d *design) *string { return &d.Resistor })},
		{"electrode", "Electrodes", "", []string{"nickel", "fine-wire", "multi-ground", "surface-gap"}, func(d design) string { return string(d.Electrode) }, func(d *design, s string) error { d.Electrode = part.Electrode(s); return nil }},
		{"heat", "Heat range", "", nil, func(d design) string { return d.HeatRange }, text(func(d *design) *string { return &d.HeatRange })},
		{"terminal", "Terminal", "", []string{"nut", "thread", "cup"}, func(d design) string { return string(d.Terminal) }, func(d *design, s string) error { d.Terminal = part.PlugTerminal(s); return nil }},
	},
	engine.Coil: {
		{"lettering", "Lettering", "", nil, func(d design) string { return d.coil.Lettering }, text(func(d *design) *string { return &d.coil.Lettering })},
		{"pins", "Pins of the connector", "", nil, func(d design) string { return whole(d.coil.Pins) }, func(d *design, s string) (err error) {
			if d.coil.Pins, err = strconv.Atoi(s); err != nil {
				err = invalid.Error{Expected: "2 to 8 pins", Got: invalid.Quote(s)}
			}
			return err
		}},
		{"tab", "Tab locks at the", "", []string{"top", "bottom", "left", "right", "none"}, func(d design) string { return string(d.coil.Tab) }, func(d *design, s string) error { d.coil.Tab = part.CoilTab(s); return nil }},
		{"stem", "Flange to mouth", "mm", nil, func(d design) string { return millimetres(d.coil.StemMM) }, length(func(d *design) *float64 { return &d.coil.StemMM })},
	},
}

func whole(n int) string {
	if n == 0 {
		return ""
	}
	return strconv.Itoa(n)
}

// besideTags lists the parts of a kind; plugs if the kind has no design.
func besideTags(it jobs.Loaded, k engine.Kind) []part.Tag {
	if k != engine.Coil {
		plugs, _ := plugTags(it)
		return plugs
	}
	var tags []part.Tag
	for _, p := range it.Assessment().Now.All() {
		if p.Kind == engine.Coil && !p.Tag.IsSpare() {
			tags = append(tags, p.Tag)
		}
	}
	return tags
}

func millimetres(mm float64) string {
	if mm == 0 {
		return ""
	}
	return unit.Decimal(mm)
}

func readBeside(_ jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	b := &evidence.Beside{Tag: part.Tag(strings.TrimSpace(typed.Get("tag"))), Listed: typed.Get("listed")}
	var old, fresh design
	for prefix, d := range map[string]*design{"old-": &old, "new-": &fresh} {
		for _, row := range designFields[b.Tag.Kind()] {
			if text := strings.TrimSpace(typed.Get(prefix + row.Name)); text != "" {
				bad.Under(prefix+row.Name, row.put(d, text))
			}
		}
	}
	b.Old, b.New, b.OldCoil, b.NewCoil = old.PlugDesign, fresh.PlugDesign, old.coil, fresh.coil
	return evidence.Entry{Body: b}, bad
}

// besideField returns the form field of a path such as "beside.old.reach_mm".
func besideField(path string) string {
	path = strings.TrimPrefix(path, "beside.")
	side, of, ok := strings.Cut(strings.Replace(path, "_coil", "", 1), ".")
	if !ok {
		if side == "new" {
			return "new-lettering"
		}
		return side
	}
	return side + "-" + map[string]string{"reach_mm": "reach", "thread_mm": "thread", "hex_mm": "hex", "heat_range": "heat", "stem_mm": "stem"}[of] + map[bool]string{true: of}[!strings.ContainsRune(of, '_')]
}
