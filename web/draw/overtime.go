package draw

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"glenmist/core/readings"
	"glenmist/core/unit"
)

// Measures of the picture of readings over time, in pixels.
const (
	timeW, timeH       = 690, 230
	timeLeft, timeTop  = 64, 26
	timeWide, timeTall = 410, 166
	timeStyles         = 4 // lines that can be told apart without colour
)

// NewOverTime draws the readings of a measure over time: a line for each part or place, a ring for a new part.
func NewOverTime(t readings.Trend) *Picture {
	p := &Picture{Title: t.Measure.Words + " over time", W: timeW, H: timeH}
	least, most := math.Inf(1), math.Inf(-1)
	first, last := t.Lines[0].Points[0].At, t.Lines[0].Points[0].At
	for _, l := range t.Lines {
		for _, at := range l.Points {
			least, most = min(least, at.Value), max(most, at.Value)
			if at.At.Before(first) {
				first = at.At
			}
			if at.At.After(last) {
				last = at.At
			}
		}
	}
	step := Step(max(most-least, math.Abs(most)/10, 0.1), 5)
	plot := p.Plot(timeLeft, timeTop, timeWide, timeTall, step*math.Floor(least/step), step*math.Ceil(most/step+1e-9))
	plot.ScaleOf(t.Measure.Figures[0].Unit())
	x := func(at time.Time) float64 {
		return timeLeft + 8 + (timeWide-16)*float64(at.Sub(first))/float64(last.Sub(first))
	}
	p.Text("small", timeLeft, timeTop+timeTall+18, "start", first.Local().Format("2 Jan 2006"))
	p.Text("small", timeLeft+timeWide, timeTop+timeTall+18, "end", last.Local().Format("2 Jan 2006"))
	type label struct {
		y    float64
		k    int
		text string
	}
	var labels []label
	var words []string
	for k, l := range t.Lines {
		var path, dots, rings strings.Builder // rings are new parts
		for i, at := range l.Points {
			px, py := x(at.At), plot.At(at.Value)
			pen := 'L'
			if i == 0 || at.Renewed { // a new part begins a new line
				pen = 'M'
			}
			fmt.Fprintf(&path, "%c%.1f %.1f", pen, px, py)
			ring := &dots
			if at.Renewed {
				ring = &rings
			}
			fmt.Fprintf(ring, "M%.1f %.1fa3.5 3.5 0 1 0 7 0a3.5 3.5 0 1 0 -7 0z", px-3.5, py)
		}
		p.Line(fmt.Sprintf("belief-%d", k%timeStyles+1), path.String())
		p.Line("dot", dots.String())
		p.Line("ring", rings.String())
		from, to := l.Points[0].Value, l.Points[len(l.Points)-1].Value
		labels = append(labels, label{plot.At(to), k, fmt.Sprintf("%s %s", l.Item, figureWords(to))})
		said := fmt.Sprintf("%s from %s to %s", l.Item, figureWords(from), figureWords(to))
		if slices.ContainsFunc(l.Points, func(at readings.Point) bool { return at.Renewed }) {
			said += " (renewed between)"
			labels[k].text += " ○ new part"
		}
		words = append(words, said)
	}
	slices.SortStableFunc(labels, func(a, b label) int { return int(a.y - b.y) })
	const line = 15
	for i := range labels { // apart, and inside the picture
		if i > 0 {
			labels[i].y = max(labels[i].y, labels[i-1].y+line)
		}
		labels[i].y = min(labels[i].y, timeTop+timeTall-line*float64(len(labels)-1-i)+4)
	}
	for _, l := range labels {
		p.Line(fmt.Sprintf("belief-%d", l.k%timeStyles+1), fmt.Sprintf("M%d %.1fh16", timeLeft+timeWide+6, l.y))
		p.Text("small", timeLeft+timeWide+28, l.y+4, "start", l.text)
	}
	p.Words = fmt.Sprintf("%s in %s: %s", t.Measure.Words, t.Measure.Figures[0].Unit(), strings.Join(words, "; "))
	return p
}

// figureWords rounds a figure to three digits.
func figureWords(v float64) string {
	if v == 0 {
		return "0"
	}
	digits := math.Pow(10, 2-math.Floor(math.Log10(math.Abs(v))))
	return unit.Decimal(math.Round(v*digits) / digits)
}
