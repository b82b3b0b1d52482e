package proof

import (
	"net/url"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// ClearingView records that codes were cleared and counters zeroed, after what that wipes has been said.
var ClearingView = jobs.View{
	Name: "clearing", Title: "Clear codes and counters", Tab: "Clear", Key: "C", Does: "Record that codes were cleared and counters zeroed",
	Phases: []course.Phase{course.Prove}, Kind: evidence.KindClearing,
	Offered: func(e engine.Engine) bool { return e.Scanned() },
	Blank:   func(jobs.Loaded, url.Values) url.Values { return url.Values{"codes": {"yes"}, "counters": {"yes"}} },
	Read: func(_ jobs.Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
		c := &evidence.Clearing{Codes: typed.Get("codes") != "", Counters: typed.Get("counters") != ""}
		var bad invalid.Errors
		for _, text := range typed["history"] {
			n, err := strconv.Atoi(text)
			if err != nil {
				bad.Add("history", "the number of an earlier run", invalid.Quote(text))
				continue
			}
			c.History = append(c.History, n)
		}
		return evidence.Entry{Body: c}, bad
	},
	Field: func(_ jobs.Loaded, _ url.Values, path string) string {
		switch {
		case strings.HasPrefix(path, "clearing.history"):
			return "history"
		case path == "clearing.counters":
			return "counters"
		}
		return "codes"
	},
	Model: func(it jobs.Loaded, f page.Form) any {
		m := clearingModel{Wiped: evidence.Wiped}
		for _, e := range it.Assessment().Moments {
			if e.Entry.Codes() != nil {
				m.Saved, m.SavedAt = e.Entry.Words(), e.Entry.Seq
			}
		}
		for _, e := range plan.History(it.Assessment()) {
			n := strconv.Itoa(e.Seq)
			m.History = append(m.History, historyLine{n, e.Words(), slices.Contains(f.Values["history"], n)})
		}
		return m
	},
}

type clearingModel struct {
	Wiped string
	// Saved is the last read of codes, at entry SavedAt; 0 if none was read.
	Saved   string
	SavedAt int
	History []historyLine
}

// historyLine is a run whose counts can be set aside.
type historyLine struct {
	N, Words string
	Checked  bool
}
