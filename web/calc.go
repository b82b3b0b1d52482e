package web

import (
	"net/http"
	"strconv"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/core/calc"
	"glenmist/core/invalid"
)

type calcPage struct {
	base
	All    []calc.Calculator
	One    *calc.Calculator
	Form   form
	Answer *calc.Answer
}

// Figure writes a result with four significant digits at most.
func (calcPage) Figure(v float64) string { return strconv.FormatFloat(v, 'g', 4, 64) }

func (s *server) listCalculators(w http.ResponseWriter, r *http.Request) {
	s.render(w, r, http.StatusOK, "calc.html", calcPage{base: s.base(r, "Calculators"), All: calc.Calculators})
}

// calculate answers a calculator as a page, or as JSON with format=json.
func (s *server) calculate(w http.ResponseWriter, r *http.Request) {
	c, ok := calc.Find(chi.URLParam(r, "name"))
	if !ok {
		s.notFound(w, r)
		return
	}
	typed := r.URL.Query()
	asJSON := typed.Get("format") == "json"
	page := calcPage{base: s.base(r, c.Title), All: calc.Calculators, One: &c, Form: newForm(typed, nil, same)}
	asked := asJSON
	for _, in := range c.Inputs {
		asked = asked || typed.Has(in.Name)
	}
	if !asked {
		s.render(w, r, http.StatusOK, "calc.html", page)
		return
	}
	code := http.StatusOK
	answer, err := c.Answer(typed)
	wrong := invalid.From(err)
	if err != nil {
		code = http.StatusUnprocessableEntity
	}
	if asJSON {
		w.Header().Set("Content-Type", "application/json; charset=utf-8")
		w.WriteHeader(code)
		if err != nil {
			_ = json.MarshalWrite(w, map[string]any{"errors": wrong})
			return
		}
		_ = json.MarshalWrite(w, answer, json.Deterministic(true))
		return
	}
	page.Form = newForm(typed, wrong, same)
	if err == nil {
		page.Answer = &answer
	}
	s.render(w, r, code, "calc.html", page)
}
