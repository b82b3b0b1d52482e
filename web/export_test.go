package web

import (
	"context"
	"net/http"
	"net/http/httptest"

	"github.com/go-chi/chi/v5"

	"glenmist/people"
	"glenmist/web/page"
)

// RenderAgain builds the page of a job once. It returns a function that reads the job and renders the same page.
func RenderAgain(cfg page.Config, number string) (func(http.ResponseWriter) error, error) {
	s, err := load(cfg)
	if err != nil {
		return nil, err
	}
	where := chi.NewRouteContext()
	where.URLParams.Add("id", number)
	r := httptest.NewRequest(http.MethodGet, "/jobs/"+number, nil)
	r = r.WithContext(context.WithValue(r.Context(), chi.RouteCtxKey, where))
	r = page.WithSigned(r, page.Signed{Person: people.Person{ID: 1, Name: "Oda", Role: people.Administrator}})
	it, _ := s.job.Load(httptest.NewRecorder(), r)
	p := s.job.Page(r, it, nil)
	return func(w http.ResponseWriter) error {
		_, err := s.Jobs.Job(r.Context(), number)
		s.Render(w, r, http.StatusOK, "job.html", p)
		return err
	}, nil
}
