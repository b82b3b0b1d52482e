package evidence

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Comeback carries the evidence of an earlier job on the same trouble into this one: what its verdict was,
// how likely it was wrong, and what its evidence says of each fault that can still be there.
type Comeback struct {
	// Of is the number of the earlier job. Unit is the unit of its verdict, "" without one, and P the
	// probability at its signature.
	Of   string  `json:"of"`
	Unit string  `json:"unit,omitzero"`
	P    float64 `json:"p,omitzero"`
	// Fixed is the probability of its repair after its last run. Wrong is the probability, now that the
	// trouble is back, that it was never repaired. See [proof.Wrong].
	Fixed float64 `json:"fixed,omitzero"`
	Wrong float64 `json:"wrong"`
	// Days and Km are how long ago it ended.
	Days int     `json:"days"`
	Km   float64 `json:"km"`
	// Renewed lists what it renewed, which is as old as Days and Km.
	Renewed []CameIn `json:"renewed,omitzero"`
	// Carried lists the faults that can still be there, with their probabilities at its end.
	Carried []Carried `json:"carried,omitzero"`
}

// CameIn is a part that the earlier job renewed, at its place.
type CameIn struct {
	Kind  part.Kind    `json:"kind"`
	Place engine.Place `json:"place"`
}

// Carried is one fault of the earlier job: its mode, where the part sits now, and its probability.
type Carried struct {
	Fault string       `json:"fault"`
	Place engine.Place `json:"place"`
	P     float64      `json:"p"`
}

// MaxCarried bounds the list of faults.
const MaxCarried = 600

func (c Comeback) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("of", c.Of, "the number of the earlier job", MaxName, false))
	bad.Under("", invalid.Text("unit", c.Unit, "the unit of its verdict", MaxName, true))
	for _, f := range []struct {
		name string
		x    float64
	}{{"p", c.P}, {"fixed", c.Fixed}, {"wrong", c.Wrong}} {
		if !(f.x >= 0 && f.x <= 1) {
			bad.Add(f.name, "a probability from 0 to 1", fmt.Sprint(f.x))
		}
	}
	if c.Days < 0 || c.Days > 40_000 {
		bad.Add("days", "0 to 40 000 days", fmt.Sprint(c.Days))
	}
	if !(c.Km >= 0 && c.Km <= float64(unit.MaxDistance)) {
		bad.Add("km", "0 to 5 000 000 km", fmt.Sprint(c.Km))
	}
	if len(c.Renewed) > MaxMoved {
		bad.Add("renewed", fmt.Sprintf("at most %d parts", MaxMoved), fmt.Sprint(len(c.Renewed)))
	}
	for i, r := range c.Renewed {
		if _, ok := eng.Feeds(r.Place); !ok || !slices.Contains(eng.PartKinds(), r.Kind) {
			bad.Add(fmt.Sprintf("renewed[%d]", i), "a kind of part at a place of this engine", invalid.Quote(string(r.Kind)+" "+string(r.Place)))
		}
	}
	if len(c.Carried) > MaxCarried {
		bad.Add("carried", fmt.Sprintf("at most %d faults", MaxCarried), fmt.Sprint(len(c.Carried)))
		return bad
	}
	for i, one := range c.Carried {
		path := fmt.Sprintf("carried[%d]", i)
		bad.Under("", invalid.Text(path+".fault", one.Fault, "the id of a fault", MaxName, false))
		if _, ok := eng.Feeds(one.Place); !ok {
			bad.Add(path+".place", "a place of this engine, such as cyl-2", invalid.Quote(string(one.Place)))
		}
		if !(one.P >= 0 && one.P <= 1) {
			bad.Add(path+".p", "a probability from 0 to 1", fmt.Sprint(one.P))
		}
	}
	return bad.Err()
}

// KindComeback is the kind of a [Comeback].
const KindComeback Kind = "comeback"

func init() { register(KindComeback, func() Body { return new(Comeback) }) }

// Comeback returns the body of the entry, or nil if it is of another kind.
func (e Entry) Comeback() *Comeback { return body[Comeback](e) }

// Kind returns KindComeback.
func (Comeback) Kind() Kind { return KindComeback }

// Sentence returns which job it follows and what is left of its verdict.
func (c Comeback) Sentence() string {
	s := fmt.Sprintf("same trouble as in job %s, %d days and %s km ago", c.Of, c.Days, unit.Thousands(int(c.Km)))
	if c.Unit != "" {
		s += fmt.Sprintf("; probability that its verdict on %s was wrong: %s", UnitWords(c.Unit), unit.Percent(c.Wrong))
	}
	for i, r := range c.Renewed {
		if i == 0 {
			s += "; renewed then: "
		} else {
			s += ", "
		}
		s += fmt.Sprintf("%s of %s", r.Kind, r.Place)
	}
	return s
}
