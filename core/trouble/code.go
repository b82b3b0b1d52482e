// Package trouble reads diagnostic trouble codes: their letters and numbers,
// the state a control unit holds them in, and what each points at. A code names
// a cylinder or a circuit, never a part.
//
// Numbering after SAE J2012 / ISO 15031-6 (from memory).
package trouble

import (
	"fmt"
	"strconv"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Code is a trouble code as the bus carries it: two bits of letter (P C B U),
// two bits of first digit, and three hexadecimal digits.
type Code uint16

const letters = "PCBU"

// Parse reads a code as printed: a letter of P C B U, a digit 0 to 3 and three
// hexadecimal digits, in any case, with blanks or a dash let pass.
func Parse(s string) (Code, error) {
	bad := invalid.Error{Expected: "a trouble code: P, C, B or U, a digit 0 to 3 and three more digits, such as P0302", Got: invalid.Quote(s)}
	text := strings.ToUpper(strings.NewReplacer(" ", "", "-", "").Replace(strings.TrimSpace(s)))
	if len(text) != 5 {
		return 0, bad
	}
	letter := strings.IndexByte(letters, text[0])
	if letter < 0 || text[1] < '0' || text[1] > '3' {
		return 0, bad
	}
	rest, err := strconv.ParseUint(text[2:], 16, 12)
	if err != nil {
		return 0, bad
	}
	return Code(letter<<14 | int(text[1]-'0')<<12 | int(rest)), nil
}

// String prints the code as the trade writes it: "P0302".
func (c Code) String() string {
	return fmt.Sprintf("%c%d%03X", letters[c>>14], c>>12&3, uint16(c)&0xFFF)
}

// MarshalText writes the printed form.
func (c Code) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

// UnmarshalText reads the printed form.
func (c *Code) UnmarshalText(text []byte) error {
	v, err := Parse(string(text))
	if err != nil {
		return err
	}
	*c = v
	return nil
}

// RandomMisfire is P0300, which names no cylinder.
const RandomMisfire Code = 0x0300

// MisfireOn is the misfire code of a cylinder, 1 to 12: P0301 to P0312, counted
// in decimal on the printed digits.
func MisfireOn(c engine.Cylinder) Code {
	return RandomMisfire + Code(int(c)/10<<4+int(c)%10)
}
