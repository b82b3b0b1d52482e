package evidence

import (
	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// Trims is the fuel trims of each bank in live data, engine warm and in closed loop.
type Trims struct {
	Banks []trouble.Trim `json:"banks"`
}

// KindTrims names the kind.
const KindTrims Kind = "trims"

func init() { register(KindTrims, func() Body { return new(Trims) }) }

// Trims is the body of the entry if it is of that kind, else nil.
func (e Entry) Trims() *Trims { return body[Trims](e) }

// Kind names it.
func (Trims) Kind() Kind { return KindTrims }

// Sentence lists the trims bank by bank.
func (t Trims) Sentence() string { return trouble.TrimWords(t.Banks) }

func (t Trims) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	if len(t.Banks) == 0 {
		bad.Add("banks", "the trims of at least one bank", "none")
	}
	bad.Under("banks", trouble.CheckTrims(t.Banks, eng.Banks()))
	return bad.Err()
}
