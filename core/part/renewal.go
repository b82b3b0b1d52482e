package part

import (
	"fmt"
	"maps"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Renewal is one part that came off for good, and the one that was fitted in its place.
type Renewal struct {
	// Place is where the new part goes. Out is the part that comes off. In is the tag of the part that
	// goes on: a new one ([New]) or a spare.
	Place engine.Place `json:"place"`
	Out   Tag          `json:"out"`
	In    Tag          `json:"in"`
}

// Free returns the tag of the next new part at a place; ok is false if the place has had [MaxRenewed].
func (p Positions) Free(k Kind, at engine.Place) (Tag, bool) {
	slot, ok := p.slots.find(k, at)
	if !ok {
		return "", false
	}
	most := 0
	for _, id := range slices.Concat(p.at[:len(p.slots.list)], p.home[:len(p.slots.list)]) {
		if id >= firstNew && int(id-firstNew)/MaxRenewed == slot {
			most = max(most, int(id-firstNew)%MaxRenewed+1)
		}
	}
	return New(k, at, most+1), most < MaxRenewed
}

// Off returns the part that a renewal at a place takes off: the one that belongs there if it lies on
// the bench, as after a test with a spare, otherwise the one that sits there.
func (p Positions) Off(k Kind, at engine.Place) Tag {
	if own := p.Belongs(k, at); p.Where(own) == engine.Bench {
		return own
	}
	return p.In(k, at)
}

// Renew returns the positions after parts were renewed. The new part belongs at its place from then on,
// and the old one on the bench. A spare that was fitted there for a test goes back to the bench, or
// stays if it is the part that goes on. If another part belonged there, it takes over the home of the
// one that came off.
func (p Positions) Renew(list []Renewal) (Positions, error) {
	var bad invalid.Errors
	if len(list) == 0 {
		bad.Add("", "at least one part that was renewed", "none")
	}
	next := p
	for i, r := range list {
		bad.Under(fmt.Sprintf("[%d]", i), next.renew(r))
	}
	if len(bad) > 0 {
		return p, bad
	}
	return next, nil
}

func (p *Positions) renew(r Renewal) error {
	var bad invalid.Errors
	k := r.Out.Kind()
	if _, err := ParseTag(p.slots.engine, string(r.Out)); err != nil {
		bad.Under("out", err)
		return bad
	}
	slot, ok := p.slots.find(k, r.Place)
	if !ok {
		bad.Add("place", p.slots.places(k), invalid.Quote(string(r.Place)))
		return bad
	}
	if sits, own := p.In(k, r.Place), p.Belongs(k, r.Place); r.Out != sits && (r.Out != own || p.Where(own) != engine.Bench) {
		bad.Add("out", fmt.Sprintf("the part that comes off there: %s", p.Off(k, r.Place)), invalid.Quote(string(r.Out)))
	}
	free, more := p.Free(k, r.Place)
	in, known := p.id(r.In)
	loaned := r.In.IsSpare() && p.In(k, r.Place) == r.In && r.Out != r.In // it stays where it was tested
	switch {
	case !known || r.In.Kind() != k || r.In.IsOriginal():
		bad.Add("in", fmt.Sprintf("a new %s such as %s, or a spare such as %s", k, free, Spare(k, 1)), invalid.Quote(string(r.In)))
	case r.In.IsNew() && !more:
		bad.Add("in", fmt.Sprintf("at most %d new parts at one place in a job: open a new job", MaxRenewed), "one more")
	case r.In.IsNew() && r.In != free:
		bad.Add("in", fmt.Sprintf("%s, the next new part there", free), invalid.Quote(string(r.In)))
	case r.In.IsSpare() && p.Where(r.In) != engine.Bench && !loaned:
		bad.Add("in", "a spare that is not fitted already", string(r.In)+" "+at(p.Where(r.In)))
	}
	if len(bad) > 0 {
		return bad
	}
	out, _ := p.id(r.Out)
	own := p.home[slot]
	if belonged := slices.Index(p.home[:len(p.slots.list)], out); belonged >= 0 {
		p.home[belonged] = own // the same slot, unless parts had been exchanged
	}
	p.at[slot], p.home[slot] = in, in
	return nil
}

// Tags lists the parts that a renewal handles, old and new, in order.
func Tags(list []Renewal) []Tag {
	all := map[Tag]bool{}
	for _, r := range list {
		all[r.Out], all[r.In] = true, true
	}
	return slices.Sorted(maps.Keys(all))
}
