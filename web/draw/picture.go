// Package draw lays out drawings: the engine plan, plugs, scales, strips and plots. A layout
// consists of numbers and paths. Templates render it as SVG, and the printed finding as PDF.
package draw

import (
	"embed"
	"fmt"
	"html/template"
	"math"
	"strings"

	"glenmist/core/unit"
)

// Templates render the layouts of this package as SVG.
//
//go:embed *.html
var Templates embed.FS

// Picture is a drawing of lines and texts, W by H pixels. The page, the saved file and the
// printed finding share it.
type Picture struct {
	Title, Words string
	W, H         int
	Marks        []Mark
}

// Mark is a line, an outline or a text of a picture. Its class states its meaning. A saved
// file also holds the colours.
type Mark struct {
	Class, D, Text, Anchor string
	X, Y                   float64
}

// looks gives the style of each class in a saved file, in the light palette of docs/design.md.
var looks = map[string]template.HTMLAttr{
	"axis":  `fill="none" stroke="#76857c"`,
	"grid":  `fill="none" stroke="#b9c4bc" stroke-dasharray="2 4"`,
	"trace": `fill="#17513f" stroke="#17513f" stroke-width="1.2" stroke-linejoin="round"`,
	"other": `fill="#76857c" stroke="#76857c" stroke-width="1" stroke-linejoin="round"`,
	"odd":   `fill="#9c2415" stroke="#9c2415" stroke-width="1.6" stroke-linejoin="round"`,
	"bar":   `fill="#eef2ee" stroke="#17513f" stroke-width="2"`,
	"badly": `fill="#f9e3dd" stroke="#9c2415" stroke-width="3"`,
	"was":   `fill="none" stroke="#4d5a53" stroke-width="2" stroke-dasharray="4 3"`,
	"whisk": `fill="none" stroke="#14201b" stroke-width="2"`,
	"dot":   `fill="#17513f" stroke="none"`,
	"need":  `fill="#dde9f4" stroke="#17497a" stroke-dasharray="6 4"`,
	"snap":  `fill="#f6ebc4" stroke="none"`,
	"mid":   `fill="none" stroke="#4d5a53" stroke-width="1.5" stroke-dasharray="8 4"`,
	"part":  `fill="none" stroke="#17497a" stroke-width="1.5"`,
	"text":  `fill="#14201b" font-size="14"`,

	"belief-1": `fill="none" stroke="#9c2415" stroke-width="3"`,
	"belief-2": `fill="none" stroke="#17497a" stroke-width="2" stroke-dasharray="7 3"`,
	"belief-3": `fill="none" stroke="#17513f" stroke-width="2" stroke-dasharray="2 3"`,
	"belief-4": `fill="none" stroke="#4d5a53" stroke-width="1.5" stroke-dasharray="9 3 2 3"`,
	"small":    `fill="#4d5a53" font-size="12"`,
	"alarm":    `fill="#9c2415" font-size="14" font-weight="700"`,
	"label":    `fill="#17497a" font-size="13"`,
}

// Look returns the style of a mark in a file without style sheet.
func (m Mark) Look() template.HTMLAttr {
	if look, ok := looks[m.Class]; ok {
		return look
	}
	return plugLooks[m.Class]
}

// Line adds an SVG path with a class.
func (p *Picture) Line(class, d string) { p.Marks = append(p.Marks, Mark{Class: class, D: d}) }

// Text adds a text at a point; anchor is start, middle or end.
func (p *Picture) Text(class string, x, y float64, anchor, words string) {
	p.Marks = append(p.Marks, Mark{Class: class, X: math.Round(10*x) / 10, Y: math.Round(10*y) / 10, Anchor: anchor, Text: words})
}

// Box adds a rectangle.
func (p *Picture) Box(class string, x, y, w, h float64) {
	p.Line(class, fmt.Sprintf("M%.1f %.1fh%.1fv%.1fh%.1fz", x, y, w, h, -w))
}

// Plot is an area of a picture with a vertical scale, in kilovolts unless stated otherwise.
type Plot struct {
	*Picture
	Left, Top, Wide, Tall float64
	Least, Most           float64
}

// Plot returns an area of the picture in pixels, for values from least to most upwards.
func (p *Picture) Plot(left, top, wide, tall, least, most float64) Plot {
	return Plot{p, left, top, wide, tall, least, most}
}

// At returns the vertical position of a value, limited to the scale.
func (p Plot) At(kV float64) float64 {
	return p.Top + p.Tall*(1-(min(max(kV, p.Least), p.Most)-p.Least)/(p.Most-p.Least))
}

// Step returns the step of a scale with about the given number of steps: 1, 2 or 5 times a
// power of ten.
func Step(span float64, about float64) float64 {
	step := math.Pow(10, math.Floor(math.Log10(span/about)))
	for _, k := range []float64{1, 2, 5, 10} {
		if span/(k*step) <= about {
			return k * step
		}
	}
	return 10 * step
}

// Scale draws the scale of kilovolts.
func (p Plot) Scale() { p.ScaleOf("kV") }

// ScaleOf draws the vertical scale with its unit.
func (p Plot) ScaleOf(of string) {
	for v := math.Ceil(p.Least/Step(p.Most-p.Least, 6)) * Step(p.Most-p.Least, 6); v <= p.Most+1e-9; v += Step(p.Most-p.Least, 6) {
		p.Line("grid", fmt.Sprintf("M%.1f %.1fh%.1f", p.Left, p.At(v), p.Wide))
		p.Text("small", p.Left-6, p.At(v)+4, "end", unit.Decimal(math.Round(10*v)/10))
	}
	p.Text("small", p.Left-6, p.Top-8, "end", of)
	p.Line("axis", fmt.Sprintf("M%.1f %.1fv%.1fh%.1f", p.Left, p.Top, p.Tall, p.Wide))
}

// Trace draws columns of minimum and maximum, in hundredths of the plot's unit, from x0 to x1.
func (p Plot) Trace(class string, low, high []int, x0, x1 float64) {
	n := len(low)
	if n == 0 {
		return
	}
	var b strings.Builder
	x := func(i int) float64 { return x0 + (x1-x0)*(float64(i)+0.5)/float64(n) }
	for i := range n {
		step := "L"
		if i == 0 {
			step = "M"
		}
		fmt.Fprintf(&b, "%s%.1f %.1f", step, x(i), p.At(float64(high[i])/100))
	}
	for i := n - 1; i >= 0; i-- {
		fmt.Fprintf(&b, "L%.1f %.1f", x(i), p.At(float64(low[i])/100))
	}
	b.WriteByte('z')
	p.Line(class, b.String())
}
