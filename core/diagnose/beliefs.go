package diagnose

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
)

// Override is a workshop's own figures for one row of the tables, with the reason.
type Override struct {
	// Row names it: "fault:" and a mode, "look:" with a kind and a bearing, "test:" with a
	// test and a mode or "other", or "step:" and a step.
	Row string `json:"row"`
	// Values are the row's figures: the factor of a share, the chances of a look or a
	// test in their order, the minutes of a step.
	Values []float64 `json:"values"`
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	On     time.Time `json:"on"`
}

// Bounds of overrides.
const (
	MaxOverrides  = 200
	MaxFactor     = 20.0  // of a share, either way
	LeastChance   = 0.001 // nothing is impossible
	MaxOwnMinutes = 600.0
)

// Beliefs are the tables as a workshop uses them: those that ship, with its own rows in
// place of some.
type Beliefs struct {
	Overrides []Override
	shares    map[string]float64
	minutes   map[string]float64
	looks     map[lookKey]float64
	checks    map[evidence.TestID]map[string]*CheckRow
}

// Shipped are the tables as they come.
var Shipped = &Beliefs{looks: chances, checks: checkRows}

// StepMinutes is the workshop's own figure for a step, if it has one.
func (b *Beliefs) StepMinutes(step string) (float64, bool) {
	m, ok := b.minutes[step]
	return m, ok
}

// RowID names the row of a look.
func (l LookRow) RowID() string { return "look:" + string(l.On) + "/" + string(l.Bearing) }

// RowID names the row of a test.
func (c CheckRow) RowID() string {
	of := "other"
	if c.Modes != nil {
		of = strings.Join(c.Modes, "+")
	}
	return "test:" + string(c.Test) + "/" + of
}

// Believe puts a workshop's own rows in place of those that ship. steps are the ids of
// the steps that have minutes. An error says what a row should have been.
func Believe(overrides []Override, steps []string) (*Beliefs, error) {
	b := &Beliefs{Overrides: overrides, shares: map[string]float64{}, minutes: map[string]float64{}, looks: map[lookKey]float64{}, checks: map[evidence.TestID]map[string]*CheckRow{}}
	for k, p := range chances {
		b.looks[k] = p
	}
	for test, of := range checkRows {
		b.checks[test] = map[string]*CheckRow{}
		for mode, row := range of {
			b.checks[test][mode] = row
		}
	}
	var bad invalid.Errors
	if len(overrides) > MaxOverrides {
		bad.Add("overrides", fmt.Sprintf("at most %d rows of your own", MaxOverrides), fmt.Sprint(len(overrides)))
		return nil, bad
	}
	for i, o := range overrides {
		bad.Under(fmt.Sprintf("overrides[%d]", i), b.put(o, steps))
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return b, nil
}

func (b *Beliefs) put(o Override, steps []string) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", o.Reason, "why your figures differ, in a few words", evidence.MaxText, false))
	bad.Under("", invalid.Text("by", o.By, "who says so", evidence.MaxName, false))
	one := func(least, most float64, expected string) bool {
		if len(o.Values) != 1 || math.IsNaN(o.Values[0]) || o.Values[0] < least || o.Values[0] > most {
			bad.Add("values", expected, fmt.Sprint(o.Values))
			return false
		}
		return true
	}
	table, row, _ := strings.Cut(o.Row, ":")
	switch table {
	case "fault":
		if !slices.ContainsFunc(fault.Catalogue, func(m fault.Mode) bool { return m.ID == row }) {
			bad.Add("row", "a mode of the catalogue, such as fault:plug.worn-gap", invalid.Quote(o.Row))
		} else if one(1/MaxFactor, MaxFactor, fmt.Sprintf("one factor of its share, %g to %g", 1/MaxFactor, MaxFactor)) {
			b.shares[row] = o.Values[0]
		}
	case "step":
		if !slices.Contains(steps, row) {
			bad.Add("row", "a step of the catalogue, such as step:swap.coil", invalid.Quote(o.Row))
		} else if one(0.5, MaxOwnMinutes, fmt.Sprintf("one figure in minutes, 0.5 to %g", MaxOwnMinutes)) {
			b.minutes[row] = o.Values[0]
		}
	case "look":
		i := slices.IndexFunc(Looks, func(l LookRow) bool { return l.RowID() == o.Row })
		if i < 0 {
			bad.Add("row", "a row of the looks", invalid.Quote(o.Row))
		} else if p, ok := shares(o.Values, len(Looks[i].Chance), &bad); ok {
			for k, words := range evidence.FindingsOn(Looks[i].On) {
				b.looks[lookKey{Looks[i].On, Looks[i].Bearing, words.Finding}] = p[k]
			}
		}
	case "test":
		i := slices.IndexFunc(CheckRows, func(c CheckRow) bool { return c.RowID() == o.Row })
		if i < 0 {
			bad.Add("row", "a row of the tests", invalid.Quote(o.Row))
		} else if p, ok := shares(o.Values, len(CheckRows[i].Chance), &bad); ok {
			was := &CheckRows[i]
			own := *was
			own.Chance = p
			for mode, is := range b.checks[was.Test] {
				if is == was {
					b.checks[was.Test][mode] = &own
				}
			}
		}
	default:
		bad.Add("row", "fault:, look:, test: or step: and what it is of", invalid.Quote(o.Row))
	}
	return bad.Err()
}

// shares brings chances to a sum of 1; none may be 0.
func shares(values []float64, n int, bad *invalid.Errors) ([]float64, bool) {
	sum := 0.0
	for _, p := range values {
		if !(p >= LeastChance && p <= 1) {
			sum = math.NaN()
		}
		sum += p
	}
	if len(values) != n || math.IsNaN(sum) || math.Abs(sum-1) > 0.01 {
		bad.Add("values", fmt.Sprintf("%d chances, each at least %g, that sum to 1", n, LeastChance), fmt.Sprint(values))
		return nil, false
	}
	p := slices.Clone(values)
	for i := range p {
		p[i] /= sum
	}
	return p, true
}
