package web

import (
	"net/http"
	"net/url"
	"strconv"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
)

// tapOutcome records what the next step's card offers: an outcome, an exchange
// that has been made, or the signature.
func (s *server) tapOutcome(w http.ResponseWriter, r *http.Request) {
	if err := r.ParseForm(); err != nil {
		s.failForm(w, r, err)
		return
	}
	it, ok := s.see(w, r)
	if !ok {
		return
	}
	refuse := func(code int, wrong invalid.Errors) {
		page := s.jobPage(r, it, nil)
		page.Wrong = wrong
		if code == http.StatusConflict {
			page.Stale = since(page.Ledger, r.PostForm)
		}
		s.render(w, r, code, "job.html", page)
	}
	if r.PostForm.Get("version") != strconv.Itoa(it.rec.Version) {
		refuse(http.StatusConflict, nil)
		return
	}
	entry, wrong := tapped(it.plan, r.PostForm)
	if len(wrong) > 0 {
		refuse(http.StatusUnprocessableEntity, wrong)
		return
	}
	s.record(w, r, it, entry, func(now seen) {
		it = now
		refuse(http.StatusConflict, nil)
	}, func(wrong invalid.Errors) {
		refuse(http.StatusUnprocessableEntity, wrong)
	})
}

// tapped is the entry that a tap on the card stands for.
func tapped(p plan.Plan, v url.Values) (evidence.Entry, invalid.Errors) {
	bad := badText(v)
	step, outcome := v.Get("step"), v.Get("outcome")
	if step != p.Next.Step.ID {
		bad.Add("step", p.Next.Step.ID+", the step that the card shows", invalid.Quote(step))
	}
	if len(bad) > 0 {
		return evidence.Entry{}, bad
	}
	switch {
	case step == plan.SignVerdict:
		e, err := p.Sign()
		return e, invalid.From(err)
	case len(p.Next.Parts) > 0 && outcome == "moved":
		return evidence.Entry{Move: &evidence.Move{Parts: p.Next.Parts, Cleared: true}}, nil
	}
	for _, o := range p.Next.Outcomes {
		if o.ID == outcome && len(p.Next.Parts) == 0 && o.Record.Kind() != "" {
			return o.Record, nil
		}
	}
	bad.Add("outcome", "one of the outcomes on the card", invalid.Quote(outcome))
	return evidence.Entry{}, bad
}
