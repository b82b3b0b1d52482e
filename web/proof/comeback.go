package proof

import (
	"net/http"
	"net/url"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/store"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// ComebackView links a job with an earlier one on the same trouble, whose evidence it then starts from.
var ComebackView = jobs.View{
	Name: "comeback", Title: "Same trouble as before?", Tab: "Came back", Key: "J", Does: "Start from the evidence of an earlier job",
	Phases: []course.Phase{course.Intake}, Kind: evidence.KindComeback,
	Blank: func(_ jobs.Loaded, query url.Values) url.Values { return url.Values{"of": {query.Get("of")}} },
	Read: func(jobs.Loaded, url.Values) (evidence.Entry, invalid.Errors) {
		return evidence.Entry{}, invalid.Errors{{Field: "of", Expected: "an earlier job of this vehicle", Got: "none"}}
	},
	Field: func(jobs.Loaded, url.Values, string) string { return "of" },
	Model: func(it jobs.Loaded, _ page.Form) any {
		m := &comebackModel{}
		for _, e := range it.Record.Job.Ledger.InOrder() {
			if e.Comeback() != nil {
				m.Done, m.Entry = e.Words(), e.Seq
			}
		}
		return m
	},
	More: func(s *jobs.Pages, r *http.Request, it jobs.Loaded, model any) (any, error) {
		m := model.(*comebackModel)
		list, err := s.Jobs.Earlier(r.Context(), it.Record.Job.Vehicle.Fleet, it.Record.Job.Opened, it.Record.Job.Number)
		m.Earlier = list
		return m, err
	},
}

// comebackModel lists the earlier jobs of the vehicle.
type comebackModel struct {
	Earlier []store.Summary
	// Done is the comeback that is recorded already, in entry Entry; "" for none.
	Done  string
	Entry int
}

// Idle reports that there is nothing to record.
func (m *comebackModel) Idle() bool { return m.Done != "" || len(m.Earlier) == 0 }

// PostComeback records that a job is on the same trouble as an earlier one.
func (s *Pages) PostComeback(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	v := ComebackView
	v.Read = func(it jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		c, err := jobs.Comeback(r.Context(), s.App, it.Shop, it.Record.Job, typed.Get("of"))
		if err != nil {
			return evidence.Entry{}, invalid.Errors{{Field: "of", Expected: "an earlier job of this vehicle", Got: typed.Get("of")}}
		}
		return evidence.Entry{Body: &c, Done: it.Record.Job.Opened}, nil
	}
	s.PostForm(w, r, it, v)
}
