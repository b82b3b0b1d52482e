package draw

import (
	"fmt"
	"strings"

	"glenmist/core/score"
)

// NewReliability draws stated probability against outcome: a point for each bin with its interval at 95 %, and
// the diagonal on which the points of a well-stated probability lie. It is nil without bins.
func NewReliability(bins []score.Bin) *Picture {
	if len(bins) == 0 {
		return nil
	}
	const left, top, side = 60, 14, 240
	c := &Picture{W: 420, H: 300}
	plot := c.Plot(left, top, side, side, 0, 1)
	x := func(p float64) float64 { return left + side*p }
	for _, p := range []float64{0, 0.25, 0.5, 0.75, 1} {
		c.Line("grid", fmt.Sprintf("M%d %.1fh%d", left, plot.At(p), side))
		c.Text("small", left-8, plot.At(p)+4, "end", fmt.Sprintf("%.0f %%", 100*p))
		c.Text("small", x(p), top+side+18, "middle", fmt.Sprintf("%.0f %%", 100*p))
	}
	c.Line("axis", fmt.Sprintf("M%d %dv%dh%d", left, top, side, side))
	c.Line("mid", fmt.Sprintf("M%d %.1fL%d %.1f", left, plot.At(0), left+side, plot.At(1)))
	c.Text("small", left+side/2, top+side+36, "middle", "said at the signature")
	c.Text("small", left+side+12, plot.At(1)+4, "start", "share that held")
	var words []string
	for _, b := range bins {
		at := x(b.Said)
		c.Line("whisk", fmt.Sprintf("M%.1f %.1fV%.1fm-4 0h8M%.1f %.1fh8", at, plot.At(b.Held.Low), plot.At(b.Held.High), at-4, plot.At(b.Held.Low)))
		c.Line("dot", fmt.Sprintf("M%.1f %.1fm-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0", at, plot.At(b.Held.P())))
		c.Text("small", at+12, plot.At(b.Held.P())+4, "start", fmt.Sprintf("%d of %d", b.Held.K, b.Held.N))
		words = append(words, fmt.Sprintf("said %.0f %%, held %d of %d", 100*b.Said, b.Held.K, b.Held.N))
	}
	c.Words = "Stated probability against outcome: " + strings.Join(words, "; ")
	return c
}
