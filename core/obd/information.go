package obd

import (
	"strings"

	"glenmist/core/invalid"
)

// Kinds of information (SAE J1979, appendix G, from memory). The number of the vehicle is not read: it would say whose it is.
const (
	CalibrationID = 0x04
	UnitName      = 0x0A
)

// ReadText reads an answer to information that is text: the kind, the number of items, and the characters of all of them, filled up
// with zeros.
func ReadText(data []byte) (string, error) {
	if len(data) < 2 {
		return "", invalid.Error{Field: "information", Expected: "a kind, a number and text", Got: "less"}
	}
	text := strings.Map(func(r rune) rune {
		if r < ' ' || r > '~' {
			return ' '
		}
		return r
	}, string(data[2:]))
	return strings.Join(strings.Fields(text), " "), nil
}
