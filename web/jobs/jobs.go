// Package jobs has the pages of a job: the list, the job page with its next step, and the work
// views that record entries. A work view is one file with its form, model and parser, and a
// template of the same name.
package jobs

import (
	"context"
	"embed"
	"sync/atomic"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/store"
	"glenmist/web/page"
)

// Pages handles the pages of jobs.
type Pages struct {
	*page.App
	// several is true once the workshop is known to have more than one job.
	several atomic.Bool
	// views are the work views, in the order of their tabs.
	views      []View
	refreshing atomic.Bool
	kept       *assessmentCache
}

// Templates are those of the jobs.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages with the work views in the order of their tabs.
func New(app *page.App, views []View) *Pages {
	return &Pages{App: app, views: views, kept: newAssessmentCache()}
}

type jobsPage struct {
	page.Base
	Search jobSearch
	// Saved are searches that the person keeps. Deleted is the number of a job that was deleted just now.
	Saved   []store.Search
	Deleted string
	Jobs    []jobLine
	// First and Next lead to the first page and to the next one. Further is true on a page behind the first.
	First, Next string
	Further     bool
	// Rechecks are those that are overdue, due today, or due within a week.
	Rechecks []recheckLine
}

// recheckLine is a job that is to be looked at again.
type recheckLine struct {
	store.Recheck
	// When is the day in words; State is overdue, today or soon.
	When, State string
}

// soon is how many days ahead rechecks are listed.
const soon = 7

// rechecks lists the rechecks that are due.
func (s *Pages) rechecks(ctx context.Context) (lines []recheckLine, err error) {
	now := s.Now()
	list, err := s.Jobs.Rechecks(ctx, evidence.DayOf(now.AddDate(0, 0, soon)))
	today := evidence.DayOf(now)
	for _, one := range list {
		l := recheckLine{Recheck: one, When: one.Due.Words(), State: "soon"}
		switch {
		case one.Due < today:
			l.State = "overdue"
		case one.Due == today:
			l.State = "today"
		}
		lines = append(lines, l)
	}
	return lines, err
}

type jobLine struct {
	Job    job.Job
	Status plan.Status
	Stamp  string
}

// Refresh updates outdated summaries in the background, after a change of settings or of the
// program. At most one run is active.
func (s *Pages) Refresh() {
	if !s.refreshing.CompareAndSwap(false, true) {
		return
	}
	go func() {
		defer s.refreshing.Store(false)
		for more := true; more; {
			ctx, cancel := context.WithTimeout(s.Stopping, time.Minute)
			var err error
			more, err = s.Jobs.Refresh(ctx)
			cancel()
			if err != nil {
				s.Log.Warn("summaries of jobs", "error", err)
				return
			}
		}
	}()
}

// Stamp returns a state in one or two words.
func Stamp(state string) string { return stamps[state] }

// stamps gives the states in one or two words.
var stamps = map[string]string{
	"new": "New", "tracing": "Tracing", "waiting": "Run it", "followed": "Followed", "stayed": "Stayed",
	"both": "Both", "gone": "Gone", "elsewhere": "Elsewhere", "unclear": "Not clear", "signed": "Verdict", "proposed": "To sign",
	"planned": "Planned", "repaired": "To prove", "stopped": "Stop", "proven": "Proven", "fixed": "Fixed", "closed": "Closed",
}
