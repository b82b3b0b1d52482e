package web

import (
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// picture is a framing of a capture: the same for the page and for the file that is saved.
type picture struct {
	Title, Words string
	W, H         int
	Marks        []stroke
}

// stroke is a line, an outline or a text of a picture. Its class says what it is; what stands
// alone, as a file, brings its colours with it.
type stroke struct {
	Class, D, Text, Anchor string
	X, Y                   float64
}

// looks are the classes in a file that stands alone, in the light palette of docs/design.md.
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
	"small": `fill="#4d5a53" font-size="12"`,
	"alarm": `fill="#9c2415" font-size="14" font-weight="700"`,
	"label": `fill="#17497a" font-size="13"`,
}

// Look is what a mark looks like where no style sheet says so.
func (m stroke) Look() template.HTMLAttr {
	if look, ok := looks[m.Class]; ok {
		return look
	}
	return plugLooks[m.Class]
}

func (p *picture) line(class, d string) { p.Marks = append(p.Marks, stroke{Class: class, D: d}) }

func (p *picture) text(class string, x, y float64, anchor, words string) {
	p.Marks = append(p.Marks, stroke{Class: class, X: math.Round(10*x) / 10, Y: math.Round(10*y) / 10, Anchor: anchor, Text: words})
}

func (p *picture) box(class string, x, y, w, h float64) {
	p.line(class, fmt.Sprintf("M%.1f %.1fh%.1fv%.1fh%.1fz", x, y, w, h, -w))
}

// plot is an area of a picture with a scale upwards, of kilovolts where nothing else is said.
type plot struct {
	*picture
	Left, Top, Wide, Tall float64
	Least, Most           float64
}

func (p plot) at(kV float64) float64 {
	return p.Top + p.Tall*(1-(min(max(kV, p.Least), p.Most)-p.Least)/(p.Most-p.Least))
}

// tidy is a step of a scale that has about so many: 1, 2 or 5 of some power of ten.
func tidy(span float64, about float64) float64 {
	step := math.Pow(10, math.Floor(math.Log10(span/about)))
	for _, k := range []float64{1, 2, 5, 10} {
		if span/(k*step) <= about {
			return k * step
		}
	}
	return 10 * step
}

// scale draws the scale of kilovolts.
func (p plot) scale() { p.scaleOf("kV") }

func (p plot) scaleOf(of string) {
	for v := math.Ceil(p.Least/tidy(p.Most-p.Least, 6)) * tidy(p.Most-p.Least, 6); v <= p.Most+1e-9; v += tidy(p.Most-p.Least, 6) {
		p.line("grid", fmt.Sprintf("M%.1f %.1fh%.1f", p.Left, p.at(v), p.Wide))
		p.text("small", p.Left-6, p.at(v)+4, "end", unit.Decimal(math.Round(10*v)/10))
	}
	p.text("small", p.Left-6, p.Top-8, "end", of)
	p.line("axis", fmt.Sprintf("M%.1f %.1fv%.1fh%.1f", p.Left, p.Top, p.Tall, p.Wide))
}

// trace draws columns of least and greatest, in hundredths of the plot's unit, from one x to another.
func (p plot) trace(class string, low, high []int, x0, x1 float64) {
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
		fmt.Fprintf(&b, "%s%.1f %.1f", step, x(i), p.at(float64(high[i])/100))
	}
	for i := n - 1; i >= 0; i-- {
		fmt.Fprintf(&b, "L%.1f %.1f", x(i), p.at(float64(low[i])/100))
	}
	b.WriteByte('z')
	p.line(class, b.String())
}

// kinds of picture, as they are offered.
type pictureKind struct {
	ID, Words, Says string
	// Moves says that it is drawn anew as one zooms and pans.
	Moves bool
}

var pictureKinds = []pictureKind{
	{"bars", "Bars", "usual kV of each cylinder, with lowest and highest", false},
	{"events", "Event by event", "each event on its cylinder’s line of time, jumps marked", false},
	{"spread", "Spread", "how often each kV was met, cylinder beside cylinder", false},
	{"trace", "One event", "one trace with its parts", true},
	{"row", "End to end", "one cycle, cylinder after cylinder as they fire", true},
	{"over", "Laid over", "all cylinders of one cycle on top of each other", true},
	{"stack", "Stacked", "all cylinders of one cycle below each other", true},
	{"compare", "Before and after", "two captures, and what has changed", false},
}

// framing says what of a capture is drawn.
type framing struct {
	kind     pictureKind
	l        *loaded
	read     *reading
	odd      map[engine.Cylinder]string // what is odd, by cylinder
	cylinder engine.Cylinder            // the one in question
	channel  int
	from, to float64 // seconds, of a trace
	cycle    int
	// before and after the peak, in milliseconds
	before, after float64
	need          [2]float64 // kV at idle and at full load by the law; 0 is not known
	other         *reading   // before
}

// Widths and heights of a picture.
const (
	pictureW = 880
	pictureH = 330
)

func (d framing) draw() *picture {
	p := &picture{Title: d.kind.Words, W: pictureW, H: pictureH}
	switch d.kind.ID {
	case "trace":
		d.drawTrace(p)
	case "row":
		d.drawRow(p)
	case "over":
		d.drawOver(p)
	case "stack":
		d.drawStack(p)
	case "bars":
		d.drawBars(p)
	case "spread":
		d.drawSpread(p)
	case "events":
		d.drawEvents(p)
	case "compare":
		d.drawCompare(p)
	}
	return p
}

// aim fills in what of a framing a query asks for: by default the event of the cylinder in
// question.
func (d *framing) aim(r *http.Request, bad *invalid.Errors) {
	q := r.URL.Query()
	d.kind = pictureKinds[0]
	for _, k := range pictureKinds {
		if k.ID == q.Get("picture") {
			d.kind = k
		}
	}
	if n := int(asked(q, "cylinder", 0, 0, float64(d.read.e.Cylinders), bad)); n > 0 {
		d.cylinder = engine.Cylinder(n)
	}
	d.cycle = d.read.goodCycle()
	d.before, d.after = 0.5, 4
	var shot eventData
	for _, s := range d.read.cycleOf(d.cycle) {
		if s.Cylinder == d.cylinder || shot.At == 0 {
			shot = newEvent(s)
			d.channel = s.Channel
		}
	}
	d.cycle = int(asked(q, "cycle", float64(d.cycle), 0, float64(max(0, d.read.a.Cycles-1)), bad))
	d.before = asked(q, "before", d.before, 0, mostSpanMS, bad)
	d.after = asked(q, "after", d.after, 0.01, mostSpanMS, bad)
	d.channel = int(asked(q, "channel", float64(d.channel), 0, float64(len(d.l.pyramids)-1), bad))
	most := d.l.trace.Seconds()
	d.from = asked(q, "from", max(0, shot.At-0.0042), 0, most, bad)
	d.to = asked(q, "to", min(most, shot.At+0.0048), 0, most, bad)
	if d.to <= d.from {
		d.from, d.to = 0, most
	}
}

// goodCycle is a cycle that is whole: the middle one of the steady ones.
func (r *reading) goodCycle() int {
	var whole []int
	for c := range r.a.Cycles {
		shots := r.cycleOf(c)
		if len(shots) > 0 && !shots[0].Snap && len(shots) >= r.mostInCycle() {
			whole = append(whole, c)
		}
	}
	if len(whole) == 0 {
		return 0
	}
	return whole[len(whole)/2]
}

func (r *reading) mostInCycle() int {
	count := map[int]int{}
	most := 0
	for _, s := range r.a.Shots {
		if !s.Waste {
			count[s.Cycle]++
			most = max(most, count[s.Cycle])
		}
	}
	return min(most, r.e.Cylinders)
}
