package web

import (
	"net/http"
	"strconv"

	"glenmist/core/diagnose"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/store"
)

type jobsPage struct {
	base
	Jobs         []jobLine
	Newer, Older string
}

type jobLine struct {
	Job    job.Job
	Status plan.Status
	Stamp  string
}

func (s *server) listJobs(w http.ResponseWriter, r *http.Request) {
	skip, err := strconv.Atoi(r.URL.Query().Get("skip"))
	if err != nil || skip < 0 || skip > 1_000_000 {
		skip = 0
	}
	records, more, err := s.Jobs.Jobs(r.Context(), skip)
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	set, _, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.failStore(w, r, err)
		return
	}
	beliefs := set.Beliefs()
	page := jobsPage{base: s.base(r, "Jobs")}
	for _, rec := range records {
		status := plan.StatusOf(rec.Job, diagnose.AssessBy(beliefs, rec.Job))
		page.Jobs = append(page.Jobs, jobLine{rec.Job, status, stamps[status.State]})
	}
	if skip > 0 {
		page.Newer = "/jobs?skip=" + strconv.Itoa(max(0, skip-store.Page))
	}
	if more {
		page.Older = "/jobs?skip=" + strconv.Itoa(skip+store.Page)
	}
	s.render(w, r, http.StatusOK, "jobs.html", page)
}

// stamps are the states in a word or two, readable from afar.
var stamps = map[string]string{
	"new": "New", "tracing": "Tracing", "waiting": "Run it", "followed": "Followed", "stayed": "Stayed",
	"both": "Both", "gone": "Gone", "elsewhere": "Elsewhere", "unclear": "Not clear", "signed": "Verdict",
}
