package web

import (
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/core/calc"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

type calcPage struct {
	base
	All    []calc.Calculator
	One    *calc.Calculator
	Form   form
	Answer *calc.Answer
}

// Figure writes a result with four digits that count, without an exponent; kilovolts to a
// tenth, which is finer than any law of a spark.
func (calcPage) Figure(v float64, of string) string {
	if of == "kV" {
		return strconv.FormatFloat(v, 'f', 1, 64)
	}
	if math.Abs(v) >= 9999.5 {
		return unit.Thousands(int(math.Round(v)))
	}
	decimals := 3
	if v != 0 {
		decimals = min(9, max(0, 3-int(math.Floor(math.Log10(math.Abs(v))))))
	}
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

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
	for _, in := range c.Inputs { // what is chosen, and what an empty field means
		if !typed.Has(in.Name) && len(in.Options) > 0 {
			page.Form.Set(in.Name, in.Default)
		}
	}
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
