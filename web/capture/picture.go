package capture

import (
	"net/http"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/web/draw"
)

// pictureKind is a kind of picture.
type pictureKind struct {
	ID, Words, Says string
	// Moves is true if the picture can be zoomed and panned.
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

// framing states which part of a capture is drawn.
type framing struct {
	kind     pictureKind
	l        *loaded
	read     *reading
	abnormal map[engine.Cylinder]string // abnormal figures by cylinder
	cylinder engine.Cylinder            // the selected cylinder
	channel  int
	from, to float64 // seconds, of a trace
	cycle    int
	// before and after the peak, in milliseconds
	before, after float64
	need          [2]float64 // kV at idle and at full load by the formula; 0 is unknown
	other         *reading   // the earlier capture
}

// Widths and heights of a picture.
const (
	pictureW = 880
	pictureH = 330
)

func (d framing) draw() *draw.Picture {
	p := &draw.Picture{Title: d.kind.Words, W: pictureW, H: pictureH}
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

// aim reads the framing from a query. The default is one event of the selected cylinder.
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

// goodCycle returns a complete cycle: the middle one of the steady cycles.
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
