package draw

import (
	"fmt"
	"strings"

	"glenmist/core/plan"
	"glenmist/core/unit"
)

// Measures of the picture of a proof, in pixels.
const (
	proofW, proofH = 420, 190
	proofLeft      = 84
	proofTop       = 26
	proofWide      = 318
	proofTall      = 118
)

// NewProof draws how long is long enough: the evidence for the repair over what was counted since, run by run,
// between the limits "not fixed" and "proven". A dashed line leads from now to the proof. It is nil if
// nothing can be weighed.
func NewProof(p plan.Proof, trail []plan.ProofPoint) *Picture {
	if !p.Known || len(trail) == 0 {
		return nil
	}
	now := trail[len(trail)-1]
	most := max(1, now.Times+p.More)
	c := &Picture{W: proofW, H: proofH}
	plot := c.Plot(proofLeft, proofTop, proofWide, proofTall, -1, 1)
	x := func(times int) float64 { return proofLeft + proofWide*float64(times)/float64(most) }
	for _, line := range []struct {
		at    float64
		class string
		words string
	}{{1, "need", "proven"}, {0, "grid", "repair"}, {-1, "odd", "not fixed"}} {
		c.Line(line.class, fmt.Sprintf("M%d %.1fh%d", proofLeft, plot.At(line.at), proofWide))
		c.Text("small", proofLeft-8, plot.At(line.at)+4, "end", line.words)
	}
	c.Line("axis", fmt.Sprintf("M%d %.1fv%d", proofLeft, plot.Top, proofTall))
	var path strings.Builder
	for i, at := range trail {
		fmt.Fprintf(&path, "%c%.1f %.1f", "ML"[min(i, 1)], x(at.Times), plot.At(at.Progress))
		if i > 0 {
			c.Line("dot", fmt.Sprintf("M%.1f %.1fm-5 0a5 5 0 1 0 10 0a5 5 0 1 0-10 0", x(at.Times), plot.At(at.Progress)))
		}
	}
	c.Line("whisk", path.String())
	of := "firing events"
	if p.Of != "" {
		of = p.Of.Many()
	}
	if p.More > 0 {
		c.Line("was", fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x(now.Times), plot.At(now.Progress), x(most), plot.At(1)))
		c.Text("label", proofLeft+proofWide, proofTop-10, "end", fmt.Sprintf("%s more without a misfire", unit.Thousands(p.More)))
	}
	c.Text("small", proofLeft, proofTop+proofTall+18, "start", "0")
	c.Text("small", proofLeft+proofWide, proofTop+proofTall+18, "end", unit.Thousands(most))
	c.Text("small", proofLeft+proofWide/2, proofTop+proofTall+34, "middle", of+" since the repair")
	c.Words = fmt.Sprintf("After %s %s the repair is %s", unit.Thousands(now.Times), of, p.Towards())
	if p.More > 0 {
		c.Words += fmt.Sprintf("; %s more without a misfire prove it", unit.Thousands(p.More))
	}
	return c
}
