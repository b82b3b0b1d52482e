package web

import (
	"fmt"
	"net/url"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// planView is the engine plan: the bay from above, as you stand at the front
// bumper. All figures are in the drawing's own units.
type planView struct {
	W, H   int
	Words  string
	Block  box
	Belt   box
	BeltX  int // where the word for the belt end stands
	BeltY  int
	Beside bool // the belt end is at the left or right: its word is turned
	Cells  []planCell
	Across bool
}

type box struct{ X, Y, W, H int }

// planCell is one cylinder.
type planCell struct {
	box
	N                    int
	Href                 string
	Name                 string
	Suspicion, Count     string
	Fill                 box // hatched, as high as the suspicion
	NumberX, NumberY     int
	ShareX, ShareY       int
	CountX, CountY       int
	TagsX, TagsY         int
	PlateW               int // behind the count, so that it reads on the hatching
	Anchor               string
	Chip                 box
	ChipTextX, ChipTextY int
	Outline              string
	Coil, Boot, Plug     part.Tag
	CoilHref, CoilName   string
	Away                 bool // a part here came from another cylinder
	Trouble, Chosen      bool
	Home                 string
}

const (
	planW      = 480
	acrossH    = 368
	alongH     = 456
	wallTop    = 30
	bumperRoom = 46
)

// newPlan draws an inline engine. chosen is the cylinder picked, or 0.
func newPlan(a *diagnose.Assessment, number string, chosen engine.Cylinder) planView {
	e := a.Engine
	p := planView{W: planW, H: alongH, Across: e.Mounting == engine.Crossways}
	switch {
	case p.Across:
		p.H = acrossH
	case e.Cylinders > 5:
		p.H += 64 // so that a coil stays large enough for a gloved finger
	}
	counts := a.LastCounts()
	n := e.Cylinders
	for i, c := range e.All() {
		cell := planCell{N: int(c), Coil: a.Now.In(part.Coil, c), Boot: a.Now.In(part.Boot, c), Plug: a.Now.In(part.Plug, c),
			Suspicion: unit.Percent(a.Suspicion[i]), Count: "no counts", Chosen: c == chosen, Trouble: a.Suspicion[i] >= 0.5}
		if counts != nil {
			cell.Count = fmt.Sprintf("%s of %s", unit.Thousands(counts.Counts[i]), unit.Thousands(counts.Revolutions/2))
		}
		if p.Across {
			cell.across(position(i, n, e.BeltEnd == engine.Left), n, p.H-bumperRoom, a.Suspicion[i])
		} else {
			cell.along(position(i, n, e.BeltEnd == engine.Firewall), n, p.H-bumperRoom, a.Suspicion[i])
		}
		cell.Outline = worn(cell.box, 14)
		at := "/jobs/" + url.PathEscape(number)
		cell.Href = at + "?cyl=" + fmt.Sprint(int(c))
		cell.CoilHref = at + "/move?tag=" + string(cell.Coil)
		cell.CoilName = fmt.Sprintf("Move coil %s from cylinder %d", cell.Coil, c)
		for _, t := range []part.Tag{cell.Coil, cell.Boot, cell.Plug} {
			if _, from, _ := t.Split(); from != c {
				cell.Away = true
			}
		}
		cell.Name = fmt.Sprintf("Cylinder %d: suspicion %s, misfires %s, coil %s, boot %s, plug %s", c, cell.Suspicion, cell.Count, cell.Coil, cell.Boot, cell.Plug)
		p.Cells = append(p.Cells, cell)
	}
	p.frame(e)
	p.Words = fmt.Sprintf("Engine plan from above, as seen from the front bumper: %s. Belt drive at the %s, next to cylinder 1. The firewall is at the top.",
		e.Describe(), e.BeltEnd)
	return p
}

// position counts from the left, or from the top, to the i-th cylinder.
func position(i, n int, firstFirst bool) int {
	if firstFirst {
		return i
	}
	return n - 1 - i
}

// across lays a cylinder out in a row from left to right.
func (c *planCell) across(at, n, wallBottom int, p float64) {
	const left, right = 54, planW - 54
	w := min(92, (right-left-8*(n-1))/n)
	x := (planW-(w*n+8*(n-1)))/2 + at*(w+8)
	c.box = box{x, wallTop + 20, w, wallBottom - wallTop - 40}
	mid := x + w/2
	c.NumberX, c.NumberY, c.Anchor = mid, c.Y+40, "middle"
	c.ShareX, c.ShareY = mid, c.Y+66
	c.CountX, c.CountY, c.PlateW = mid, c.Y+88, w-6
	cw := min(w-10, 76)
	c.Chip = box{mid - cw/2, c.Y + 102, cw, 62}
	c.TagsX, c.TagsY = mid, c.Y+190
	high := int(p * float64(c.H))
	c.Fill = box{x, c.Y + c.H - high, w, high}
	c.chip()
}

// along lays a cylinder out in a column from the firewall down to the bumper.
func (c *planCell) along(at, n, wallBottom int, p float64) {
	h := min(76, (wallBottom-wallTop-20-5*(n-1))/n)
	y := wallTop + (wallBottom-wallTop-(h*n+5*(n-1)))/2 + at*(h+5)
	c.box = box{44, y, planW - 116, h}
	mid := y + h/2
	c.NumberX, c.NumberY, c.Anchor = c.X+34, mid+10, "middle"
	c.ShareX, c.ShareY = c.X+c.W-64, mid-1
	c.CountX, c.CountY, c.PlateW = c.X+c.W-64, mid+16, 104
	ch := min(h-2, 62)
	c.Chip = box{c.X + 70, mid - ch/2, 76, ch}
	c.TagsX, c.TagsY = c.X+188, mid+5
	wide := int(p * float64(c.W))
	c.Fill = box{c.X, y, wide, h}
	c.chip()
}

func (c *planCell) chip() {
	c.ChipTextX, c.ChipTextY = c.Chip.X+c.Chip.W/2, c.Chip.Y+c.Chip.H/2+6
}

// ChipPath is the coil's shape: a cap with a square shoulder.
func (c planCell) ChipPath() string {
	b := c.Chip
	return fmt.Sprintf("M%d %d h%d l10 12 v%d h%d v%d z", b.X+10, b.Y, b.W-20, b.H-12, -b.W, -(b.H - 12))
}

// worn is a box with two opposite corners round and two nearly square.
func worn(b box, r int) string {
	r = min(r, b.W/2, b.H/2)
	return fmt.Sprintf("M%d %d h%d q2 0 2 2 v%d q0 %d %d %d h%d q-2 0 -2 -2 v%d q0 %d %d %d z",
		b.X+r, b.Y, b.W-r-2, b.H-r-2, r, -r, r, -(b.W - r - 2), -(b.H - r - 2), -r, r, -r)
}

// frame draws what surrounds the cylinders.
func (p *planView) frame(e engine.Engine) {
	first, last := p.Cells[0].box, p.Cells[0].box
	for _, c := range p.Cells {
		if c.X < first.X || c.Y < first.Y {
			first = c.box
		}
		if c.X > last.X || c.Y > last.Y {
			last = c.box
		}
	}
	p.Block = box{first.X - 8, first.Y - 8, last.X + last.W - first.X + 16, last.Y + last.H - first.Y + 16}
	b := p.Block
	switch e.BeltEnd {
	case engine.Left:
		p.Belt, p.Beside, p.BeltX, p.BeltY = box{b.X - 12, b.Y + 20, 8, b.H - 40}, true, b.X-18, b.Y+b.H/2
	case engine.Right:
		p.Belt, p.Beside, p.BeltX, p.BeltY = box{b.X + b.W + 4, b.Y + 20, 8, b.H - 40}, true, b.X+b.W+26, b.Y+b.H/2
	case engine.Front:
		p.Belt, p.BeltX, p.BeltY = box{b.X + 30, b.Y + b.H + 3, b.W - 60, 6}, b.X+b.W+4, b.Y+b.H-2
	default:
		p.Belt, p.BeltX, p.BeltY = box{b.X + 30, b.Y - 9, b.W - 60, 6}, b.X+b.W+4, b.Y+12
	}
}

// PartsHere are the tags under the coil.
func (c planCell) PartsHere() string {
	return strings.Join([]string{string(c.Boot), string(c.Plug)}, " · ")
}
