package plug

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// TypedGap is a gap as typed: a number, or the two gauge wires around it.
type TypedGap struct {
	// MM is the gap in millimetres; for two wires their mean.
	MM float64
	// Passes is the largest wire that passes, Stops the smallest that does not; both 0 if a
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

// Says states what two wires show about a range: inside, outside, or which wire to try. It is
// empty for a number or an unknown range.
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
