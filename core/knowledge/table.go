package knowledge

import (
	"math"
	"slices"
)

// Table is one table of what is believed, as the page of beliefs and the form for a workshop's own
// row go through it. A new table is one call of [Register]; see [TableOf].
type Table interface {
	// Name is its title, for people.
	Name() string
	// Section says where it stands on a page.
	Section() Section
	// Rows describes the rows that ship.
	Rows() []Row

	// take puts own figures into a copy of the rows, by their names.
	take(of map[string][]float64) any
	slot() int
}

// Section orders the tables for people.
type Section int

// The sections, in the order of a page.
const (
	OfFaults Section = iota
	OfLooks
	OfTests
	OfReadings
	OfCodes
	OfModels
	OfWork
)

// Row is one row of a table, described for people.
type Row struct {
	// ID names a row that a workshop can replace: the table, a colon, and what it is of. It stays
	// the same from version to version; "" is a row that cannot be replaced.
	ID string
	// Of says what the row is of, Says what it states.
	Of, Says, Source string
	// Figures are what a workshop can put its own in place of.
	Figures []Figure
	// Check looks at own figures together; it returns what was expected, or "".
	Check func(values []float64) string
}

// Figure is one figure of a row.
type Figure struct {
	Words string
	// As is how a person reads it.
	As Scale
	// At points to it.
	At *float64
	// Least and Most bound it. A Share is one of the chances of the row that sum to 1.
	Least, Most float64
	Share       bool
}

// Scale is how a figure is read: as it is kept, in per cent, or, of a logarithm, as a factor.
type Scale int

// The scales. A Spread is the standard deviation of the figure before it.
const (
	Plain Scale = iota
	Percent
	Factor
	PlainSpread
	FactorSpread
)

// spread is the scale of a figure's standard deviation.
func (s Scale) spread() Scale {
	if s == Factor {
		return FactorSpread
	}
	return PlainSpread
}

// Shown is a figure that is kept, as a person reads it.
func (s Scale) Shown(kept float64) float64 {
	switch s {
	case Percent:
		return 100 * kept
	case Factor, FactorSpread:
		return math.Exp(kept)
	}
	return kept
}

// Kept is the reverse; a factor must be above 0.
func (s Scale) Kept(shown float64) float64 {
	switch s {
	case Percent:
		return shown / 100
	case Factor, FactorSpread:
		return math.Log(shown)
	}
	return shown
}

// TableOf is a table with rows of type T that are looked up by an index of type I.
type TableOf[T, I any] struct {
	Title string
	In    Section
	// Ships are the rows as they come.
	Ships []T
	// Describe describes a row; the figures point into it.
	Describe func(*T) Row
	// Copy copies what the figures of a row point into, where that is not the row itself.
	Copy func(*T)
	// Index makes what the rows are looked up by.
	Index func([]T) I

	at    int
	ships I
}

var registry []Table

// Tables lists all tables, by section.
func Tables() []Table {
	all := slices.Clone(registry)
	slices.SortStableFunc(all, func(a, b Table) int { return int(a.Section() - b.Section()) })
	return all
}

// Register adds a table, when a package is initialised.
func Register[T, I any](t TableOf[T, I]) *TableOf[T, I] {
	t.at = len(registry)
	if t.Index != nil {
		t.ships = t.Index(t.Ships)
	}
	registry = append(registry, &t)
	return &t
}

// Of is the index of the table as some beliefs have it.
func (t *TableOf[T, I]) Of(b *Beliefs) I {
	if b != nil && t.at < len(b.own) && b.own[t.at] != nil {
		return b.own[t.at].(I)
	}
	return t.ships
}

// Name is its title, for people.
func (t *TableOf[T, I]) Name() string { return t.Title }

// Section says where it stands on a page.
func (t *TableOf[T, I]) Section() Section { return t.In }

// Rows describes the rows that ship.
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
