package jobs

import (
	"fmt"
	"net/http"
	"net/url"

	"github.com/go-chi/chi/v5"

	"glenmist/core/course"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// whatIfView previews the ranking under each outcome of a step.
type whatIfView struct {
	Card    plan.Card
	Href    string
	Futures []futureView
	Steps   []stepChoice
	// Now is the current ranking.
	Now []RankLine
}

type futureView struct {
	Words   string
	P       float64
	Ranking []RankLine
}

// RankLine is one suspect of a ranking. Bar is in thousandths; Step states whether it rises or
// falls.
type RankLine struct {
	Name string
	P    float64
	Bar  int
	Step string
}

type stepChoice struct {
	Words, Href string
	Current     bool
}

// Ranked is the number of suspects shown.
const Ranked = 4

// whatIfAt returns the address of the preview of a step.
func whatIfAt(at string, c plan.Card) string {
	return at + "/what-if?" + url.Values{"step": {c.Step.ID}, "on": {c.Target}}.Encode()
}

// WhatIf previews the ranking under each outcome of a step.
func (s *Pages) WhatIf(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	query := r.URL.Query()
	_ = page.BadText(query)
	shown := s.Page(r, it, nil)
	shown.Title = "What if, " + shown.Title
	view := &whatIfView{Card: it.Plan().Next}
	for _, c := range it.Plan().Steps() {
		if c.Step.ID == query.Get("step") && c.Target == query.Get("on") {
			view.Card = c
		}
	}
	view.Href = shown.At + "/" + viewFor(shown.Job.Vehicle.Engine, view.Card)
	for _, c := range it.Plan().Steps() {
		view.Steps = append(view.Steps, stepChoice{c.Title, whatIfAt(shown.At, c), c.Title == view.Card.Title})
	}
	for _, s := range it.Assessment().Suspects[:min(Ranked, len(it.Assessment().Suspects))] {
		view.Now = append(view.Now, RankLine{unit.Capital(s.Name()), s.P, int(1000 * min(1, s.P)), ""})
	}
	for _, f := range view.Card.Futures(it.Assessment(), Ranked) {
		future := futureView{Words: f.Outcome.Words, P: f.Outcome.P}
		for _, c := range f.Ranking {
			line := RankLine{Name: unit.Capital(c.Suspect.Name()), P: c.After, Bar: int(1000 * min(1, c.After))}
			switch {
			case c.After > 1.15*c.Before && c.After > c.Before+0.005:
				line.Step = fmt.Sprintf("up from %s", unit.Percent(c.Before))
			case c.After < c.Before/1.15 && c.After < c.Before-0.005:
				line.Step = fmt.Sprintf("down from %s", unit.Percent(c.Before))
			}
			future.Ranking = append(future.Ranking, line)
		}
		view.Futures = append(view.Futures, future)
	}
	shown.WhatIf = view
	s.show(&shown, it, course.Trace)
	s.Render(w, r, http.StatusOK, "job.html", shown)
}

// SetSchool selects the order in which the next step is proposed.
func (s *Pages) SetSchool(w http.ResponseWriter, r *http.Request) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return
	}
	school := job.School(r.PostForm.Get("school"))
	if !school.Known() {
		s.Fail(w, r, http.StatusUnprocessableEntity, "Expected usual-order, or nothing for the plan.")
		return
	}
	number := chi.URLParam(r, "id")
	if err := s.Jobs.SetSchool(r.Context(), number, school); err != nil {
		s.FailStore(w, r, err)
		return
	}
	s.Done(w, r, r.PostForm, "/jobs/"+url.PathEscape(number))
}
