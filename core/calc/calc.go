// Package calc is the trade's small sums as a table: each with its inputs, its
// formula, where that comes from and how far it holds.
package calc

import (
	"fmt"
	"math"
	"net/url"
	"strconv"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Input is one figure that a calculator asks for.
type Input struct {
	Name, Words, Unit, Example string
	read                       func(string) (float64, error)
}

// Result is one figure that it answers.
type Result struct {
	Name  string  `json:"name"`
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
}

// Calculator is one sum.
type Calculator struct {
	Name, Title             string
	Inputs                  []Input
	Formula, Source, Limits string
	run                     func(in map[string]float64) ([]Result, error)
}

// Answer is a calculator's answer with all that stands behind it.
type Answer struct {
	Inputs  map[string]float64 `json:"inputs"`
	Result  []Result           `json:"result"`
	Formula string             `json:"formula"`
	Source  string             `json:"source"`
	Limits  string             `json:"limits"`
}

// number reads a figure between two bounds, both allowed.
func number(expected string, low, high float64) func(string) (float64, error) {
	return func(s string) (float64, error) {
		v, err := strconv.ParseFloat(strings.TrimSpace(s), 64)
		if err != nil || !(v >= low && v <= high) {
			return 0, invalid.Error{Expected: expected, Got: invalid.Quote(s)}
		}
		return v, nil
	}
}

func revolutions(s string) (float64, error) {
	r, err := unit.ParseRevolutions(s)
	return float64(r), err
}

// sure is the confidence of the bounds: 95 %.
const sure = 0.95

// Calculators lists them all.
var Calculators = []Calculator{
	{
		Name: "misfire-rate", Title: "How often does it misfire?",
		Inputs: []Input{
			{"count", "Misfires counted on the cylinder", "", "23", number("a whole count from 0 to 1 500 000", 0, 1_500_000)},
			{"revolutions", "Revolutions watched", "rev", "5 min at 600 rpm", revolutions},
		},
		Formula: "opportunities = revolutions / 2; rate = count / opportunities",
		Source:  "definition: a four-stroke cylinder fires once in two revolutions",
		Limits:  "four-stroke engines; a lone count or two is no evidence",
		run: func(in map[string]float64) ([]Result, error) {
			due := math.Floor(in["revolutions"] / 2)
			if in["count"] > due || in["count"] != math.Trunc(in["count"]) {
				return nil, invalid.Errors{{Field: "count", Expected: fmt.Sprintf("a whole count, at most the %.0f times it was due to fire", due), Got: fmt.Sprint(in["count"])}}
			}
			return []Result{{"opportunities", due, ""}, {"rate", 100 * in["count"] / due, "%"}}, nil
		},
	},
	{
		Name: "clean-run", Title: "How long must it run clean?",
		Inputs: []Input{
			{"rate", "Misfire rate to rule out", "%", "0.1", number("a rate above 0 and below 100 %", 1e-4, 99.99)},
			{"speed", "Engine speed", "rpm", "600", number("a speed from 100 to 15 000 rpm", 100, 15_000)},
		},
		Formula: "events = ln(1 − 0.95) / ln(1 − rate), rounded up; minutes = events · 2 / speed",
		Source:  "zero events in n trials; rule of three: Hanley and Lippman-Hand, JAMA 1983 (from memory)",
		Limits:  "each event on its own; misfires come in bursts, so run in the condition where it failed, more than once",
		run: func(in map[string]float64) ([]Result, error) {
			n := TrialsToRuleOut(in["rate"] / 100)
			return []Result{{"events", n, ""}, {"revolutions", 2 * n, "rev"}, {"minutes", 2 * n / in["speed"], "min"}}, nil
		},
	},
	{
		Name: "rate-bound", Title: "What does a clean run prove?",
		Inputs: []Input{
			{"revolutions", "Revolutions without a misfire", "rev", "3000", revolutions},
		},
		Formula: "upper bound = 1 − 0.05^(1/n), n = revolutions / 2",
		Source:  "zero events in n trials; rule of three: Hanley and Lippman-Hand, JAMA 1983 (from memory)",
		Limits:  "each event on its own; says nothing of conditions that were not run",
		run: func(in map[string]float64) ([]Result, error) {
			n := math.Floor(in["revolutions"] / 2)
			return []Result{{"events", n, ""}, {"upper bound", 100 * UpperBound(n), "%"}}, nil
		},
	},
}

// UpperBound is the 95 % upper bound of a rate of which no event was seen in n
// trials, n at least 1: exactly 1 − 0.05^(1/n), about 3/n.
func UpperBound(n float64) float64 { return -math.Expm1(math.Log(1-sure) / n) }

// TrialsToRuleOut is how many trials without an event show with 95 % that the
// rate is below p, 0 < p < 1.
func TrialsToRuleOut(p float64) float64 { return math.Ceil(math.Log(1-sure) / math.Log1p(-p)) }

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
	a := Answer{Inputs: map[string]float64{}, Result: []Result{}, Formula: c.Formula, Source: c.Source, Limits: c.Limits}
	var bad invalid.Errors
	for _, in := range c.Inputs {
		v, err := in.read(typed.Get(in.Name))
		if err != nil {
			bad.Under(in.Name, err)
			continue
		}
		a.Inputs[in.Name] = v
	}
	if len(bad) > 0 {
		return a, bad
	}
	var err error
	a.Result, err = c.run(a.Inputs)
	return a, err
}
