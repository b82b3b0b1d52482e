package web

import (
	"fmt"
	"net/url"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// lookKinds are the items that one look covers, each with its two fields: which
// one, and what was found.
var lookKinds = []part.Kind{part.Plug, part.Boot, evidence.Connector}

var lookView = view{
	name: "look", title: "What the eye finds", tab: "Look", key: "l", does: "Enter a look at plug, boot or connector",
	blank: func(it seen, query url.Values) url.Values {
		v := url.Values{}
		worst := it.a.Worst()
		for _, item := range it.plan.Next.Look { // what the next step asks for
			if c, ok := item.Place.Cylinder(); ok && query.Get(string(evidence.Connector)) == "" {
				v.Set(string(evidence.Connector), fmt.Sprint(int(c)))
			} else if item.Tag != "" {
				v.Set(string(item.Tag.Kind()), string(item.Tag))
			}
		}
		for _, k := range lookKinds {
			switch asked := query.Get(string(k)); {
			case asked != "":
				v.Set(string(k), asked)
			case v.Get(string(k)) != "":
			case k == evidence.Connector:
				v.Set(string(k), fmt.Sprint(int(worst)))
			default:
				v.Set(string(k), string(it.a.Now.In(k, worst)))
			}
		}
		return v
	},
	read: readLook,
	field: func(_ seen, typed url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "look.items[%d]", &i); err != nil {
			return ""
		}
		var found []string
		for _, k := range lookKinds {
			found = append(found, foundField(k))
		}
		return strings.TrimSuffix(filled(typed, found, i), "-found")
	},
	model: func(it seen, _ form) any {
		var groups []lookGroup
		for _, k := range lookKinds {
			g := lookGroup{Kind: string(k), Found: foundField(k), Findings: evidence.FindingsOn(k)}
			for _, c := range it.a.Engine.All() {
				if k == evidence.Connector {
					g.Items = append(g.Items, lookChoice{fmt.Sprint(int(c)), fmt.Sprintf("cylinder %d", c)})
				} else {
					t := it.a.Now.In(k, c)
					g.Items = append(g.Items, lookChoice{string(t), fmt.Sprintf("%s, in cylinder %d", t, c)})
				}
			}
			groups = append(groups, g)
		}
		return groups
	},
}

type lookGroup struct {
	Kind, Found string
	Items       []lookChoice
	Findings    []evidence.FindingWords
}

type lookChoice struct{ Value, Words string }

func foundField(k part.Kind) string { return string(k) + "-found" }

func readLook(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	look := &evidence.Look{}
	for _, k := range lookKinds {
		text := typed.Get(foundField(k))
		if text == "" {
			continue
		}
		finding, err := evidence.ParseFinding(k, text)
		if err != nil {
			bad.Under(foundField(k), err)
		}
		item := evidence.Seen{Finding: finding}
		which := strings.TrimSpace(typed.Get(string(k)))
		if k == evidence.Connector {
			c, err := it.a.Engine.ParseCylinder(which)
			if err != nil {
				bad.Under(string(k), err)
			}
			item.Place = engine.At(c)
		} else if item.Tag, err = part.ParseTag(it.a.Engine, which); err != nil || item.Tag.Kind() != k {
			bad.Add(string(k), fmt.Sprintf("the tag of a %s of this engine", k), invalid.Quote(which))
		}
		look.Items = append(look.Items, item)
	}
	if len(look.Items) == 0 && len(bad) == 0 {
		bad.Add(foundField(part.Plug), "a finding on the plug, the boot or the connector", "none")
	}
	return evidence.Entry{Look: look}, bad
}
