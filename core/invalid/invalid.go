// Package invalid carries what is wrong with an input: which field, what was
// expected there, and what came. Every edge (form, case file, command line)
// shows the same three facts.
package invalid

import (
	"errors"
	"fmt"
	"strings"
)

// Error is one field that cannot be used as it is.
type Error struct {
	// Field names the input by its path, such as "ledger[3].counters.counts[1]".
	Field string `json:"field"`
	// Expected states what would have been accepted, in the reader's words.
	Expected string `json:"expected"`
	// Got states what came instead.
	Got string `json:"got"`
}

func (e Error) Error() string {
	return fmt.Sprintf("%s: expected %s, got %s", e.Field, e.Expected, e.Got)
}

// Errors is every field of one input that cannot be used. The zero value is an
// input with nothing wrong.
type Errors []Error

// Add notes one more field.
func (es *Errors) Add(field, expected, got string) {
	*es = append(*es, Error{field, expected, got})
}

// Under adds all that is wrong with a part of the input, below its own path.
// An err that carries no fields is noted at the path itself.
func (es *Errors) Under(path string, err error) {
	if err == nil {
		return
	}
	for _, e := range From(err) {
		field := path
		switch {
		case e.Field == "":
		case path == "", strings.HasPrefix(e.Field, "["):
			field = path + e.Field
		default:
			field = path + "." + e.Field
		}
		*es = append(*es, Error{field, e.Expected, e.Got})
	}
}

// Err is nil when nothing is wrong, and es otherwise.
func (es Errors) Err() error {
	if len(es) == 0 {
		return nil
	}
	return es
}

func (es Errors) Error() string {
	lines := make([]string, len(es))
	for i, e := range es {
		lines[i] = e.Error()
	}
	return strings.Join(lines, "; ")
}

// From finds the fields that err carries. An err without any becomes a single
// Error with no field.
func From(err error) Errors {
	if err == nil {
		return nil
	}
	if es, ok := errors.AsType[Errors](err); ok {
		return es
	}
	if e, ok := errors.AsType[Error](err); ok {
		return Errors{e}
	}
	return Errors{{Expected: "input that can be used", Got: err.Error()}}
}

// Is reports whether err carries a field: the input is wrong, and not the machine.
func Is(err error) bool {
	if _, ok := errors.AsType[Errors](err); ok {
		return true
	}
	_, ok := errors.AsType[Error](err)
	return ok
}

// Quote shows a value that came in, cut short so that a message stays a line.
func Quote(s string) string {
	const most = 40
	if s == "" {
		return "nothing"
	}
	r := []rune(strings.ToValidUTF8(s, "\uFFFD"))
	if len(r) > most {
		return fmt.Sprintf("“%s…”", string(r[:most]))
	}
	return fmt.Sprintf("“%s”", string(r))
}
