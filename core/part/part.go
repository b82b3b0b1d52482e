// Package part follows the parts of an ignition: every coil, lead, boot and plug
// carries a tag, and where each one sits is worked out from the moves, never
// asked twice. It also keeps what is known of each part: age, number, design.
package part

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Kind is what a part is: one of the kinds of part of package engine.
type Kind = engine.Kind

// kinds lists every kind of part with the letter of its tag.
var kinds = []struct {
	kind   Kind
	letter string
}{
	{engine.Coil, "C"}, {engine.CoilLead, "K"}, {engine.Rotor, "R"}, {engine.Cap, "D"},
	{engine.Lead, "L"}, {engine.Boot, "B"}, {engine.Plug, "P"},
}

// MaxSpares is how many spares of one kind a job can use.
const MaxSpares = 9

// Tag names one part for life, as written on tape when it is first touched: a
// letter for its kind and where it came from, such as "C2" for the coil that
// came from cylinder 2, "CB" for coil B of a wasted-spark engine, or "CS1" for a
// spare coil. C is a coil, K a coil lead, R a rotor, D a distributor cap, L a
// lead, B a boot, P a plug.
type Tag string

func letter(k Kind) string {
	for _, row := range kinds {
		if row.kind == k {
			return row.letter
		}
	}
	return ""
}

// Of is the tag of the part of a kind that came from a place: a cylinder or a coil.
func Of(k Kind, home engine.Place) Tag {
	if c, ok := home.Cylinder(); ok {
		return Tag(letter(k) + strconv.Itoa(int(c)))
	}
	if l, ok := home.Coil(); ok {
		return Tag(letter(k) + l.String())
	}
	return ""
}

// Spare is the tag of the n-th spare of a kind, from 1 to [MaxSpares].
func Spare(k Kind, n int) Tag { return Tag(letter(k) + "S" + strconv.Itoa(n)) }

// split reads a tag: its kind, and its home or the number of the spare.
func (t Tag) split() (k Kind, home engine.Place, spare int, ok bool) {
	for _, row := range kinds {
		rest, found := strings.CutPrefix(string(t), row.letter)
		if !found {
			continue
		}
		if l, is := engine.ParseLetter(rest); is {
			return row.kind, engine.AtCoil(l), 0, true
		}
		if p := engine.Place("cyl-" + rest); len(rest) > 0 {
			if _, is := p.Cylinder(); is {
				return row.kind, p, 0, true
			}
		}
		if len(rest) == 2 && rest[0] == 'S' && rest[1] >= '1' && rest[1] <= '0'+MaxSpares {
			return row.kind, engine.Bench, int(rest[1] - '0'), true
		}
	}
	return "", "", 0, false
}

// Kind is the kind of part the tag is on, or "" for no tag of ours.
func (t Tag) Kind() Kind {
	k, _, _, _ := t.split()
	return k
}

// Home is the place the part came from: the bench for a spare.
func (t Tag) Home() engine.Place {
	_, home, _, _ := t.split()
	return home
}

// IsSpare says that the part came from the shelf and not from the engine.
func (t Tag) IsSpare() bool {
	_, _, n, _ := t.split()
	return n > 0
}

// Words is the tagged part in words: "coil C2", "spare coil CS1".
func (t Tag) Words() string {
	if t.IsSpare() {
		return "spare " + string(t.Kind()) + " " + string(t)
	}
	return string(t.Kind()) + " " + string(t)
}

// ParseTag reads the tag of a part that engine e has, or of a spare that fits it.
func ParseTag(e engine.Engine, s string) (Tag, error) {
	t := Tag(s)
	k, home, spare, ok := t.split()
	if ok && slices.Contains(e.PartKinds(), k) {
		if spare > 0 {
			return t, nil
		}
		if _, has := slotsOf(e).find(k, home); has {
			return t, nil
		}
	}
	var can []string
	for _, k := range e.PartKinds() {
		can = append(can, fmt.Sprintf("%s (%s)", letter(k), k))
	}
	home = engine.At(engine.Cylinder(min(2, e.Cylinders)))
	return "", invalid.Error{
		Expected: fmt.Sprintf("a tag of this engine: %s and where it came from, such as %s, or S1 for a spare, such as %s", strings.Join(can, ", "), Of(engine.Plug, home), Spare(engine.Plug, 1)),
		Got:      invalid.Quote(s),
	}
}
