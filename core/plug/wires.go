package plug

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glenmist/core/invalid"
)

// Wire is one gauge wire of a set in millimetres, with its result.
type Wire struct {
	MM     float64
	Tried  bool
	Passes bool // valid only if tried
}

// GapVerdict compares a gap with its range, from gauge wires.
type GapVerdict string

// The verdicts.
const (
	In         GapVerdict = "in"
	Out        GapVerdict = "out"
	CannotTell GapVerdict = "cannot tell"
)

// Bracket is the result of a set of gauge wires.
type Bracket struct {
	// The gap is at least Low and less than High, in millimetres. High is +Inf if no wire has
	// stopped.
	Low, High float64
	Verdict   GapVerdict
	// Next is the wire to try, or 0 if none of the set helps.
	Next float64
}

// Bounds of a set.
const (
	leastWires, mostWires = 2, 40
	thinnest, thickest    = 0.05, 10.0
)

// JudgeWires brackets a gap with a range of low to high millimetres, inclusive. Errors are
// [invalid.Errors] at wires, low or high.
func JudgeWires(wires []Wire, low, high float64) (Bracket, error) {
	var bad invalid.Errors
	if !(low >= thinnest && high <= thickest && low <= high) {
		bad.Add("high", fmt.Sprintf("a range whose low end is not above its high end, within %g to %g mm", thinnest, thickest), fmt.Sprintf("%g to %g", low, high))
	}
	if len(wires) < leastWires || len(wires) > mostWires {
		bad.Add("wires", fmt.Sprintf("%d to %d wires: one alone brackets nothing", leastWires, mostWires), fmt.Sprint(len(wires)))
	}
	b := Bracket{High: math.Inf(1)}
	wires = slices.Clone(wires)
	slices.SortStableFunc(wires, func(x, y Wire) int { return cmp.Compare(x.MM, y.MM) })
	for i, w := range wires {
		if !(w.MM >= thinnest && w.MM <= thickest) || i > 0 && w.MM == wires[i-1].MM {
			bad.Add("wires", fmt.Sprintf("wires of %g to %g mm, each once", thinnest, thickest), fmt.Sprintf("%g", w.MM))
			break
		}
		switch {
		case w.Tried && w.Passes:
			b.Low = w.MM
		case w.Tried:
			b.High = min(b.High, w.MM)
		}
	}
	if b.Low >= b.High {
		bad.Add("wires", "no wire that passes where a thinner one stops", fmt.Sprintf("%g passes, %g stops", b.Low, b.High))
	}
	if len(bad) > 0 {
		return Bracket{}, bad
	}
	b.Verdict = b.says(low, high)
	if b.Verdict == CannotTell {
		b.Next = b.next(wires, low, high)
	}
	return b, nil
}

// says returns the verdict on a gap from b.Low to b.High.
func (b Bracket) says(low, high float64) GapVerdict {
	switch {
	case b.Low > high, b.High <= low:
		return Out
	case b.Low >= low && b.High <= high:
		return In
	}
	return CannotTell
}

// next returns the wire with the most informative result. It prefers a wire that decides both
// ways, then one way, then one that halves the interval. Among equals it takes the one nearest
// to the middle.
func (b Bracket) next(wires []Wire, low, high float64) (best float64) {
	most := -1
	for _, w := range wires {
		if w.Tried || w.MM <= b.Low || w.MM >= b.High {
			continue
		}
		decided := 0
		for _, after := range []Bracket{{Low: w.MM, High: b.High}, {Low: b.Low, High: w.MM}} {
			if after.says(low, high) != CannotTell {
				decided++
			}
		}
		middle := (low + high) / 2
		if decided > most || decided == most && math.Abs(w.MM-middle) < math.Abs(best-middle) {
			most, best = decided, w.MM
		}
	}
	return best
}
