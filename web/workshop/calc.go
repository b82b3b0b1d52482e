package workshop

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
	"glenmist/web/draw"
	"glenmist/web/page"
)

type calcPage struct {
	page.Base
	All    []calc.Calculator
	One    *calc.Calculator
	Form   page.Form
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

// Scale draws what a test proves beside what each condition needs.
func (p calcPage) Scale() *draw.Scale {
	if p.Answer == nil || p.Answer.Scale == nil {
		return nil
	}
	return draw.NewScale(p.Answer.Scale)
}

// ListCalculators lists the calculators.
func (s *Pages) ListCalculators(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, http.StatusOK, "calc.html", calcPage{Base: s.Base(r, "Calculators"), All: calc.Calculators})
}

// Calculate answers a calculator as a page, or as JSON with format=json.
func (s *Pages) Calculate(w http.ResponseWriter, r *http.Request) {
	c, ok := calc.Find(chi.URLParam(r, "name"))
	if !ok {
		s.NotFound(w, r)
		return
	}
	typed := r.URL.Query()
	asJSON := typed.Get("format") == "json"
	shown := calcPage{Base: s.Base(r, c.Title), All: calc.Calculators, One: &c, Form: page.NewForm(typed, nil, page.SameName)}
	asked := asJSON
	for _, in := range c.Inputs { // what is chosen, and what an empty field means
		if !typed.Has(in.Name) && len(in.Options) > 0 {
			shown.Form.Set(in.Name, in.Default)
		}
	}
	for _, in := range c.Inputs {
		asked = asked || typed.Has(in.Name)
	}
	if !asked {
		s.Render(w, r, http.StatusOK, "calc.html", shown)
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
	shown.Form = page.NewForm(typed, wrong, page.SameName)
	if err == nil {
		shown.Answer = &answer
	}
	s.Render(w, r, code, "calc.html", shown)
}
