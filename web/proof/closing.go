package proof

import (
	"net/url"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// ClosingView ends a job. How it ends follows from the ledger.
var ClosingView = jobs.View{
	Name: "closing", Title: "Close the job", Tab: "Close", Key: "X", Does: "Close the job: the vehicle goes back",
	Phases: []course.Phase{course.Closed}, Kind: evidence.KindClosing,
	Blank: func(jobs.Loaded, url.Values) url.Values { return url.Values{} },
	Read: func(it jobs.Loaded, _ url.Values) (evidence.Entry, invalid.Errors) {
		if _, closed := it.Record.Job.Ledger.Closed(); closed {
			return evidence.Entry{}, invalid.Errors{{Expected: "a job that is open", Got: "a closed one"}}
		}
		return evidence.Entry{Body: &evidence.Closing{Ending: plan.EndingOf(it.Record.Job, it.Assessment())}}, nil
	},
	Field: func(jobs.Loaded, url.Values, string) string { return "" },
	Model: func(it jobs.Loaded, _ page.Form) any { return newClosingModel(it) },
}

// closingModel is how the job would end.
type closingModel struct {
	Ending evidence.Ending
	// Good is true if nothing speaks against closing it; Open lists what is left open.
	Good   bool
	Open   []string
	Closed bool
	Due    string
}

// Idle reports that there is nothing to record.
func (m closingModel) Idle() bool { return m.Closed }

func newClosingModel(it jobs.Loaded) closingModel {
	j, a := it.Record.Job, it.Assessment()
	m := closingModel{Ending: plan.EndingOf(j, a)}
	_, m.Closed = j.Ledger.Closed()
	m.Good = m.Ending == evidence.EndedProven || m.Ending == evidence.EndedPlanned
	if signed, ok := j.Signed(); ok && m.Ending != evidence.EndedUnresolved {
		for _, item := range plan.ProofChecklist(j, a, plan.RepairedAt(a, signed.Verdict().Unit)) {
			if !item.Done && item.ID != "recheck" {
				m.Open = append(m.Open, item.Words+": "+item.Missing)
			}
		}
	}
	if due, ok := j.Ledger.DueRecheck(); ok {
		m.Due = due.Due.Words()
	}
	if len(a.Off) > 0 {
		m.Open = append(m.Open, "Still off: "+a.Off[0])
	}
	return m
}
