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

var moveView = view{
	name: "move", title: "Move a part", tab: "Move", key: "m", does: "Record that a part was moved",
	blank: func(it seen, query url.Values) url.Values {
		v := url.Values{"exchange": {"yes"}, "boots": {"yes"}, "cleared": {"yes"}}
		for _, name := range []string{"tag", "to"} {
			v.Set(name, query.Get(name))
		}
		if len(it.plan.Next.Parts) > 0 && v.Get("tag") == "" {
			v.Set("tag", string(it.plan.Next.Parts[0].Tag))
			v.Set("to", fmt.Sprint(it.plan.Next.Partner.Cylinder))
		}
		return v
	},
	read: readMove,
	field: func(_ seen, _ url.Values, path string) string {
		if strings.HasSuffix(path, ".tag") {
			return "tag"
		}
		return "to"
	},
	model: func(it seen, f form) any {
		m := moveModel{To: it.a.Engine.All(), Boots: true}
		for _, k := range []part.Kind{part.Coil, part.Plug, part.Boot} {
			for _, c := range it.a.Engine.All() {
				t := it.a.Now.In(k, c)
				m.Parts = append(m.Parts, partChoice{t, fmt.Sprintf("%s, now in cylinder %d", capital(t.Words()), c)})
			}
		}
		// With both ends known, say what the exchange is.
		t := part.Tag(f.Get("tag"))
		to, err := it.a.Engine.ParseCylinder(f.Get("to"))
		if from := it.a.Now.Where(t); from > 0 && err == nil && from != to {
			m.Back = fmt.Sprintf("%s comes to cylinder %d in exchange", it.a.Now.In(t.Kind(), to).Words(), from)
		}
		return m
	},
}

type moveModel struct {
	Parts []partChoice
	To    []engine.Cylinder
	Boots bool
	// Back says what comes back in exchange, when that is known yet.
	Back string
}

type partChoice struct {
	Tag   part.Tag
	Words string
}

func readMove(it seen, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	move := &evidence.Move{Cleared: typed.Get("cleared") != ""}
	t, err := part.ParseTag(it.a.Engine, strings.TrimSpace(typed.Get("tag")))
	if err != nil {
		bad.Under("tag", err)
	}
	to, err := it.a.Engine.ParseCylinder(typed.Get("to"))
	if err != nil {
		bad.Under("to", err)
	}
	if len(bad) > 0 {
		return evidence.Entry{}, bad
	}
	from := it.a.Now.Where(t)
	kinds := []part.Kind{t.Kind()}
	if t.Kind() == part.Coil && typed.Get("boots") != "" {
		kinds = append(kinds, part.Boot)
	}
	switch {
	case from == to:
		move.Parts = []part.Relocation{{Tag: t, To: engine.At(to)}} // refused with its own words
	case typed.Get("exchange") != "":
		move.Parts = it.a.Now.Swap(from, to, kinds...)
	default:
		for _, k := range kinds {
			move.Parts = append(move.Parts, part.Relocation{Tag: it.a.Now.In(k, from), To: engine.At(to)})
		}
	}
	return evidence.Entry{Move: move}, nil
}
