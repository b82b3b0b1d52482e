package engine

import (
	"fmt"
	"math/bits"
	"strings"
)

// Set is some of an engine's cylinders: bit c for cylinder c. The zero value
// holds none.
type Set uint16

// SetOf is the set of the cylinders given.
func SetOf(cylinders ...Cylinder) Set {
	var s Set
	for _, c := range cylinders {
		s |= 1 << c
	}
	return s
}

// Has says whether c is one of them.
func (s Set) Has(c Cylinder) bool { return s&(1<<c) != 0 }

// Len is how many they are.
func (s Set) Len() int { return bits.OnesCount16(uint16(s)) }

// First is the lowest of them, or 0 for none.
func (s Set) First() Cylinder {
	if s == 0 {
		return 0
	}
	return Cylinder(bits.TrailingZeros16(uint16(s)))
}

// List has them in numerical order.
func (s Set) List() []Cylinder {
	var all []Cylinder
	for rest := s; rest != 0; rest &= rest - 1 {
		all = append(all, rest.First())
	}
	return all
}

// String is "cylinder 3", "cylinders 1, 4 and 6" or "no cylinder".
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
