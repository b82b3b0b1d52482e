package web

import (
	"net/url"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// besideView holds a new plug beside an old one before it is fitted.
var besideView = view{
	name: "beside", title: "New plug beside the old",
	blank: func(it seen, query url.Values) url.Values {
		v := url.Values{}
		for name, values := range query { // what is typed so far is judged as one types
			if len(name) < 30 && len(values) > 0 && len(values[0]) < 80 {
				v[name] = values[:1]
			}
		}
		plugs, _ := plugTags(it)
		if !slices.Contains(plugs, part.Tag(v.Get("tag"))) && len(plugs) > 0 {
			v.Set("tag", string(it.a.Now.Serving(engine.Plug, it.a.Worst())))
		}
		if r, ok := part.For(it.a.Records, engine.Plug, part.Tag(v.Get("tag")).Home()); ok && r.Plug != nil {
			d := *r.Plug
			if d.Lettering == "" {
				d.Lettering = r.Number
			}
			for _, row := range designFields {
				if name := "old-" + row.Name; !query.Has(name) {
					v.Set(name, row.show(d))
				}
			}
		}
		return v
	},
	read:  readBeside,
	field: func(_ seen, _ url.Values, path string) string { return besideField(path) },
	model: func(it seen, f form) any {
		m := besideModel{Listed: evidence.Listeds}
		plugs, _ := plugTags(it)
		for _, t := range plugs {
			m.Tags = append(m.Tags, lookChoice{string(t), unit.Capital(t.Words()) + " " + part.At(it.a.Now.Where(t))})
		}
		for _, row := range designFields {
			m.Fields = append(m.Fields, designLine{row.Name, row.Words, row.Unit, row.Choices})
		}
		e, bad := readBeside(it, f.Values)
		if b := e.Beside; b != nil && len(bad) == 0 && plug.Compared(b.Old, b.New) {
			m.Judged, m.Differences, m.Says = true, b.Differences(), b.Says()
			for _, d := range m.Differences {
				m.Grave = m.Grave || d.Grave
			}
		}
		return m
	},
}

type besideModel struct {
	Tags        []lookChoice
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

// designFields are what is read on a plug to know whether it fits, in the order in which one
// holds two beside each other.
var designFields = []struct {
	Name, Words, Unit string
	Choices           []string
	show              func(part.PlugDesign) string
	put               func(*part.PlugDesign, string) error
}{
	{"lettering", "Lettering", "", nil, func(d part.PlugDesign) string { return d.Lettering }, func(d *part.PlugDesign, s string) error { d.Lettering = s; return nil }},
	{"reach", "Reach", "mm", nil, func(d part.PlugDesign) string { return millimetres(d.ReachMM) }, func(d *part.PlugDesign, s string) error { return putMM(&d.ReachMM, s) }},
	{"thread", "Thread", "mm", nil, func(d part.PlugDesign) string { return millimetres(d.ThreadMM) }, func(d *part.PlugDesign, s string) error { return putMM(&d.ThreadMM, s) }},
	{"seat", "Seat", "", []string{"gasket", "taper"}, func(d part.PlugDesign) string { return string(d.Seat) }, func(d *part.PlugDesign, s string) error { d.Seat = part.PlugSeat(s); return nil }},
	{"hex", "Hex", "mm", nil, func(d part.PlugDesign) string { return millimetres(d.HexMM) }, func(d *part.PlugDesign, s string) error { return putMM(&d.HexMM, s) }},
	{"resistor", "Resistor", "", []string{"yes", "no"}, func(d part.PlugDesign) string { return d.Resistor }, func(d *part.PlugDesign, s string) error { d.Resistor = s; return nil }},
	{"electrode", "Electrodes", "", []string{"nickel", "fine-wire", "multi-ground", "surface-gap"}, func(d part.PlugDesign) string { return string(d.Electrode) }, func(d *part.PlugDesign, s string) error { d.Electrode = part.Electrode(s); return nil }},
	{"heat", "Heat range", "", nil, func(d part.PlugDesign) string { return d.HeatRange }, func(d *part.PlugDesign, s string) error { d.HeatRange = s; return nil }},
	{"terminal", "Terminal", "", []string{"nut", "thread", "cup"}, func(d part.PlugDesign) string { return string(d.Terminal) }, func(d *part.PlugDesign, s string) error { d.Terminal = part.PlugTerminal(s); return nil }},
}

func millimetres(mm float64) string {
	if mm == 0 {
		return ""
	}
	return trim(mm)
}

func putMM(to *float64, s string) error {
	mm, err := unit.Length.Parse(s)
	*to = mm
	return err
}

func readBeside(_ seen, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	b := &evidence.Beside{Tag: part.Tag(strings.TrimSpace(typed.Get("tag"))), Listed: typed.Get("listed")}
	for prefix, d := range map[string]*part.PlugDesign{"old-": &b.Old, "new-": &b.New} {
		for _, row := range designFields {
			if text := strings.TrimSpace(typed.Get(prefix + row.Name)); text != "" {
				bad.Under(prefix+row.Name, row.put(d, text))
			}
		}
	}
	return evidence.Entry{Beside: b}, bad
}

// besideField is the form's field for a path such as "beside.old.reach_mm".
func besideField(path string) string {
	path = strings.TrimPrefix(path, "beside.")
	side, of, ok := strings.Cut(path, ".")
	if !ok {
		if side == "new" {
			return "new-lettering"
		}
		return side
	}
	return side + "-" + map[string]string{"reach_mm": "reach", "thread_mm": "thread", "hex_mm": "hex", "heat_range": "heat"}[of] + map[bool]string{true: of}[!strings.ContainsRune(of, '_')]
}
