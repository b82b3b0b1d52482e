package evidence

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Withdraw withdraws an earlier entry. Both stay in the ledger.
type Withdraw struct {
	Entry  int    `json:"entry"`
	Reason string `json:"reason"`
}

func (w Withdraw) check(_ engine.Engine, before Ledger) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", w.Reason, "why it is withdrawn, in a few words", MaxText, false))
	target, ok := before.Get(w.Entry)
	switch {
	case !ok:
		bad.Add("entry", "the number of an earlier entry of this job", fmt.Sprint(w.Entry))
	case target.Withdraw() != nil:
		bad.Add("entry", "an entry that is not itself a withdrawal: enter it anew instead", fmt.Sprint(w.Entry))
	default:
		if _, gone := before.Withdrawn()[w.Entry]; gone {
			bad.Add("entry", "an entry that still counts", fmt.Sprintf("%d, withdrawn already", w.Entry))
		}
	}
	return bad.Err()
}

// KindWithdraw is the kind of a [Withdraw].
const KindWithdraw Kind = "withdraw"

func init() { register(KindWithdraw, func() Body { return new(Withdraw) }) }

// Withdraw returns the body of the entry, or nil if it is of another kind.
func (e Entry) Withdraw() *Withdraw { return body[Withdraw](e) }

// Kind returns KindWithdraw.
func (Withdraw) Kind() Kind { return KindWithdraw }

// Sentence returns the withdrawn entry and the reason.
func (w Withdraw) Sentence() string { return fmt.Sprintf("entry %d withdrawn: %s", w.Entry, w.Reason) }
