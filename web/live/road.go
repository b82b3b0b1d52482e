package live

import (
	"net/http"

	"glenmist/core/forbid"
	"glenmist/core/job"
	"glenmist/web/page"
)

// roadPage is the road test: few, big figures for a passenger.
type roadPage struct {
	page.Base
	model
	Job  job.Job
	At   string
	Unit string
	// Proof is true if a repair is to be proven.
	Proof bool
	Ban   *forbid.Ban
}

// ShowRoad shows the road test.
func (s *Pages) ShowRoad(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	if s.Vehicles == nil || !it.Assessment().Engine.Scanned() {
		s.NotFound(w, r)
		return
	}
	m, err := more(s.Pages, r, it, newModel(it, page.NewForm(r.URL.Query(), nil, page.SameName)))
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	of := watchOf(it)
	p := roadPage{Base: s.Base(r, "Road test, "+it.Record.Job.Vehicle.Fleet), model: m, Job: it.Record.Job, At: "/jobs/" + it.Record.Job.Number, Unit: of.unit, Proof: of.proof != nil}
	p.Ban = p.model.Ban
	s.Render(w, r, http.StatusOK, "road.html", p)
}
