package capture

import (
	"fmt"
	"math"

	"glenmist/core/unit"
	"glenmist/web/draw"
)

// pictureColumns is the number of columns of a trace in a picture.
const pictureColumns = 800

// rangeOf returns the kilovolt range of some windows, with a margin.
func rangeOf(of ...windowData) (low, high float64) {
	low, high = 0, 1
	for _, d := range of {
		for i := range d.Low {
			low, high = min(low, float64(d.Low[i])/100), max(high, float64(d.High[i])/100)
		}
	}
	return low - 0.03*(high-low), high + 0.08*(high-low)
}

func rangeOfShapes(shapes []shapeData) (low, high float64) {
	var of []windowData
	for _, s := range shapes {
		of = append(of, s.Window)
	}
	return rangeOf(of...)
}

func (d framing) drawTrace(p *draw.Picture) {
	w := d.l.cut(d.channel, d.from, d.to, pictureColumns)
	low, high := rangeOf(w)
	a := p.Plot(52, 24, 812, 258, low, high)
	a.Scale()
	x := func(seconds float64) float64 { return a.Left + a.Wide*(seconds-w.From)/(w.To-w.From) }
	var told []string
	for _, shot := range d.read.a.Shots {
		if shot.Channel != d.channel || shot.At < w.From || shot.At > w.To || len(told) > 12 {
			continue
		}
		e := newEvent(shot)
		sign := 1.0
		if shot.Negative {
			sign = -1
		}
		p.Line("part", fmt.Sprintf("M%.1f %.1fl-5 -9h10z", x(e.At), a.At(sign*e.Firing)-2))
		p.Text("label", x(e.At)+9, a.At(sign*e.Firing)+4, "start", fmt.Sprintf("%s: %s%.1f kV", e.name(), map[bool]string{true: "at least "}[e.AtLeast], e.Firing))
		if e.Burn > 0 {
			end := e.At + e.Burn/1000
			y := a.At(sign*e.Line) - sign*14
			p.Line("part", fmt.Sprintf("M%.1f %.1fv10M%.1f %.1fh%.1fM%.1f %.1fv10", x(e.At), y-5, x(e.At), y, x(end)-x(e.At), x(end), y-5))
			words := fmt.Sprintf("burn %.2f ms at %.2f kV, %.2f kV/ms", e.Burn, e.Line, e.Slope)
			if e.Rings > 0 {
				words += fmt.Sprintf(", then %d half waves", e.Rings)
			}
			p.Text("label", x(e.At)+9, a.At(sign*e.Firing)+22, "start", words)
		}
		if on := e.At - e.Dwell/1000; e.Dwell > 0 && on > w.From {
			p.Line("part", fmt.Sprintf("M%.1f %.1fv12", x(on), a.At(0)+4))
			p.Text("label", x(on)+4, a.At(0)+24, "start", fmt.Sprintf("coil on, %.1f ms", e.Dwell))
		}
		if e.Cylinder == 0 {
			told = append(told, fmt.Sprintf("an event of %.1f kV fits no cylinder", e.Firing))
			continue
		}
		told = append(told, fmt.Sprintf("cylinder %d fires at %.1f kV and burns %.2f ms at %.2f kV", e.Cylinder, e.Firing, e.Burn, e.Line))
	}
	a.Trace("trace", w.Low, w.High, a.Left, a.Left+a.Wide)
	d.times(a, 1000*w.From, 1000*w.To)
	p.Words = fmt.Sprintf("Trace from %.1f to %.1f ms: %s.", 1000*w.From, 1000*w.To, joined(told, "no event in it"))
}

// times draws a scale of milliseconds below a plot.
func (d framing) times(a draw.Plot, from, to float64) {
	step := draw.Step(to-from, 9)
	for t := math.Ceil(from/step) * step; t <= to+1e-9; t += step {
		x := a.Left + a.Wide*(t-from)/(to-from)
		a.Line("axis", fmt.Sprintf("M%.1f %.1fv5", x, a.Top+a.Tall))
		a.Text("small", x, a.Top+a.Tall+19, "middle", unit.Decimal(math.Round(1000*t)/1000))
	}
	a.Text("small", a.Left-6, a.Top+a.Tall+19, "end", "ms")
}

// class returns the style of a cylinder's trace; the selected one is highlighted.
func (d framing) class(cylinder int) string {
	switch {
	case d.abnormal[d.cylinder] != "" && cylinder == int(d.cylinder):
		return "odd"
	case cylinder == int(d.cylinder):
		return "trace"
	}
	return "other"
}

// plain returns the style if traces do not overlap.
func (d framing) plain(cylinder int) string {
	if d.class(cylinder) == "odd" {
		return "odd"
	}
	return "trace"
}

func (d framing) drawRow(p *draw.Picture) {
	shapes := d.l.shapesOf(d.read, d.cycle, d.before, d.after, 220)
	if len(shapes) == 0 {
		p.Text("text", 60, 60, "start", "No event in this cycle.")
		return
	}
	low, high := rangeOfShapes(shapes)
	a := p.Plot(52, 24, 812, 258, low, high)
	a.Scale()
	wide := a.Wide / float64(len(shapes))
	for i, s := range shapes {
		x := a.Left + wide*float64(i)
		if i > 0 {
			p.Line("grid", fmt.Sprintf("M%.1f %.1fv%.1f", x, a.Top, a.Tall))
		}
		a.Trace(d.plain(s.Event.Cylinder), s.Window.Low, s.Window.High, x+3, x+wide-3)
		p.Text("text", x+wide/2, a.Top+a.Tall+20, "middle", fmt.Sprint(s.Event.Cylinder))
		p.Text("small", x+wide/2, a.Top+a.Tall+37, "middle", fmt.Sprintf("%.1f kV", s.Event.Firing))
	}
	p.Words = fmt.Sprintf("Cycle %d end to end, in firing order: %s.", d.cycle+1, shapeWords(shapes))
}

func (d framing) drawOver(p *draw.Picture) {
	shapes := d.l.shapesOf(d.read, d.cycle, d.before, d.after, 500)
	low, high := rangeOfShapes(shapes)
	a := p.Plot(52, 24, 812, 258, low, high)
	a.Scale()
	for _, front := range []bool{false, true} {
		for _, s := range shapes {
			if (s.Event.Cylinder == int(d.cylinder)) == front {
				a.Trace(d.class(s.Event.Cylinder), s.Window.Low, s.Window.High, a.Left, a.Left+a.Wide)
			}
		}
	}
	d.times(a, -d.before, d.after)
	p.Text("text", a.Left+a.Wide, a.Top+4, "end", fmt.Sprintf("in front: cylinder %d", d.cylinder))
	p.Words = fmt.Sprintf("Cycle %d, cylinders laid over each other: %s.", d.cycle+1, shapeWords(shapes))
}

func (d framing) drawStack(p *draw.Picture) {
	shapes := d.l.shapesOf(d.read, d.cycle, d.before, d.after, 500)
	low, high := rangeOfShapes(shapes)
	row := 44.0
	p.H = int(row*float64(max(1, len(shapes)))) + 60
	for i, s := range shapes {
		a := p.Plot(96, 10+row*float64(i), 700, row, low, high)
		p.Line("grid", fmt.Sprintf("M%.1f %.1fh%.1f", a.Left, a.At(0), a.Wide))
		a.Trace(d.plain(s.Event.Cylinder), s.Window.Low, s.Window.High, a.Left, a.Left+a.Wide)
		p.Text("text", a.Left-10, a.At(0), "end", fmt.Sprintf("cylinder %d", s.Event.Cylinder))
		p.Text("small", a.Left+a.Wide+8, a.At(0), "start", fmt.Sprintf("%.1f kV", s.Event.Firing))
	}
	d.times(p.Plot(96, 10, 700, row*float64(len(shapes)), low, high), -d.before, d.after)
	p.Words = fmt.Sprintf("Cycle %d, cylinders below each other in firing order: %s.", d.cycle+1, shapeWords(shapes))
}

func shapeWords(shapes []shapeData) string {
	var told []string
	for _, s := range shapes {
		told = append(told, fmt.Sprintf("%d %.1f kV, %.2f ms", s.Event.Cylinder, s.Event.Firing, s.Event.Burn))
	}
	return joined(told, "no event")
}
