package jobs

import (
	"fmt"
	"net/url"
	"slices"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/web/page"
)

// CoversView records which covers are off.
var CoversView = View{
	Name: "covers", Title: "Covers that are off", Tab: "Covers", Key: "y", Does: "Record which covers are off",
	Phases: []course.Phase{course.Trace, course.Fix}, Group: Looking, Kind: evidence.KindCovers,
	Offered: func(e engine.Engine) bool { return len(e.Covers) > 0 },
	Blank: func(it Loaded, _ url.Values) url.Values {
		return url.Values{"off": it.Assessment().Off}
	},
	Read: func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		c := &evidence.Covers{}
		want := typed["off"]
		for _, name := range want {
			if !slices.Contains(it.Assessment().Off, name) {
				c.Off = append(c.Off, name)
			}
		}
		for _, name := range it.Assessment().Off {
			if !slices.Contains(want, name) {
				c.On = append(c.On, name)
			}
		}
		if len(c.Off)+len(c.On) == 0 {
			bad.Add("off", "a cover that came off or went back on", "the same as before")
		}
		return evidence.Entry{Body: c}, bad
	},
	Field: func(Loaded, url.Values, string) string { return "off" },
	Model: func(it Loaded, f page.Form) any {
		var choices []coverChoice
		for i, c := range it.Assessment().Engine.Covers {
			words := fmt.Sprintf("%g min off, %g min on", c.Off, c.On)
			if len(c.Gaskets) > 0 {
				words += "; new with it: " + join(c.Gaskets)
			}
			choices = append(choices, coverChoice{fmt.Sprintf("cover%d", i), c.Name, words, slices.Contains(f.Values["off"], c.Name)})
		}
		return choices
	},
}

type coverChoice struct {
	ID, Name, Words string
	Checked         bool
}

func join(words []string) string {
	s := ""
	for i, w := range words {
		if i > 0 {
			s += ", "
		}
		s += w
	}
	return s
}
