package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Wiped states what clearing codes takes with it (SAE J1979, service $04, from memory).
const Wiped = "Clearing wipes stored and pending codes, the freeze frame, the misfire counters, the fuel trims and the readiness of all monitors. Permanent codes stay. Read and record them first."

// Clearing is the state of the control unit before a proof: codes cleared, counters at zero, and counts
// that stand as history set aside.
type Clearing struct {
	// Codes is true if the codes were cleared, Counters if the misfire counters were set to zero.
	Codes    bool `json:"codes"`
	Counters bool `json:"counters"`
	// History lists earlier runs with counts that stand as history. They are not weighed.
	History []int `json:"history,omitzero"`
}

func (c Clearing) check(eng engine.Engine, before Ledger) error {
	var bad invalid.Errors
	if !c.Codes && !c.Counters && len(c.History) == 0 {
		bad.Add("", "codes cleared, counters zeroed, or counts set aside", "none of them")
	}
	saved := slices.ContainsFunc(before.InOrder(), func(e Entry) bool { return e.Codes() != nil })
	switch {
	case c.Codes && !eng.Scanned():
		bad.Add("codes", "no codes: this engine has no control unit that sets any", "cleared")
	case c.Codes && !saved:
		bad.Add("codes", "a read of the codes first, since clearing wipes them", "none on record")
	}
	if len(c.History) > MaxEntries {
		bad.Add("history", fmt.Sprintf("at most %d entries", MaxEntries), fmt.Sprint(len(c.History)))
		return bad
	}
	for i, n := range c.History {
		if e, ok := before.Get(n); !ok || e.Counters() == nil || slices.Contains(c.History[:i], n) {
			bad.Add(fmt.Sprintf("history[%d]", i), "the number of an earlier run with counts, once", fmt.Sprint(n))
		}
	}
	return bad.Err()
}

// KindClearing is the kind of a [Clearing].
const KindClearing Kind = "clearing"

func init() { register(KindClearing, func() Body { return new(Clearing) }) }

// Clearing returns the body of the entry, or nil if it is of another kind.
func (e Entry) Clearing() *Clearing { return body[Clearing](e) }

// Kind returns KindClearing.
func (Clearing) Kind() Kind { return KindClearing }

// Sentence returns what was cleared: "codes cleared, counters at zero".
func (c Clearing) Sentence() string {
	var words []string
	if c.Codes {
		words = append(words, "codes cleared")
	}
	if c.Counters {
		words = append(words, "counters at zero")
	}
	for _, n := range c.History {
		words = append(words, fmt.Sprintf("counts of entry %d set aside as history", n))
	}
	return strings.Join(words, ", ")
}
