package workshop

import (
	"net/http"

	"glenmist/core/engine"
	"glenmist/core/plan"
	"glenmist/core/practice"
	"glenmist/web/page"
)

type helpPage struct {
	page.Base
	Version   string
	Wires     []engine.WireRow
	Questions []practice.Question
	Condemn   float64
}

// Help is the help page.
func (s *Pages) Help(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, http.StatusOK, "help.html", helpPage{s.Base(r, "Help"), s.Version, engine.WireRows, practice.Questions, plan.Condemn})
}

type licencesPage struct {
	page.Base
	Text string
}

// Licences shows the notices of all third-party work in the binary.
func (s *Pages) Licences(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, http.StatusOK, "licences.html", licencesPage{s.Base(r, "Licences"), s.Assets.Text("licences.txt")})
}
