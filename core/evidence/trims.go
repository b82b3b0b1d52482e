package evidence

import (
	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// Trims holds the fuel trims of each bank from live data, engine warm and in closed loop.
type Trims struct {
	Banks []trouble.Trim `json:"banks"`
}

// KindTrims is the kind of a [Trims].
const KindTrims Kind = "trims"

func init() { register(KindTrims, func() Body { return new(Trims) }) }

// Trims returns the body of the entry, or nil if it is of another kind.
func (e Entry) Trims() *Trims { return body[Trims](e) }

// Kind returns KindTrims.
func (Trims) Kind() Kind { return KindTrims }

// Sentence lists the trims by bank.
func (t Trims) Sentence() string { return trouble.TrimWords(t.Banks) }

func (t Trims) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	if len(t.Banks) == 0 {
		bad.Add("banks", "the trims of at least one bank", "none")
	}
	bad.Under("banks", trouble.CheckTrims(t.Banks, eng.Banks()))
	return bad.Err()
}
