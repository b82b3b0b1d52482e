package worksheet

import (
	"errors"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/plug"
)

// ErrMoved says that somebody has marked the step since it was read.
var ErrMoved = errors.New("somebody has marked this step since it was read")

func fieldError(field, expected, got string) error {
	return invalid.Errors{{Field: field, Expected: expected, Got: invalid.Quote(got)}}
}

func under(field string, err error) error {
	var bad invalid.Errors
	bad.Under(field, err)
	return bad
}

// schoolOf returns the question of a step that chooses a school.
func schoolOf(step string) (School, bool) {
	name, ok := strings.CutPrefix(step, "school.")
	if !ok {
		return School{}, false
	}
	return FindSchool(name)
}

// gapOf reads a gap that was accepted before.
func gapOf(s string) (float64, bool) {
	g, err := plug.ParseGap(s)
	return g.MM, err == nil
}
