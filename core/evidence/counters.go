package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Enough is how many misfires on one cylinder a technician takes for a sign: a stray count or two is
// none (C; judgement).
const Enough = 3

// Counters is the misfires counted on each cylinder over one run.
type Counters struct {
	// Revolutions of the crankshaft that were watched; each cylinder was due to
	// fire half as often.
	Revolutions int `json:"revolutions"`
	// Counts holds one count a cylinder, in numerical order.
	Counts []int `json:"counts"`
	// Fresh says that the counters stood at zero when the run began.
	Fresh bool `json:"fresh"`
}

// Most is the cylinder with the most counts, and how many.
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

// KindCounters names the kind.
const KindCounters Kind = "counters"

func init() { register(KindCounters, func() Body { return new(Counters) }) }

// Counters is the body of the entry if it is of that kind, else nil.
func (e Entry) Counters() *Counters { return body[Counters](e) }

// Kind names it.
func (Counters) Kind() Kind { return KindCounters }

// Sentence says a run's counters as "cylinder 5: 23 of 1 500; the others 0 to 2".
func (c Counters) Sentence() string {
	of := unit.Thousands(c.Revolutions / 2)
	most := slices.Max(c.Counts)
	if most == 0 {
		return "no misfire in " + of + " on any cylinder"
	}
	if len(c.Counts) == 1 {
		return unit.Thousands(most) + " of " + of
	}
	// Those that stand out are named, the others joined.
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
