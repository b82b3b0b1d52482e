package jobs

import (
	"net/url"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// CheckView records the answer of a test.
var CheckView = View{
	Name: "check", Title: "A test", Tab: "Tests", Key: "o", Does: "Enter the answer of a test",
	Phases: []course.Phase{course.Trace}, Group: Measuring, Kind: evidence.KindCheck,
	Witnessed: true,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{"test": {query.Get("test")}, "place": {query.Get("place")}}
		if v.Get("test") == "" {
			v.Set("test", string(it.Plan().Next.Test))
		}
		return v
	},
	Read: func(_ Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		result := evidence.ResultID(typed.Get("answer"))
		if result == "" {
			bad.Add("answer", "the answer of the test", "none")
			return evidence.Entry{}, bad
		}
		c := &evidence.Check{Test: evidence.TestID(typed.Get("test")), Result: result, Place: PlaceTyped(typed.Get("place"))}
		if t, ok := evidence.FindTest(c.Test); ok {
			if r, ok := t.Result(c.Result); ok && (t.Of == evidence.OfEngine || t.Of == evidence.OfLeaks && !r.Abnormal) {
				c.Place = engine.Whole
			}
		}
		return evidence.Entry{Body: c}, nil
	},
	Field: func(_ Loaded, _ url.Values, path string) string {
		if path == "check.place" {
			return "place"
		}
		return "answer"
	},
	Model: func(it Loaded, f page.Form) any {
		tests := evidence.TestsOf(it.Assessment().Engine)
		m := checkModel{Test: tests[0]}
		for _, t := range tests {
			if string(t.ID) == f.Get("test") {
				m.Test = t
			}
		}
		for _, t := range tests {
			m.Tests = append(m.Tests, testChoice{string(t.ID), t.Words, unit.Capital(t.Short), t.ID == m.Test.ID})
		}
		if m.Test.Of != evidence.OfEngine {
			worst := it.Assessment().Worst()
			for _, p := range m.Test.Places(it.Assessment().Engine) {
				c := placeChosen{Value: string(p), Words: p.String()}
				feeds, _ := it.Assessment().Engine.Feeds(p)
				switch {
				case f.Get("place") != "":
					c.Chosen = f.Get("place") == c.Value
				case m.Test.Of == evidence.OfItem:
					c.Chosen = feeds.Has(worst)
				default:
					c.Chosen = p == engine.Whole
				}
				m.Places = append(m.Places, c)
			}
		}
		return m
	},
}

type checkModel struct {
	Test   evidence.Test
	Tests  []testChoice
	Places []placeChosen
}

type testChoice struct {
	ID, Words, Short string
	Current          bool
}

type placeChosen struct {
	Value, Words string
	Chosen       bool
}

// AsksWhere returns the question about the place of the answer.
func (m checkModel) AsksWhere() string {
	if m.Test.Of == evidence.OfLeaks {
		return "Where it came out"
	}
	return "Of"
}
