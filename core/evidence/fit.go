package evidence

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Fit is a repair at a place: what is wrong there was renewed or put right. A part
// that is renewed is a move: the new one in, the old one out.
type Fit struct {
	// Unit is the repair unit, such as "connector cyl-2".
	Unit string `json:"unit"`
	// Cleared says that codes were cleared and counters zeroed afterwards.
	Cleared bool `json:"cleared"`
}

func (f Fit) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	there := slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return !i.Part && UnitKey(i.Kind, i.Place) == f.Unit })
	if !there {
		bad.Add("unit", "a place that can be put right, such as connector cyl-1; a part that is renewed is a move", invalid.Quote(f.Unit))
	}
	return bad.Err()
}

// KindFit names the kind.
const KindFit Kind = "fit"

func init() { register(KindFit, func() Body { return new(Fit) }) }

// Fit is the body of the entry if it is of that kind, else nil.
func (e Entry) Fit() *Fit { return body[Fit](e) }

// Kind names it.
func (Fit) Kind() Kind { return KindFit }

// Sentence says what was put right.
func (f Fit) Sentence() string { return UnitWords(f.Unit) + " put right" }

// fold begins a new epoch: what was seen before the repair is not seen again.
func (f Fit) fold(_ engine.Engine, s *state) error { //nolint:unparam // one of the folders
	s.epoch++
	return nil
}
