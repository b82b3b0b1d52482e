package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Renewal is a set of parts that were renewed at the same time. The evidence on an old part stays
// with it. The new parts have tags of their own and are taken as good.
type Renewal struct {
	Parts []Renewed `json:"parts"`
	// Cleared is true if codes and counters were cleared afterwards, before the engine ran again.
	Cleared bool `json:"cleared"`
}

// Renewed is one part that came off and the one that went on.
type Renewed struct {
	Place engine.Place `json:"place"`
	Out   part.Tag     `json:"out"`
	In    part.Tag     `json:"in"`
	// Fate states what becomes of the old part.
	Fate Fate `json:"fate"`
	// From names the part of the workshop's stock that went on, such as "2026-014 C4"; empty for a
	// bought one.
	From string `json:"from,omitzero"`
	// Price is what the new part cost, in the workshop's currency.
	Price float64 `json:"price,omitzero"`
	// Make is what is known of the new part: its number, its design and its life.
	part.Make
}

// Fate is what becomes of a part that came off.
type Fate string

// The fates. A part that was kept is a tested spare of the workshop.
const (
	Scrapped Fate = "scrapped"
	Kept     Fate = "kept"
	Returned Fate = "returned"
)

// Fates lists the fates in the order offered.
var Fates = []struct {
	Fate  Fate
	Words string
}{{Scrapped, "scrapped"}, {Kept, "kept as a tested spare"}, {Returned, "returned to the shelf"}}

// Words returns the fate in words.
func (f Fate) Words() string {
	for _, row := range Fates {
		if row.Fate == f {
			return row.Words
		}
	}
	return string(f)
}

// MaxPrice bounds the price of a part.
const MaxPrice = 100_000.0

// maxFrom bounds the name of a part of the stock: a job number and a tag.
const maxFrom = 60

// KindRenewal is the kind of a [Renewal].
const KindRenewal Kind = "renewal"

func init() { register(KindRenewal, func() Body { return new(Renewal) }) }

// Renewal returns the body of the entry, or nil if it is of another kind.
func (e Entry) Renewal() *Renewal { return body[Renewal](e) }

// Kind returns KindRenewal.
func (Renewal) Kind() Kind { return KindRenewal }

// List returns the renewals without what is known of the new parts.
func (r Renewal) List() []part.Renewal {
	list := make([]part.Renewal, len(r.Parts))
	for i, one := range r.Parts {
		list[i] = part.Renewal{Place: one.Place, Out: one.Out, In: one.In}
	}
	return list
}

// Sentence returns what was renewed: "renewed coil C2 of cylinder 2 by new coil C2-2; C2 kept as a
// tested spare".
func (r Renewal) Sentence() string {
	words := make([]string, len(r.Parts))
	for i, one := range r.Parts {
		words[i] = fmt.Sprintf("%s of %s by %s", one.Out.Words(), one.Place, one.In.Words())
		if one.Number != "" {
			words[i] += " (" + one.Number + ")"
		}
		if one.From != "" {
			words[i] += " from stock, " + one.From
		}
		words[i] += fmt.Sprintf("; %s %s", one.Out, one.Fate.Words())
	}
	return "renewed " + strings.Join(words, "; ")
}

func (r Renewal) check(engine.Engine, Ledger) error {
	var bad invalid.Errors
	if len(r.Parts) > MaxMoved {
		bad.Add("parts", fmt.Sprintf("at most %d parts", MaxMoved), fmt.Sprint(len(r.Parts)))
		return bad
	}
	for i, one := range r.Parts {
		path := fmt.Sprintf("parts[%d]", i)
		if !slices.ContainsFunc(Fates, func(row struct {
			Fate  Fate
			Words string
		}) bool {
			return row.Fate == one.Fate
		}) {
			bad.Add(path+".fate", "scrapped, kept or returned", invalid.Quote(string(one.Fate)))
		}
		if !(one.Price >= 0 && one.Price <= MaxPrice) {
			bad.Add(path+".price", fmt.Sprintf("a price from 0 to %.0f", MaxPrice), fmt.Sprint(one.Price))
		}
		bad.Under(path, invalid.Text("from", one.From, "a part of the stock, such as 2026-014 C4", maxFrom, true))
		bad.Under(path, one.Check(one.Out.Kind()))
	}
	return bad.Err()
}

// fold puts the new parts in their places.
func (r Renewal) fold(_ engine.Engine, s *state) error {
	next, err := s.at.Renew(r.List())
	if err != nil {
		var bad invalid.Errors
		bad.Under("parts", err)
		return bad
	}
	s.at = next
	s.epoch++
	return nil
}

// ClearedAfter reports whether codes and counters were cleared after a move, a renewal or a repair; ok
// is false for entries of other kinds.
func (e Entry) ClearedAfter() (cleared, ok bool) {
	switch b := e.Body.(type) {
	case *Move:
		return b.Cleared, true
	case *Renewal:
		return b.Cleared, true
	case *Fit:
		return b.Cleared, true
	}
	return false, false
}
