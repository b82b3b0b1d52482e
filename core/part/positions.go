package part

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Relocation places one tagged part at a place or on the bench.
type Relocation struct {
	Tag Tag          `json:"tag"`
	To  engine.Place `json:"to"`
}

// Positions records which part is at which place at one moment. It is a value: Move returns a
// new one. [Home] returns the first.
type Positions struct {
	slots *slots
	// at[i] is the part in slot i: the number of its home slot, or firstSpare and above for a
	// spare.
	at [maxSlots]uint8
	// home[i] is the part that belongs in slot i: at first the one that is there, after a renewal the
	// new part.
	home [maxSlots]uint8
}

// Numbers of parts: a slot's first part has the number of the slot. Spares and new parts follow.
const (
	firstSpare = 64
	firstNew   = 136
)

// Home returns the positions with every part at its place of origin and every spare on the
// bench.
func Home(e engine.Engine) Positions {
	p := Positions{slots: slotsOf(e)}
	for i := range p.slots.list {
		p.at[i], p.home[i] = uint8(i), uint8(i)
	}
	return p
}

// id returns the number of a tag; ok is false for a tag that this engine does not have.
func (p Positions) id(t Tag) (id uint8, ok bool) {
	if id, ok := p.slots.ids[t]; ok {
		return id, true
	}
	if first, n := t.generation(); n > 0 {
		slot, ok := p.slots.ids[first]
		return uint8(firstNew + int(slot)*MaxRenewed + n - 1), ok
	}
	k, home, spare, ok := t.split()
	if !ok {
		return 0, false
	}
	if spare > 0 {
		i := slices.IndexFunc(kinds, func(row struct {
			kind   Kind
			letter string
		}) bool {
			return row.kind == k
		})
		return uint8(firstSpare + i*(MaxSpares+1) + spare), slices.Contains(p.slots.engine.PartKinds(), k)
	}
	i, ok := p.slots.find(k, home)
	return uint8(i), ok
}

func (p Positions) tag(id uint8) Tag {
	if id >= firstNew {
		slot, n := p.slots.list[(id-firstNew)/MaxRenewed], int(id-firstNew)%MaxRenewed
		return New(slot.Kind, slot.Place, n+1)
	}
	if id >= firstSpare {
		return Spare(kinds[(id-firstSpare)/(MaxSpares+1)].kind, int(id-firstSpare)%(MaxSpares+1))
	}
	slot := p.slots.list[id]
	return Of(slot.Kind, slot.Place)
}

// In returns the tag of the part of a kind at a place, or "" if there is no such place.
func (p Positions) In(k Kind, at engine.Place) Tag {
	i, ok := p.slots.find(k, at)
	if !ok {
		return ""
	}
	return p.tag(p.at[i])
}

// Serving returns the tag of the part of a kind that cylinder c depends on, or "" if there is
// none.
func (p Positions) Serving(k Kind, c engine.Cylinder) Tag {
	for i, slot := range p.slots.list {
		if slot.Kind == k && slices.Contains(slot.Feeds, c) {
			return p.tag(p.at[i])
		}
	}
	return ""
}

func (p Positions) slotOf(t Tag) (Slot, bool) {
	id, ok := p.id(t)
	if !ok {
		return Slot{}, false
	}
	i := slices.Index(p.at[:len(p.slots.list)], id)
	if i < 0 {
		return Slot{}, false
	}
	return p.slots.list[i], true
}

// Where returns the place of a part: the bench if it is out of the engine, "" for an unknown
// tag.
func (p Positions) Where(t Tag) engine.Place {
	if slot, ok := p.slotOf(t); ok {
		return slot.Place
	}
	if _, ok := p.id(t); ok {
		return engine.Bench
	}
	return ""
}

// Feeds lists the cylinders that depend on the part, in the order of its towers. It is empty
// on the bench.
func (p Positions) Feeds(t Tag) []engine.Cylinder {
	slot, _ := p.slotOf(t)
	return slot.Feeds
}

// Placed is one part at its place.
type Placed struct {
	Tag  Tag          `json:"tag"`
	Kind Kind         `json:"kind"`
	At   engine.Place `json:"at"`
}

// All lists every part of the engine by home, then the spares and new parts in use.
func (p Positions) All() []Placed {
	var all []Placed
	for _, slot := range p.slots.list {
		t := Of(slot.Kind, slot.Place)
		all = append(all, Placed{t, slot.Kind, p.Where(t)})
	}
	for i, slot := range p.slots.list {
		if p.at[i] >= firstSpare {
			all = append(all, Placed{p.tag(p.at[i]), slot.Kind, slot.Place})
		}
	}
	return all
}

// Home returns the place where a part belongs now: its origin, or after a renewal the place that it
// was given; the bench for spares and for parts that were renewed.
func (p Positions) Home(t Tag) engine.Place {
	if id, ok := p.id(t); ok {
		if i := slices.Index(p.home[:len(p.slots.list)], id); i >= 0 {
			return p.slots.list[i].Place
		}
	}
	return engine.Bench
}

// Belongs returns the part of a kind that belongs at a place, or "" if there is no such place.
func (p Positions) Belongs(k Kind, at engine.Place) Tag {
	i, ok := p.slots.find(k, at)
	if !ok {
		return ""
	}
	return p.tag(p.home[i])
}

// Renewed reports whether an original part came off for good.
func (p Positions) Renewed(t Tag) bool {
	_, known := p.id(t)
	return known && t.IsOriginal() && p.Home(t) == engine.Bench
}

// Away lists the parts that are not where they belong: moved parts, parts on the bench, and spares
// in use. Parts that were renewed belong on the bench.
func (p Positions) Away() []Placed {
	return slices.DeleteFunc(p.All(), func(at Placed) bool { return at.At == p.Home(at.Tag) })
}

// FreeSpare returns the first spare of a kind that is not in use and was not used before.
func (p Positions) FreeSpare(k Kind, used func(Tag) bool) (Tag, bool) {
	for n := 1; n <= MaxSpares; n++ {
		if t := Spare(k, n); p.Where(t) == engine.Bench && !used(t) {
			return t, true
		}
	}
	return "", false
}

// Equal reports whether every part is at the same place in q.
func (p Positions) Equal(q Positions) bool { return p.at == q.at }

// Move returns the positions after the relocations, which happen at the same time: a swap is
// two of them. No part may be lost or doubled. Every place that a part leaves must be filled,
// and every displaced part must be named. A part can go to the bench; a spare can come from
// it.
func (p Positions) Move(parts []Relocation) (Positions, error) {
	var bad invalid.Errors
	if len(parts) == 0 {
		bad.Add("", "at least one part that moved", "none")
		return p, bad
	}
	next := p
	named := map[Tag]bool{}
	goes := map[int]Tag{} // part for each slot
	left := map[int]int{} // slots that a part leaves, by relocation
	for i, r := range parts {
		tagField, toField := fmt.Sprintf("[%d].tag", i), fmt.Sprintf("[%d].to", i)
		if _, err := ParseTag(p.slots.engine, string(r.Tag)); err != nil {
			bad.Under(tagField, err)
			continue
		}
		to, fits := p.slots.find(r.Tag.Kind(), r.To)
		if !fits && r.To != engine.Bench {
			bad.Add(toField, p.slots.places(r.Tag.Kind()), invalid.Quote(string(r.To)))
			continue
		}
		if named[r.Tag] {
			bad.Add(tagField, "each part named once in a move", string(r.Tag)+" again")
			continue
		}
		named[r.Tag] = true
		from := p.Where(r.Tag)
		if from == r.To {
			bad.Add(toField, fmt.Sprintf("another place: %s is %s already", r.Tag.Words(), at(from)), r.To.String())
			continue
		}
		if from, ok := p.slots.find(r.Tag.Kind(), from); ok {
			left[from] = i
		}
		if !fits {
			continue
		}
		if other, taken := goes[to]; taken {
			bad.Add(toField, fmt.Sprintf("one %s at a place", r.Tag.Kind()), fmt.Sprintf("%s and %s sent to %s", other, r.Tag, r.To))
			continue
		}
		goes[to] = r.Tag
		next.at[to], _ = p.id(r.Tag)
	}
	if len(bad) > 0 {
		return p, bad
	}
	for i, r := range parts {
		if to, ok := p.slots.find(r.Tag.Kind(), r.To); ok {
			if out := p.tag(p.at[to]); !named[out] {
				bad.Add(fmt.Sprintf("[%d].to", i),
					fmt.Sprintf("where %s goes that is %s now: say so in the same move (a swap)", out.Words(), at(r.To)), "an occupied place")
			}
		}
	}
	if len(bad) > 0 {
		return p, bad
	}
	for _, slot := range slices.Sorted(maps.Keys(left)) {
		if _, filled := goes[slot]; !filled {
			s := p.slots.list[slot]
			bad.Add(fmt.Sprintf("[%d].tag", left[slot]), fmt.Sprintf("what comes %s in its place: another %s, or a spare such as %s", into(s.Place), s.Kind, Spare(s.Kind, 1)), "an empty place")
		}
	}
	if len(bad) > 0 {
		return p, bad
	}
	return next, nil
}

// places lists the places for a kind of part.
func (s *slots) places(k Kind) string {
	var words []string
	for _, slot := range s.list {
		if slot.Kind == k {
			words = append(words, string(slot.Place))
		}
	}
	if len(words) > 2 {
		words = []string{words[0] + " to " + words[len(words)-1]}
	}
	return fmt.Sprintf("a place for a %s of this engine: %s, or the bench", k, strings.Join(words, " or "))
}

// at returns a position in words: "in cylinder 2", "at coil B", "on the bench".
func at(p engine.Place) string {
	if _, ok := p.Cylinder(); ok {
		return "in " + p.String()
	}
	if p == engine.Bench {
		return "on the bench"
	}
	return "at " + p.String()
}

// into returns a destination in words: "into cylinder 2", "at coil B".
func into(p engine.Place) string {
	if _, ok := p.Cylinder(); ok {
		return "into " + p.String()
	}
	return at(p)
}

// At returns a position in words: "in cylinder 2", "at coil B", "on the bench".
func At(p engine.Place) string { return at(p) }

// Swap exchanges the parts of the given kinds between two places. If one of the two is the
// bench, the named spare is fitted.
func (p Positions) Swap(a, b engine.Place, kinds ...Kind) []Relocation {
	var moves []Relocation
	for _, k := range kinds {
		moves = append(moves, Relocation{p.In(k, a), b}, Relocation{p.In(k, b), a})
	}
	return moves
}

// Replace puts a part from the bench in the place of another, which goes to the bench.
func (p Positions) Replace(out, in Tag) []Relocation {
	return []Relocation{{out, engine.Bench}, {in, p.Where(out)}}
}

// Describe returns a move in words, by destination: "coil C2, boot B2 to cylinder 4; coil C4,
// boot B4 to cylinder 2".
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

// PutBack lists the relocations that bring every part home, in groups that can be done one by
// one. Each group holds parts that displaced each other; the smallest group comes first. All
// groups together are one move.
func (p Positions) PutBack() [][]Relocation {
	var groups [][]Relocation
	done := map[int]bool{}
	for start := range p.slots.list {
		if done[start] || p.at[start] == p.home[start] {
			continue
		}
		// Follow the chain back to its start: a part on the bench, or the first part again.
		first := start
		for {
			prev := slices.Index(p.at[:len(p.slots.list)], p.home[first])
			if prev < 0 || prev == start {
				break
			}
			first = prev
		}
		var group []Relocation
		for slot := first; !done[slot]; {
			done[slot] = true
			group = append(group, Relocation{p.tag(p.home[slot]), p.slots.list[slot].Place})
			sits := slices.Index(p.home[:len(p.slots.list)], p.at[slot])
			if sits < 0 {
				group = append(group, Relocation{p.tag(p.at[slot]), engine.Bench})
				break
			}
			slot = sits
		}
		groups = append(groups, group)
	}
	slices.SortStableFunc(groups, func(x, y []Relocation) int { return cmp.Compare(len(x), len(y)) })
	return groups
}

// Engine returns the engine of these parts.
func (p Positions) Engine() engine.Engine { return p.slots.engine }
