package evidence

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Move is a set of parts that changed places at the same time.
type Move struct {
	Parts []part.Relocation `json:"parts"`
	// Cleared is true if codes and counters were cleared after the move, before the engine ran
	// again.
	Cleared bool `json:"cleared"`
}

// KindMove is the kind of a [Move].
const KindMove Kind = "move"

func init() { register(KindMove, func() Body { return new(Move) }) }

// Move returns the body of the entry, or nil if it is of another kind.
func (e Entry) Move() *Move { return body[Move](e) }

// Kind returns KindMove.
func (Move) Kind() Kind { return KindMove }

// Sentence returns the moved parts.
func (m Move) Sentence() string { return "moved " + part.Describe(m.Parts) }

// check bounds the number of parts. Whether the move is possible depends on all moves and is
// checked by replay.
func (m Move) check(engine.Engine, Ledger) error {
	var bad invalid.Errors
	if len(m.Parts) > MaxMoved {
		bad.Add("parts", "each part named once in a move", fmt.Sprintf("%d parts", len(m.Parts)))
	}
	return bad.Err()
}

// fold applies the move to the positions.
func (m Move) fold(_ engine.Engine, s *state) error {
	next, err := s.at.Move(m.Parts)
	if err != nil {
		var bad invalid.Errors
		bad.Under("parts", err)
		return bad
	}
	s.at = next
	s.epoch++
	return nil
}
