// Package engine knows the engine as it lies in the bay: how many cylinders,
// how they stand and are numbered, the order in which they fire, and which
// ignition feeds them.
package engine

import (
	"fmt"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Cylinder is a cylinder's number, counted from 1.
type Cylinder int

// Place names where something is: "cyl-3", "bank-1", "coil-B" or "engine".
type Place string

// Whole is the place of what belongs to no single cylinder.
const Whole Place = "engine"

// At is the place of one cylinder.
func At(c Cylinder) Place { return Place("cyl-" + strconv.Itoa(int(c))) }

// Cylinder says which cylinder the place is, if it is one.
func (p Place) Cylinder() (Cylinder, bool) {
	digits, ok := strings.CutPrefix(string(p), "cyl-")
	if !ok {
		return 0, false
	}
	n, err := strconv.Atoi(digits)
	if err != nil || n < 1 || strconv.Itoa(n) != digits {
		return 0, false
	}
	return Cylinder(n), true
}

// String is the place in words, such as "cylinder 3".
func (p Place) String() string {
	if c, ok := p.Cylinder(); ok {
		return fmt.Sprintf("cylinder %d", c)
	}
	if p == Whole {
		return "the whole engine"
	}
	return strings.ReplaceAll(string(p), "-", " ")
}

// ParseCylinder reads the place of one of e's cylinders, written "cyl-3" or
// just "3".
func (e Engine) ParseCylinder(s string) (Cylinder, error) {
	text := strings.TrimSpace(s)
	if n, err := strconv.Atoi(text); err == nil {
		text = string(At(Cylinder(n)))
	}
	c, ok := Place(text).Cylinder()
	if !ok || int(c) > e.Cylinders {
		return 0, invalid.Error{Expected: fmt.Sprintf("a cylinder of this engine, 1 to %d", e.Cylinders), Got: invalid.Quote(s)}
	}
	return c, nil
}
