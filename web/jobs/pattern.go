package jobs

import (
	"glenmist/core/diagnose"
	"glenmist/core/pattern"
)

// patternView is the pattern in words, with the newest counts as a picture.
type patternView struct {
	Title, Points, Why, First string
	Caution                   string
	Circuits                  []string
	Counts                    *countsView
}

func newPattern(a *diagnose.Assessment) *patternView {
	p, ok := pattern.Of(a.Engine, a.Moments)
	if !ok {
		return nil
	}
	v := &patternView{Title: p.Title(a.Engine), Points: p.Points, Why: p.Why, First: p.First, Caution: p.Caution, Counts: newestCounts(a)}
	for _, c := range p.Circuits {
		v.Circuits = append(v.Circuits, c.String()+" "+c.In(a.Engine))
	}
	if len(a.Decodes) > 0 { // after a move the plan continues from its outcome
		v.First = ""
	}
	return v
}
