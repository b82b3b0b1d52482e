package diagnose

import (
	"fmt"
	"maps"
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
	// test and a mode or "other", "severity:" or "manner:" and the row's modes, "thumb:" and a
	// measure, "step:" and a step, or "repair:" and a unit.
	Row string `json:"row"`
	// Values are the row's figures: the factor of a share, the chances of a look or a
	// test in their order, the shares of the bands, those of the conditions and the three that are
	// always there, the least and the most of a rule of thumb, the minutes of a step, the minutes
	// and the price of a repair.
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
	MaxOwnPrice   = 100000.0 // in the shop's money
	MaxThumb      = 1000.0   // in the measure's unit
)

// Work is what lies beyond the reasoning's own tables and can be a workshop's own as well: the
// ids of steps, and the units that are put right.
type Work struct{ Steps, Repairs []string }

// Beliefs are the tables as a workshop uses them: those that ship, with its own rows in
// place of some.
type Beliefs struct {
	Overrides []Override
	shares    map[string]float64
	minutes   map[string]float64
	repairs   map[string][2]float64
	looks     map[lookKey]float64
	checks    map[evidence.TestID]map[string]*CheckRow
	// severities and manners are by mode, ranges by measure.
	severities map[string]*perRate
	manners    map[string]*Manner
	thumbs     map[evidence.MeasureID]Range
}

// Shipped are the tables as they come.
var Shipped = &Beliefs{looks: chances, checks: checkRows, severities: severity, manners: manners, thumbs: thumbs}

// StepMinutes is the workshop's own figure for a step, if it has one.
func (b *Beliefs) StepMinutes(step string) (float64, bool) {
	m, ok := b.minutes[step]
	return m, ok
}

// Repair is the workshop's own minutes and price of putting a unit right, if it has them.
func (b *Beliefs) Repair(unit fault.Unit) (minutes, price float64, ok bool) {
	own, ok := b.repairs[string(unit)]
	return own[0], own[1], ok
}

// RowID names the row of a severity.
func (s SeverityRow) RowID() string { return "severity:" + strings.Join(s.Modes, "+") }

// RowID names the row of a manner.
func (m Manner) RowID() string { return "manner:" + strings.Join(m.Modes, "+") }

// RowID names the row of a rule of thumb.
func (t Thumb) RowID() string { return "thumb:" + string(t.Measure) }

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

// Believe puts a workshop's own rows in place of those that ship. An error says what a row should
// have been.
func Believe(overrides []Override, work Work) (*Beliefs, error) {
	b := &Beliefs{Overrides: overrides, shares: map[string]float64{}, minutes: map[string]float64{}, repairs: map[string][2]float64{}, looks: maps.Clone(chances),
		checks: map[evidence.TestID]map[string]*CheckRow{}, severities: maps.Clone(severity), manners: maps.Clone(manners), thumbs: maps.Clone(thumbs)}
	for test, of := range checkRows {
		b.checks[test] = maps.Clone(of)
	}
	var bad invalid.Errors
	if len(overrides) > MaxOverrides {
		bad.Add("overrides", fmt.Sprintf("at most %d rows of your own", MaxOverrides), fmt.Sprint(len(overrides)))
		return nil, bad
	}
	for i, o := range overrides {
		bad.Under(fmt.Sprintf("overrides[%d]", i), b.put(o, work))
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return b, nil
}

func (b *Beliefs) put(o Override, work Work) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", o.Reason, "why your figures differ, in a few words", evidence.MaxText, false))
	bad.Under("", invalid.Text("by", o.By, "who says so", evidence.MaxName, false))
	table, row, _ := strings.Cut(o.Row, ":")
	if put := puts[table]; put != nil {
		put(b, row, o, work, &bad)
	} else {
		bad.Add("row", "fault:, look:, test:, severity:, manner:, thumb:, step: or repair: and what it is of", invalid.Quote(o.Row))
	}
	return bad.Err()
}

// puts puts a row in place, by its table.
var puts = map[string]func(b *Beliefs, row string, o Override, work Work, bad *invalid.Errors){
	"fault": func(b *Beliefs, row string, o Override, _ Work, bad *invalid.Errors) {
		if !slices.ContainsFunc(fault.Catalogue, func(m fault.Mode) bool { return m.ID == row }) {
			bad.Add("row", "a mode of the catalogue, such as fault:plug.worn-gap", invalid.Quote(o.Row))
		} else if within(o.Values, 1/MaxFactor, MaxFactor, 1, "one factor of its share", bad) {
			b.shares[row] = o.Values[0]
		}
	},
	"step": func(b *Beliefs, row string, o Override, work Work, bad *invalid.Errors) {
		if !slices.Contains(work.Steps, row) {
			bad.Add("row", "a step of the catalogue, such as step:swap.coil", invalid.Quote(o.Row))
		} else if within(o.Values, 0.5, MaxOwnMinutes, 1, "one figure in minutes", bad) {
			b.minutes[row] = o.Values[0]
		}
	},
	"repair": func(b *Beliefs, row string, o Override, work Work, bad *invalid.Errors) {
		if !slices.Contains(work.Repairs, row) {
			bad.Add("row", "a unit that is put right, such as repair:coil", invalid.Quote(o.Row))
		} else if within(o.Values, 0, MaxOwnPrice, 2, "minutes and a price", bad) && within(o.Values[:1], 0.5, MaxOwnMinutes, 1, "its minutes", bad) {
			b.repairs[row] = [2]float64(o.Values)
		}
	},
	"look": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(Looks, o.Row)
		if i < 0 {
			bad.Add("row", "a row of the looks", invalid.Quote(o.Row))
		} else if p, ok := shares(o.Values, len(Looks[i].Chance), bad); ok {
			for k, words := range evidence.FindingsOn(Looks[i].On) {
				b.looks[lookKey{Looks[i].On, Looks[i].Bearing, words.Finding}] = p[k]
			}
		}
	},
	"test": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(CheckRows, o.Row)
		if i < 0 {
			bad.Add("row", "a row of the tests", invalid.Quote(o.Row))
		} else if p, ok := shares(o.Values, len(CheckRows[i].Chance), bad); ok {
			was := &CheckRows[i]
			own := *was
			own.Chance = p
			for mode, is := range b.checks[was.Test] {
				if is == was {
					b.checks[was.Test][mode] = &own
				}
			}
		}
	},
	"severity": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(Severities, o.Row)
		if i < 0 {
			bad.Add("row", "a row of how strongly faults misfire", invalid.Quote(o.Row))
		} else if p, ok := shares(o.Values, len(Severities[i].Shares), bad); ok {
			own := onGrid([6]float64(p))
			for _, m := range fault.Catalogue {
				if severityOf(m.ID) == i {
					b.severities[m.ID] = own
				}
			}
		}
	},
	"manner": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(Manners, o.Row)
		if i < 0 {
			bad.Add("row", "a row of what drivers say", invalid.Quote(o.Row))
			return
		}
		own := Manners[i]
		n := len(own.When)
		if len(o.Values) != n+len(own.Always) {
			bad.Add("values", fmt.Sprintf("%d shares of the conditions, then the shares that are always there, of slight, middling and dead ones", n), fmt.Sprint(o.Values))
			return
		}
		p, ok := shares(o.Values[:n], n, bad)
		if ok && within(o.Values[n:], LeastChance, 1-LeastChance, len(own.Always), "shares that are always there", bad) {
			own.When, own.Always = [5]float64(p), [3]float64(o.Values[n:])
			for mode, is := range b.manners {
				if is == &Manners[i] {
					b.manners[mode] = &own
				}
			}
		}
	},
	"thumb": func(b *Beliefs, row string, o Override, _ Work, bad *invalid.Errors) {
		if _, known := thumbs[evidence.MeasureID(row)]; !known {
			bad.Add("row", "a measure with a rule of thumb, such as thumb:kilovolts", invalid.Quote(o.Row))
		} else if within(o.Values, 0.01, MaxThumb, 2, "the least and the most that sound ones mostly show", bad) {
			if o.Values[0] >= o.Values[1] {
				bad.Add("values", "the least first, below the most", fmt.Sprint(o.Values))
				return
			}
			b.thumbs[evidence.MeasureID(row)] = Range{o.Values[0], o.Values[1]}
		}
	},
}

// rowOf is the index of the row of an id, or -1.
func rowOf[T interface{ RowID() string }](rows []T, id string) int {
	return slices.IndexFunc(rows, func(row T) bool { return row.RowID() == id })
}

// within says whether values are so many, each within limits, and adds what was expected if not.
func within(values []float64, least, most float64, n int, expected string, bad *invalid.Errors) bool {
	if len(values) == n && !slices.ContainsFunc(values, func(x float64) bool { return !(x >= least && x <= most) }) {
		return true
	}
	bad.Add("values", fmt.Sprintf("%s, %g to %g", expected, least, most), fmt.Sprint(values))
	return false
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
