package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Enough is the number of misfires on one cylinder that counts as a sign. One or two are stray
// counts (C; judgement).
const Enough = 3

// Counters holds the misfires counted on each cylinder during one run.
type Counters struct {
	// Revolutions is the number of crankshaft revolutions in the run. Each cylinder fires in
	// half of them.
	Revolutions int `json:"revolutions"`
	// Counts holds one count for each cylinder, in numerical order.
	Counts []int `json:"counts"`
	// Fresh is true if the counters were zero when the run began.
	Fresh bool `json:"fresh"`
}

// Most returns the cylinder with the most counts, and its count.
func (c Counters) Most() (engine.Cylinder, int) {
	most := slices.Max(c.Counts)
	return engine.Cylinder(slices.Index(c.Counts, most) + 1), most
}

func (c Counters) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	revs := unit.Revolutions(c.Revolutions)
	if revs < 2 || revs > unit.MaxRevolutions {
		bad.Add("revolutions", fmt.Sprintf("2 to %s revolutions", unit.Thousands(int(unit.MaxRevolutions))), fmt.Sprint(c.Revolutions))
	}
	if len(c.Counts) != eng.Cylinders {
		bad.Add("counts", fmt.Sprintf("%d counts, one a cylinder", eng.Cylinders), fmt.Sprint(len(c.Counts)))
		return bad
	}
	for i, n := range c.Counts {
		if n < 0 || n > revs.Opportunities() {
			bad.Add(fmt.Sprintf("counts[%d]", i),
				fmt.Sprintf("0 to %s: a cylinder is due to fire once in two revolutions", unit.Thousands(revs.Opportunities())),
				unit.Thousands(n))
		}
	}
	return bad.Err()
}

// KindCounters is the kind of a [Counters].
const KindCounters Kind = "counters"

func init() { register(KindCounters, func() Body { return new(Counters) }) }

// Counters returns the body of the entry, or nil if it is of another kind.
func (e Entry) Counters() *Counters { return body[Counters](e) }

// Kind returns KindCounters.
func (Counters) Kind() Kind { return KindCounters }

// Sentence returns the counts: "cylinder 5: 23 of 1 500; the others 0 to 2".
func (c Counters) Sentence() string {
	of := unit.Thousands(c.Revolutions / 2)
	most := slices.Max(c.Counts)
	if most == 0 {
		return "no misfire in " + of + " on any cylinder"
	}
	if len(c.Counts) == 1 {
		return unit.Thousands(most) + " of " + of
	}
	// Cylinders with high counts are named; the others are summarised.
	var high []string
	var others []int
	for i, n := range c.Counts {
		if n >= Enough && 5*n >= most || n == most && most < Enough {
			high = append(high, fmt.Sprintf("%d: %s", i+1, unit.Thousands(n)))
		} else {
			others = append(others, n)
		}
	}
	word := "cylinder "
	if len(high) > 1 {
		word = "cylinders "
	}
	s := fmt.Sprintf("%s%s of %s", word, strings.Join(high, ", "), of)
	if len(others) == 0 {
		return s
	}
	s += "; others " + unit.Thousands(slices.Min(others))
	if slices.Max(others) > slices.Min(others) {
		s += " to " + unit.Thousands(slices.Max(others))
	}
	return s
}
