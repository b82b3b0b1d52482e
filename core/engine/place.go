// Package engine describes an engine in its bay: its cylinders and their numbering, the firing
// order, the ignition layout with its parts, and the covers over them.
package engine

import (
	"fmt"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Cylinder is the number of a cylinder, counted from 1.
type Cylinder int

// Place is the key of a location: "cyl-3", "bank-1", "coil-B", "engine", or "bench" for a part
// that is out of the engine.
type Place string

// Whole is the place of components that belong to no single cylinder. Bench is the place of
// parts that are out of the engine.
const (
	Whole Place = "engine"
	Bench Place = "bench"
)

// At returns the place of one cylinder.
func At(c Cylinder) Place { return Place("cyl-" + strconv.Itoa(int(c))) }

// AtBank returns the place of one bank.
func AtBank(bank int) Place { return Place("bank-" + strconv.Itoa(bank)) }

// AtCoil returns the place of a coil that serves more than one cylinder, by its letter.
func AtCoil(l Letter) Place { return Place("coil-" + l.String()) }

// Letter is the letter of a coil: 0 is A.
type Letter int

// MaxLetter is the last letter that a coil can have: L, as in the trouble codes.
const MaxLetter Letter = 11

func (l Letter) String() string { return string(rune('A' + l)) }

// ParseLetter reads a coil's letter, A to L.
func ParseLetter(s string) (Letter, bool) {
	if len(s) != 1 || s[0] < 'A' || s[0] > byte('A'+MaxLetter) {
		return 0, false
	}
	return Letter(s[0] - 'A'), true
}

// Cylinder returns the cylinder of the place; ok is false if the place is no cylinder.
func (p Place) Cylinder() (Cylinder, bool) {
	n, ok := p.number("cyl-")
	return Cylinder(n), ok
}

// Bank returns the bank of the place; ok is false if the place is no bank.
func (p Place) Bank() (int, bool) { return p.number("bank-") }

// Coil returns the coil of the place; ok is false if the place is no coil.
func (p Place) Coil() (Letter, bool) {
	s, ok := strings.CutPrefix(string(p), "coil-")
	if !ok {
		return 0, false
	}
	return ParseLetter(s)
}

func (p Place) number(prefix string) (int, bool) {
	digits, ok := strings.CutPrefix(string(p), prefix)
	if !ok {
		return 0, false
	}
	n, err := strconv.Atoi(digits)
	if err != nil || n < 1 || n > MaxCylinders || strconv.Itoa(n) != digits {
		return 0, false
	}
	return n, true
}

// String returns the place in words, such as "cylinder 3" or "coil B".
func (p Place) String() string {
	if c, ok := p.Cylinder(); ok {
		return fmt.Sprintf("cylinder %d", c)
	}
	switch p {
	case Whole:
		return "the whole engine"
	case Bench:
		return "the bench"
	}
	return strings.ReplaceAll(string(p), "-", " ")
}

// ParseCylinder reads the place of a cylinder of this engine, written "cyl-3" or "3".
func (e Engine) ParseCylinder(s string) (Cylinder, error) {
	text := strings.TrimSpace(s)
	if n, err := strconv.Atoi(text); err == nil {
		text = string(At(Cylinder(n)))
	}
	c, ok := Place(text).Cylinder()
	if !ok || int(c) > e.Cylinders {
		expected := fmt.Sprintf("a cylinder of this engine, 1 to %d", e.Cylinders)
		if e.Cylinders == 1 {
			expected = "cylinder 1, the only one of this engine"
		}
		return 0, invalid.Error{Expected: expected, Got: invalid.Quote(s)}
	}
	return c, nil
}

// Feeds returns the cylinders that belong to a place or are served from it; ok is false for a
// place that this engine does not have.
func (e Engine) Feeds(p Place) (Set, bool) {
	if c, ok := p.Cylinder(); ok {
		return SetOf(c), int(c) <= e.Cylinders
	}
	if b, ok := p.Bank(); ok {
		return e.BankSet(b), b <= e.Banks() && e.Banks() > 1
	}
	if l, ok := p.Coil(); ok {
		coils := e.Coils()
		if int(l) >= len(coils) || coils[l].Place != p {
			return 0, false
		}
		return SetOf(coils[l].Cylinders...), true
	}
	return e.Everything(), p == Whole
}
