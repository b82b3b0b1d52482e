package evidence

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Moment is one entry that still counts, with where every part sat when it was
// made.
type Moment struct {
	Entry Entry
	// At is where everything sat at that moment; for a move, after it.
	At part.Positions
	// Before is where everything sat just before; it differs for a move only.
	Before part.Positions
	// Epoch counts the moves up to this moment.
	Epoch int
}

// InOrder lists the entries that still count, without the withdrawals, in order
// of time done and then of number.
func (l Ledger) InOrder() []Entry {
	gone := l.Withdrawn()
	var live []Entry
	for _, e := range l {
		if _, ok := gone[e.Seq]; !ok && e.Withdraw == nil {
			live = append(live, e)
		}
	}
	slices.SortStableFunc(live, func(a, b Entry) int {
		if c := a.Done.Compare(b.Done); c != 0 {
			return c
		}
		return a.Seq - b.Seq
	})
	return live
}

// Replay goes through the entries that still count, in order, and says for each
// where every part sat. The ledger must be valid for the engine.
func (l Ledger) Replay(eng engine.Engine) []Moment {
	moments, _ := l.replay(eng)
	return moments
}

// Positions says where every part sits now.
func (l Ledger) Positions(eng engine.Engine) part.Positions {
	moments := l.Replay(eng)
	if len(moments) == 0 {
		return part.Home(eng)
	}
	return moments[len(moments)-1].At
}

type replayError struct {
	seq   int
	under invalid.Errors
}

func (l Ledger) replay(eng engine.Engine) ([]Moment, *replayError) {
	at, epoch := part.Home(eng), 0
	live := l.InOrder()
	moments := make([]Moment, 0, len(live))
	for _, e := range live {
		before := at
		if e.Move != nil {
			next, err := at.Move(e.Move.Parts)
			if err != nil {
				var bad invalid.Errors
				bad.Under("move.parts", err)
				return moments, &replayError{e.Seq, bad}
			}
			at = next
			epoch++
		}
		moments = append(moments, Moment{Entry: e, At: at, Before: before, Epoch: epoch})
	}
	return moments, nil
}
