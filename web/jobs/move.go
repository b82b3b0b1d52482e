package jobs

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// moveFields names the fields of the two parts of one move, with their destinations. The
// second is for a split move.
var moveFields = [][2]string{{"tag", "to"}, {"tag2", "to2"}}

// MoveView records that a part was moved.
var MoveView = View{
	Name: "move", Title: "Move a part", Tab: "Move", Key: "m", Does: "Record that a part was moved",
	Phases: []course.Phase{course.Trace, course.Fix}, Group: Moving, Kind: evidence.KindMove,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{"exchange": {"yes"}, "rides": {"yes"}, "cleared": {"yes"}}
		for _, f := range moveFields {
			v.Set(f[0], query.Get(f[0]))
			v.Set(f[1], string(PlaceTyped(query.Get(f[1]))))
		}
		next := it.Plan().Next
		if len(next.Parts) > 0 && v.Get("tag") == "" {
			v.Set("tag", string(next.Parts[0].Tag))
			v.Set("to", string(next.Parts[0].To))
			if next.Second.Place != "" {
				last := next.Parts[len(next.Parts)-2]
				v.Set("tag2", string(last.Tag))
				v.Set("to2", string(last.To))
			}
		}
		return v
	},
	Read: readMove,
	Field: func(_ Loaded, _ url.Values, path string) string {
		if strings.HasSuffix(path, ".tag") {
			return "tag"
		}
		return "to"
	},
	Model: func(it Loaded, f page.Form) any {
		m := moveModel{Scanned: it.Assessment().Engine.Scanned()}
		for _, p := range it.Assessment().Now.All() {
			m.Parts = append(m.Parts, partChoice{p.Tag, fmt.Sprintf("%s, now %s", unit.Capital(p.Tag.Words()), part.At(p.At))})
		}
		for _, p := range MovePlaces(it.Assessment().Engine) {
			m.To = append(m.To, page.Choice{Value: string(p), Words: placeShort(p)})
		}
		for _, r := range ridesOf(it.Assessment().Engine) {
			m.Rides = unit.Capital(string(r)) + "s stayed on their coils"
		}
		// With both ends known, describe the exchange.
		t, to := part.Tag(f.Get("tag")), PlaceTyped(f.Get("to"))
		if from := it.Assessment().Now.Where(t); from != "" && from != to && to != "" {
			switch in := it.Assessment().Now.In(t.Kind(), to); {
			case to == engine.Bench:
				if s, ok := it.Assessment().Now.FreeSpare(t.Kind(), it.Record.Job.Ledger.Used); ok {
					m.Back = fmt.Sprintf("%s, a known-good one, comes to %s in its place", s.Words(), from)
				}
			case in != "":
				m.Back = fmt.Sprintf("%s comes to %s in exchange", in.Words(), from)
			}
		}
		if p, ok := plan.PartnerOf(it.Assessment(), t); ok {
			m.Partner = fmt.Sprintf("Best partner for %s: %s, because %s.", t.Words(), placeShortWords(p), strings.Join(p.Why, "; "))
		}
		if e, bad := readMove(it, f.Values); len(bad) == 0 {
			m.Outcomes = plan.Foretell(it.Assessment(), e.Move().Parts)
		}
		return m
	},
}

// placeShortWords describes the place of a partner.
func placeShortWords(p plan.Partner) string {
	if p.Place == engine.Bench {
		return "a spare"
	}
	return p.Place.String()
}

type moveModel struct {
	// Partner is the advice for the part that is chosen, and Outcomes what the run
	// after the move can show, as far as both ends are known.
	Partner  string
	Outcomes []plan.Outcome

	Parts []partChoice
	To    []page.Choice
	// Rides names the parts that stay on their coil, or "".
	Rides   string
	Scanned bool
	// Back names the part that comes back in exchange, once known.
	Back string
}

type partChoice struct {
	Tag   part.Tag
	Words string
}

// MovePlaces lists the places that a part can go to.
func MovePlaces(e engine.Engine) []engine.Place {
	var all []engine.Place
	for _, slot := range part.Slots(e) {
		if !slices.Contains(all, slot.Place) {
			all = append(all, slot.Place)
		}
	}
	slices.SortStableFunc(all, func(a, b engine.Place) int {
		rank := func(p engine.Place) int {
			if c, ok := p.Cylinder(); ok {
				return int(c)
			}
			return 99
		}
		return rank(a) - rank(b)
	})
	return append(all, engine.Bench)
}

func placeShort(p engine.Place) string {
	if c, ok := p.Cylinder(); ok {
		return strconv.Itoa(int(c))
	}
	if p == engine.Bench {
		return "bench"
	}
	return p.String()
}

// PlaceTyped is a place as a form or a link gives it: a bare number is a cylinder.
func PlaceTyped(s string) engine.Place {
	s = strings.TrimSpace(s)
	if n, err := strconv.Atoi(s); err == nil && n >= 0 {
		return engine.At(engine.Cylinder(n))
	}
	return engine.Place(s)
}

// ridesOf lists the kinds of part that can stay on their coils.
func ridesOf(e engine.Engine) []engine.Kind {
	if !e.OwnCoils() {
		return nil
	}
	for _, k := range []engine.Kind{engine.Boot, engine.Lead} {
		if slices.Contains(e.PartKinds(), k) {
			return []engine.Kind{k}
		}
	}
	return nil
}

func readMove(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	move := &evidence.Move{Cleared: typed.Get("cleared") != "" || !it.Assessment().Engine.Scanned()}
	at := it.Assessment().Now
	for i, f := range moveFields {
		if i > 0 && strings.TrimSpace(typed.Get(f[0])) == "" {
			continue
		}
		parts, wrong := moveOf(it, typed, at, f)
		bad = append(bad, wrong...)
		if len(wrong) > 0 {
			continue
		}
		move.Parts = append(move.Parts, parts...)
	}
	return evidence.Entry{Body: move}, bad
}

// moveOf returns the relocations of one part and of its exchange partner.
func moveOf(it Loaded, typed url.Values, at part.Positions, f [2]string) ([]part.Relocation, invalid.Errors) {
	var bad invalid.Errors
	e := it.Assessment().Engine
	t, err := part.ParseTag(e, strings.TrimSpace(typed.Get(f[0])))
	if err != nil {
		bad.Under(f[0], err)
		return nil, bad
	}
	to := PlaceTyped(typed.Get(f[1]))
	if _, known := e.Feeds(to); !known && to != engine.Bench {
		_, err := e.ParseCylinder(typed.Get(f[1]))
		bad.Under(f[1], err)
		return nil, bad
	}
	from := at.Where(t)
	switch {
	case from == to, at.In(t.Kind(), to) == "" && to != engine.Bench:
		return []part.Relocation{{Tag: t, To: to}}, nil // rejected with its own message
	case typed.Get("exchange") == "":
		return []part.Relocation{{Tag: t, To: to}}, nil
	case to == engine.Bench:
		spare, ok := at.FreeSpare(t.Kind(), it.Record.Job.Ledger.Used)
		if !ok {
			bad.Add(f[1], fmt.Sprintf("a spare %s that is free: %d have been used", t.Kind(), part.MaxSpares), "none left")
			return nil, bad
		}
		return at.Replace(t, spare), nil
	case from == engine.Bench:
		return at.Replace(at.In(t.Kind(), to), t), nil
	}
	kinds := []engine.Kind{t.Kind()}
	if t.Kind() == engine.Coil && typed.Get("rides") != "" {
		kinds = append(kinds, ridesOf(e)...)
	}
	return at.Swap(from, to, kinds...), nil
}
