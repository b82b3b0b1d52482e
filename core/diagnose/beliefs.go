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
	"glenmist/core/infer"
	"glenmist/core/invalid"
)

// Override is a workshop's own figures for one row of the tables, with the reason.
type Override struct {
	// Row names it, as its RowID does: "fault:" and a mode, "shift:" with what has happened and
	// the modes, "look:" with a kind and a bearing, "sign:" with a bearing and an aspect, "gap:" and a
	// bearing, "test:" with a test and a mode or "other", "reading:" with a measure and an answer,
	// "code:" with a code and a mode, "trims:" and a mode, "severity:" or "condition profile:" and the row's
	// modes, "thumb:" and a measure, "step:" and a step, or "repair:" and a unit.
	Row string `json:"row"`
	// Values are the row's figures: the factor of a share or of what has happened, the chances of a
	// look, a sign or a test in their order, that of a code, the centre and the spread of a gap or of
	// trims, the share over range and then those of each figure of a reading, the shares of the bands,
	// those of the conditions and the three that are always there, the least and the most of a rule of
	// thumb, the minutes of a step, the minutes and the price of a repair.
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
	MaxCentre     = 50.0     // of figures, trims and gaps, either way
	LeastSpread   = 0.01
	MaxSpread     = 50.0
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
	// severities and condition profiles are by mode, ranges by measure.
	severities map[string]*infer.PerRate
	manners    map[string]*ConditionProfile
	thumbs     map[evidence.MeasureID]Range
	// factors are its own of what has happened, by row; codes are by code and mode.
	factors  map[string]float64
	trims    []TrimRow
	codes    map[string]map[string]float64
	signs    signTable
	gaps     map[Bearing]NormalComponent
	readings map[evidence.MeasureID][]*NumberRow
}

// Shipped are the tables as they come.
var Shipped = &Beliefs{looks: chances, checks: checkRows, severities: severity, manners: conditionProfiles, thumbs: thumbs,
	trims: TrimRows, codes: codeChances, signs: signRows, gaps: gapRows, readings: numberRows}

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

// RowID names the row of a condition profile.
func (m ConditionProfile) RowID() string { return "manner:" + strings.Join(m.Modes, "+") }

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
		checks: map[evidence.TestID]map[string]*CheckRow{}, severities: maps.Clone(severity), manners: maps.Clone(conditionProfiles), thumbs: maps.Clone(thumbs),
		factors: map[string]float64{}, trims: slices.Clone(TrimRows), gaps: maps.Clone(gapRows), readings: maps.Clone(numberRows)}
	codes, signs := slices.Clone(CodeRows), slices.Clone(allSigns)
	for test, of := range checkRows {
		b.checks[test] = maps.Clone(of)
	}
	var bad invalid.Errors
	if len(overrides) > MaxOverrides {
		bad.Add("overrides", fmt.Sprintf("at most %d rows of your own", MaxOverrides), fmt.Sprint(len(overrides)))
		return nil, bad
	}
	for i, o := range overrides {
		bad.Under(fmt.Sprintf("overrides[%d]", i), b.put(o, work, codes, signs))
	}
	b.codes, b.signs = codesBy(codes), signsBy(signs)
	if err := bad.Err(); err != nil {
		return nil, err
	}
	return b, nil
}

func (b *Beliefs) put(o Override, work Work, codes []CodeRow, signs []SignRow) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", o.Reason, "why your figures differ, in a few words", evidence.MaxText, false))
	bad.Under("", invalid.Text("by", o.By, "who says so", evidence.MaxName, false))
	table, row, _ := strings.Cut(o.Row, ":")
	switch put := puts[table]; {
	case put != nil:
		put(b, row, o, work, &bad)
	case table == "code":
		if i := known(codes, o, "a row of the codes", &bad); i >= 0 && within(o.Values, LeastChance, 1-LeastChance, 1, "one chance", &bad) {
			codes[i].Chance = o.Values[0]
		}
	case table == "sign":
		if i := known(signs, o, "a row of the signs of plugs", &bad); i >= 0 {
			if p, ok := shares(o.Values, len(signs[i].Chance), &bad); ok {
				signs[i].Chance = p
			}
		}
	default:
		bad.Add("row", "fault:, shift:, look:, sign:, gap:, test:, reading:, code:, trims:, severity:, manner:, thumb:, step: or repair: and what it is of", invalid.Quote(o.Row))
	}
	return bad.Err()
}

// known is the index of an override's row, or -1 with what was expected.
func known[T interface{ RowID() string }](rows []T, o Override, expected string, bad *invalid.Errors) int {
	i := rowOf(rows, o.Row)
	if i < 0 {
		bad.Add("row", expected, invalid.Quote(o.Row))
	}
	return i
}

// lump reads a centre and a spread.
func lump(values []float64, bad *invalid.Errors) (NormalComponent, bool) {
	ok := within(values, -MaxCentre, MaxSpread, 2, "a centre and a spread", bad) && within(values[:1], -MaxCentre, MaxCentre, 1, "a centre", bad) && within(values[1:], LeastSpread, MaxSpread, 1, "a spread", bad)
	if !ok {
		return NormalComponent{}, false
	}
	return NormalComponent{values[0], values[1]}, true
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
	"shift": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if known(fault.Shifts, o, "a row of what has happened", bad) >= 0 && within(o.Values, 1/MaxFactor, MaxFactor, 1, "one factor", bad) {
			b.factors[o.Row] = o.Values[0]
		}
	},
	"trims": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if i := known(b.trims, o, "a row of the trims", bad); i >= 0 {
			if l, ok := lump(o.Values, bad); ok {
				b.trims[i].Mean, b.trims[i].SD = l.Centre, l.Spread
			}
		}
	},
	"gap": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if i := known(Gaps, o, "a row of the gaps of plugs", bad); i >= 0 {
			if l, ok := lump(o.Values, bad); ok {
				b.gaps[Gaps[i].Bearing] = l
			}
		}
	},
	"reading": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := known(NumberRows, o, "a row of the readings", bad)
		if i < 0 {
			return
		}
		own := NumberRows[i]
		if len(o.Values) != 1+2*len(own.Figures) {
			bad.Add("values", fmt.Sprintf("the share over range, then centre and spread of %d figures", len(own.Figures)), fmt.Sprint(o.Values))
			return
		}
		ok := within(o.Values[:1], 0, 1-LeastChance, 1, "the share over range", bad)
		own.Over, own.Figures = o.Values[0], slices.Clone(own.Figures)
		for k := range own.Figures {
			l, fits := lump(o.Values[1+2*k:3+2*k], bad)
			own.Figures[k], ok = l, ok && fits
		}
		if rows := slices.Clone(b.readings[own.Measure]); ok {
			for k, r := range rows {
				if r.RowID() == o.Row {
					rows[k] = &own
				}
			}
			b.readings[own.Measure] = rows
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
		i := rowOf(ConditionProfiles, o.Row)
		if i < 0 {
			bad.Add("row", "a row of what drivers say", invalid.Quote(o.Row))
			return
		}
		own := ConditionProfiles[i]
		n := len(own.When)
		if len(o.Values) != n+len(own.Always) {
			bad.Add("values", fmt.Sprintf("%d shares of the conditions, then the shares that are always there, of slight, middling and dead ones", n), fmt.Sprint(o.Values))
			return
		}
		p, ok := shares(o.Values[:n], n, bad)
		if ok && within(o.Values[n:], LeastChance, 1-LeastChance, len(own.Always), "shares that are always there", bad) {
			own.When, own.Always = [5]float64(p), [3]float64(o.Values[n:])
			for mode, is := range b.manners {
				if is == &ConditionProfiles[i] {
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
