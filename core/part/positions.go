package part

import (
	"fmt"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Relocation says that one tagged part now sits at a place.
type Relocation struct {
	Tag Tag          `json:"tag"`
	To  engine.Place `json:"to"`
}

// Positions says which part sits where at one moment. It is a value: Move
// returns a new one. Make the first with [Home].
type Positions struct {
	engine engine.Engine
	// at[kind][c-1] is the cylinder that the part in cylinder c came from.
	at [3][12]uint8
}

func kindIndex(k Kind) int {
	for i, have := range Kinds {
		if have == k {
			return i
		}
	}
	return -1
}

// Home has every part where it came from.
func Home(e engine.Engine) Positions {
	p := Positions{engine: e}
	for k := range Kinds {
		for _, c := range e.All() {
			p.at[k][c-1] = uint8(c)
		}
	}
	return p
}

// In is the tag of the part of a kind that sits in cylinder c.
func (p Positions) In(k Kind, c engine.Cylinder) Tag {
	return Of(k, engine.Cylinder(p.at[kindIndex(k)][c-1]))
}

// Where is the cylinder that the tagged part sits in, or 0 for an unknown tag.
func (p Positions) Where(t Tag) engine.Cylinder {
	k, from, ok := t.Split()
	if !ok {
		return 0
	}
	for _, c := range p.engine.All() {
		if p.at[kindIndex(k)][c-1] == uint8(from) {
			return c
		}
	}
	return 0
}

// Equal says whether every part sits where it does in q.
func (p Positions) Equal(q Positions) bool { return p.at == q.at }

// Move is where everything sits after the relocations, which happen at once: a
// swap is two of them. No part may be lost, doubled or left over, so every
// place that a part leaves must be filled and every part that is displaced must
// be named.
func (p Positions) Move(parts []Relocation) (Positions, error) {
	var bad invalid.Errors
	if len(parts) == 0 {
		bad.Add("", "at least one part that moved", "none")
		return p, bad
	}
	next := p
	named := map[Tag]bool{}
	for i, r := range parts {
		tagField, toField := fmt.Sprintf("[%d].tag", i), fmt.Sprintf("[%d].to", i)
		if _, err := ParseTag(p.engine, string(r.Tag)); err != nil {
			bad.Under(tagField, err)
			continue
		}
		to, err := p.engine.ParseCylinder(string(r.To))
		if err != nil {
			bad.Under(toField, err)
			continue
		}
		if named[r.Tag] {
			bad.Add(tagField, "each part named once in a move", string(r.Tag)+" again")
			continue
		}
		named[r.Tag] = true
		if p.Where(r.Tag) == to {
			bad.Add(toField, fmt.Sprintf("another cylinder: %s is in cylinder %d already", r.Tag.Words(), to), engine.At(to).String())
			continue
		}
		k, from, _ := r.Tag.Split()
		next.at[kindIndex(k)][to-1] = uint8(from)
	}
	if len(bad) > 0 {
		return p, bad
	}
	// With every destination written, a part that nobody named has been pushed
	// out if it can no longer be found, and two parts went to one place if a
	// named one is not where it was sent.
	for i, r := range parts {
		to, _ := r.To.Cylinder()
		if next.In(r.Tag.Kind(), to) != r.Tag {
			bad.Add(fmt.Sprintf("[%d].to", i), fmt.Sprintf("one %s a cylinder", r.Tag.Kind()), "two sent to "+r.To.String())
			continue
		}
		if out := p.In(r.Tag.Kind(), to); next.Where(out) == 0 {
			bad.Add(fmt.Sprintf("[%d].to", i),
				fmt.Sprintf("where %s goes that sits in cylinder %d now: say so in the same move (a swap)", out.Words(), to),
				"an occupied place")
		}
	}
	if len(bad) > 0 {
		return p, bad
	}
	return next, nil
}

// Swap is the exchange of the parts of the given kinds between cylinders a and
// b, each kind that is wanted named once.
func (p Positions) Swap(a, b engine.Cylinder, kinds ...Kind) []Relocation {
	var moves []Relocation
	for _, k := range kinds {
		moves = append(moves, Relocation{p.In(k, a), engine.At(b)}, Relocation{p.In(k, b), engine.At(a)})
	}
	return moves
}

// Describe is a move in words, by where things went: "coil C2, boot B2 to
// cylinder 4; coil C4, boot B4 to cylinder 2".
func Describe(parts []Relocation) string {
	var places []engine.Place
	going := map[engine.Place][]string{}
	for _, r := range parts {
		if going[r.To] == nil {
			places = append(places, r.To)
		}
		going[r.To] = append(going[r.To], r.Tag.Words())
	}
	words := make([]string, len(places))
	for i, to := range places {
		words[i] = strings.Join(going[to], ", ") + " to " + to.String()
	}
	return strings.Join(words, "; ")
}
