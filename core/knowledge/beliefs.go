package knowledge

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/invalid"
	"glenmist/core/plug"
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
	Shares    map[string]float64
	minutes   map[string]float64
	repairs   map[string][2]float64
	Looks     map[LookKey]float64
	Checks    map[evidence.TestID]map[string]*CheckRow
	// severities and condition profiles are by mode, ranges by measure.
	Severities map[string]*infer.PerRate
	Profiles   map[string]*ConditionProfile
	Thumbs     map[evidence.MeasureID]Range
	// factors are its own of what has happened, by row; codes are by code and mode.
	Factors  map[string]float64
	trims    []TrimRow
	Codes    map[string]map[string]float64
	Signs    signTable
	Gaps     map[Bearing]NormalComponent
	Readings map[evidence.MeasureID][]*NumberRow
}

// Shipped are the tables as they come.
var Shipped = &Beliefs{Looks: LookChances, Checks: TestRows, Severities: SeverityByMode, Profiles: ProfileByMode, Thumbs: thumbs,
	trims: TrimRows, Codes: CodeChances, Signs: signRows, Gaps: gapRows, Readings: ReadingRows}

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

// Believe puts a workshop's own rows in place of those that ship. An error says what a row should
// have been.
func Believe(overrides []Override, work Work) (*Beliefs, error) {
	b := &Beliefs{Overrides: overrides, Shares: map[string]float64{}, minutes: map[string]float64{}, repairs: map[string][2]float64{}, Looks: maps.Clone(LookChances),
		Checks: map[evidence.TestID]map[string]*CheckRow{}, Severities: maps.Clone(SeverityByMode), Profiles: maps.Clone(ProfileByMode), Thumbs: maps.Clone(thumbs),
		Factors: map[string]float64{}, trims: slices.Clone(TrimRows), Gaps: maps.Clone(gapRows), Readings: maps.Clone(ReadingRows)}
	codes, signs := slices.Clone(CodeRows), slices.Clone(AllSigns)
	for test, of := range TestRows {
		b.Checks[test] = maps.Clone(of)
	}
	var bad invalid.Errors
	if len(overrides) > MaxOverrides {
		bad.Add("overrides", fmt.Sprintf("at most %d rows of your own", MaxOverrides), fmt.Sprint(len(overrides)))
		return nil, bad
	}
	for i, o := range overrides {
		bad.Under(fmt.Sprintf("overrides[%d]", i), b.put(o, work, codes, signs))
	}
	b.Codes, b.Signs = codesBy(codes), signsBy(signs)
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
		if i := findRow(codes, o, "a row of the codes", &bad); i >= 0 && inBounds(o.Values, LeastChance, 1-LeastChance, 1, "one chance", &bad) {
			codes[i].Chance = o.Values[0]
		}
	case table == "sign":
		if i := findRow(signs, o, "a row of the signs of plugs", &bad); i >= 0 {
			if p, ok := proportions(o.Values, len(signs[i].Chance), &bad); ok {
				signs[i].Chance = p
			}
		}
	default:
		bad.Add("row", "fault:, shift:, look:, sign:, gap:, test:, reading:, code:, trims:, severity:, manner:, thumb:, step: or repair: and what it is of", invalid.Quote(o.Row))
	}
	return bad.Err()
}

// known is the index of an override's row, or -1 with what was expected.
func findRow[T interface{ RowID() string }](rows []T, o Override, expected string, bad *invalid.Errors) int {
	i := rowOf(rows, o.Row)
	if i < 0 {
		bad.Add("row", expected, invalid.Quote(o.Row))
	}
	return i
}

// lump reads a centre and a spread.
func normalComponent(values []float64, bad *invalid.Errors) (NormalComponent, bool) {
	ok := inBounds(values, -MaxCentre, MaxSpread, 2, "a centre and a spread", bad) && inBounds(values[:1], -MaxCentre, MaxCentre, 1, "a centre", bad) && inBounds(values[1:], LeastSpread, MaxSpread, 1, "a spread", bad)
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
		} else if inBounds(o.Values, 1/MaxFactor, MaxFactor, 1, "one factor of its share", bad) {
			b.Shares[row] = o.Values[0]
		}
	},
	"shift": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if findRow(fault.Shifts, o, "a row of what has happened", bad) >= 0 && inBounds(o.Values, 1/MaxFactor, MaxFactor, 1, "one factor", bad) {
			b.Factors[o.Row] = o.Values[0]
		}
	},
	"trims": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if i := findRow(b.trims, o, "a row of the trims", bad); i >= 0 {
			if l, ok := normalComponent(o.Values, bad); ok {
				b.trims[i].Mean, b.trims[i].SD = l.Centre, l.Spread
			}
		}
	},
	"gap": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		if i := findRow(Gaps, o, "a row of the gaps of plugs", bad); i >= 0 {
			if l, ok := normalComponent(o.Values, bad); ok {
				b.Gaps[Gaps[i].Bearing] = l
			}
		}
	},
	"reading": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := findRow(NumberRows, o, "a row of the readings", bad)
		if i < 0 {
			return
		}
		own := NumberRows[i]
		if len(o.Values) != 1+2*len(own.Figures) {
			bad.Add("values", fmt.Sprintf("the share over range, then centre and spread of %d figures", len(own.Figures)), fmt.Sprint(o.Values))
			return
		}
		ok := inBounds(o.Values[:1], 0, 1-LeastChance, 1, "the share over range", bad)
		own.Over, own.Figures = o.Values[0], slices.Clone(own.Figures)
		for k := range own.Figures {
			l, fits := normalComponent(o.Values[1+2*k:3+2*k], bad)
			own.Figures[k], ok = l, ok && fits
		}
		if rows := slices.Clone(b.Readings[own.Measure]); ok {
			for k, r := range rows {
				if r.RowID() == o.Row {
					rows[k] = &own
				}
			}
			b.Readings[own.Measure] = rows
		}
	},
	"step": func(b *Beliefs, row string, o Override, work Work, bad *invalid.Errors) {
		if !slices.Contains(work.Steps, row) {
			bad.Add("row", "a step of the catalogue, such as step:swap.coil", invalid.Quote(o.Row))
		} else if inBounds(o.Values, 0.5, MaxOwnMinutes, 1, "one figure in minutes", bad) {
			b.minutes[row] = o.Values[0]
		}
	},
	"repair": func(b *Beliefs, row string, o Override, work Work, bad *invalid.Errors) {
		if !slices.Contains(work.Repairs, row) {
			bad.Add("row", "a unit that is put right, such as repair:coil", invalid.Quote(o.Row))
		} else if inBounds(o.Values, 0, MaxOwnPrice, 2, "minutes and a price", bad) && inBounds(o.Values[:1], 0.5, MaxOwnMinutes, 1, "its minutes", bad) {
			b.repairs[row] = [2]float64(o.Values)
		}
	},
	"look": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(Looks, o.Row)
		if i < 0 {
			bad.Add("row", "a row of the looks", invalid.Quote(o.Row))
		} else if p, ok := proportions(o.Values, len(Looks[i].Chance), bad); ok {
			for k, words := range evidence.FindingsOn(Looks[i].On) {
				b.Looks[LookKey{Looks[i].On, Looks[i].Bearing, words.Finding}] = p[k]
			}
		}
	},
	"test": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(CheckRows, o.Row)
		if i < 0 {
			bad.Add("row", "a row of the tests", invalid.Quote(o.Row))
		} else if p, ok := proportions(o.Values, len(CheckRows[i].Chance), bad); ok {
			was := &CheckRows[i]
			own := *was
			own.Chance = p
			for mode, is := range b.Checks[was.Test] {
				if is == was {
					b.Checks[was.Test][mode] = &own
				}
			}
		}
	},
	"severity": func(b *Beliefs, _ string, o Override, _ Work, bad *invalid.Errors) {
		i := rowOf(Severities, o.Row)
		if i < 0 {
			bad.Add("row", "a row of how strongly faults misfire", invalid.Quote(o.Row))
		} else if p, ok := proportions(o.Values, len(Severities[i].Shares), bad); ok {
			own := onGrid([6]float64(p))
			for _, m := range fault.Catalogue {
				if SeverityOf(m.ID) == i {
					b.Severities[m.ID] = own
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
		p, ok := proportions(o.Values[:n], n, bad)
		if ok && inBounds(o.Values[n:], LeastChance, 1-LeastChance, len(own.Always), "shares that are always there", bad) {
			own.When, own.Always = [5]float64(p), [3]float64(o.Values[n:])
			for mode, is := range b.Profiles {
				if is == &ConditionProfiles[i] {
					b.Profiles[mode] = &own
				}
			}
		}
	},
	"thumb": func(b *Beliefs, row string, o Override, _ Work, bad *invalid.Errors) {
		if _, known := thumbs[evidence.MeasureID(row)]; !known {
			bad.Add("row", "a measure with a rule of thumb, such as thumb:kilovolts", invalid.Quote(o.Row))
		} else if inBounds(o.Values, 0.01, MaxThumb, 2, "the least and the most that sound ones mostly show", bad) {
			if o.Values[0] >= o.Values[1] {
				bad.Add("values", "the least first, below the most", fmt.Sprint(o.Values))
				return
			}
			b.Thumbs[evidence.MeasureID(row)] = Range{o.Values[0], o.Values[1]}
		}
	},
}

// rowOf is the index of the row of an id, or -1.
func rowOf[T interface{ RowID() string }](rows []T, id string) int {
	return slices.IndexFunc(rows, func(row T) bool { return row.RowID() == id })
}

// within says whether values are so many, each within limits, and adds what was expected if not.
func inBounds(values []float64, least, most float64, n int, expected string, bad *invalid.Errors) bool {
	if len(values) == n && !slices.ContainsFunc(values, func(x float64) bool { return !(x >= least && x <= most) }) {
		return true
	}
	bad.Add("values", fmt.Sprintf("%s, %g to %g", expected, least, most), fmt.Sprint(values))
	return false
}

// shares brings chances to a sum of 1; none may be 0.
func proportions(values []float64, n int, bad *invalid.Errors) ([]float64, bool) {
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

// answers is the chance of each answer of a measure's number rows for a mode; "" is a sound
// one.
func (b *Beliefs) Answers(id evidence.MeasureID, mode string) []float64 {
	if mode != "" && !Matches(ShowsIn[id], mode) {
		mode = ""
	}
	if id == evidence.KVWave {
		return WaveChancesOf(mode)
	}
	for _, own := range OwnRows {
		if own.Measure == id && (own.Modes == nil || mode != "" && Matches(own.Modes, mode)) {
			return own.Chance
		}
	}
	m, _ := evidence.FindMeasure(id)
	row := b.Checks[m.Test][mode]
	if row == nil {
		row = b.Checks[m.Test][""]
	}
	t, _ := evidence.FindTest(m.Test)
	sound := b.Checks[m.Test][""].Chance
	chance := make([]float64, len(ReadingRows[id]))
	rest := 1.0
	hides := 1.0 // how often a fault answers as a sound one does, as against that
	for k, r := range t.Results {
		if r.ID == ReadingRows[id][0].Answer {
			hides = min(1, row.Chance[k]/sound[k])
		}
	}
	for i, number := range ReadingRows[id] {
		for k, r := range t.Results {
			if r.ID != number.Answer || !Shows(ReadingRows[id], i, mode) {
				continue
			}
			chance[i] = row.Chance[k]
			if i > 0 { // what one that hides shows of it is a false alarm
				chance[i] -= (1 - misread) * min(row.Chance[k], hides*sound[k])
			}
		}
		rest -= chance[i]
	}
	chance[0] += rest // an answer that the figures cannot give looks sound in them
	return chance
}

// SignChance is the chance of each sign of an aspect on a plug that stands so, over the ways in
// which a set can look, half of them with its cylinder misfiring enough
// to leave a trace.
func (t *Beliefs) SignChance(b Bearing, aspect string) []float64 {
	a, _ := plug.FindAspect(aspect)
	out := make([]float64, len(a.Signs))
	for s := range Sets {
		fires := t.Signs.Of(s, b, false, aspect)
		for i, p := range t.Signs.Of(s, b, true, aspect) {
			out[i] += Sets[s].Share * (p + fires[i]) / 2
		}
	}
	return out
}

// KeyClasses are the classes that the key of questions tells apart, with what each looks like.
// How the engine was run counts as it does in the reasoning: a wet tip after a cold start is
// not asked for.
func (t *Beliefs) KeyClasses(of []PlugClass, wet float64) []plug.Class {
	var all []plug.Class
	for _, c := range of {
		rows := map[string][]float64{}
		for _, a := range plug.Aspects {
			row := t.SignChance(c.Bearing, a.ID)
			if a.ID == "wet" {
				for i := range row {
					row[i] = wet*row[i] + (1-wet)*WetAnyway[i]
				}
			}
			rows[a.ID] = row
		}
		all = append(all, plug.Class{P: c.P, Signs: func(aspect string) []float64 { return rows[aspect] }})
	}
	return all
}

// noTrim is the row of trims with nothing behind them: the last.
func (b *Beliefs) NoTrim() TrimRow { return b.trims[len(b.trims)-1] }

// trimRow is the row that holds for the trims of a bank when a fault feeds some cylinders
// and makes some affected; ok is false where nothing bears on them.
func (b *Beliefs) TrimRow(bank engine.Set, mode string, fed, affected engine.Set) (row TrimRow, ok bool) {
	for _, r := range b.trims {
		if Matches([]string{r.Mode}, mode) && r.Shared == (fed.Len() > 1) && fed&bank != 0 && affected != 0 || r.Mode == "" && affected&bank != 0 {
			if !r.Shared {
				r.Mean *= min(4/float64(bank.Len()), 2.5)
			}
			return r, true
		}
	}
	return row, false
}
