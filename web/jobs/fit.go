package jobs

import (
	"net/url"
	"slices"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// FitView records a repair at a place.
var FitView = View{
	Name: "fit", Title: "Put right at its place", Tab: "Repair", Key: "k", Does: "Record that something was put right at its place",
	Phases: []course.Phase{course.Fix}, Kind: evidence.KindFit,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{"unit": {query.Get("unit")}}
		if choices := fitChoices(it); v.Get("unit") == "" && len(choices) > 0 {
			v.Set("unit", choices[0].Key)
		}
		return v
	},
	Read: func(_ Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		return evidence.Entry{Body: &evidence.Fit{Unit: typed.Get("unit"), Cleared: typed.Get("cleared") != ""}}, nil
	},
	Field: func(Loaded, url.Values, string) string { return "unit" },
	Model: func(it Loaded, _ page.Form) any { return fitModel{fitChoices(it), it.Assessment().Engine.Scanned()} },
}

type fitModel struct {
	Choices []fitChoice
	Scanned bool
}

type fitChoice struct{ Key, Words string }

// fitChoices lists the repairs, the most probable first.
func fitChoices(it Loaded) []fitChoice {
	var all []fitChoice
	add := func(key, words string) {
		if !slices.ContainsFunc(all, func(c fitChoice) bool { return c.Key == key }) {
			all = append(all, fitChoice{key, words})
		}
	}
	sites := map[string]engine.Item{}
	for _, item := range it.Assessment().Engine.Items() {
		if !item.Part {
			sites[evidence.UnitKey(item.Kind, item.Place)] = item
		}
	}
	for _, s := range it.Assessment().Suspects {
		if _, site := sites[s.Key()]; site {
			add(s.Key(), unit.Capital(s.Name())+", "+unit.Percent(s.P))
		}
	}
	return all
}
