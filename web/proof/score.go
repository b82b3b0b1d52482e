package proof

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"glenmist/core/engine"
	"glenmist/core/learn"
	"glenmist/core/score"
	"glenmist/core/shop"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// scorePage is what became of the workshop's verdicts, and what it has learnt.
type scorePage struct {
	page.Base
	Score   score.Score
	Least   int
	Picture *draw.Picture
	// Learning is the table of shares of one layout; Layouts are those to choose from.
	Learning []learn.Row
	Layout   engine.Ignition
	Layouts  []layoutLink
	Seen     int // jobs of the layout
	Strength int
	Learns   bool
	Form     page.Form
	Saved    bool
	Stale    bool
}

// layoutLink leads to the shares of a layout.
type layoutLink struct {
	Words, Href string
	Jobs        int
	Current     bool
}

// ShowScore shows the score and the learning.
func (s *Pages) ShowScore(w http.ResponseWriter, r *http.Request) {
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.showScore(w, r, http.StatusOK, set, formOf(set, version), false)
}

// formOf is the form of the settings of learning.
func formOf(set shop.Settings, version int) page.Form {
	v := url.Values{"version": {strconv.Itoa(version)}}
	if !set.NotLearning {
		v.Set("learn", "yes")
	}
	if set.CountImported {
		v.Set("imported", "yes")
	}
	return page.NewForm(v, nil, page.SameName)
}

func (s *Pages) showScore(w http.ResponseWriter, r *http.Request, code int, set shop.Settings, f page.Form, stale bool) {
	outcomes, err := s.Jobs.Outcomes(r.Context(), set.CountImported)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query)
	p := scorePage{Base: s.Base(r, "Score"), Score: score.Tally(outcomes), Least: score.Least, Strength: learn.Strength, Learns: !set.NotLearning,
		Form: f, Saved: query.Get("saved") != "", Stale: stale, Layout: engine.CoilOnPlug}
	p.Picture = draw.NewReliability(p.Score.Bins)
	if l := engine.Ignition(query.Get("layout")); slices.Contains(engine.Ignitions(), l) {
		p.Layout = l
	}
	for _, l := range engine.Ignitions() {
		jobs := 0
		for _, c := range set.Seen {
			if c.Layout == l {
				jobs += c.Jobs
			}
		}
		if l == p.Layout {
			p.Seen = jobs
		}
		p.Layouts = append(p.Layouts, layoutLink{l.Words(), "/score?layout=" + url.QueryEscape(string(l)) + "#learning", jobs, l == p.Layout})
	}
	p.Learning = learn.Rows(p.Layout, set.Seen)
	if set.NotLearning {
		for i := range p.Learning {
			p.Learning[i].Used = p.Learning[i].Shipped
		}
	}
	s.Render(w, r, code, "score.html", p)
}

// SetLearning switches the learning, and whether imported jobs count.
func (s *Pages) SetLearning(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	set, now, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	typed := r.PostForm
	version, err := strconv.Atoi(typed.Get("version"))
	if err != nil || version != now {
		s.showScore(w, r, http.StatusConflict, set, page.NewForm(typed, nil, page.SameName), true)
		return
	}
	set.NotLearning, set.CountImported = typed.Get("learn") == "", typed.Get("imported") != ""
	if err := s.Jobs.SetShop(r.Context(), set, version); err != nil {
		if fields := page.FieldsOf(err); fields != nil {
			s.showScore(w, r, http.StatusUnprocessableEntity, set, page.NewForm(typed, fields, page.SameName), false)
			return
		}
		s.FailStore(w, r, err)
		return
	}
	s.Refresh()
	s.Done(w, r, typed, "/score?saved=yes")
}

// Percents returns a share with its bounds: "90 %, between 68 and 99 %".
func (scorePage) Percents(h score.Share) string {
	if h.N == 0 {
		return "none yet"
	}
	return fmt.Sprintf("%.0f\u202f%%, between %.0f and %.0f\u202f%%", 100*h.P(), 100*h.Low, 100*h.High)
}

// Share returns a share with one decimal: "12.5 %".
func (scorePage) Share(p float64) string { return fmt.Sprintf("%.1f\u202f%%", 100*p) }
