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

// mostKept is how many assessments are kept between requests. One of a job with many entries takes some tens of megabytes.
const mostKept = 12

// kept holds the assessments of jobs that were looked at lately, by job version and shop version. An assessment works out
// more as it is asked, so that one request uses it at a time: it is taken out, and put back when the request has ended.
type kept struct {
	mu sync.Mutex
	by *lru.Cache[string, *assessed]
}

// assessed is an assessment, with or without its reasons.
type assessed struct {
	of      *diagnose.Assessment
	reasons bool
}

func newKept() *kept {
	by, err := lru.New[string, *assessed](mostKept)
	if err != nil {
		panic(err) // the size is a constant above 0
	}
	return &kept{by: by}
}

// take returns what is kept for a key, or nil.
func (k *kept) take(key string) *assessed {
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
func (k *kept) keep(key string, a *assessed) {
	k.mu.Lock()
	defer k.mu.Unlock()
	k.by.Add(key, a)
}

// keyOf names an assessment by all that goes into it.
func keyOf(rec store.Record, set shop.Settings, version int) string {
	return fmt.Sprintf("%s %d %d %v", rec.Job.Number, rec.Version, version, set.Seen)
}

// atEnd is what is done when a request has ended.
type atEnd struct{ do []func() }

type atEndKey struct{}

// Ending does what was asked to be done when a request has ended.
func Ending(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		end := &atEnd{}
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), atEndKey{}, end)))
		for _, f := range end.do { // not after a panic: what it left half done is not kept
			f()
		}
	})
}

// loaded returns a job with the assessment that is kept of it, if there is one and no other request uses it.
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
	it.Plan = sync.OnceValue(func() plan.Plan { return set.Plan().Plan(rec.Job, it.Assessment()) })
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
