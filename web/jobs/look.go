package jobs

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/web/page"
)

// lookKinds lists the kinds of item of one look, the plug first. Each has two fields: the item
// and the finding.
func lookKinds(e engine.Engine) []engine.Kind {
	kinds := evidence.LookKinds(e)
	slices.Reverse(kinds)
	return kinds
}

// LookView records the finding of a look at a part or connector.
var LookView = View{
	Name: "look", Title: "What the eye finds", Tab: "Look", Key: "l", Does: "Enter what the eye found on a part or connector",
	Phases: []course.Phase{course.Trace}, Group: Looking, Kind: evidence.KindLook,
	Witnessed: true,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{}
		worst := it.Assessment().Worst()
		asked := map[engine.Kind]string{} // requested by the next step
		for _, item := range it.Plan().Next.Look {
			asked[item.Kind()] = lookValue(item)
		}
		for _, k := range lookKinds(it.Assessment().Engine) {
			for _, value := range []string{query.Get(lookField(k)), asked[k], lookValue(itemAt(it, k, worst))} {
				if value != "" && v.Get(lookField(k)) == "" {
					v.Set(lookField(k), value)
				}
			}
		}
		return v
	},
	Read: readLook,
	Field: func(it Loaded, typed url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "look.items[%d]", &i); err != nil {
			return ""
		}
		for _, k := range lookKinds(it.Assessment().Engine) {
			n := len(foundTyped(typed, k))
			switch {
			case i == 0 && n > 0:
				return lookField(k)
			case i < n:
				return alsoField(k)
			}
			i -= n
		}
		return ""
	},
	Model: func(it Loaded, _ page.Form) any {
		var groups []lookGroup
		for _, k := range lookKinds(it.Assessment().Engine) {
			g := lookGroup{Kind: string(k), Field: lookField(k), Found: foundField(k), Findings: evidence.FindingsOn(k), AlsoField: alsoField(k)}
			if k != engine.Plug && len(g.Findings) > 2 { // the signs of a plug have a board of their own
				g.Also = g.Findings[1:]
			}
			for _, item := range it.Assessment().Engine.Items() {
				switch {
				case item.Kind != k:
				case k == engine.Connector:
					g.Items = append(g.Items, page.Choice{Value: string(item.Place), Words: item.Place.String()})
				default:
					t := it.Assessment().Now.In(k, item.Place)
					g.Items = append(g.Items, page.Choice{Value: string(t), Words: fmt.Sprintf("%s, %s", t, part.At(item.Place))})
				}
			}
			for _, p := range it.Assessment().Now.Away() {
				if p.Kind == k && p.At == engine.Bench {
					g.Items = append(g.Items, page.Choice{Value: string(p.Tag), Words: fmt.Sprintf("%s, on the bench", p.Tag)})
				}
			}
			groups = append(groups, g)
		}
		return groups
	},
}

type lookGroup struct {
	Kind, Field, Found string
	Items              []page.Choice
	Findings           []evidence.FindingWords
	// Also are the abnormal findings that an item can show beside another; AlsoField is the field for them.
	Also      []evidence.FindingWords
	AlsoField string
}

func lookField(k engine.Kind) string { return strings.ReplaceAll(string(k), " ", "-") }

func foundField(k engine.Kind) string { return lookField(k) + "-found" }

func alsoField(k engine.Kind) string { return lookField(k) + "-also" }

// foundTyped lists the findings that were typed for a kind of item, the one of the list first.
func foundTyped(typed url.Values, k engine.Kind) (all []string) {
	if text := typed.Get(foundField(k)); text != "" {
		all = append(all, text)
	}
	for _, text := range typed[alsoField(k)] {
		if text != "" && !slices.Contains(all, text) {
			all = append(all, text)
		}
	}
	return all
}

func lookValue(item evidence.Seen) string {
	if item.Tag != "" {
		return string(item.Tag)
	}
	return string(item.Place)
}

// itemAt returns the item of a kind that a cylinder depends on.
func itemAt(it Loaded, k engine.Kind, c engine.Cylinder) evidence.Seen {
	if k != engine.Connector {
		return evidence.Seen{Tag: it.Assessment().Now.Serving(k, c)}
	}
	for _, item := range it.Assessment().Engine.Series(c) {
		if item.Kind == engine.Connector {
			return evidence.Seen{Place: item.Place}
		}
	}
	return evidence.Seen{}
}

func readLook(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	look := &evidence.Look{}
	for _, k := range lookKinds(it.Assessment().Engine) {
		for n, text := range foundTyped(typed, k) {
			finding, err := evidence.ParseFinding(k, text)
			if err != nil {
				bad.Under(foundField(k), err)
			}
			item := evidence.Seen{Finding: finding}
			which := strings.TrimSpace(typed.Get(lookField(k)))
			if k == engine.Connector {
				item.Place = PlaceTyped(which)
			} else if item.Tag, err = part.ParseTag(it.Assessment().Engine, which); (err != nil || item.Tag.Kind() != k) && n == 0 {
				bad.Add(lookField(k), fmt.Sprintf("the tag of a %s of this engine", k), invalid.Quote(which))
			}
			look.Items = append(look.Items, item)
		}
	}
	if len(look.Items) == 0 && len(bad) == 0 {
		bad.Add(foundField(engine.Plug), "a finding on a part or a connector", "none")
	}
	return evidence.Entry{Body: look}, bad
}
