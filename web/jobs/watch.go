package jobs

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/web/page"
)

// WatchView records where the misfire was seen, without counts.
var WatchView = View{
	Name: "watch", Title: "Misfire seen, not counted", Tab: "Watch", Key: "w", Does: "Enter where the misfire was seen, without counts",
	Phases: []course.Phase{course.Scan, course.Prove}, Kind: evidence.KindWatch,
	conditioned: true, Witnessed: true,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{"condition": {string(it.Assessment().FailsWhen)}}
		for _, name := range []string{"of", "place", "times", "failed", "clean", "condition"} {
			if text := query.Get(name); text != "" && len(text) <= 20 {
				v.Set(name, text)
			}
		}
		return v
	},
	Read: func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		w := &evidence.Watch{Cylinders: []engine.Cylinder{}}
		for _, text := range typed["cylinder"] {
			c, err := it.Assessment().Engine.ParseCylinder(text)
			if err != nil {
				bad.Under("cylinder", err)
				continue
			}
			w.Cylinders = append(w.Cylinders, c)
		}
		clean := typed.Get("clean") != ""
		switch {
		case clean && len(w.Cylinders) > 0:
			bad.Add("cylinder", "cylinders or “ran clean”, not both", "both")
		case !clean && len(w.Cylinders) == 0 && len(bad) == 0:
			bad.Add("cylinder", "the cylinders where it was seen, or “ran clean”", "neither")
		}
		w.Exposure = exposureOf(typed, &bad)
		return evidence.Entry{Body: w}, bad
	},
	Field: func(_ Loaded, _ url.Values, path string) string {
		if field, ok := strings.CutPrefix(path, "watch.exposure."); ok {
			return field
		}
		if strings.HasPrefix(path, "watch.cylinders") {
			return "cylinder"
		}
		return ""
	},
	Model: func(it Loaded, f page.Form) any {
		var m watchModel
		for _, c := range it.Assessment().Engine.All() {
			m.Choices = append(m.Choices, watchChoice{int(c), contains(f.Values["cylinder"], c)})
		}
		for _, row := range evidence.Circumstances {
			if row.Circumstance != evidence.AnyRun {
				m.Circumstances = append(m.Circumstances, page.Choice{Value: string(row.Circumstance), Words: row.Many})
			}
		}
		for _, item := range it.Assessment().Engine.Items() {
			if c := (page.Choice{Value: string(item.Place), Words: item.Place.String()}); !slices.Contains(m.Places, c) {
				m.Places = append(m.Places, c)
			}
		}
		return m
	},
}

// exposureOf reads how often the circumstance of the complaint was met; nil if none is chosen.
func exposureOf(typed url.Values, bad *invalid.Errors) *evidence.Exposure {
	of := strings.TrimSpace(typed.Get("of"))
	if of == "" {
		return nil
	}
	x := &evidence.Exposure{Of: evidence.Circumstance(of)}
	if x.Of == evidence.Misted {
		x.Place = engine.Place(typed.Get("place"))
	}
	number := func(field string, into *int, empty int) {
		text := strings.TrimSpace(typed.Get(field))
		if text == "" {
			*into = empty
			return
		}
		n, err := strconv.Atoi(text)
		if err != nil {
			bad.Add(field, "a whole number, such as 6", invalid.Quote(text))
			return
		}
		*into = n
	}
	number("times", &x.Times, 1)
	failed := 0
	if typed.Get("clean") == "" {
		failed = 1
	}
	number("failed", &x.Failed, failed)
	return x
}

type watchModel struct {
	Choices       []watchChoice
	Circumstances []page.Choice
	Places        []page.Choice
}

type watchChoice struct {
	N       int
	Checked bool
}

func contains(list []string, c engine.Cylinder) bool {
	for _, text := range list {
		if strings.TrimSpace(text) == strings.TrimPrefix(string(engine.At(c)), "cyl-") {
			return true
		}
	}
	return false
}
