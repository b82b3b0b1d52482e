package evidence

import (
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Moment is one valid entry with the position of every part at that time.
type Moment struct {
	Entry Entry
	// At holds the positions during the entry; for a move, after it.
	At part.Positions
	// Before holds the positions just before the entry. It differs from At only for a move.
	Before part.Positions
	// Epoch is the number of moves and repairs up to this entry.
	Epoch int
	// Off names the covers that are off at that time, in order of removal.
	Off []string
}

// InOrder lists the valid entries, without withdrawals and withdrawn entries, by time done and
// then by number.
func (l Ledger) InOrder() []Entry {
	gone := l.Withdrawn()
	var live []Entry
	for _, e := range l {
		if _, ok := gone[e.Seq]; !ok && e.Withdraw() == nil {
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

// Replay lists the valid entries in order, each with the positions of the parts. The ledger
// must be valid for the engine.
func (l Ledger) Replay(eng engine.Engine) []Moment {
	moments, _ := l.replay(eng)
	return moments
}

// Positions returns the current position of every part.
func (l Ledger) Positions(eng engine.Engine) part.Positions {
	moments := l.Replay(eng)
	if len(moments) == 0 {
		return part.Home(eng)
	}
	return moments[len(moments)-1].At
}

// PositionsAt returns the position of every part at a time.
func (l Ledger) PositionsAt(eng engine.Engine, t time.Time) part.Positions {
	at := part.Home(eng)
	for _, m := range l.Replay(eng) {
		if !m.Entry.Done.After(t) {
			at = m.At
		}
	}
	return at
}

// Off names the covers that are off now.
func (l Ledger) Off(eng engine.Engine) []string {
	moments := l.Replay(eng)
	if len(moments) == 0 {
		return nil
	}
	return moments[len(moments)-1].Off
}

// Used reports whether a part was named in a valid move or renewal.
func (l Ledger) Used(t part.Tag) bool {
	for _, e := range l.InOrder() {
		if e.Move() != nil && slices.ContainsFunc(e.Move().Parts, func(r part.Relocation) bool { return r.Tag == t }) {
			return true
		}
		if r := e.Renewal(); r != nil && slices.Contains(part.Tags(r.List()), t) {
			return true
		}
	}
	return false
}

type replayError struct {
	seq   int
	under invalid.Errors
}

// state is the state of the engine between two entries.
type state struct {
	at    part.Positions
	epoch int
	off   []string
}

func (l Ledger) replay(eng engine.Engine) ([]Moment, *replayError) {
	s := state{at: part.Home(eng)}
	live := l.InOrder()
	moments := make([]Moment, 0, len(live))
	for _, e := range live {
		before := s.at
		if f, ok := e.Body.(folder); ok {
			if err := f.fold(eng, &s); err != nil {
				var bad invalid.Errors
				bad.Under(string(e.Kind()), err)
				return moments, &replayError{e.Seq, bad}
			}
		}
		moments = append(moments, Moment{Entry: e, At: s.at, Before: before, Epoch: s.epoch, Off: s.off})
	}
	return moments, nil
}
