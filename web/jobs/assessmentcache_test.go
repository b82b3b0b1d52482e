package jobs

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/shop"
	"glenmist/store"
	"glenmist/web/page"
)

// An assessment is worked out once for a version of the job and of the workshop's settings, is used by one request at a
// time, and is not kept after a panic.
func TestAssessmentsAreKept(t *testing.T) {
	s := New(&page.App{}, nil)
	rec := store.Record{Job: jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2)), Version: 1}
	request := func(rec store.Record, set shop.Settings, version int, during func()) (got *diagnose.Assessment) {
		RunAtEnd(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
			it := s.loaded(r, rec, set, version)
			got = it.Assessment()
			for range 2 {
				if it.reasons() != got {
					t.Error("the reasons are of another assessment")
				}
			}
			during()
		})).ServeHTTP(httptest.NewRecorder(), httptest.NewRequest(http.MethodGet, "/", nil))
		return got
	}
	nothing := func() {}
	first := request(rec, shop.Default(), 1, nothing)
	reasons := len(first.Suspects[0].Reasons)
	if again := request(rec, shop.Default(), 1, nothing); again != first || len(again.Suspects[0].Reasons) != reasons {
		t.Error("the same version is worked out again, or its reasons twice")
	}
	newer, usual := rec, rec
	newer.Version, usual.Job.School = 2, job.UsualOrder
	for name, other := range map[string]*diagnose.Assessment{"a newer job": request(newer, shop.Default(), 1, nothing), "other settings": request(rec, shop.Default(), 2, nothing), "another school": request(usual, shop.Default(), 1, nothing)} {
		if other == first {
			t.Errorf("%s is answered with an old assessment", name)
		}
	}
	var beside *diagnose.Assessment
	request(rec, shop.Default(), 1, func() { beside = request(rec, shop.Default(), 1, nothing) })
	if beside == first {
		t.Error("two requests use one assessment at once")
	}
	func() {
		defer func() { _ = recover() }()
		request(rec, shop.Default(), 7, func() { panic("in the middle") })
	}()
	if s.kept.take(keyOf(rec, shop.Default(), 7)) != nil {
		t.Error("what a panic left is kept")
	}
}
