package evidence

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Fit is a repair at a place: something there was put right. A renewed part is a [Renewal].
type Fit struct {
	// Unit is the repair unit, such as "connector cyl-2".
	Unit string `json:"unit"`
	// Cleared is true if codes and counters were cleared afterwards.
	Cleared bool `json:"cleared"`
}

func (f Fit) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	there := slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return !i.Part && UnitKey(i.Kind, i.Place) == f.Unit })
	if !there {
		bad.Add("unit", "a place that can be put right, such as connector cyl-1; a part that is renewed is a renewal", invalid.Quote(f.Unit))
	}
	return bad.Err()
}

// KindFit is the kind of a [Fit].
const KindFit Kind = "fit"

func init() { register(KindFit, func() Body { return new(Fit) }) }

// Fit returns the body of the entry, or nil if it is of another kind.
func (e Entry) Fit() *Fit { return body[Fit](e) }

// Kind returns KindFit.
func (Fit) Kind() Kind { return KindFit }

// Sentence returns the repaired unit.
func (f Fit) Sentence() string { return UnitWords(f.Unit) + " put right" }

// fold begins a new epoch. Looks and tests from before the repair no longer describe the item.
func (f Fit) fold(_ engine.Engine, s *state) error { //nolint:unparam // the signature is that of folder
	s.epoch++
	return nil
}
