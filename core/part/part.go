// Package part tracks the parts of an ignition. Every coil, lead, boot and plug has a tag, and
// the position of each follows from the recorded moves. It also holds what is known of each
// part: age, number, design.
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

// MaxSpares is how many spares of one kind a job can use. MaxRenewed is how many new parts one
// place can get in a job.
const (
	MaxSpares  = 9
	MaxRenewed = 3
)

// Tag identifies one part permanently, as written on tape when it is first handled. It is a
// letter for the kind and the place of origin: "C2" is the coil from cylinder 2, "CB" coil B
// of a wasted-spark engine, "CS1" a spare coil, "C2-2" the second coil of cylinder 2: the first new
// one that was fitted there. C is a coil, K a coil lead, R a rotor, D a
// distributor cap, L a lead, B a boot, P a plug.
type Tag string

func letter(k Kind) string {
	for _, row := range kinds {
		if row.kind == k {
			return row.letter
		}
	}
	return ""
}

// Of returns the tag of the part that came from a cylinder or coil.
func Of(k Kind, home engine.Place) Tag {
	if c, ok := home.Cylinder(); ok {
		return Tag(letter(k) + strconv.Itoa(int(c)))
	}
	if l, ok := home.Coil(); ok {
		return Tag(letter(k) + l.String())
	}
	return ""
}

// Spare returns the tag of the n-th spare of a kind, from 1 to [MaxSpares].
func Spare(k Kind, n int) Tag { return Tag(letter(k) + "S" + strconv.Itoa(n)) }

// New returns the tag of the n-th new part at a place, from 1 to [MaxRenewed].
func New(k Kind, at engine.Place, n int) Tag {
	return Of(k, at) + Tag("-"+strconv.Itoa(n+1))
}

// split returns the kind of the tag, and its home or the number of the spare.
func (t Tag) split() (k Kind, home engine.Place, spare int, ok bool) {
	t, _ = t.generation()
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

// generation splits the number of a new part off its tag: n is 0 for a part that was there when the
// job was opened, and for a spare. A malformed number gives a tag that no engine has.
func (t Tag) generation() (first Tag, n int) {
	base, number, ok := strings.Cut(string(t), "-")
	if !ok {
		return t, 0
	}
	if len(number) != 1 || number[0] < '2' || number[0] > '1'+MaxRenewed || strings.HasPrefix(base[min(1, len(base)):], "S") {
		return "", 0
	}
	return Tag(base), int(number[0] - '1')
}

// Kind returns the kind of the tagged part, or "" for an invalid tag.
func (t Tag) Kind() Kind {
	k, _, _, _ := t.split()
	return k
}

// IsNew reports whether the part was fitted new in this job.
func (t Tag) IsNew() bool {
	_, n := t.generation()
	return n > 0
}

// IsOriginal reports whether the part was in the engine when the job was opened. Spares and new parts
// are taken as good: only an original part can be the fault of the complaint.
func (t Tag) IsOriginal() bool { return !t.IsSpare() && !t.IsNew() }

// Home returns the place of origin: the bench for a spare, the place where it was fitted for a new
// part.
func (t Tag) Home() engine.Place {
	_, home, _, _ := t.split()
	return home
}

// IsSpare reports whether the part is a spare from the shelf.
func (t Tag) IsSpare() bool {
	_, _, n, _ := t.split()
	return n > 0
}

// Words is the tagged part in words: "coil C2", "spare coil CS1".
func (t Tag) Words() string {
	switch {
	case t.IsSpare():
		return "spare " + string(t.Kind()) + " " + string(t)
	case t.IsNew():
		return "new " + string(t.Kind()) + " " + string(t)
	}
	return string(t.Kind()) + " " + string(t)
}

// TagIn reads the tag at the end of a part's words, such as "plug P2". It has the errors of [ParseTag].
func TagIn(e engine.Engine, words string) (Tag, error) {
	return ParseTag(e, words[strings.LastIndexByte(words, ' ')+1:])
}

// ParseTag reads the tag of a part of engine e, or of a spare that fits it.
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
