package capture

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/scope"
	"glenmist/web/draw"
)

func joined(words []string, none string) string {
	if len(words) == 0 {
		return none
	}
	return strings.Join(words, "; ")
}

// topOf returns the top of the kilovolt scale for some cylinders.
func topOf(sums []scope.Summary) float64 {
	top := 5.0
	for _, s := range sums {
		top = max(top, s.High, s.Snap)
	}
	return 1.12 * top
}

func (d framing) drawBars(p *draw.Picture) {
	a := p.Plot(52, 24, 812, 240, 0, topOf(d.read.sums))
	if d.need[0] > 0 {
		p.Box("need", a.Left, a.At(1.15*d.need[0]), a.Wide, a.At(0.85*d.need[0])-a.At(1.15*d.need[0]))
	}
	a.Scale()
	snapped := false
	for _, s := range d.read.sums {
		snapped = snapped || s.Snap > 0
	}
	if snapped && d.need[1] > 0 && d.need[1] < a.Most {
		p.Line("mid", fmt.Sprintf("M%.1f %.1fh%.1f", a.Left, a.At(d.need[1]), a.Wide))
	}
	wide := a.Wide / float64(len(d.read.sums))
	bar := min(54, 0.46*wide)
	var told []string
	for i, s := range d.read.sums {
		x := a.Left + wide*(float64(i)+0.5)
		class, words := "bar", "text"
		if d.abnormal[s.Cylinder] != "" {
			class, words = "badly", "alarm"
		}
		if s.Usual > 0 {
			p.Box(class, x-bar/2, a.At(s.Usual), bar, a.At(0)-a.At(s.Usual))
			p.Line("whisk", fmt.Sprintf("M%.1f %.1fV%.1fM%.1f %.1fh14M%.1f %.1fh14", x, a.At(s.Low), a.At(s.High), x-7, a.At(s.Low), x-7, a.At(s.High)))
		}
		if s.Snap > 0 {
			p.Line("part", fmt.Sprintf("M%.1f %.1fl6 10h-12z", x+bar/2+11, a.At(s.Snap)-5))
		}
		p.Text(words, x, a.Top+a.Tall+20, "middle", map[bool]string{true: "▲ "}[d.abnormal[s.Cylinder] != ""]+fmt.Sprint(s.Cylinder))
		value := fmt.Sprintf("%.1f", s.Usual)
		if s.AtLeast {
			value = "≥ " + value
		}
		if s.Usual == 0 {
			value = "none"
		}
		p.Text("small", x, a.Top+a.Tall+37, "middle", value)
		told = append(told, fmt.Sprintf("%d %.1f kV, %.1f to %.1f", s.Cylinder, s.Usual, s.Low, s.High))
	}
	foot := "Bar: usual kV; stroke: lowest to highest but for one in twenty; triangle: on snap"
	if d.need[0] > 0 {
		foot += fmt.Sprintf("; by the law: band %.1f kV at idle", d.need[0])
		if snapped {
			foot += fmt.Sprintf(", dashes %.1f at full load", d.need[1])
		}
	}
	p.Text("small", a.Left, float64(p.H)-8, "start", foot+".")
	p.Words = "Kilovolts by cylinder: " + joined(told, "none") + "."
}

// drawSpread draws a histogram of the kilovolts of each cylinder, on one scale.
func (d framing) drawSpread(p *draw.Picture) {
	top := 5.0
	for _, s := range d.read.sums {
		top = max(top, 1.15*s.High)
	}
	a := p.Plot(52, 24, 812, 240, 0, top)
	a.Scale()
	const bins = 32
	wide := a.Wide / float64(len(d.read.sums))
	var told []string
	for i, s := range d.read.sums {
		x := a.Left + wide*float64(i) + 0.12*wide
		var count [bins]int
		most := 1
		for _, shot := range d.read.a.Shots {
			if shot.Cylinder != s.Cylinder || shot.Waste || shot.Snap || shot.Between {
				continue
			}
			k := min(bins-1, int(shot.Firing/a.Most*bins))
			count[k]++
			most = max(most, count[k])
		}
		class, words := "trace", "text"
		if d.abnormal[s.Cylinder] != "" {
			class, words = "odd", "alarm"
		}
		for k, n := range count {
			if n > 0 {
				low, high := a.At(a.Most*float64(k)/bins), a.At(a.Most*float64(k+1)/bins)
				p.Box(class, x, high+1, 0.72*wide*float64(n)/float64(most), low-high-2)
			}
		}
		p.Line("axis", fmt.Sprintf("M%.1f %.1fv%.1f", x, a.Top, a.Tall))
		p.Text(words, x+0.36*wide, a.Top+a.Tall+20, "middle", map[bool]string{true: "▲ "}[d.abnormal[s.Cylinder] != ""]+fmt.Sprint(s.Cylinder))
		p.Text("small", x+0.36*wide, a.Top+a.Tall+37, "middle", fmt.Sprintf("%d events", s.Events))
		told = append(told, fmt.Sprintf("%d scatters by %.0f %%", s.Cylinder, 100*s.Scatter))
	}
	p.Text("small", a.Left, float64(p.H)-8, "start", "Each cylinder’s own tallest bar is as wide as its column; events on snap are left out.")
	p.Words = "How often each kilovolt was met: " + joined(told, "nothing") + "."
}

// drawEvents draws the events of each cylinder over time, with jumps marked.
func (d framing) drawEvents(p *draw.Picture) {
	n := len(d.read.sums)
	row := max(34, min(64, 270/float64(n)))
	p.H = int(row*float64(n)) + 52
	top := topOf(d.read.sums)
	for _, s := range d.read.a.Shots {
		top = max(top, 1.05*s.Firing)
	}
	seconds := d.l.trace.Seconds()
	x := func(t float64) float64 { return 92 + 700*t/seconds }
	jumps := d.read.a.Jumps()
	from := math.Inf(1)
	to := 0.0
	for _, s := range d.read.a.Shots {
		if s.Snap {
			from, to = min(from, s.At), max(to, s.At)
		}
	}
	if to > 0 {
		p.Box("snap", x(from)-2, 6, x(to)-x(from)+4, row*float64(n))
		p.Text("small", (x(from)+x(to))/2, float64(p.H)-8, "middle", "snap")
	}
	var told []string
	for i, s := range d.read.sums {
		a := p.Plot(92, 10+row*float64(i), 700, row-8, 0, top)
		p.Line("axis", fmt.Sprintf("M%.1f %.1fh%.1f", a.Left, a.Top+a.Tall, a.Wide))
		words := "text"
		if d.abnormal[s.Cylinder] != "" {
			words = "alarm"
		}
		p.Text(words, a.Left-10, a.Top+a.Tall/2+5, "end", map[bool]string{true: "▲ "}[d.abnormal[s.Cylinder] != ""]+fmt.Sprintf("cyl. %d", s.Cylinder))
		if s.Usual > 0 {
			p.Line("mid", fmt.Sprintf("M%.1f %.1fh%.1f", a.Left, a.At(s.Usual), a.Wide))
		}
		var dots, ups strings.Builder
		jumped := 0
		for k, shot := range d.read.a.Shots {
			if shot.Cylinder != s.Cylinder || shot.Waste {
				continue
			}
			if jumps[k] != 0 {
				jumped++
				fmt.Fprintf(&ups, "M%.1f %.1fl5 %dh-10z", x(shot.At), a.At(shot.Firing)-5*float64(jumps[k]), 9*jumps[k])
				continue
			}
			fmt.Fprintf(&dots, "M%.1f %.1fa2.4 2.4 0 1 0 4.8 0a2.4 2.4 0 1 0 -4.8 0z", x(shot.At)-2.4, a.At(shot.Firing))
		}
		if dots.Len() > 0 {
			p.Line("dot", dots.String())
		}
		if ups.Len() > 0 {
			p.Line("odd", ups.String())
		}
		note := fmt.Sprintf("%.1f kV", s.Usual)
		if jumped > 0 {
			note = fmt.Sprintf("%s, %d ▲", note, jumped)
		}
		p.Text("small", a.Left+a.Wide+8, a.Top+a.Tall/2+5, "start", note)
		told = append(told, fmt.Sprintf("%d: %d events, %d jumps", s.Cylinder, s.Events+s.Snaps, jumped))
	}
	p.Text("small", 92, float64(p.H)-8, "start", "0 s")
	p.Text("small", 792, float64(p.H)-8, "end", fmt.Sprintf("%.1f s", seconds))
	p.Words = "Event by event: " + joined(told, "none") + "."
}

// drawCompare draws the kilovolts of two captures side by side.
func (d framing) drawCompare(p *draw.Picture) {
	if d.other == nil {
		p.Text("text", 52, 60, "start", "There is no other capture yet: record one before a part is moved or renewed, and one after.")
		p.Words = "No other capture to compare with."
		return
	}
	all := scope.Compare(d.other.sums, d.read.sums)
	top := 5.0
	for _, c := range all {
		top = max(top, 1.15*c.Before.High, 1.15*c.After.High)
	}
	a := p.Plot(52, 24, 812, 240, 0, top)
	a.Scale()
	wide := a.Wide / float64(len(all))
	bar := min(40, 0.3*wide)
	var told []string
	for i, c := range all {
		x := a.Left + wide*(float64(i)+0.5)
		column := func(class string, s scope.Summary, x float64) {
			if s.Usual == 0 {
				return
			}
			p.Box(class, x, a.At(s.Usual), bar, a.At(0)-a.At(s.Usual))
			p.Line("whisk", fmt.Sprintf("M%.1f %.1fV%.1f", x+bar/2, a.At(s.Low), a.At(s.High)))
		}
		column("was", c.Before, x-bar-2)
		class, words := "bar", "text"
		if d.abnormal[c.Cylinder] != "" {
			class = "badly"
		}
		if c.Words != "" {
			words = "alarm"
			told = append(told, fmt.Sprintf("cylinder %d %s", c.Cylinder, c.Words))
		}
		column(class, c.After, x+2)
		p.Text(words, x, a.Top+a.Tall+20, "middle", map[bool]string{true: "▲ "}[c.Words != ""]+fmt.Sprint(c.Cylinder))
		p.Text("small", x, a.Top+a.Tall+37, "middle", fmt.Sprintf("%.1f → %.1f", c.Before.Usual, c.After.Usual))
	}
	p.Text("small", a.Left, float64(p.H)-8, "start", "Dashed: before; full: after; stroke: lowest to highest.")
	p.Words = "Before and after: " + joined(told, "nothing has changed by more than scatter does") + "."
}

// abnormalOf lists the abnormal figures of each cylinder of a reading.
func abnormalOf(shapes []diagnose.Shape) map[engine.Cylinder]string {
	abnormal := map[engine.Cylinder]string{}
	for _, s := range shapes {
		if s.Abnormal {
			abnormal[s.Cylinder] = s.Words
		}
	}
	return abnormal
}
