package jobs

import (
	"fmt"
	"net/url"
	"slices"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/web/page"
)

// PartsView shows where every part has been, and puts all of them back with one action.
var PartsView = View{
	Name: "parts", Title: "Parts and where they have been", Tab: "Parts", Key: "p", Does: "See where every part has been, and put all back",
	Phases: []course.Phase{course.Trace}, Group: Moving,
	Blank: func(Loaded, url.Values) url.Values { return url.Values{"cleared": {"yes"}} },
	Read: func(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		move := &evidence.Move{Cleared: typed.Get("cleared") != "" || !it.Assessment().Engine.Scanned()}
		for _, g := range it.Assessment().Now.PutBack() {
			move.Parts = append(move.Parts, g...)
		}
		if len(move.Parts) == 0 {
			return evidence.Entry{}, invalid.Errors{{Expected: "a part that is not at home", Got: "all of them at home"}}
		}
		return evidence.Entry{Body: move}, nil
	},
	Field: func(Loaded, url.Values, string) string { return "" },
	Model: func(it Loaded, _ page.Form) any { return newParts(it) },
}

type partsModel struct {
	Back    []string // the moves home, by group
	Scanned bool
	Picture *movesPicture
	Tags    []tagLine
	Places  []placeLine
	Ages    []ageLine
	Labels  string
}

type tagLine struct{ Tag, Stays string }

type placeLine struct{ Place, Stays string }

type ageLine struct {
	Words, Age, Number string
	Due                bool
}

func newParts(it Loaded) partsModel {
	j, e := it.Record.Job, it.Assessment().Engine
	m := partsModel{Scanned: e.Scanned(), Labels: "/jobs/" + url.PathEscape(j.Number) + "/labels"}
	for _, g := range it.Assessment().Now.PutBack() {
		m.Back = append(m.Back, part.Describe(g))
	}
	stays := j.Ledger.History(e)
	var last part.Tag
	for _, s := range stays {
		words := part.At(s.Place)
		if s.From > 0 {
			words += fmt.Sprintf(" (#%d)", s.From)
		}
		if s.Tag != last {
			m.Tags = append(m.Tags, tagLine{s.Tag.Words(), words})
			last = s.Tag
			continue
		}
		m.Tags[len(m.Tags)-1].Stays += " → " + words
	}
	for _, slot := range part.Slots(e) {
		here := evidence.At(stays, slot.Kind, slot.Place)
		if len(here) < 2 {
			continue
		}
		line := placeLine{Place: fmt.Sprintf("%s of %s", slot.Kind, slot.Place)}
		for i, s := range here {
			if i > 0 {
				line.Stays += " → "
			}
			line.Stays += string(s.Tag)
			if s.From > 0 {
				line.Stays += fmt.Sprintf(" (#%d)", s.From)
			}
		}
		m.Places = append(m.Places, line)
	}
	for _, r := range j.Records() {
		words := "all " + string(r.Kind) + "s"
		if r.Place != "" {
			words = fmt.Sprintf("%s of %s", r.Kind, r.Place)
		}
		age := r.AgeAt(j.Distance, j.Opened)
		m.Ages = append(m.Ages, ageLine{words, age.Words(), r.Number, age.Due()})
	}
	m.Picture = drawMoves(e, stays)
	return m
}

// movesPicture is the drawing of the moves: a horizontal line for each place, a column for each move, and
// a path for each moved part.
type movesPicture struct {
	W, H   int
	Words  string
	Lanes  []lane
	Steps  []stepMark
	Tracks []track
}

type lane struct {
	Y     int
	Words string
}

type stepMark struct {
	X     int
	Words string
}

type track struct {
	Path, Tag    string
	X, Y         int
	Style        int // line style, so that paths differ without colour
	EndX, EndY   int
	StartX, EndW int
}

const (
	laneH   = 44
	laneX   = 84
	stepW   = 92
	trackTo = 40
)

func drawMoves(e engine.Engine, stays []evidence.Stay) *movesPicture {
	var moves []int
	var places []engine.Place
	for _, s := range stays {
		if s.From > 0 && !slices.Contains(moves, s.From) {
			moves = append(moves, s.From)
		}
		if !slices.Contains(places, s.Place) {
			places = append(places, s.Place)
		}
	}
	if len(moves) == 0 {
		return nil
	}
	slices.Sort(moves)
	order := MovePlaces(e)
	slices.SortFunc(places, func(a, b engine.Place) int { return slices.Index(order, a) - slices.Index(order, b) })
	p := &movesPicture{W: laneX + stepW*len(moves) + trackTo + 40, H: laneH*len(places) + 34}
	// Parts at the same place are drawn slightly apart.
	y := func(t part.Tag, place engine.Place) int {
		return 18 + laneH*slices.Index(places, place) + 9*(slices.Index(e.PartKinds(), t.Kind())%3)
	}
	for i, place := range places {
		p.Lanes = append(p.Lanes, lane{14 + laneH*i, placeName(place)})
	}
	for i, m := range moves {
		p.Steps = append(p.Steps, stepMark{laneX + stepW*i + stepW/2, fmt.Sprintf("#%d", m)})
	}
	var tags []part.Tag
	for _, s := range stays {
		if !slices.Contains(tags, s.Tag) {
			tags = append(tags, s.Tag)
		}
	}
	for n, t := range tags {
		path, at := "", 0
		tr := track{Tag: string(t), Style: n % 4}
		for _, s := range stays {
			if s.Tag != t {
				continue
			}
			to := len(moves)
			if s.To > 0 {
				to = slices.Index(moves, s.To)
			}
			here := y(t, s.Place)
			endX := laneX + stepW*to + 18
			if s.To == 0 {
				endX = laneX + stepW*len(moves) + trackTo
			}
			if path == "" {
				path = fmt.Sprintf("M%d %d H%d", laneX-6, here, endX)
				tr.StartX, tr.Y = laneX-6, here
			} else {
				x := laneX + stepW*at
				path += fmt.Sprintf(" C%d %d %d %d %d %d H%d", x+stepW/2, tr.EndY, x+stepW/2, here, x+stepW-18, here, max(endX, x+stepW-18))
			}
			tr.EndX, tr.EndY = endX, here
			at = to
		}
		tr.Path = path
		tr.X = tr.EndX + 5
		p.Tracks = append(p.Tracks, tr)
	}
	p.Words = fmt.Sprintf("Picture of the moves: %d moves of %d parts. The tables below say the same.", len(moves), len(tags))
	return p
}

func placeName(p engine.Place) string {
	if c, ok := p.Cylinder(); ok {
		return fmt.Sprintf("cyl %d", c)
	}
	if p == engine.Bench {
		return "bench"
	}
	return p.String()
}

// Idle reports whether there is nothing to record.
func (m partsModel) Idle() bool { return len(m.Back) == 0 }
