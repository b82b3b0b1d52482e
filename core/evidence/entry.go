// Package evidence is the ledger of a job: what was observed or done, on which item, in which
// condition, by whom. Entries are added, or withdrawn with a reason. They are never edited.
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
	MaxUnits   = 200 // in each list of a verdict; twelve cylinders have about 160
	MaxMoved   = 60  // parts in one move
)

// Kind names a kind of entry, as the case file does.
type Kind string

// Body is the content of an entry of one kind. Each kind is one file: its type, check, effect
// on the state of the job, and sentence. It registers itself.
type Body interface {
	// Kind returns the kind of the body.
	Kind() Kind
	// Sentence returns the content in one short sentence.
	Sentence() string

	// check returns an error if the body does not fit the engine or the entries before it.
	// Field paths are relative to the body.
	check(eng engine.Engine, before Ledger) error
}

// folder is a body that changes the state of the job.
type folder interface {
	fold(eng engine.Engine, s *state) error
}

// kinds makes an empty body of each kind. kindNames lists the kinds in order.
var (
	kinds     = map[Kind]func() Body{}
	kindNames []string
)

// register adds a kind during package initialisation.
func register(k Kind, empty func() Body) {
	kinds[k] = empty
	kindNames = append(kindNames, string(k))
	slices.Sort(kindNames)
}

// body returns the body of an entry if it is a *T, otherwise nil.
func body[T any](e Entry) *T {
	b, _ := any(e.Body).(*T)
	return b
}

// Entry is one line of the ledger.
type Entry struct {
	// Seq numbers the entries of a job from 1, in the order of recording.
	Seq int `json:"seq"`
	// Done is the time of the observation or action. It can be earlier than the time of
	// recording.
	Done      time.Time `json:"done"`
	By        string    `json:"by"`
	Condition Condition `json:"condition,omitzero"`
	Note      string    `json:"note,omitzero"`
	// Certainty states how certain the observer was.
	Certainty Certainty `json:"certainty,omitzero"`

	// Body is the content of the entry.
	Body Body `json:"-"`
}

// Kind returns the kind of the entry, or "" without a body.
func (e Entry) Kind() Kind {
	if e.Body == nil {
		return ""
	}
	return e.Body.Kind()
}

// Words returns the content of the entry in one short sentence.
func (e Entry) Words() string {
	if e.Body == nil {
		return ""
	}
	return e.Body.Sentence()
}
