package draw

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/pattern"
	"glenmist/core/unit"
)

// Plan is the engine plan: the bay from above, seen from the front bumper. Figures are in
// drawing units.
type Plan struct {
	W, H   int
	Words  string
	Blocks []bankBox
	Belt   Box
	BeltX  int // position of the label of the belt end
	BeltY  int
	Beside bool // the belt end is at the left or right: its label is turned
	End    string
	Cells  []Cell
	Gear   []planGear
	Cap    *planCap
	Wires  []string // paths of the leads
	Covers []coverLine
	Kinds  []engine.Kind // columns of the table
	Stop   string        // path of a magneto's stop wire
	StopX  int
	StopY  int
	Live   bool // a job's plan: parts can be dragged
}

// Box is a rectangle in the plan, in pixels.
type Box struct{ X, Y, W, H int }

// MidX returns the horizontal centre.
func (b Box) MidX() int { return b.X + b.W/2 }

func (b Box) midY() int { return b.Y + b.H/2 }

// bankBox is one row of cylinders with its name.
type bankBox struct {
	Box
	Name         string
	NameX, NameY int
}

// Cell is one cylinder.
type Cell struct {
	Box
	N                int
	Key              string // key that selects it: its number, or nothing above 9
	Href             string
	Name             string
	Place            engine.Place
	Suspicion, Count string
	Fill             Box // hatched; its height is the probability of misfire
	NumberX, NumberY int
	ShareX, ShareY   int
	CountX, CountY   int
	TagsX, TagsY     int
	LidX, LidY       int
	PlateW           int // width of the plate behind the count
	Anchor           string
	Chip             planChip
	Outline          string
	Tags             []part.Tag // tags of all parts that serve it, in the order of the table
	Others           string     // the tags under the chip
	Lid              string     // covers over it, by number, with a sign for on or off
	Drops            string     // kinds of part that can be dropped here
	Trouble, Chosen  bool
	InPattern        bool
	Small            bool // too small for its labels
	FlagX, FlagY     int
}

type coverLine struct {
	N           int
	Name, Words string
	Off         bool
}

// planState is the job data that a plan shows on the engine.
type planState struct {
	at        part.Positions
	suspicion []float64
	counts    func(engine.Cylinder) string
	off       []string
	pattern   engine.Set
	chosen    engine.Cylinder
	href      string // address of the job, or empty
}

// JobPlan is the plan of a job.
func JobPlan(a *diagnose.Assessment, number string, chosen engine.Cylinder) Plan {
	s := planState{at: a.Now, off: a.Off, chosen: chosen, href: "/jobs/" + url.PathEscape(number)}
	if a.NamesCylinder() {
		s.suspicion = a.Suspicion
	}
	s.counts = func(engine.Cylinder) string { return "no counts" }
	if c := a.LastCounts(); c != nil {
		s.counts = func(n engine.Cylinder) string {
			return fmt.Sprintf("%s of %s", unit.Thousands(c.Counts[n-1]), unit.Thousands(c.Revolutions/2))
		}
	}
	if p, ok := pattern.Of(a.Engine, a.Moments); ok && p.Cylinders.Len() > 1 {
		s.pattern = p.Cylinders
	}
	return newPlan(a.Engine, s)
}

// EnginePlan is the plan of an engine without a job.
func EnginePlan(e engine.Engine) Plan {
	return newPlan(e, planState{at: part.Home(e), counts: func(engine.Cylinder) string { return "" }})
}

// The measures of the drawing.
const (
	planW      = 480
	wallTop    = 30
	bumperRoom = 46
	cellGap    = 8
	alongGap   = 5
	edge       = 54 // left and right of a block that lies crossways
	capR       = 44

	coilA engine.Place = "coil-A"
)

// drawing is a plan under construction.
type drawing struct {
	Plan
	e    engine.Engine
	s    planState
	own  []engine.Kind // kinds of which each cylinder has its own
	gear bool          // coils stand beside the block
	side engine.Side   // side of the bay that the belt drive or the flywheel faces
}

// newPlan draws an engine.
func newPlan(e engine.Engine, s planState) Plan {
	d := &drawing{e: e, s: s, gear: !e.OwnCoils()}
	d.W, d.Live, d.Kinds = planW, s.href != "", e.PartKinds()
	for _, slot := range part.Slots(e) {
		if slot.Place == "cyl-1" {
			d.own = append(d.own, slot.Kind)
		}
	}
	d.End, d.side = "belt end", e.BeltEnd
	if e.Ignition == engine.Magneto { // no belts; the flywheel orients the plan
		d.End, d.side = "flywheel", e.BeltEnd.Opposite()
	}
	if e.Mounting == engine.Crossways {
		d.across()
	} else {
		d.along()
	}
	d.frame()
	d.covers()
	d.Words = fmt.Sprintf("Engine plan from above, as seen from the front bumper: %s. Belt end at the %s. The firewall is at the top.", e.Describe(), e.BeltEnd.Words())
	if e.Banks() == 2 {
		d.Words += fmt.Sprintf(" Bank 1, cylinders %s from the belt end, lies towards the %s; bank 2, cylinders %s, towards the %s.",
			engine.OrderString(e.Bank(1)), e.BankSide(1).Words(), engine.OrderString(e.Bank(2)), e.BankSide(2).Words())
	}
	return d.Plan
}

// rows lists the banks from top to bottom, or from left to right, each with its cylinders in
// drawing order.
func (d *drawing) rows() (banks []int, cylinders [][]engine.Cylinder) {
	banks = []int{1}
	if d.e.Banks() == 2 {
		banks = []int{1, 2}
		if first := d.e.Mounting.Flanks()[0]; d.e.BankSide(1) != first {
			banks = []int{2, 1}
		}
	}
	for _, b := range banks {
		row := d.e.Bank(b)
		if d.e.BeltEnd == engine.Right || d.e.BeltEnd == engine.Front {
			slices.Reverse(row)
		}
		cylinders = append(cylinders, row)
	}
	return banks, cylinders
}

// across draws rows of cylinders from left to right.
func (d *drawing) across() {
	banks, rows := d.rows()
	n := len(rows[0])
	high, strip := 252, 0
	if len(banks) == 2 {
		high = 164
	}
	if d.gear {
		strip = 2*capR + 28
		if len(banks) == 1 {
			high = 178
		}
	}
	wide := min(118, (planW-2*edge-cellGap*(n-1))/n)
	if len(banks) == 1 {
		wide = min(92, wide)
	}
	left := (planW - (wide*n + cellGap*(n-1))) / 2
	y := wallTop + 20
	gearY := 0
	for i, b := range banks {
		for k, c := range rows[i] {
			d.cell(c, Box{left + k*(wide+cellGap), y, wide, high}, false)
		}
		d.bank(b, Box{left, y, wide*n + cellGap*(n-1), high})
		y += high + 38
		if i == 0 && d.gear {
			gearY = y - 14
			y += strip
		}
	}
	d.H = y - 38 + 26 + bumperRoom
	if d.gear {
		d.place(Box{edge, gearY, planW - 2*edge, strip - 14}, false)
	}
}

// along draws columns of cylinders from the firewall to the bumper.
func (d *drawing) along() {
	banks, rows := d.rows()
	n := len(rows[0])
	d.H = 456
	switch {
	case n == 1 && len(banks) == 1:
		d.H = 330
	case n > 5:
		d.H += 64 // keeps coils large enough for a gloved finger
	}
	strip := 0
	if d.gear {
		strip = 2*capR + 20
	}
	head := 0
	if len(banks) == 2 { // for the labels of the banks and the belt end
		head = 20
		d.H += 24
		if n < 3 {
			d.H = 372
		}
	}
	room := d.H - bumperRoom - wallTop - 20 - 2*head
	most := 76
	if len(banks) == 2 {
		most = 92
	}
	if n == 1 {
		most = 110
	}
	high := min(most, (room-alongGap*(n-1))/n)
	top := wallTop + (d.H-bumperRoom-wallTop-(high*n+alongGap*(n-1)))/2
	left, right := 44, planW-72
	wide := right - left - strip
	if len(banks) == 2 {
		left, right = 22, planW-22
		wide = (right - left - max(strip, 26)) / 2
	}
	for i, b := range banks {
		x := left
		if i == 1 {
			x = right - wide
		}
		for k, c := range rows[i] {
			d.cell(c, Box{x, top + k*(high+alongGap), wide, high}, true)
		}
		d.bank(b, Box{x, top, wide, high*n + alongGap*(n-1)})
	}
	if d.gear {
		d.place(Box{left + wide + 10, top, strip - 18, high*n + alongGap*(n-1)}, true)
	}
}

func (d *drawing) bank(b int, in Box) {
	row := bankBox{Box: Box{in.X - 8, in.Y - 8, in.W + 16, in.H + 16}}
	if d.e.Banks() == 2 {
		row.Name = fmt.Sprintf("bank %d", b)
		row.NameX, row.NameY = row.X+4, row.Y+row.H+11
		if d.e.Mounting == engine.Lengthways {
			row.NameX, row.NameY = row.X+6, row.Y-5
		}
	}
	d.Blocks = append(d.Blocks, row)
}

// cell lays out a cylinder. A wide cell has its labels beside each other.
func (d *drawing) cell(c engine.Cylinder, in Box, wide bool) {
	cell := Cell{Box: in, N: int(c), Place: engine.At(c), Anchor: "middle", Chosen: c == d.s.chosen,
		InPattern: d.s.pattern.Has(c), Count: d.s.counts(c), Small: in.W < 70 || wide && in.W < 180, FlagX: in.X + 5, FlagY: in.Y + 5}
	if c <= 9 {
		cell.Key = fmt.Sprint(int(c))
	}
	p := 0.0
	if d.s.suspicion != nil {
		p = d.s.suspicion[c-1]
		cell.Suspicion, cell.Trouble = unit.Percent(p), p >= 0.5
	}
	mid := in.MidX()
	var chip Box
	if wide {
		midY := in.midY()
		ch := min(in.H-2, 62)
		cell.NumberX, cell.NumberY = in.X+30, midY+10
		chip = Box{in.X + 60, midY - ch/2, 66, ch}
		if in.W > 270 {
			chip.W = 76
			cell.TagsX, cell.TagsY = chip.X+chip.W+46, midY+5
			cell.ShareX, cell.CountX, cell.PlateW = in.X+in.W-64, in.X+in.W-64, 104
			cell.ShareY, cell.CountY = midY-1, midY+16
			cell.LidX, cell.LidY = in.X+in.W-64, midY+31
		} else {
			cell.NumberX, chip.X, chip.W = in.X+25, in.X+46, 60
			right := chip.X + chip.W + (in.X+in.W-chip.X-chip.W)/2
			cell.ShareX, cell.CountX, cell.TagsX, cell.PlateW = right, right, right, in.X+in.W-chip.X-chip.W-4
			cell.ShareY, cell.CountY, cell.TagsY = midY-10, midY+6, midY+23
			cell.LidX, cell.LidY = right, midY+36
			if in.W < 180 {
				cell.NumberX, chip.X = in.X+22, in.X+40
				chip.W = min(50, in.W-100)
				right = chip.X + chip.W + (in.X+in.W-chip.X-chip.W)/2
				cell.ShareX, cell.CountX, cell.TagsX, cell.LidX = right, right, right, right
				cell.PlateW = in.X + in.W - chip.X - chip.W - 4
			}
		}
		cell.Fill = Box{in.X, in.Y, int(p * float64(in.W)), in.H}
	} else {
		cw := min(in.W-8, 76)
		ch := 62
		cell.NumberX, cell.NumberY = mid, in.Y+40
		cell.ShareX, cell.ShareY = mid, in.Y+66
		cell.CountX, cell.CountY, cell.PlateW = mid, in.Y+88, in.W-6
		cell.Chip.Y = in.Y + 102
		cell.TagsX, cell.TagsY = mid, in.Y+190
		cell.LidX, cell.LidY = mid, in.Y+212
		if in.H < 200 {
			ch = 54
			cell.NumberY, cell.ShareY, cell.CountY = in.Y+28, in.Y+46, in.Y+63
			cell.Chip.Y, cell.TagsY, cell.LidY = in.Y+70, in.Y+139, in.Y+in.H-3
			if in.H > 160 {
				cell.LidY = in.Y + 158
			}
		}
		chip = Box{mid - cw/2, cell.Chip.Y, cw, ch}
		high := int(p * float64(in.H))
		cell.Fill = Box{in.X, in.Y + in.H - high, in.W, high}
	}
	cell.Outline = worn(in, 14)
	d.parts(&cell, chip)
	if d.Live {
		cell.Href = d.s.href + "?cyl=" + fmt.Sprint(int(c))
	}
	d.Cells = append(d.Cells, cell)
}

// worn returns a box with two opposite corners round and two nearly square.
func worn(b Box, r int) string {
	r = min(r, b.W/2, b.H/2)
	return fmt.Sprintf("M%d %d h%d q2 0 2 2 v%d q0 %d %d %d h%d q-2 0 -2 -2 v%d q0 %d %d %d z",
		b.X+r, b.Y, b.W-r-2, b.H-r-2, r, -r, r, -(b.W - r - 2), -(b.H - r - 2), -r, r, -r)
}

// frame draws the belt end, and a magneto's stop wire.
func (d *drawing) frame() {
	b := d.Blocks[0].Box
	for _, o := range d.Blocks[1:] {
		x, y := min(b.X, o.X), min(b.Y, o.Y)
		b = Box{x, y, max(b.X+b.W, o.X+o.W) - x, max(b.Y+b.H, o.Y+o.H) - y}
	}
	switch d.side {
	case engine.Left:
		d.Belt, d.Beside, d.BeltX, d.BeltY = Box{b.X - 12, b.Y + 20, 8, b.H - 40}, true, b.X-18, b.midY()
	case engine.Right:
		d.Belt, d.Beside, d.BeltX, d.BeltY = Box{b.X + b.W + 4, b.Y + 20, 8, b.H - 40}, true, b.X+b.W+26, b.midY()
	case engine.Front:
		d.Belt, d.BeltX, d.BeltY = Box{b.X + 30, b.Y + b.H + 3, b.W - 60, 6}, min(b.X+b.W+4, planW-66), b.Y+b.H-2
	default:
		d.Belt, d.BeltX, d.BeltY = Box{b.X + 30, b.Y - 9, b.W - 60, 6}, min(b.X+b.W+4, planW-66), b.Y+12
	}
	if d.e.Banks() == 2 && d.e.Mounting == engine.Lengthways { // no room beside the block: the label goes below or above it
		d.BeltX, d.BeltY = planW/2-28, b.Y+b.H+22
		if d.side == engine.Firewall {
			d.BeltY = b.Y - 16
		}
	}
	if slices.ContainsFunc(d.e.Items(), func(i engine.Item) bool { return i.Kind == engine.StopWire }) {
		c := d.Cells[0].Box
		d.Stop = fmt.Sprintf("M%d %d v%d h%d", c.MidX(), c.Y+c.H, 26, 92)
		d.StopX, d.StopY = c.MidX()+98, c.Y+c.H+31
	}
}

func (d *drawing) covers() {
	for i, c := range d.e.Covers {
		off := slices.Contains(d.s.off, c.Name)
		var over []string
		for _, p := range c.Hides {
			over = append(over, p.String())
		}
		over = append(over, c.Over...)
		d.Covers = append(d.Covers, coverLine{i + 1, c.Name, fmt.Sprintf("over %s; %g min off, %g min on", strings.Join(over, ", "), c.Off, c.On), off})
	}
}
