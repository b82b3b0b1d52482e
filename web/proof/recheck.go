package proof

import (
	"net/http"
	"net/url"
	"strings"

	"glenmist/core/course"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// RecheckView sets the date of a recheck, moves it or calls it off.
var RecheckView = jobs.View{
	Name: "recheck", Title: "Date of a recheck", Tab: "Recheck", Key: "D", Does: "Set the date of a recheck",
	Phases: []course.Phase{course.Prove}, Aside: true, Kind: evidence.KindRecheck,
	Blank: func(it jobs.Loaded, _ url.Values) url.Values {
		v := url.Values{"for": {reasonFor(it)}}
		if due, ok := it.Record.Job.Ledger.DueRecheck(); ok {
			v.Set("due", string(due.Due))
			v.Set("for", due.For)
		}
		return v
	},
	Read: func(_ jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		r := &evidence.Recheck{Due: evidence.Day(strings.TrimSpace(typed.Get("due"))), For: strings.TrimSpace(typed.Get("for"))}
		if typed.Get("off") != "" {
			r.Due = ""
		} else if r.Due == "" {
			return evidence.Entry{Body: r}, invalid.Errors{{Field: "due", Expected: "a date, or the recheck called off", Got: "none"}}
		}
		return evidence.Entry{Body: r}, nil
	},
	Field: func(_ jobs.Loaded, _ url.Values, path string) string {
		if path == "recheck.for" {
			return "for"
		}
		return "due"
	},
	Model: func(it jobs.Loaded, _ page.Form) any {
		due, set := it.Record.Job.Ledger.DueRecheck()
		m := recheckModel{Set: set, Days: it.Plan().Next.Recheck}
		if set {
			m.Due = due.Due.Words()
		}
		return m
	},
	More: func(s *jobs.Pages, _ *http.Request, _ jobs.Loaded, model any) (any, error) {
		m := model.(recheckModel)
		now := s.Now()
		for _, days := range proposals(m.Days) {
			t := now.AddDate(0, 0, days)
			m.Proposed = append(m.Proposed, proposedDay{string(evidence.DayOf(t)), t.Format("Mon 2 Jan"), days})
		}
		m.Proposal = m.Proposed[0].Day
		return m, nil
	},
}

// recheckModel offers days for a recheck.
type recheckModel struct {
	Set      bool
	Due      string
	Days     int
	Proposal string
	Proposed []proposedDay
}

type proposedDay struct {
	Day, Words string
	In         int
}

// proposals lists in how many days a recheck can be, the proposed number first.
func proposals(days int) []int {
	if days == 0 {
		days = plan.RecheckDays
	}
	all := []int{days}
	for _, d := range []int{7, 14, 28, 42} {
		if d != days {
			all = append(all, d)
		}
	}
	return all
}

// reasonFor proposes what is looked at in a recheck.
func reasonFor(it jobs.Loaded) string {
	c := it.Plan().Next
	switch {
	case strings.Contains(c.Title, "permanent code"):
		return "Is the permanent code gone?"
	case c.Proof != nil:
		return "Does the repair hold?"
	}
	return "Does it misfire again?"
}
