package plugs

import (
	"cmp"
	"net/url"
	"slices"
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
			old := r.Make()
			for _, p := range part.PropertiesOf(tag.Kind()) {
				if name := "old-" + p.ID; !query.Has(name) {
					v.Set(name, cmp.Or(p.Show(old), map[bool]string{true: r.Number}[p.ID == "lettering"]))
				}
			}
		}
		return v
	},
	Read:  readBeside,
	Field: func(_ jobs.Loaded, _ url.Values, path string) string { return besideField(path) },
	Model: func(it jobs.Loaded, f page.Form) any {
		m := besideModel{Listed: evidence.Listeds, Kind: part.Tag(f.Get("tag")).Kind()}
		if len(part.PropertiesOf(m.Kind)) == 0 {
			m.Kind = engine.Plug
		}
		for _, t := range besideTags(it, m.Kind) {
			m.Tags = append(m.Tags, page.Choice{Value: string(t), Words: unit.Capital(t.Words()) + " " + part.At(it.Assessment().Now.Where(t))})
		}
		for _, k := range it.Assessment().Engine.PartKinds() {
			if tag := it.Assessment().Now.Serving(k, it.Assessment().Worst()); tag != "" && len(part.PropertiesOf(k)) > 0 {
				m.Kinds = append(m.Kinds, page.Choice{Value: string(tag), Words: unit.Capital(string(k))})
			}
		}
		for _, p := range part.PropertiesOf(m.Kind) {
			if p.Other+p.More+p.Less != "" {
				m.Fields = append(m.Fields, designLine{p.ID, p.Words, p.Unit, p.Choices})
			}
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
	Differences []part.Difference
	Says        plug.Sign
}

type designLine struct {
	Name, Words, Unit string
	Choices           []string
}

// besideTags lists the parts of a kind that came with the engine; plugs if the kind has no properties.
func besideTags(it jobs.Loaded, k engine.Kind) []part.Tag {
	if len(part.PropertiesOf(k)) == 0 || k == engine.Plug {
		plugs, _ := plugTags(it)
		return plugs
	}
	var tags []part.Tag
	for _, p := range it.Assessment().Now.All() {
		if p.Kind == k && p.Tag.IsOriginal() {
			tags = append(tags, p.Tag)
		}
	}
	return tags
}

func readBeside(_ jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	b := &evidence.Beside{Tag: part.Tag(strings.TrimSpace(typed.Get("tag"))), Listed: typed.Get("listed")}
	var old, fresh part.Make
	for prefix, m := range map[string]*part.Make{"old-": &old, "new-": &fresh} {
		for _, p := range part.PropertiesOf(b.Tag.Kind()) {
			bad.Under(prefix+p.ID, p.Put(m, typed.Get(prefix+p.ID)))
		}
	}
	b.Old, b.New = designOf(old.Plug), designOf(fresh.Plug)
	b.OldCoil, b.NewCoil = designOf(old.Coil), designOf(fresh.Coil)
	b.OldLead, b.NewLead = designOf(old.Lead), designOf(fresh.Lead)
	b.OldCap, b.NewCap = designOf(old.Cap), designOf(fresh.Cap)
	return evidence.Entry{Body: b}, bad
}

// designOf returns a design, empty if there is none.
func designOf[D any](d *D) (design D) {
	if d != nil {
		design = *d
	}
	return design
}

// besideField returns the form field of a path such as "beside.old.reach_mm".
func besideField(path string) string {
	side, of, ok := strings.Cut(strings.TrimPrefix(path, "beside."), ".")
	kind := "plug"
	if base, design, more := strings.Cut(side, "_"); more {
		side, kind = base, design
	}
	for _, p := range part.Properties {
		if ok && p.Path == kind+"."+of {
			return side + "-" + p.ID
		}
	}
	if side == "new" {
		return "new-lettering"
	}
	return side
}
