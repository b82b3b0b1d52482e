package vehicle

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"

	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// sheet is a common sheet of labels; all measures are in millimetres.
type sheet struct {
	ID, Words    string
	W, H         float64 // of the page
	Across, Down int
	LabelW       float64
	LabelH       float64
	Left, Top    float64
	StepX, StepY float64
}

// sheets are sizes of labels that stationers sell everywhere (C).
var sheets = []sheet{
	{ID: "a4-24", Words: "A4, 3 × 8 labels of 70 × 37 mm", W: 210, H: 297, Across: 3, Down: 8, LabelW: 70, LabelH: 37, Top: 0.5, StepX: 70, StepY: 37},
	{ID: "a4-65", Words: "A4, 5 × 13 labels of 38 × 21 mm", W: 210, H: 297, Across: 5, Down: 13, LabelW: 38.1, LabelH: 21.2, Left: 4.7, Top: 10.7, StepX: 40.6, StepY: 21.2},
	{ID: "letter-30", Words: "letter, 3 × 10 labels of 2 5/8 × 1 in", W: 215.9, H: 279.4, Across: 3, Down: 10, LabelW: 66.7, LabelH: 25.4, Left: 4.8, Top: 12.7, StepX: 69.8, StepY: 25.4},
}

type labelsPage struct {
	page.Base
	At     string
	Number string
	Sheets []sheet
	Sheet  sheet
	Skip   int
	Labels []label
	Kinds  []engine.Kind
	Kind   string
	Query  template.URL
	Cut    int
}

type label struct {
	X, Y, W, H           float64
	Tag, Kind, From, Job string
	TagSize, WordSize    float64
	TagY, KindY, FromY   float64
}

// Labels shows a sheet of labels: tag, kind, where the part came from, and the job.
func (s *Pages) Labels(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	p := s.labelSheet(r, it)
	s.Render(w, r, http.StatusOK, "labels.html", p)
}

// LabelsSVG sends the sheet alone, in the size of the paper.
func (s *Pages) LabelsSVG(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	p := s.labelSheet(r, it)
	w.Header().Set("Content-Type", "image/svg+xml; charset=utf-8")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`inline; filename="labels-%s.svg"`, page.FileName(it.Record.Job.Number)))
	if err := s.Templates.Set.ExecuteTemplate(w, "label-sheet", p); err != nil {
		s.Log.Error("labels", "error", err)
	}
}

func (s *Pages) labelSheet(r *http.Request, it jobs.Loaded) labelsPage {
	j := it.Record.Job
	q := r.URL.Query()
	p := labelsPage{Base: s.Base(r, "Labels for "+j.Number), At: "/jobs/" + url.PathEscape(j.Number), Number: j.Number, Sheets: sheets, Sheet: sheets[0],
		Kinds: it.Assessment().Engine.PartKinds(), Kind: q.Get("kind")}
	for _, sh := range sheets {
		if sh.ID == q.Get("sheet") {
			p.Sheet = sh
		}
	}
	room := p.Sheet.Across * p.Sheet.Down
	if n, err := strconv.Atoi(q.Get("skip")); err == nil && n > 0 {
		p.Skip = min(n, room-1)
	}
	i := p.Skip
	for _, at := range it.Assessment().Now.All() {
		if p.Kind != "" && string(at.Kind) != p.Kind {
			continue
		}
		if i == room {
			p.Cut++
			continue
		}
		p.Labels = append(p.Labels, newLabel(p.Sheet, i, at, j.Vehicle.Fleet+" · "+j.Number))
		i++
	}
	p.Query = template.URL(fmt.Sprintf("sheet=%s&skip=%d&kind=%s", p.Sheet.ID, p.Skip, template.URLQueryEscaper(p.Kind))) //nolint:gosec // built from known words
	return p
}

func newLabel(sh sheet, i int, at part.Placed, job string) label {
	l := label{X: sh.Left + float64(i%sh.Across)*sh.StepX, Y: sh.Top + float64(i/sh.Across)*sh.StepY, W: sh.LabelW, H: sh.LabelH,
		Tag: string(at.Tag), Kind: string(at.Kind), From: "from " + at.Tag.Home().String(), Job: job}
	switch {
	case at.Tag.IsSpare():
		l.From = "spare"
	case at.Tag.IsNew():
		l.From = "new for " + at.Tag.Home().String()
	}
	l.TagSize, l.WordSize = sh.LabelH*0.42, min(4.6, sh.LabelH*0.13)
	l.TagY, l.KindY, l.FromY = l.Y+sh.LabelH*0.50, l.Y+sh.LabelH*0.68, l.Y+sh.LabelH*0.86
	return l
}
