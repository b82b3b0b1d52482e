package web

import (
	"context"
	"net/http"
	"strconv"
	"sync/atomic"
	"time"

	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/store"
	"glenmist/web/page"
)

// jobPages are the pages of jobs.
type jobPages struct {
	*page.App
	// views are the work views, in the order of their tabs.
	views      []view
	refreshing atomic.Bool
}

func newJobPages(app *page.App, views []view) *jobPages { return &jobPages{App: app, views: views} }

type jobsPage struct {
	page.Base
	Jobs         []jobLine
	Newer, Older string
}

type jobLine struct {
	Job    job.Job
	Status plan.Status
	Stamp  string
}

func (s *jobPages) listJobs(w http.ResponseWriter, r *http.Request) {
	skip, err := strconv.Atoi(r.URL.Query().Get("skip"))
	if err != nil || skip < 0 || skip > 1_000_000 {
		skip = 0
	}
	list, more, err := s.Jobs.Jobs(r.Context(), skip)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	shown := jobsPage{Base: s.Base(r, "Jobs")}
	for _, one := range list {
		shown.Jobs = append(shown.Jobs, jobLine{one.Job, one.Status, stamps[one.Status.State]})
	}
	if skip > 0 {
		shown.Newer = "/jobs?skip=" + strconv.Itoa(max(0, skip-store.Page))
	}
	if more {
		shown.Older = "/jobs?skip=" + strconv.Itoa(skip+store.Page)
	}
	s.Render(w, r, http.StatusOK, "jobs.html", shown)
}

// refresh works out in the background where the jobs stand whose summaries other settings, or another
// program, have left. One such run goes on at a time.
func (s *jobPages) refresh() {
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

// stamps are the states in a word or two, readable from afar.
var stamps = map[string]string{
	"new": "New", "tracing": "Tracing", "waiting": "Run it", "followed": "Followed", "stayed": "Stayed",
	"both": "Both", "gone": "Gone", "elsewhere": "Elsewhere", "unclear": "Not clear", "signed": "Verdict",
}
