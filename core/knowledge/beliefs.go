package knowledge

import (
	"fmt"
	"math"
	"slices"
	"sync"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
)

// Override holds a workshop's own figures for one table row, with the reason.
type Override struct {
	// Row is the id of the row, see [Row].ID: "look:plug/the plug is worn".
	Row string `json:"row"`
	// Values are the figures of the row in their order and stored scale: probabilities from 0
	// to 1, factors as logarithms.
	Values []float64 `json:"values"`
	Reason string    `json:"reason"`
	By     string    `json:"by"`
	On     time.Time `json:"on"`
}

// Bounds of overrides.
const (
	MaxOverrides  = 200
	MaxFactor     = 20.0  // of a share, in both directions
	LeastChance   = 0.001 // every outcome stays possible
	MaxOwnMinutes = 600.0
	MaxOwnPrice   = 100000.0 // in the workshop's currency
	MaxThumb      = 1000.0   // in the unit of the measure
	MaxCentre     = 50.0     // limit of the centre of figures, trims and gaps, both signs
	LeastSpread   = 0.01
	MaxSpread     = 50.0
)

// Beliefs holds the tables of a workshop: the default rows, some replaced by its own. The zero
// value is the default tables.
type Beliefs struct {
	Overrides []Override
	// Learnt holds the factors of the shares of repair units, by layout, that the workshop's closed jobs
	// have taught.
	Learnt map[engine.Ignition]map[fault.Unit]float64
	// own holds the index of each table with an own row, by slot.
	own []any
}

// WithLearnt returns the tables with learnt factors.
func (b *Beliefs) WithLearnt(factors map[engine.Ignition]map[fault.Unit]float64) *Beliefs {
	with := *b
	with.Learnt = factors
	return &with
}

// Shipped holds the default tables.
var Shipped = &Beliefs{}

// Believe replaces default rows by a workshop's own. An error states the expected figures.
func Believe(overrides []Override) (*Beliefs, error) {
	var bad invalid.Errors
	if len(overrides) > MaxOverrides {
		bad.Add("overrides", fmt.Sprintf("at most %d rows of your own", MaxOverrides), fmt.Sprint(len(overrides)))
		return nil, bad
	}
	b := &Beliefs{Overrides: overrides, own: make([]any, len(registry))}
	by := make([]map[string][]float64, len(registry))
	for i, o := range overrides {
		values, t, err := o.read()
		bad.Under(fmt.Sprintf("overrides[%d]", i), err)
		if err != nil {
			continue
		}
		if by[t.slot()] == nil {
			by[t.slot()] = map[string][]float64{}
		}
		by[t.slot()][o.Row] = values
	}
	if err := bad.Err(); err != nil {
		return nil, err
	}
	for i, t := range registry {
		if by[i] != nil {
			b.own[i] = t.take(by[i])
		}
	}
	return b, nil
}

// found is a row with its table.
type found struct {
	row Row
	in  Table
}

// rowsByID holds the default rows that a workshop can replace.
var rowsByID = sync.OnceValue(func() map[string]found {
	all := map[string]found{}
	for _, t := range registry {
		for _, r := range t.Rows() {
			if r.ID != "" {
				all[r.ID] = found{r, t}
			}
		}
	}
	return all
})

// FindRow finds a default row that a workshop can replace.
func FindRow(id string) (Row, Table, bool) {
	f, ok := rowsByID()[id]
	return f.row, f.in, ok
}

// read checks an override and scales shares to a sum of 1.
func (o Override) read() (values []float64, in Table, err error) {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", o.Reason, "why your figures differ, in a few words", evidence.MaxText, false))
	bad.Under("", invalid.Text("by", o.By, "who says so", evidence.MaxName, false))
	row, in, ok := FindRow(o.Row)
	switch {
	case !ok:
		bad.Add("row", "a row of a table, such as fault:plug.worn-gap or test:spark/other", invalid.Quote(o.Row))
	case len(o.Values) != len(row.Figures):
		bad.Add("values", fmt.Sprintf("%d figures: %s", len(row.Figures), row.figureWords()), fmt.Sprint(o.Values))
	default:
		values = slices.Clone(o.Values)
		bad.Under("", row.check(values))
	}
	return values, in, bad.Err()
}

func (r Row) figureWords() string {
	words := ""
	for i, f := range r.Figures {
		if i > 0 {
			words += ", "
		}
		words += f.Label()
	}
	return words
}

// bounds describes the valid range of a figure.
func (f Figure) bounds() string {
	if f.As == Factor || f.As == FactorSpread {
		return "a factor above 0, such as 1.2"
	}
	return fmt.Sprintf("%g to %g", f.As.Shown(f.Least), f.As.Shown(f.Most))
}

// Label describes a figure and its scale.
func (f Figure) Label() string {
	switch f.As {
	case Percent:
		return f.Words + ", %"
	case Factor:
		return f.Words + ", as a factor"
	case FactorSpread:
		return f.Words + ", give or take a factor of"
	case PlainSpread:
		return f.Words + ", give or take"
	}
	return f.Words
}

// check validates own figures of a row. It scales shares to a sum of 1 in place.
func (r Row) check(values []float64) error {
	var bad invalid.Errors
	sum, shares := 0.0, 0
	for k, f := range r.Figures {
		if x := values[k]; !(x >= f.Least && x <= f.Most) {
			bad.Add("values", f.Label()+": "+f.bounds(), fmt.Sprintf("%g", f.As.Shown(x)))
		}
		if f.Share {
			sum += values[k]
			shares++
		}
	}
	if shares > 0 && !(math.Abs(sum-1) <= 0.01) {
		bad.Add("values", fmt.Sprintf("%d chances that sum to 1", shares), fmt.Sprint(values))
	}
	if len(bad) == 0 && r.Check != nil {
		if expected := r.Check(values); expected != "" {
			bad.Add("values", expected, fmt.Sprint(values))
		}
	}
	if err := bad.Err(); err != nil {
		return err
	}
	for k, f := range r.Figures {
		if f.Share {
			values[k] /= sum
		}
	}
	return nil
}
