package jobs

import (
	"net/url"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/forbid"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// DangerView records a finding that forbids turning the engine, or what has ended the danger.
var DangerView = View{
	Name: "danger", Title: "Stop: the engine must not turn", Tab: "Stop", Key: "Q", Does: "Record a finding that forbids turning the engine",
	Phases: []course.Phase{course.Trace, course.Fix}, Group: Looking, Kind: evidence.KindDanger, Aside: true,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{"danger": {query.Get("danger")}}
		if bans := forbid.Of(it.Assessment().Moments); v.Get("danger") == "" && len(bans) > 0 {
			v.Set("danger", dangerKey(bans[0].Of, bans[0].Tag, true))
		}
		return v
	},
	Read: func(_ Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		d := &evidence.Danger{}
		text, over := strings.CutPrefix(typed.Get("danger"), "over ")
		name, tag, _ := strings.Cut(text, " ")
		d.Of, d.Tag, d.Over = evidence.Hazard(name), part.Tag(tag), over
		if over {
			d.Done = strings.TrimSpace(typed.Get("done"))
		}
		if d.Of == "" {
			return evidence.Entry{Body: d}, invalid.Errors{{Field: "danger", Expected: "what was found", Got: "nothing"}}
		}
		return evidence.Entry{Body: d}, nil
	},
	Field: func(_ Loaded, _ url.Values, path string) string {
		if path == "danger.done" {
			return "done"
		}
		return "danger"
	},
	Model: func(it Loaded, _ page.Form) any {
		a := it.Assessment()
		m := dangerModel{}
		held := map[string]bool{}
		for _, b := range forbid.Of(a.Moments) {
			held[dangerKey(b.Of, b.Tag, false)] = true
			m.Bans = append(m.Bans, banLine{b, dangerKey(b.Of, b.Tag, true)})
		}
		for _, row := range evidence.Hazards {
			g := hazardGroup{Words: unit.Capital(row.Words), Lifts: row.Lifts}
			tags := []part.Tag{""}
			if row.On != "" {
				tags = tags[:0]
				for _, at := range a.Now.All() {
					if at.Kind == row.On && at.At != engine.Bench {
						tags = append(tags, at.Tag)
					}
				}
			}
			for _, t := range tags {
				words := "the engine"
				if t != "" {
					words = string(t)
				}
				if key := dangerKey(row.Hazard, t, false); !held[key] {
					g.Choices = append(g.Choices, page.Choice{Value: key, Words: words})
				}
			}
			m.Found = append(m.Found, g)
		}
		return m
	},
}

// dangerKey is the value of the form for a danger on a part, or for its end.
func dangerKey(of evidence.Hazard, tag part.Tag, over bool) string {
	key := strings.TrimSpace(string(of) + " " + string(tag))
	if over {
		return "over " + key
	}
	return key
}

// dangerModel lists the bans that hold, and what can be found.
type dangerModel struct {
	Bans  []banLine
	Found []hazardGroup
}

// banLine is a ban with the value that ends it.
type banLine struct {
	forbid.Ban
	Over string
}

// hazardGroup is a hazard with the parts on which it can be found.
type hazardGroup struct {
	Words, Lifts string
	Choices      []page.Choice
}
