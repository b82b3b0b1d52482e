package engine

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// shape is an arrangement with a number of cylinders and a numbering.
type shape struct {
	arrangement Arrangement
	cylinders   int
	numbering   Numbering
}

// usualOrders lists the firing order that is proposed for a new engine (M: textbook firing
// orders, from memory). The vehicle's own record takes precedence.
var usualOrders = map[shape]string{
	{Single, 1, ""}: "1",
	{Inline, 2, ""}: "1-2", {Inline, 3, ""}: "1-3-2", {Inline, 4, ""}: "1-3-4-2", {Inline, 5, ""}: "1-2-4-5-3",
	{Inline, 6, ""}: "1-5-3-6-2-4", {Inline, 8, ""}: "1-6-2-5-8-3-7-4",
	{V, 2, Along}: "1-2", {V, 2, Alternating}: "1-2",
	{V, 4, Along}: "1-3-4-2", {V, 4, Alternating}: "1-3-4-2",
	{V, 6, Along}: "1-4-2-5-3-6", {V, 6, Alternating}: "1-2-3-4-5-6",
	{V, 8, Along}: "1-5-4-2-6-3-7-8", {V, 8, Alternating}: "1-8-4-3-6-5-7-2",
	{V, 10, Along}: "1-6-5-10-2-7-3-8-4-9", {V, 12, Along}: "1-7-5-11-3-9-6-12-2-8-4-10",
	{Flat, 2, Along}: "1-2", {Flat, 2, Alternating}: "1-2",
	{Flat, 4, Along}: "1-3-2-4", {Flat, 4, Alternating}: "1-3-2-4",
	{Flat, 6, Along}: "1-6-2-4-3-5", {Flat, 6, Alternating}: "1-6-3-2-5-4",
}

// UsualOrder returns the most common firing order of an engine of this shape. If none is
// known, it returns the cylinders by number.
func UsualOrder(a Arrangement, cylinders int, n Numbering) []Cylinder {
	if order, err := ParseOrder(usualOrders[shape{a, cylinders, n}]); err == nil {
		return order
	}
	return Engine{Cylinders: max(0, min(cylinders, MaxCylinders))}.All()
}

func (e Engine) usualOrder() []Cylinder { return UsualOrder(e.Arrangement, e.Cylinders, e.Numbering) }

func (e Engine) checkOrder() error {
	var seen Set
	for _, c := range e.FiringOrder {
		if c < 1 || int(c) > e.Cylinders || seen.Has(c) {
			seen = 0
			break
		}
		seen |= SetOf(c)
	}
	if seen != e.Everything() || len(e.FiringOrder) != e.Cylinders {
		return invalid.Error{
			Expected: fmt.Sprintf("each of the cylinders 1 to %d exactly once, such as %s", e.Cylinders, OrderString(e.usualOrder())),
			Got:      invalid.Quote(OrderString(e.FiringOrder)),
		}
	}
	return nil
}

// OrderString writes a firing order as the trade writes it: "1-3-4-2".
func OrderString(order []Cylinder) string {
	words := make([]string, len(order))
	for i, c := range order {
		words[i] = strconv.Itoa(int(c))
	}
	return strings.Join(words, "-")
}

// ParseOrder reads a firing order: cylinder numbers separated by dashes, commas or spaces.
// [Engine.Validate] checks whether it suits an engine.
func ParseOrder(s string) ([]Cylinder, error) {
	words := strings.FieldsFunc(s, func(r rune) bool { return strings.ContainsRune("-–, \t", r) })
	bad := invalid.Error{Expected: "cylinder numbers with dashes between, such as 1-3-4-2", Got: invalid.Quote(s)}
	if len(words) == 0 || len(words) > MaxCylinders {
		return nil, bad
	}
	order := make([]Cylinder, len(words))
	for i, w := range words {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 || n > MaxCylinders {
			return nil, bad
		}
		order[i] = Cylinder(n)
	}
	return order, nil
}

// Companion returns the cylinder whose piston moves together with that of c, half the firing
// order away. Engines with an odd number of cylinders or uneven firing intervals have none.
func (e Engine) Companion(c Cylinder) (Cylinder, bool) {
	n := len(e.FiringOrder)
	i := slices.Index(e.FiringOrder, c)
	if n%2 != 0 || i < 0 || e.Uneven {
		return 0, false
	}
	return e.FiringOrder[(i+n/2)%n], true
}

// FiresBefore returns the cylinder that fires just before c, or 0 if no other does.
func (e Engine) FiresBefore(c Cylinder) Cylinder {
	n := len(e.FiringOrder)
	i := slices.Index(e.FiringOrder, c)
	if i < 0 || n < 2 {
		return 0
	}
	return e.FiringOrder[(i+n-1)%n]
}

// FiringNeighbours returns the cylinders that fire just before and just after c. On a
// distributor their towers are next to that of c.
func (e Engine) FiringNeighbours(c Cylinder) []Cylinder {
	n := len(e.FiringOrder)
	i := slices.Index(e.FiringOrder, c)
	if i < 0 || n < 2 {
		return nil
	}
	before, after := e.FiringOrder[(i+n-1)%n], e.FiringOrder[(i+1)%n]
	if before == after {
		return []Cylinder{after}
	}
	return []Cylinder{before, after}
}
