package knowledge

import (
	"math"
	"slices"
)

// Table is one table of the reasoning, as the page of beliefs and the form of own rows use it.
// A new table is one call of [Register]; see [TableOf].
type Table interface {
	// Name returns the title.
	Name() string
	// Section returns the section of the page.
	Section() Section
	// Rows describes the default rows.
	Rows() []Row

	// take applies own figures, by row id, to a copy of the rows.
	take(of map[string][]float64) any
	slot() int
}

// Section groups the tables on a page.
type Section int

// The sections in the order of a page.
const (
	OfFaults Section = iota
	OfLooks
	OfTests
	OfReadings
	OfCodes
	OfModels
	OfWork
)

// Row describes one row of a table.
type Row struct {
	// ID identifies a row that a workshop can replace: the table, a colon and the subject. It
	// never changes between versions. It is "" for a row that cannot be replaced.
	ID string
	// Of names the subject of the row, Says states its content.
	Of, Says, Source string
	// Figures lists the figures that a workshop can replace.
	Figures []Figure
	// Check validates own figures together. It returns what was expected, or "".
	Check func(values []float64) string
}

// Figure is one figure of a row.
type Figure struct {
	Words string
	// As is the scale for display.
	As Scale
	// At points to the stored figure.
	At *float64
	// Least and Most bound it. A Share is one of the probabilities of the row that sum to 1.
	Least, Most float64
	Share       bool
}

// Scale is the display of a figure: as stored, in per cent, or a logarithm as a factor.
type Scale int

// The scales. A Spread is the standard deviation of the figure before it.
const (
	Plain Scale = iota
	Percent
	Factor
	PlainSpread
	FactorSpread
)

// spread returns the scale of a figure's standard deviation.
func (s Scale) spread() Scale {
	if s == Factor {
		return FactorSpread
	}
	return PlainSpread
}

// Shown converts a stored figure to its display.
func (s Scale) Shown(kept float64) float64 {
	switch s {
	case Percent:
		return 100 * kept
	case Factor, FactorSpread:
		return math.Exp(kept)
	}
	return kept
}

// Kept converts a displayed figure to the stored one. A factor must be above 0.
func (s Scale) Kept(shown float64) float64 {
	switch s {
	case Percent:
		return shown / 100
	case Factor, FactorSpread:
		return math.Log(shown)
	}
	return shown
}

// TableOf is a table with rows of type T and a lookup index of type I.
type TableOf[T, I any] struct {
	Title string
	In    Section
	// Ships holds the default rows.
	Ships []T
	// Describe describes a row. The figures point into it.
	Describe func(*T) Row
	// Copy copies slices that the figures of a row point into, if any.
	Copy func(*T)
	// Index builds the lookup index of the rows.
	Index func([]T) I

	at    int
	ships I
}

var registry []Table

// Tables lists all tables by section.
func Tables() []Table {
	all := slices.Clone(registry)
	slices.SortStableFunc(all, func(a, b Table) int { return int(a.Section() - b.Section()) })
	return all
}

// Register adds a table during package initialisation.
func Register[T, I any](t TableOf[T, I]) *TableOf[T, I] {
	t.at = len(registry)
	if t.Index != nil {
		t.ships = t.Index(t.Ships)
	}
	registry = append(registry, &t)
	return &t
}

// Of returns the index of the table for some beliefs.
func (t *TableOf[T, I]) Of(b *Beliefs) I {
	if b != nil && t.at < len(b.own) && b.own[t.at] != nil {
		return b.own[t.at].(I)
	}
	return t.ships
}

// Name returns the title.
func (t *TableOf[T, I]) Name() string { return t.Title }

// Section returns the section of the page.
func (t *TableOf[T, I]) Section() Section { return t.In }

// Rows describes the default rows.
func (t *TableOf[T, I]) Rows() []Row {
	all := make([]Row, len(t.Ships))
	for i := range t.Ships {
		all[i] = t.Describe(&t.Ships[i])
	}
	return all
}

func (t *TableOf[T, I]) slot() int { return t.at }

func (t *TableOf[T, I]) take(of map[string][]float64) any {
	rows := slices.Clone(t.Ships)
	for i := range rows {
		values, own := of[t.Describe(&rows[i]).ID]
		if !own {
			continue
		}
		if t.Copy != nil {
			t.Copy(&rows[i])
		}
		for k, f := range t.Describe(&rows[i]).Figures {
			*f.At = values[k]
		}
	}
	return t.Index(rows)
}
