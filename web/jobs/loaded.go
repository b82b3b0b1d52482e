package jobs

import (
	"net/http"
	"sync"

	"github.com/go-chi/chi/v5"

	"glenmist/core/diagnose"
	"glenmist/core/explain"
	"glenmist/core/plan"
	"glenmist/core/shop"
	"glenmist/store"
)

// Loaded is a job read from the store. Assessment and plan are computed on first use, so that a request with
// an old version computes neither.
type Loaded struct {
	Record store.Record
	Shop   shop.Settings
	// Assessment and Plan return the assessment and the plan. Reasons adds the reasons for and
	// against each suspect.
	Assessment func() *diagnose.Assessment
	Plan       func() plan.Plan
	reasons    func() *diagnose.Assessment
	// instruments is true if an instrument can be read with one key.
	instruments bool
}

// NewLoaded returns a job with the settings of the workshop.
func NewLoaded(rec store.Record, set shop.Settings, instruments bool) Loaded {
	it := Loaded{Record: rec, Shop: set, instruments: instruments}
	it.Assessment = sync.OnceValue(func() *diagnose.Assessment { return diagnose.AssessBy(set.Beliefs(), rec.Job) })
	it.Plan = sync.OnceValue(func() plan.Plan { return set.Plan().Plan(rec.Job, it.Assessment()) })
	it.reasons = sync.OnceValue(func() *diagnose.Assessment { return explain.Reasons(it.Assessment()) })
	return it
}

// Load reads the job of the address.
func (s *Pages) Load(w http.ResponseWriter, r *http.Request) (Loaded, bool) {
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return Loaded{}, false
	}
	set, version, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return Loaded{}, false
	}
	return s.loaded(r, rec, set, version), true
}

// LoadForm reads the form of a request and its job.
func (s *Pages) LoadForm(w http.ResponseWriter, r *http.Request) (Loaded, bool) {
	if err := s.ReadForm(r); err != nil {
		s.FailForm(w, r, err)
		return Loaded{}, false
	}
	return s.Load(w, r)
}
