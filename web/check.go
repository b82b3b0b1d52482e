package web

import (
	"net/url"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
)

var checkView = view{
	name: "check", title: "A test with a plain answer", tab: "Tests", key: "o", does: "Enter the answer of a test",
	blank: func(it seen, query url.Values) url.Values {
		v := url.Values{"place": {string(engine.Whole)}}
		if it.plan.Next.Test != "" {
			v.Set("test", string(it.plan.Next.Test))
		}
		if t := query.Get("test"); t != "" {
			v.Set("test", t)
		}
		return v
	},
	read: func(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		test, result, _ := strings.Cut(typed.Get("answer"), ":")
		if result == "" {
			bad.Add("answer", "the answer of one of the tests", "none")
			return evidence.Entry{}, bad
		}
		c := &evidence.Check{Test: evidence.TestID(test), Result: evidence.ResultID(result), Place: placeTyped(typed.Get("place"))}
		if t, ok := evidence.FindTest(c.Test); ok {
			if r, ok := t.Result(c.Result); ok && (!t.Anywhere || !r.Odd) {
				c.Place = engine.Whole
			}
		}
		return evidence.Entry{Check: c}, nil
	},
	field: func(_ seen, _ url.Values, path string) string {
		if path == "check.place" {
			return "place"
		}
		return "answer"
	},
	model: func(it seen, f form) any {
		m := checkModel{Tests: evidence.TestsOf(it.a.Engine)}
		asked := f.Get("test")
		slices.SortStableFunc(m.Tests, func(a, b evidence.Test) int {
			switch {
			case string(a.ID) == asked && string(b.ID) != asked:
				return -1
			case string(b.ID) == asked && string(a.ID) != asked:
				return 1
			}
			return 0
		})
		for _, item := range it.a.Engine.Items() {
			if item.Kind == engine.AirLeak {
				m.Places = append(m.Places, placeChoice{string(item.Place), item.Place.String()})
			}
		}
		slices.Reverse(m.Places)
		return m
	},
}

type checkModel struct {
	Tests  []evidence.Test
	Places []placeChoice
}
