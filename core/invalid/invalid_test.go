package invalid

import (
	"strings"
	"testing"
)

// What came is shown in up to 40 letters, whatever their size in bytes.
func TestQuoteShowsForty(t *testing.T) {
	for text, want := range map[string]string{
		"":                      "nothing",
		"12 mm":                 "“12 mm”",
		strings.Repeat("é", 40): "“" + strings.Repeat("é", 40) + "”",
		strings.Repeat("é", 41): "“" + strings.Repeat("é", 40) + "…”",
		"half a letter: \xc3":   "“half a letter: \uFFFD”",
	} {
		if got := Quote(text); got != want {
			t.Errorf("%q: %s, want %s", text, got, want)
		}
	}
}

// What is wrong with a part of an input is named by its path, with a dot before a name and none
// before an index.
func TestUnderNamesThePath(t *testing.T) {
	var bad Errors
	bad.Under("ledger", Errors{{Field: "[3].by", Expected: "a name", Got: "nothing"}, {Field: "seq", Expected: "4", Got: "3"}})
	bad.Under("", Error{Field: "number", Expected: "a number", Got: "none"})
	bad.Under("note", nil)
	if got, want := bad.Error(), "ledger[3].by: expected a name, got nothing; ledger.seq: expected 4, got 3; number: expected a number, got none"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}
