// Package calc is the trade's small sums as a table: each with its inputs, its
// formula, where that comes from and how far it holds.
package calc

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"

	"glenmist/core/invalid"
	"glenmist/core/spark"
	"glenmist/core/unit"
)

// Input is one thing that a calculator asks for.
type Input struct {
	Name, Words, Unit, Example string
	// Default is what an empty field means; without one it must be typed, unless it is
	// Optional: then the sum goes without it.
	Default  string
	Optional bool
	// Options are all that can be chosen, where it is a choice.
	Options []Option
	// read makes a figure of it; nil leaves it as text to the sum itself.
	read func(string) (float64, error)
}

// Option is one thing to choose.
type Option struct{ Value, Words string }

// MaxTyped bounds what is typed into one field, in bytes.
const MaxTyped = 400

// Result is one figure that it answers, or a word.
type Result struct {
	Name  string
	Value float64
	Unit  string
	// Text stands in place of the value where the answer is a word.
	Text string
}

// MarshalJSON writes name, value and unit; the value of a word is a string.
func (r Result) MarshalJSON() ([]byte, error) {
	value := any(r.Value)
	if r.Text != "" {
		value = r.Text
	}
	return json.Marshal(struct {
		Name  string `json:"name"`
		Value any    `json:"value"`
		Unit  string `json:"unit"`
	}{r.Name, value, r.Unit})
}

// Calculator is one sum.
type Calculator struct {
	Name, Title             string
	Inputs                  []Input
	Formula, Source, Limits string
	run                     func(in inputs) ([]Result, error)
	// scale draws the answer, where there is something to draw.
	scale func(in inputs) *spark.Scale
}

// inputs are the figures and texts that came in.
type inputs struct {
	figure map[string]float64
	text   map[string]string
}

// Answer is a calculator's answer with all that stands behind it. Inputs are figures in
// the unit that the input names, or words.
type Answer struct {
	Inputs  map[string]any `json:"inputs"`
	Result  []Result       `json:"result"`
	Formula string         `json:"formula"`
	Source  string         `json:"source"`
	Limits  string         `json:"limits"`
	// Scale is the answer as a picture, or nil.
	Scale *spark.Scale `json:"-"`
}

// Calculators lists them all.
var Calculators = slices.Concat(kilovolts, electric, workshop, misfire)

// number reads a figure between two bounds, both allowed.
func number(expected string, low, high float64) func(string) (float64, error) {
	return func(s string) (float64, error) {
		v, ok := unit.Figure(s)
		if !ok || !(v >= low && v <= high) {
			return 0, invalid.Error{Expected: expected, Got: invalid.Quote(s)}
		}
		return v, nil
	}
}

// whole reads a whole figure between two bounds, both allowed.
func whole(what string, low, high float64) func(string) (float64, error) {
	expected := fmt.Sprintf("%s from %g to %g", what, low, high)
	read := number(expected, low, high)
	return func(s string) (float64, error) {
		v, err := read(s)
		if err == nil && v != math.Trunc(v) {
			return 0, invalid.Error{Expected: expected, Got: invalid.Quote(s)}
		}
		return v, err
	}
}

// ohms reads a resistance that is a figure, between two bounds.
func ohms(low, high float64) func(string) (float64, error) {
	return func(s string) (float64, error) {
		o, err := unit.ParseOhms(s)
		if err != nil {
			return 0, err
		}
		if o.Over || o.Value < low || o.Value > high {
			return 0, invalid.Error{Expected: fmt.Sprintf("a resistance from %s to %s", unit.Ohms{Value: low}, unit.Ohms{Value: high}), Got: invalid.Quote(s)}
		}
		return o.Value, nil
	}
}

// between narrows a measure's bounds.
func between(m unit.Measure, low, high float64, example string) func(string) (float64, error) {
	m.Low, m.High, m.Example = low, high, example
	return m.Parse
}

func revolutions(s string) (float64, error) {
	r, err := unit.ParseRevolutions(s)
	return float64(r), err
}

// Find is the calculator of a name.
func Find(name string) (Calculator, bool) {
	for _, c := range Calculators {
		if c.Name == name {
			return c, true
		}
	}
	return Calculator{}, false
}

// Answer reads the inputs and works out the answer. Errors are
// [invalid.Errors] whose fields are names of inputs.
func (c Calculator) Answer(typed url.Values) (Answer, error) {
	a := Answer{Inputs: map[string]any{}, Result: []Result{}, Formula: c.Formula, Source: c.Source, Limits: c.Limits}
	in := inputs{map[string]float64{}, map[string]string{}}
	var bad invalid.Errors
	for _, i := range c.Inputs {
		text := strings.TrimSpace(typed.Get(i.Name))
		if text == "" {
			text = i.Default
		}
		if text == "" && i.Optional {
			continue
		}
		if len(text) > MaxTyped {
			bad.Add(i.Name, fmt.Sprintf("at most %d characters", MaxTyped), strconv.Itoa(len(text)))
			continue
		}
		if len(i.Options) > 0 && !slices.ContainsFunc(i.Options, func(o Option) bool { return o.Value == text }) {
			var can []string
			for _, o := range i.Options {
				can = append(can, o.Value)
			}
			bad.Add(i.Name, "one of "+strings.Join(can, ", "), invalid.Quote(text))
			continue
		}
		if i.read == nil {
			in.text[i.Name], a.Inputs[i.Name] = text, text
			continue
		}
		v, err := i.read(text)
		if err != nil {
			bad.Under(i.Name, err)
			continue
		}
		in.figure[i.Name], a.Inputs[i.Name] = v, v
	}
	if len(bad) > 0 {
		return a, bad
	}
	var err error
	if a.Result, err = c.run(in); a.Result == nil {
		a.Result = []Result{}
	}
	if err == nil && c.scale != nil {
		a.Scale = c.scale(in)
	}
	return a, err
}
