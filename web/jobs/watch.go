package jobs

import (
	"net/url"
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
	Blank: func(it Loaded, _ url.Values) url.Values {
		return url.Values{"condition": {string(it.Assessment().FailsWhen)}}
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
		return evidence.Entry{Body: w}, bad
	},
	Field: func(_ Loaded, _ url.Values, path string) string {
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
