// Package part follows the parts of an ignition: every coil, boot and plug
// carries a tag, and where each one sits is worked out from the moves, never
// asked twice.
package part

import (
	"fmt"
	"strconv"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Kind is what a part is.
type Kind string

// The parts a technician moves and tags on a coil-on-plug ignition.
const (
	Coil Kind = "coil"
	Boot Kind = "boot"
	Plug Kind = "plug"
)

// Kinds lists them from the top of the well downwards.
var Kinds = []Kind{Coil, Boot, Plug}

var letters = map[Kind]string{Coil: "C", Boot: "B", Plug: "P"}

// Tag names one part for life, as written on tape when it is first touched: a
// letter for its kind and the cylinder it came from, such as "C2" for the coil
// that came from cylinder 2.
type Tag string

// Of is the tag of the part of a kind that came from cylinder c.
func Of(k Kind, c engine.Cylinder) Tag { return Tag(letters[k] + strconv.Itoa(int(c))) }

// Split says what kind of part the tag is on and which cylinder it came from.
func (t Tag) Split() (Kind, engine.Cylinder, bool) {
	for _, k := range Kinds {
		if len(t) > 1 && string(t[:1]) == letters[k] {
			c, ok := engine.Place("cyl-" + string(t[1:])).Cylinder()
			return k, c, ok
		}
	}
	return "", 0, false
}

// Kind is the kind of part the tag is on, or "" for no tag of ours.
func (t Tag) Kind() Kind {
	k, _, _ := t.Split()
	return k
}

// Words is the tagged part in words: "coil C2".
func (t Tag) Words() string { return string(t.Kind()) + " " + string(t) }

// ParseTag reads the tag of a part that engine e has.
func ParseTag(e engine.Engine, s string) (Tag, error) {
	t := Tag(s)
	if _, c, ok := t.Split(); !ok || int(c) > e.Cylinders {
		return "", invalid.Error{
			Expected: fmt.Sprintf("a tag of this engine: C (coil), B (boot) or P (plug) and the cylinder it came from, 1 to %d, such as C2", e.Cylinders),
			Got:      invalid.Quote(s),
		}
	}
	return t, nil
}
