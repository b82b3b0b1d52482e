package draw

import (
	"fmt"
	"math"

	"glenmist/core/readings"
	"glenmist/core/unit"
)

// Strip draws the readings of a set on one scale from zero.
type Strip struct {
	W, H         int
	Left         int
	Median       int // position of the siblings' median
	BandX, BandW int
	Dots         []stripDot
	Words        string
}

type stripDot struct {
	X, Y             int
	Name, Value      string
	Abnormal, Beyond bool
	// Leftwards is true if the value does not fit to the right of the mark.
	Leftwards bool
}

// NewStrip lays out the readings of a sheet.
func NewStrip(s readings.Sheet) *Strip {
	const left, right, row, inner = 118, 92, 26, 290
	top := 2 * s.Median
	for _, l := range s.Lines {
		if l.Known {
			top = max(top, min(l.Value, 3*s.Median))
		}
	}
	if top <= 0 {
		top = 1
	}
	x := func(v float64) int { return left + int(math.Round(inner*min(1, v/top))) }
	v := &Strip{W: left + inner + right, H: row*len(s.Lines) + 8, Left: left, Median: x(s.Median), Words: unit.Capital(s.Siblings)}
	v.BandX = x(max(0, s.Median-3.5*s.Spread))
	v.BandW = max(2, x(s.Median+3.5*s.Spread)-v.BandX)
	for i, l := range s.Lines {
		d := stripDot{Y: row*i + 16, Name: l.Name, Value: "over range", X: left + inner, Abnormal: l.Abnormal, Beyond: true}
		if l.Known {
			d.X, d.Beyond, d.Value = x(l.Value), l.Value > top, readings.Figure(l.Value, s.Unit)
		}
		d.Leftwards = d.X > left+inner*3/4
		v.Dots = append(v.Dots, d)
	}
	return v
}

// Mark returns the outline of a dot: a ring if normal, a triangle if abnormal.
func (d stripDot) Mark() string {
	if d.Abnormal {
		return fmt.Sprintf("M%d %dl8 13h-16z", d.X, d.Y-8)
	}
	return fmt.Sprintf("M%d %da5 5 0 1 0 10 0a5 5 0 1 0 -10 0z", d.X-5, d.Y)
}

// TextX returns the position of the value's label.
func (v Strip) TextX(d stripDot) int {
	if d.Leftwards {
		return d.X - 14
	}
	return d.X + 14
}
