package jobs

import (
	"fmt"
	"net/http"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/web/draw"
)

// chosenView describes the selected cylinder.
type chosenView struct {
	N                int
	Suspicion, Count string
	Under            string // covers over it
	Tower, Mate      string
	Parts            []partLine
	Suspects         []SuspectView
	Close            string
}

type partLine struct {
	Words, From string
	Unseen      bool // it can be inspected and was not
	Looks       []string
	Age         string
	Due         bool
}

// ChosenCylinder returns the cylinder of the address. The default is the most probable
// cylinder if its probability is at least 0.5, otherwise 0.
func ChosenCylinder(r *http.Request, it Loaded) engine.Cylinder {
	if c, err := it.Record.Job.Vehicle.Engine.ParseCylinder(r.URL.Query().Get("cyl")); err == nil {
		return c
	}
	if w := it.Assessment().Worst(); it.Assessment().Suspicion[w-1] >= 0.5 {
		return w
	}
	return 0
}

func (p *Page) chosen(a *diagnose.Assessment, c engine.Cylinder) *chosenView {
	cell := p.Plan.Cells[slices.IndexFunc(p.Plan.Cells, func(cell draw.Cell) bool { return cell.N == int(c) })]
	v := &chosenView{N: int(c), Suspicion: cell.Suspicion, Count: cell.Count, Close: p.At}
	for _, k := range a.Engine.PartKinds() {
		t := a.Now.Serving(k, c)
		line := partLine{Words: t.Words()}
		if home := t.Home(); t.IsSpare() {
			line.From = "a spare"
		} else if a.Now.Home(t) != a.Now.Where(t) {
			line.From = "came from " + home.String()
		}
		line.Looks = looksAt(a, evidence.Seen{Tag: t})
		line.Unseen = t.IsOriginal() && k != engine.Coil && len(evidence.FindingsOn(k)) > 0 && len(line.Looks) == 0
		if r, ok := recordOf(p.Job, k, t); ok {
			age := r.AgeAt(p.Job.Distance, p.Job.Opened)
			line.Age, line.Due = age.Words(), age.Due()
		}
		v.Parts = append(v.Parts, line)
	}
	for _, item := range a.Engine.Series(c) {
		if item.Kind == engine.Connector {
			seen := evidence.Seen{Place: item.Place}
			looks := looksAt(a, seen)
			v.Parts = append(v.Parts, partLine{Words: seen.Name(), Looks: looks, Unseen: len(looks) == 0})
		}
	}
	covers, minutes := a.Engine.Access(engine.At(c), a.Off)
	if len(covers) > 0 {
		var names []string
		for _, cover := range covers {
			names = append(names, cover.Name)
		}
		v.Under = fmt.Sprintf("Under %s: %g min off and on", strings.Join(names, " and "), minutes)
	}
	if t := a.Engine.Tower(c); t != "" {
		v.Tower = t
	}
	if mate, ok := a.Engine.Companion(c); ok && mate != c {
		v.Mate = fmt.Sprintf("companion %d", mate)
	}
	for _, s := range p.Suspects {
		if feeds, ok := a.Engine.Feeds(s.Place); ok && s.Place != engine.Whole && feeds.Has(c) && len(v.Suspects) < 3 {
			v.Suspects = append(v.Suspects, s)
		}
	}
	return v
}

// recordOf returns what is known of a part: of one that was fitted new in this job, what was recorded then.
func recordOf(j job.Job, k part.Kind, t part.Tag) (part.Record, bool) {
	records := j.Vehicle.Parts
	if !t.IsOriginal() {
		records = j.Records()
	}
	return part.For(records, k, t.Home())
}

func looksAt(a *diagnose.Assessment, item evidence.Seen) []string {
	var words []string
	for _, m := range a.Moments {
		if m.Entry.Look() == nil {
			continue
		}
		for _, seen := range m.Entry.Look().Items {
			if seen.Tag == item.Tag && seen.Place == item.Place {
				words = append(words, seen.Finding.Words())
			}
		}
	}
	return words
}
