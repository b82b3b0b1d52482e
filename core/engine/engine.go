package engine

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Arrangement is how the cylinders stand.
type Arrangement string

// Inline is one row of cylinders.
const Inline Arrangement = "inline"

// Mounting is how the crankshaft lies in the bay.
type Mounting string

// The two mountings.
const (
	Lengthways Mounting = "lengthways"
	Crossways  Mounting = "crossways"
)

// Side is a side of the bay as seen standing at the front bumper and looking
// at the engine: Left and Right are the onlooker's.
type Side string

// The four sides of the bay.
const (
	Front    Side = "front"
	Firewall Side = "firewall"
	Left     Side = "left"
	Right    Side = "right"
)

// Ignition is the layout of the ignition system.
type Ignition string

// CoilOnPlug has one coil a cylinder, standing on its plug with a boot between.
const CoilOnPlug Ignition = "coil-on-plug"

// Engine is one engine as it lies in its bay. Its zero value is not usable;
// check a value that comes from outside with [Engine.Validate].
type Engine struct {
	// Cylinders is how many there are.
	Cylinders   int         `json:"cylinders"`
	Arrangement Arrangement `json:"arrangement"`
	Mounting    Mounting    `json:"mounting"`
	// BeltEnd is the side of the bay that the belt drive faces. Cylinder 1 of
	// an inline engine is the one next to the belt drive.
	BeltEnd  Side     `json:"belt_end"`
	Ignition Ignition `json:"ignition"`
	// FiringOrder lists every cylinder once, in the order in which they fire.
	FiringOrder []Cylinder `json:"firing_order"`
}

// The number of cylinders this version can reason about in one row.
const (
	MinInline = 2
	MaxInline = 6
)

// usualOrders are the firing orders a new inline engine starts from (M:
// textbook firing orders, from memory). They are a first guess: the vehicle's
// own record decides.
var usualOrders = map[int][]Cylinder{
	2: {1, 2},
	3: {1, 3, 2},
	4: {1, 3, 4, 2},
	5: {1, 2, 4, 5, 3},
	6: {1, 5, 3, 6, 2, 4},
}

// UsualOrder is the firing order an inline engine of n cylinders most often
// has, or nil when there is none to suggest.
func UsualOrder(n int) []Cylinder { return slices.Clone(usualOrders[n]) }

// Validate says what of the engine cannot be, field by field.
func (e Engine) Validate() error {
	var bad invalid.Errors
	if e.Arrangement != Inline {
		bad.Add("arrangement", "inline", invalid.Quote(string(e.Arrangement)))
	}
	if e.Ignition != CoilOnPlug {
		bad.Add("ignition", "coil-on-plug", invalid.Quote(string(e.Ignition)))
	}
	if e.Cylinders < MinInline || e.Cylinders > MaxInline {
		bad.Add("cylinders", fmt.Sprintf("%d to %d cylinders in line", MinInline, MaxInline), strconv.Itoa(e.Cylinders))
		return bad
	}
	ends := map[Mounting][]Side{Lengthways: {Front, Firewall}, Crossways: {Left, Right}}
	if sides, ok := ends[e.Mounting]; !ok {
		bad.Add("mounting", "lengthways or crossways", invalid.Quote(string(e.Mounting)))
	} else if !slices.Contains(sides, e.BeltEnd) {
		bad.Add("belt_end", fmt.Sprintf("%s or %s for an engine mounted %s", sides[0], sides[1], e.Mounting), invalid.Quote(string(e.BeltEnd)))
	}
	if err := e.checkOrder(); err != nil {
		bad.Under("firing_order", err)
	}
	return bad.Err()
}

func (e Engine) checkOrder() error {
	seen := map[Cylinder]bool{}
	for _, c := range e.FiringOrder {
		if c < 1 || int(c) > e.Cylinders || seen[c] {
			seen = nil
			break
		}
		seen[c] = true
	}
	if len(seen) != e.Cylinders || len(e.FiringOrder) != e.Cylinders {
		return invalid.Error{
			Expected: fmt.Sprintf("each of the cylinders 1 to %d exactly once, such as %s", e.Cylinders, OrderString(usualOrders[e.Cylinders])),
			Got:      invalid.Quote(OrderString(e.FiringOrder)),
		}
	}
	return nil
}

// OrderString writes a firing order as the trade does: "1-3-4-2".
func OrderString(order []Cylinder) string {
	words := make([]string, len(order))
	for i, c := range order {
		words[i] = strconv.Itoa(int(c))
	}
	return strings.Join(words, "-")
}

// ParseOrder reads a firing order: cylinder numbers with dashes, commas or
// spaces between. Whether it suits an engine is for [Engine.Validate] to say.
func ParseOrder(s string) ([]Cylinder, error) {
	words := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune("-–, \t", r) })
	bad := invalid.Error{Expected: "cylinder numbers with dashes between, such as 1-3-4-2", Got: invalid.Quote(s)}
	if len(words) == 0 || len(words) > 12 {
		return nil, bad
	}
	order := make([]Cylinder, len(words))
	for i, w := range words {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 || n > 12 {
			return nil, bad
		}
		order[i] = Cylinder(n)
	}
	return order, nil
}

// All lists the cylinders in numerical order.
func (e Engine) All() []Cylinder {
	all := make([]Cylinder, e.Cylinders)
	for i := range all {
		all[i] = Cylinder(i + 1)
	}
	return all
}

// Neighbours lists the cylinders that stand beside c in its row. A neighbour
// can share a gasket or an air leak with c.
func (e Engine) Neighbours(c Cylinder) []Cylinder {
	var beside []Cylinder
	for _, n := range []Cylinder{c - 1, c + 1} {
		if n >= 1 && int(n) <= e.Cylinders {
			beside = append(beside, n)
		}
	}
	return beside
}

// Companion is the cylinder whose piston rises together with c's: half the
// firing order away. An engine with an odd number of cylinders has none.
func (e Engine) Companion(c Cylinder) (Cylinder, bool) {
	n := len(e.FiringOrder)
	i := slices.Index(e.FiringOrder, c)
	if n%2 != 0 || i < 0 {
		return 0, false
	}
	return e.FiringOrder[(i+n/2)%n], true
}

// Describe is the engine in a few words: "4 in line, crossways, coil on plug,
// firing 1-3-4-2".
func (e Engine) Describe() string {
	return fmt.Sprintf("%d in line, %s, %s, firing %s", e.Cylinders, e.Mounting,
		strings.ReplaceAll(string(e.Ignition), "-", " "), OrderString(e.FiringOrder))
}
