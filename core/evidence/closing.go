package evidence

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Ending is how a job ended.
type Ending string

// The endings.
const (
	EndedProven       Ending = "proven"
	EndedUnproven     Ending = "not-proven"
	EndedUnattributed Ending = "unattributed"
	EndedUnresolved   Ending = "unresolved"
	EndedPlanned      Ending = "planned"
)

// Endings lists the endings.
var Endings = []struct {
	Ending Ending
	Words  string
}{
	{EndedProven, "the repair is proven"},
	{EndedUnproven, "repaired, not proven"},
	{EndedUnattributed, "fixed, not attributed"},
	{EndedUnresolved, "no fault repaired"},
	{EndedPlanned, "the planned work is done"},
}

// Words returns the ending in words.
func (n Ending) Words() string {
	for _, row := range Endings {
		if row.Ending == n {
			return row.Words
		}
	}
	return string(n)
}

// Closing ends a job: the vehicle goes back to its owner. Evidence after it opens the job again.
type Closing struct {
	Ending Ending `json:"ending"`
}

func (c Closing) check(engine.Engine, Ledger) error {
	if !slices.ContainsFunc(Endings, func(row struct {
		Ending Ending
		Words  string
	}) bool {
		return row.Ending == c.Ending
	}) {
		return invalid.Errors{{Field: "ending", Expected: "proven, not-proven, unattributed, unresolved or planned", Got: invalid.Quote(string(c.Ending))}}
	}
	return nil
}

// KindClosing is the kind of a [Closing].
const KindClosing Kind = "closing"

func init() { register(KindClosing, func() Body { return new(Closing) }) }

// Closing returns the body of the entry, or nil if it is of another kind.
func (e Entry) Closing() *Closing { return body[Closing](e) }

// Kind returns KindClosing.
func (Closing) Kind() Kind { return KindClosing }

// Sentence returns how the job ended.
func (c Closing) Sentence() string { return "job closed: " + c.Ending.Words() }

// Closed returns the entry that ended the job, if nothing was recorded after it.
func (l Ledger) Closed() (Entry, bool) {
	live := l.InOrder()
	if n := len(live); n > 0 && live[n-1].Closing() != nil {
		return live[n-1], true
	}
	return Entry{}, false
}
