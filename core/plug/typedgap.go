package plug

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// TypedGap is a gap as people type it: a number, or the two wires that it lies between.
type TypedGap struct {
	// MM is the gap in millimetres; between two wires their middle.
	MM float64
	// Passes and Stops are the largest wire that passes and the smallest that does not, 0 where a
	// number was typed.
	Passes, Stops float64
}

// ParseGap reads "0.9", "0.035 in", "35 thou", or two wires as "0.85-0.95". Errors are
// [invalid.Error].
func ParseGap(s string) (TypedGap, error) {
	first, second, two := strings.Cut(strings.NewReplacer("–", "-", "—", "-").Replace(s), "-")
	a, err := unit.Gap.Parse(first)
	if err != nil || !two {
		return TypedGap{MM: a}, err
	}
	b, err := unit.Gap.Parse(second)
	if err != nil {
		return TypedGap{}, err
	}
	if a >= b {
		return TypedGap{}, invalid.Error{Expected: "the largest wire that passes, a dash, and the smallest that does not: 0.85-0.95", Got: invalid.Quote(s)}
	}
	return TypedGap{math.Round((a+b)/2*1000) / 1000, a, b}, nil
}

// Says is what two wires say of a range: in, out, or which to try; nothing for a number, or where the
// range is not known.
func (t TypedGap) Says(low, high float64) string {
	if t.Stops == 0 || high == 0 {
		return ""
	}
	b, err := JudgeWires([]Wire{{MM: t.Passes, Tried: true, Passes: true}, {MM: t.Stops, Tried: true}}, low, high)
	switch {
	case err != nil:
		return ""
	case b.Verdict == CannotTell:
		return fmt.Sprintf("cannot tell: try a wire between %g and %g", t.Passes, t.Stops)
	}
	return string(b.Verdict)
}
