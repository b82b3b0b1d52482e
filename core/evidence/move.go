package evidence

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Move is parts that changed places, all at once.
type Move struct {
	Parts []part.Relocation `json:"parts"`
	// Cleared says that codes were cleared and counters zeroed after the move,
	// before the engine ran again.
	Cleared bool `json:"cleared"`
}

// KindMove names the kind.
const KindMove Kind = "move"

func init() { register(KindMove, func() Body { return new(Move) }) }

// Move is the body of the entry if it is of that kind, else nil.
func (e Entry) Move() *Move { return body[Move](e) }

// Kind names it.
func (Move) Kind() Kind { return KindMove }

// Sentence says what moved.
func (m Move) Sentence() string { return "moved " + part.Describe(m.Parts) }

// check bounds it. Whether a move is possible depends on all moves and is for the replay to say.
func (m Move) check(engine.Engine, Ledger) error {
	var bad invalid.Errors
	if len(m.Parts) > MaxMoved {
		bad.Add("parts", "each part named once in a move", fmt.Sprintf("%d parts", len(m.Parts)))
	}
	return bad.Err()
}

// fold moves the parts.
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
