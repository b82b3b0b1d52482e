package web

import (
	"fmt"
	"math"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-json-experiment/json"

	"glenmist/core/calc"
	"glenmist/core/invalid"
	"glenmist/core/spark"
	"glenmist/core/unit"
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

// scaleView is a test's kilovolts on a scale of 480 by 146.
type scaleView struct {
	Proven, Perhaps int // where the proven part ends, and where the range does
	ProvenWords     string
	ProvenX         int  // where that is written: in the bar, or
	Beside          bool // beside it where it is short
	Ticks           []scaleTick
	Needs           []scaleNeed
	Words           string
}

type scaleTick struct{ X, KV int }

type scaleNeed struct {
	X, Y    int
	Words   string
	Cleared bool
}

// Scale draws what a test proves beside what each condition needs.
func (p calcPage) Scale() *scaleView {
	if p.Answer == nil || p.Answer.Scale == nil {
		return nil
	}
	return newScale(p.Answer.Scale)
}

// newScale draws a test on a scale of kilovolts.
func newScale(s *spark.Scale) *scaleView {
	// The words of each need stand to the right of its line, in stairs: no line crosses them
	// where the highest need leaves them room.
	const width, left, room = 448.0, 14, 0.66
	most := s.Proof.High
	for _, n := range s.Needs {
		most = max(most, n.KV/room)
	}
	step := 5
	if most > 40 {
		step = 10
	}
	end := float64(step) * math.Ceil(most/float64(step))
	x := func(kV float64) int { return int(math.Round(left + width*kV/end)) }
	v := &scaleView{Proven: x(s.Proof.Low), Perhaps: x(s.Proof.High), ProvenWords: fmt.Sprintf("%.1f kV proven", s.Proof.Low)}
	if v.ProvenX = left + 8; v.Proven < 150 {
		v.ProvenX, v.Beside = v.Perhaps+8, true
	}
	for kV := 0; float64(kV) <= end; kV += step {
		v.Ticks = append(v.Ticks, scaleTick{x(float64(kV)), kV})
	}
	var words []string
	for i, n := range s.Needs {
		need := scaleNeed{X: x(n.KV), Y: 16 + 21*i, Words: fmt.Sprintf("✕ %s %.1f kV", n.Condition.Words, n.KV), Cleared: n.Cleared}
		if n.Cleared {
			need.Words = strings.Replace(need.Words, "✕", "✓", 1)
		}
		v.Needs = append(v.Needs, need)
		words = append(words, need.Words)
	}
	v.Words = v.ProvenWords + ": " + strings.Join(words, ", ")
	return v
}

func (s *server) listCalculators(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, http.StatusOK, "calc.html", calcPage{Base: s.Base(r, "Calculators"), All: calc.Calculators})
}

// calculate answers a calculator as a page, or as JSON with format=json.
func (s *server) calculate(w http.ResponseWriter, r *http.Request) {
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
