package engine

import (
	"fmt"
	"math/bits"
	"strings"
)

// Set is a set of cylinders: bit c for cylinder c. The zero value is empty.
type Set uint16

// SetOf returns the set of the given cylinders.
func SetOf(cylinders ...Cylinder) Set {
	var s Set
	for _, c := range cylinders {
		s |= 1 << c
	}
	return s
}

// Has reports whether c is in the set.
func (s Set) Has(c Cylinder) bool { return s&(1<<c) != 0 }

// Len returns the number of cylinders in the set.
func (s Set) Len() int { return bits.OnesCount16(uint16(s)) }

// First returns the lowest cylinder, or 0 if the set is empty.
func (s Set) First() Cylinder {
	if s == 0 {
		return 0
	}
	return Cylinder(bits.TrailingZeros16(uint16(s)))
}

// List returns the cylinders in numerical order.
func (s Set) List() []Cylinder {
	var all []Cylinder
	for rest := s; rest != 0; rest &= rest - 1 {
		all = append(all, rest.First())
	}
	return all
}

// String returns "cylinder 3", "cylinders 1, 4 and 6" or "no cylinder".
func (s Set) String() string {
	all := s.List()
	switch len(all) {
	case 0:
		return "no cylinder"
	case 1:
		return fmt.Sprintf("cylinder %d", all[0])
	}
	words := make([]string, len(all))
	for i, c := range all {
		words[i] = fmt.Sprint(int(c))
	}
	return "cylinders " + strings.Join(words[:len(words)-1], ", ") + " and " + words[len(words)-1]
}
