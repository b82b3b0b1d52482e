package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Ledger is the entries of one job. Append with [Ledger.Add]. Check a ledger from outside with
// [Ledger.Validate].
type Ledger []Entry

// Next returns the number of the next entry.
func (l Ledger) Next() int {
	next := 1
	for _, e := range l {
		next = max(next, e.Seq+1)
	}
	return next
}

// Get finds an entry by its number.
func (l Ledger) Get(seq int) (Entry, bool) {
	i := slices.IndexFunc(l, func(e Entry) bool { return e.Seq == seq })
	if i < 0 {
		return Entry{}, false
	}
	return l[i], true
}

// Withdrawn returns the withdrawn entries, each with the entry that withdrew it.
func (l Ledger) Withdrawn() map[int]Entry {
	gone := map[int]Entry{}
	for _, e := range l {
		if e.Withdraw() != nil {
			gone[e.Withdraw().Entry] = e
		}
	}
	return gone
}

// Add checks an entry against the engine and the entries before it, numbers it, and returns
// the longer ledger. On an error the ledger is returned unchanged, and the error names the
// fields.
func (l Ledger) Add(eng engine.Engine, e Entry) (Ledger, error) {
	e.Seq = l.Next()
	var bad invalid.Errors
	if len(l) >= MaxEntries {
		bad.Add("", fmt.Sprintf("at most %d entries in a job", MaxEntries), "one more")
		return l, bad
	}
	bad.Under("", e.check(eng, l))
	if len(bad) > 0 {
		return l, bad
	}
	longer := append(slices.Clone(l), e)
	if _, err := longer.replay(eng); err != nil {
		if e.Withdraw() != nil {
			return l, invalid.Errors{{
				Field:    "withdraw.entry",
				Expected: fmt.Sprintf("an entry that no later one builds on: withdraw entry %d first", err.seq),
				Got:      fmt.Sprintf("entry %d", e.Withdraw().Entry),
			}}
		}
		if err.seq != e.Seq { // an entry dated earlier invalidates a later one
			return l, invalid.Errors{{Field: "done", Expected: fmt.Sprintf("a time after entry %d, which builds on how things stood then", err.seq), Got: e.Done.Format("2 Jan 15:04")}}
		}
		// The invalid entry is the new one, so its own path is the field of the form.
		return l, err.under
	}
	return longer, nil
}

// Validate checks every entry of a ledger from outside.
func (l Ledger) Validate(eng engine.Engine) error {
	var bad invalid.Errors
	if len(l) > MaxEntries {
		bad.Add("", fmt.Sprintf("at most %d entries", MaxEntries), fmt.Sprint(len(l)))
		return bad
	}
	for i, e := range l {
		path := fmt.Sprintf("[%d]", i)
		if e.Seq != i+1 {
			bad.Add(path+".seq", fmt.Sprintf("%d, counting from 1", i+1), fmt.Sprint(e.Seq))
		}
		bad.Under(path, e.check(eng, l[:i]))
	}
	if len(bad) > 0 {
		return bad
	}
	if _, err := l.replay(eng); err != nil {
		bad.Under(fmt.Sprintf("[%d]", err.seq-1), err.under)
	}
	return bad.Err()
}

// check validates one entry and the earlier entries that it names. Whether a move is possible
// depends on all moves and is checked by replay.
func (e Entry) check(eng engine.Engine, before Ledger) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("by", e.By, "the name of who did it", MaxName, false))
	bad.Under("", invalid.Text("note", e.Note, "a note", MaxText, true))
	if e.Done.IsZero() {
		bad.Add("done", "the time it was done", "none")
	}
	if !e.Condition.Known() {
		bad.Add("condition", "idle, load, hot, cold, wet, snap or none", invalid.Quote(string(e.Condition)))
	}
	if !e.Certainty.Known() {
		bad.Add("certainty", "think-so, heard or none for sure", invalid.Quote(string(e.Certainty)))
	}
	if e.Kind() == "" {
		bad.Add("", "exactly one of "+strings.Join(kindNames, ", "), "none or several")
		return bad
	}
	bad.Under(string(e.Kind()), e.Body.check(eng, before))
	return bad.Err()
}

func has(eng engine.Engine, k engine.Kind, at engine.Place) bool {
	return slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return i.Kind == k && i.Place == at })
}
