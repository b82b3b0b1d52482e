package jobs

import (
	"fmt"
	"net/url"
	"strconv"
	"strings"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// WithdrawView withdraws an entry.
var WithdrawView = View{
	Name: "withdraw", Title: "Withdraw an entry",
	Blank: func(_ Loaded, query url.Values) url.Values { return url.Values{"entry": {query.Get("entry")}} },
	Read: func(_ Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		n, err := strconv.Atoi(strings.TrimSpace(typed.Get("entry")))
		if err != nil {
			return evidence.Entry{}, invalid.Errors{{Field: "entry", Expected: "the number of an entry", Got: invalid.Quote(typed.Get("entry"))}}
		}
		return evidence.Entry{Body: &evidence.Withdraw{Entry: n, Reason: strings.TrimSpace(typed.Get("reason"))}}, nil
	},
	Field: func(_ Loaded, _ url.Values, path string) string {
		switch path {
		case "withdraw.reason":
			return "reason"
		case "withdraw.entry":
			return "entry"
		}
		return ""
	},
	Model: func(it Loaded, f page.Form) any { return previewWithdrawal(it, f.Get("entry")) },
}

// withdrawModel shows what a withdrawal would change, before it is confirmed.
type withdrawModel struct {
	Entry  *evidence.Entry
	Words  string
	Moves  []string
	Before string
	After  string
	// Refused states why it cannot be withdrawn.
	Refused string
}

func previewWithdrawal(it Loaded, number string) withdrawModel {
	var m withdrawModel
	n, err := strconv.Atoi(number)
	entry, ok := it.Record.Job.Ledger.Get(n)
	if err != nil || !ok {
		return m
	}
	m.Entry, m.Words = &entry, entry.Words()
	trial := it.Record.Job
	longer, err := trial.Ledger.Add(trial.Vehicle.Engine, evidence.Entry{By: "preview", Done: time.Unix(0, 0).UTC(),
		Body: &evidence.Withdraw{Entry: n, Reason: "preview"}})
	if err != nil {
		m.Refused = invalid.From(err)[0].Expected
		return m
	}
	trial.Ledger = longer
	after := diagnose.AssessBy(it.Shop.Beliefs(), trial)
	for _, p := range it.Assessment().Now.All() {
		if is := after.Now.Where(p.Tag); p.At != is {
			m.Moves = append(m.Moves, fmt.Sprintf("%s counts as %s, no longer %s", p.Tag.Words(), part.At(is), part.At(p.At)))
		}
	}
	m.Before, m.After = top(it.Assessment()), top(after)
	return m
}

func top(a *diagnose.Assessment) string {
	s := a.Suspects[0]
	return s.Name() + ", " + unit.Percent(s.P)
}
