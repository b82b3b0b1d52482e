// Package evidence is the ledger of a job: what was observed or done, on what,
// in which condition, by whom. An entry is added or withdrawn with a reason,
// and never edited.
package evidence

import (
	"slices"
	"time"

	"glenmist/core/engine"
)

// Bounds of one entry and of one ledger.
const (
	MaxEntries = 500
	MaxCodes   = 64
	MaxText    = 2000
	MaxName    = 80
	MaxUnits   = 200 // in each list of a verdict: twelve cylinders have some 160
	MaxMoved   = 60  // parts in one move
)

// Kind names a kind of entry, as the case file does.
type Kind string

// Body is what an entry of one kind says. A kind is one file: the type, how it is checked, what it
// does to the state of the job, and its sentence; it registers itself.
type Body interface {
	// Kind names it.
	Kind() Kind
	// Sentence is what it says, in one short sentence.
	Sentence() string

	// check says what of it does not fit the engine or the entries before it; fields are its own.
	check(eng engine.Engine, before Ledger) error
}

// folder is a body that changes the state of the job.
type folder interface {
	fold(eng engine.Engine, s *state) error
}

// kinds makes an empty body of each kind; kindNames lists them in order.
var (
	kinds     = map[Kind]func() Body{}
	kindNames []string
)

// register adds a kind, when the package is initialised.
func register(k Kind, empty func() Body) {
	kinds[k] = empty
	kindNames = append(kindNames, string(k))
	slices.Sort(kindNames)
}

// body is the body of an entry if it is a *T, else nil.
func body[T any](e Entry) *T {
	b, _ := any(e.Body).(*T)
	return b
}

// Entry is one line of the ledger.
type Entry struct {
	// Seq numbers the entries of a job from 1, in the order they were written.
	Seq int `json:"seq"`
	// Done is when it was observed or done, which can be before it was written.
	Done      time.Time `json:"done"`
	By        string    `json:"by"`
	Condition Condition `json:"condition,omitzero"`
	Note      string    `json:"note,omitzero"`
	// Certainty is how sure whoever saw it was.
	Certainty Certainty `json:"certainty,omitzero"`

	// Body is what was observed or done.
	Body Body `json:"-"`
}

// Kind says what the entry is, or "" when it has no body.
func (e Entry) Kind() Kind {
	if e.Body == nil {
		return ""
	}
	return e.Body.Kind()
}

// Words is what the entry says, in one short sentence.
func (e Entry) Words() string {
	if e.Body == nil {
		return ""
	}
	return e.Body.Sentence()
}
