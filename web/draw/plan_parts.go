package draw

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// planChip is a part that can be dragged or highlighted.
type planChip struct {
	Box
	Tag          part.Tag
	Kind         engine.Kind
	Href, Name   string
	Place        engine.Place
	TextX, TextY int
	Away         bool // it came from another place
	// From states its home with an arrow from there, at FromY.
	From  string
	FromY int
}

// planGear is a component beside the block, such as a coil that serves several cylinders.
type planGear struct {
	Chip           planChip
	Place          engine.Place
	Label          string
	LabelX, LabelY int
	Outline        string
}

// planCap is a distributor's cap.
type planCap struct {
	X, Y, R int
	Towers  []capTower
	Rotor   planChip
	Turn    string // path of the arrow, or empty
}

type capTower struct {
	X, Y, N int
}

// parts fills in the tags of a cylinder. The first of its own parts is the chip that can be
// dragged; the others are listed below it.
func (d *drawing) parts(cell *Cell, chip Box) {
	c := engine.Cylinder(cell.N)
	var drops, others, words []string
	for i, k := range d.own {
		t := d.s.at.In(k, cell.Place)
		drops = append(drops, strings.ReplaceAll(string(k), " ", "-"))
		if i == 0 {
			cell.Chip = d.chip(t, cell.Place, chip)
		} else {
			others = append(others, string(t))
		}
	}
	for _, k := range d.Kinds {
		t := d.s.at.Serving(k, c)
		cell.Tags = append(cell.Tags, t)
		words = append(words, t.Words())
	}
	cell.Others = strings.Join(others, " · ")
	wide := cell.Chip.W < cell.W/2 && cell.H < 120
	cell.Drops = strings.Join(drops, " ")
	cell.Name = fmt.Sprintf("Cylinder %d: ", c)
	if d.Live {
		if cell.Suspicion != "" {
			cell.Name += fmt.Sprintf("suspicion %s, ", cell.Suspicion)
		}
		cell.Name += fmt.Sprintf("misfires %s, ", cell.Count)
	}
	cell.Name += strings.Join(words, ", ")
	if from := d.from(cell.Chip.Tag, cell.Place); from != "" {
		cell.Name += ", " + from
	}
	var on, signs []string
	for _, cover := range d.e.Behind(cell.Place) {
		n := slices.IndexFunc(d.e.Covers, func(c engine.Cover) bool { return c.Name == cover.Name }) + 1
		if slices.Contains(d.s.off, cover.Name) {
			signs = append(signs, fmt.Sprintf("▢%d off", n))
			continue
		}
		signs = append(signs, fmt.Sprintf("▤%d", n))
		on = append(on, cover.Name)
	}
	cell.Lid = strings.Join(signs, " ")
	if len(on) > 0 {
		cell.Name += ", under " + strings.Join(on, " and ")
	}
	if wide && cell.H < 70 && len(signs) > 0 { // no room for a line of its own
		sign := " ▢"
		if len(on) > 0 {
			sign = " ▤"
		}
		cell.Others, cell.Lid = strings.TrimPrefix(cell.Others+sign, " "), ""
	}
}

func (d *drawing) chip(t part.Tag, at engine.Place, in Box) planChip {
	c := planChip{Box: in, Tag: t, Kind: t.Kind(), Place: at, TextX: in.MidX(), TextY: in.midY() + 6, Away: t != "" && d.s.at.Home(t) != at}
	if c.Away && in.H >= 46 {
		c.From, c.TextY = d.arrow(t, at), in.midY()-1
		c.FromY = c.TextY + 18
	}
	if d.Live {
		c.Href = d.s.href + "/move?tag=" + string(t)
		c.Name = fmt.Sprintf("Move %s from %s", t.Words(), at)
	}
	return c
}

// from states where a part came from, "" for one at home.
func (d *drawing) from(t part.Tag, at engine.Place) string {
	switch home := t.Home(); {
	case t == "" || d.s.at.Home(t) == at:
		return ""
	case t.IsSpare():
		return t.Words()
	default:
		return fmt.Sprintf("%s came from %s", t.Words(), home)
	}
}

// arrow states the home of a part and the direction in which it moved: "2 →" came from cylinder 2,
// which is at the left.
func (d *drawing) arrow(t part.Tag, at engine.Place) string {
	if t.IsSpare() {
		return "spare"
	}
	if letter, ok := t.Home().Coil(); ok {
		return "from " + letter.String()
	}
	home, ok := t.Home().Cylinder()
	here, is := at.Cylinder()
	if !ok || !is {
		return "moved"
	}
	x0, y0 := d.position(home)
	x1, y1 := d.position(here)
	sign := "→"
	switch {
	case abs(x1-x0) >= abs(y1-y0) && x1 < x0:
		sign = "←"
	case abs(x1-x0) >= abs(y1-y0):
	case y1 < y0:
		sign = "↑"
	default:
		sign = "↓"
	}
	return fmt.Sprintf("%d %s", home, sign)
}

// position returns the column and the row of a cylinder in the drawing.
func (d *drawing) position(c engine.Cylinder) (x, y int) {
	_, rows := d.rows()
	for i, row := range rows {
		if k := slices.Index(row, c); k >= 0 {
			if d.e.Mounting == engine.Crossways {
				return k, i
			}
			return i, k
		}
	}
	return 0, 0
}

func abs(n int) int { return max(n, -n) }

// place puts shared coils and the distributor cap into a strip beside the block and draws the
// leads.
func (d *drawing) place(strip Box, upright bool) {
	coils := d.e.Coils()
	if d.e.Ignition == engine.Distributor {
		d.distributor(strip, upright)
		return
	}
	const w, h = 62, 46
	for i, coil := range coils {
		at := Box{W: w, H: h}
		if upright {
			at.X, at.Y = strip.X+(strip.W-w)/2, strip.Y+(2*i+1)*strip.H/(2*len(coils))-h/2
		} else {
			at.X, at.Y = strip.X+(2*i+1)*strip.W/(2*len(coils))-w/2, strip.Y+(strip.H-h)/2
		}
		g := planGear{Place: coil.Place, Chip: d.chip(d.s.at.In(engine.Coil, coil.Place), coil.Place, at), Label: strings.ReplaceAll(engine.OrderString(coil.Cylinders), "-", "·"),
			LabelX: at.MidX(), LabelY: at.Y + h + 13, Outline: worn(Box{at.X - 4, at.Y - 4, w + 8, h + 22}, 8)}
		d.Gear = append(d.Gear, g)
		for tower, c := range coil.Cylinders {
			x := at.X + (2*tower+1)*w/(2*len(coil.Cylinders))
			d.wire(x, at.Y+h/2, c)
		}
	}
}

func (d *drawing) distributor(strip Box, upright bool) {
	c := &planCap{X: strip.MidX(), Y: strip.midY(), R: capR}
	coil := Box{W: 58, H: 44}
	if upright {
		coil.X, coil.Y = strip.MidX()-29, strip.Y
		c.Y = strip.Y + strip.H/2 + 20
	} else {
		coil.X, coil.Y = strip.X, strip.midY()-22
	}
	order := d.e.CapOrder()
	turn := 1.0
	if d.e.Rotor == engine.Anticlockwise {
		turn = -1
	}
	for i, n := range order {
		angle := -math.Pi/2 + turn*2*math.Pi*float64(i)/float64(len(order))
		at := func(r float64) (int, int) {
			return c.X + int(math.Round(r*math.Cos(angle))), c.Y + int(math.Round(r*math.Sin(angle)))
		}
		x, y := at(capR - 11)
		c.Towers = append(c.Towers, capTower{x, y + 5, int(n)})
		x, y = at(capR)
		d.wire(x, y, n)
	}
	if d.e.Rotor != "" {
		sweep := 1
		if turn < 0 {
			sweep = 0
		}
		dx := int(turn) * 13
		c.Turn = fmt.Sprintf("M%d %d A 19 19 0 0 %d %d %d l %d %d", c.X-dx, c.Y-14, sweep, c.X+dx, c.Y-14, -int(turn)*7, -3)
	}
	c.Rotor = d.chip(d.s.at.In(engine.Rotor, coilA), coilA, Box{c.X - 22, c.Y - 13, 44, 28})
	d.Cap = c
	g := planGear{Place: coilA, Chip: d.chip(d.s.at.In(engine.Coil, coilA), coilA, coil), Outline: worn(Box{coil.X - 4, coil.Y - 4, 66, 52}, 8)}
	d.Gear = append(d.Gear, g)
	for i, k := range []engine.Kind{engine.CoilLead, engine.Cap} {
		at := Box{c.X + capR + 30 + 66*i, strip.midY() - 15, 58, 30}
		if upright {
			at = Box{strip.MidX() - 29, c.Y + capR + 12 + 36*i, 58, 30}
		}
		d.Gear = append(d.Gear, planGear{Place: coilA, Chip: d.chip(d.s.at.In(k, coilA), coilA, at), Outline: worn(Box{at.X - 3, at.Y - 3, 64, 36}, 6)})
	}
	d.Wires = append(d.Wires, fmt.Sprintf("M%d %d L%d %d", coil.MidX(), coil.midY(), c.X, c.Y))
}

// wire draws a lead from a tower to the nearest edge of a cylinder.
func (d *drawing) wire(x, y int, c engine.Cylinder) {
	i := slices.IndexFunc(d.Cells, func(cell Cell) bool { return cell.N == int(c) })
	if i < 0 {
		return
	}
	b := d.Cells[i].Box
	toX, toY := min(max(x, b.X), b.X+b.W), min(max(y, b.Y), b.Y+b.H)
	if d.e.Mounting == engine.Crossways {
		toX = b.MidX()
		d.Wires = append(d.Wires, fmt.Sprintf("M%d %d C%d %d %d %d %d %d", x, y, x, (y+toY)/2, toX, (y+toY)/2, toX, toY))
		return
	}
	toY = b.midY()
	d.Wires = append(d.Wires, fmt.Sprintf("M%d %d C%d %d %d %d %d %d", x, y, (x+toX)/2, y, (x+toX)/2, toY, toX, toY))
}

// ChipPath is the outline of a part: a cap with a square shoulder.
func (b planChip) ChipPath() string {
	return fmt.Sprintf("M%d %d h%d l10 12 v%d h%d v%d z", b.X+10, b.Y, b.W-20, b.H-12, -b.W, -(b.H - 12))
}
