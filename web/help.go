package web

import (
	"net/http"

	"glenmist/core/engine"
	"glenmist/core/plan"
	"glenmist/core/practice"
)

type helpPage struct {
	base
	Version   string
	Wires     []engine.WireRow
	Questions []practice.Question
	Condemn   float64
}

func (s *server) help(w http.ResponseWriter, r *http.Request) {
	s.render(w, r, http.StatusOK, "help.html", helpPage{s.base(r, "Help"), s.Version, engine.WireRows, practice.Questions, plan.Condemn})
}

type licencesPage struct {
	base
	Text string
}

// licences shows the notices of all third-party work in the binary.
func (s *server) licences(w http.ResponseWriter, r *http.Request) {
	s.render(w, r, http.StatusOK, "licences.html", licencesPage{s.base(r, "Licences"), Licences()})
}

// Licences is the notices of all third-party work in the binary.
func Licences() string {
	text, err := built.ReadFile("static/licences.txt")
	if err != nil {
		return "This binary was built without its notices; make build makes them.\n"
	}
	return string(text)
}
