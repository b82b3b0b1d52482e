package trouble

import (
	"fmt"
	"strconv"

	"glenmist/core/engine"
)

// Family is a run of codes that mean the same of several things in turn.
type Family struct {
	// Name is a stable word for the family.
	Name string
	// First and Last are the printed digits of its first and last code, after the
	// letter P, counted in decimal.
	First, Last int
	// Words states what it means; %s stands for what the code counts.
	Words string
	// counts states what is counted from First, or nil when nothing is.
	counts func(n int) string
	// Weighs is true if the search for a misfire weighs it; the others are noted.
	Weighs bool
}

func cylinder(n int) string { return fmt.Sprintf("cylinder %d", n+1) }

// coil is a coil by its letter, A for the first. A letter is not always a
// cylinder number: on wasted spark one coil serves a pair.
func coil(n int) string { return fmt.Sprintf("coil %c", 'A'+n) }

// thirds counts one thing in steps of three codes, with a word for each.
func thirds(of func(int) string, words ...string) func(int) string {
	return func(n int) string { return of(n/3) + ": " + words[n%3] }
}

// Families lists the powertrain codes that matter in the search for a misfire,
// after SAE J2012 / ISO 15031-6 (M, from memory). Digits are counted in decimal
// as printed, not on the bytes. A code of another family is noted as it is.
var Families = []Family{
	{"misfire.random", 300, 300, "misfire on several cylinders or at random", nil, true},
	{"misfire.cylinder", 301, 312, "misfire on %s", cylinder, true},
	{"misfire.low-fuel", 313, 313, "misfire with low fuel", nil, false},
	{"misfire.one-unidentified", 314, 314, "misfire on one cylinder, not identified", nil, false},
	{"misfire.at-start", 316, 316, "misfire in the first 1000 revolutions after start", nil, false},
	{"coil.circuit", 351, 362, "%s, primary or secondary circuit", coil, true},
	{"coil.control", 2300, 2335, "%s", thirds(coil, "control circuit low", "control circuit high", "secondary circuit"), true},
	{"injector.circuit", 201, 212, "injector circuit, %s", cylinder, true},
	{"injector.control", 261, 296, "injector, %s", thirds(cylinder, "circuit low", "circuit high", "contribution or balance"), true},
	{"bank.lean", 171, 171, "bank 1 lean", nil, true},
	{"bank.rich", 172, 172, "bank 1 rich", nil, true},
	{"bank.lean", 174, 174, "bank 2 lean", nil, true},
	{"bank.rich", 175, 175, "bank 2 rich", nil, true},
	{"knock", 325, 334, "knock sensor", nil, false},
	{"crank", 335, 339, "crankshaft position", nil, false},
	{"cam", 340, 344, "camshaft position, bank 1", nil, false},
	{"maker", 1000, 1999, "the maker's own code", nil, false},
}

// printed is the decimal value of a P code's digits; ok is false for other
// letters and for codes with a hexadecimal letter among their digits.
func (c Code) printed() (n int, ok bool) {
	s := c.String()
	if s[0] != 'P' {
		return 0, false
	}
	n, err := strconv.Atoi(s[1:])
	return n, err == nil
}

// Family is the family that a code belongs to; ok is false for one that is in no
// list here.
func (c Code) Family() (f Family, ok bool) {
	n, ok := c.printed()
	if !ok {
		return Family{}, false
	}
	for _, f := range Families {
		if n >= f.First && n <= f.Last {
			return f, true
		}
	}
	return Family{}, false
}

// Meaning is the code in words, and whether it weighs in the search for a
// misfire. Codes that do not are noted and left alone.
func (c Code) Meaning() (words string, weighs bool) {
	f, ok := c.Family()
	if !ok {
		return "another system's code", false
	}
	if f.counts == nil {
		return f.Words, f.Weighs
	}
	n, _ := c.printed()
	return fmt.Sprintf(f.Words, f.counts(n-f.First)), f.Weighs
}

// MisfireCylinder returns which cylinder a misfire code names: P0301 to P0312
// name cylinder 1 to 12.
func (c Code) MisfireCylinder() (engine.Cylinder, bool) {
	if f, ok := c.Family(); !ok || f.Name != "misfire.cylinder" {
		return 0, false
	}
	n, _ := c.printed()
	return engine.Cylinder(n - 300), true
}

// Circuit returns which item of the engine's layout a circuit code names: a coil by
// its letter, or an injector by its cylinder, and the cylinders that it feeds. A
// letter is resolved through the layout: on wasted spark coil A serves a pair.
// known is true for a circuit code also where the engine has no such item; then
// feeds is empty.
func (c Code) Circuit(e engine.Engine) (kind engine.Kind, feeds engine.Set, known bool) {
	f, ok := c.Family()
	if !ok {
		return "", 0, false
	}
	n, _ := c.printed()
	n -= f.First
	switch f.Name {
	case "coil.circuit", "coil.control":
		if f.Name == "coil.control" {
			n /= 3
		}
		if coils := e.Coils(); n < len(coils) {
			feeds = engine.SetOf(coils[n].Cylinders...)
		}
		return engine.Coil, feeds, true
	case "injector.circuit", "injector.control":
		if f.Name == "injector.control" {
			n /= 3
		}
		if n < e.Cylinders && e.Fuel == engine.Injected {
			feeds = engine.SetOf(engine.Cylinder(n + 1))
		}
		return engine.Injector, feeds, true
	}
	return "", 0, false
}

// Mixture returns which bank a code calls lean or rich.
func (c Code) Mixture() (bank int, lean, ok bool) {
	f, _ := c.Family()
	if f.Name != "bank.lean" && f.Name != "bank.rich" {
		return 0, false, false
	}
	return 1 + (f.First-171)/3, f.Name == "bank.lean", true
}

// In is the code in words as it bears on an engine: a coil's letter with the
// cylinders it serves.
func (c Code) In(e engine.Engine) string {
	words, _ := c.Meaning()
	if kind, feeds, ok := c.Circuit(e); ok && kind == engine.Coil && feeds != 0 {
		words += ", which serves " + feeds.String()
	}
	return words
}

// Rank returns which codes to follow first: circuit codes (0) before the misfire
// codes of a cylinder (1), those before random misfire and mixture (2), and the
// rest last (3) (C).
func (c Code) Rank() int {
	f, _ := c.Family()
	switch f.Name {
	case "coil.circuit", "coil.control", "injector.circuit", "injector.control":
		return 0
	case "misfire.cylinder":
		return 1
	case "misfire.random", "misfire.one-unidentified", "misfire.at-start", "misfire.low-fuel", "bank.lean", "bank.rich", "crank", "cam":
		return 2
	}
	return 3
}
