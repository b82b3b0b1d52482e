package web

import (
	"net/url"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/web/page"
)

var watchView = view{
	name: "watch", title: "Misfire seen, not counted", tab: "Watch", key: "w", does: "Enter where the misfire was seen, without counts",
	conditioned: true, witnessed: true,
	blank: func(it seen, _ url.Values) url.Values {
		return url.Values{"condition": {string(it.a().FailsWhen)}}
	},
	read: func(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		w := &evidence.Watch{Cylinders: []engine.Cylinder{}}
		for _, text := range typed["cylinder"] {
			c, err := it.a().Engine.ParseCylinder(text)
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
		return evidence.Entry{Body: w}, bad
	},
	field: func(_ seen, _ url.Values, path string) string {
		if strings.HasPrefix(path, "watch.cylinders") {
			return "cylinder"
		}
		return ""
	},
	model: func(it seen, f page.Form) any {
		var m watchModel
		for _, c := range it.a().Engine.All() {
			m.Choices = append(m.Choices, watchChoice{int(c), contains(f.Values["cylinder"], c)})
		}
		return m
	},
}

type watchModel struct{ Choices []watchChoice }

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
