package invalid

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Text checks a short text: something in it unless it may be empty, at most so
// many bytes, in UTF-8, and no control characters but line breaks and tabs.
// expected describes it, for the message.
func Text(field, value, expected string, most int, mayBeEmpty bool) error {
	var bad Errors
	switch {
	case !mayBeEmpty && strings.TrimSpace(value) == "", len(value) > most:
		bad.Add(field, fmt.Sprintf("%s, at most %d characters", expected, most), Quote(value))
	case !Clean(value):
		bad.Add(field, expected+", in UTF-8 without control characters", Quote(value))
	}
	return bad.Err()
}

// Clean reports whether a text is UTF-8 without control characters but line breaks
// and tabs.
func Clean(s string) bool {
	return utf8.ValidString(s) && !strings.ContainsFunc(s, func(r rune) bool {
		return unicode.IsControl(r) && r != '\n' && r != '\r' && r != '\t'
	})
}
