package jobs

import (
	"context"
	"fmt"
	"net/http"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"

	"glenmist/core/diagnose"
	"glenmist/core/explain"
	"glenmist/core/plan"
	"glenmist/core/shop"
	"glenmist/store"
)

// maxAssessments bounds the number of cached assessments. At rest they take 0.2 to 2.3 MB each for the demo's jobs.
const maxAssessments = 24

// assessmentCache holds the assessments of recently viewed jobs, by job version and shop version. An assessment is not safe
// for concurrent use, so a request takes it out and puts it back at its end.
type assessmentCache struct {
	mu sync.Mutex
	by *lru.Cache[string, *assessed]
}

// assessed is an assessment. reasons is true once its reasons are computed; plan is nil until it is.
type assessed struct {
	of      *diagnose.Assessment
	reasons bool
	plan    *plan.Plan
}

func newAssessmentCache() *assessmentCache {
	by, err := lru.New[string, *assessed](maxAssessments)
	if err != nil {
		panic(err) // the size is a constant above 0
	}
	return &assessmentCache{by: by}
}

// take removes and returns the assessment of a key; nil if there is none.
func (k *assessmentCache) take(key string) *assessed {
	k.mu.Lock()
	defer k.mu.Unlock()
	a, ok := k.by.Peek(key)
	if !ok {
		return nil
	}
	k.by.Remove(key)
	return a
}

// keep puts an assessment back.
func (k *assessmentCache) keep(key string, a *assessed) {
	a.of.Rest()
	k.mu.Lock()
	defer k.mu.Unlock()
	k.by.Add(key, a)
}

// keyOf returns the key of an assessment and its plan: the versions of everything they are computed from, and the school, which
// has no version.
func keyOf(rec store.Record, set shop.Settings, version int) string {
	return fmt.Sprintf("%s %d %d %q %v", rec.Job.Number, rec.Version, version, rec.Job.School, set.Seen)
}

// atEnd collects the functions to call at the end of a request.
type atEnd struct{ do []func() }

type atEndKey struct{}

// RunAtEnd is middleware that calls the functions in [atEnd] after the handler returns.
func RunAtEnd(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		end := &atEnd{}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), atEndKey{}, end)))
		for _, f := range end.do { // not after a panic, which may leave an assessment incomplete
			f()
		}
	})
}

// loaded returns a job with its cached assessment, if there is one that no other request uses.
func (s *Pages) loaded(r *http.Request, rec store.Record, set shop.Settings, version int) Loaded {
	it := NewLoaded(rec, set, s.Instruments != nil)
	end, ok := r.Context().Value(atEndKey{}).(*atEnd)
	if !ok {
		return it
	}
	key := keyOf(rec, set, version)
	get := sync.OnceValue(func() *assessed {
		a := s.kept.take(key)
		if a == nil {
			a = &assessed{of: diagnose.AssessBy(set.Beliefs(), rec.Job)}
		}
		end.do = append(end.do, func() { s.kept.keep(key, a) })
		return a
	})
	it.Assessment = func() *diagnose.Assessment { return get().of }
	it.Plan = func() plan.Plan {
		a := get()
		if a.plan == nil {
			made := set.Plan().Plan(rec.Job, a.of)
			a.plan = &made
		}
		return *a.plan
	}
	it.reasons = func() *diagnose.Assessment {
		a := get()
		if !a.reasons {
			explain.Reasons(a.of)
			a.reasons = true
		}
		return a.of
	}
	return it
}
