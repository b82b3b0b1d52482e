package draw

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// Fix is what a drawing of a repair step shows besides its name.
type Fix struct {
	// Name is the drawing of the step.
	Name string
	// Order is the firing order, Rotor the sense in which the rotor turns, both for a distributor.
	Order []engine.Cylinder
	Rotor engine.Turn
	// Aim is the timing or gap to reach, Measured what was measured; Known says whether each is known.
	Aim, Measured           float64
	AimKnown, MeasuredKnown bool
	// Low and High are the range of a gap or air gap.
	Low, High float64
	// Teeth is the number of teeth of the distributor's gear, 0 if unknown.
	Teeth int
	// Turn is the angle of a plug after finger-tight in degrees.
	Turn float64
}

// FixPicture draws a repair step; nil for a step without a drawing.
func FixPicture(f Fix) *Picture {
	of := fixes[f.Name]
	if of == nil {
		return nil
	}
	p := &Picture{Title: f.Name, W: 380, H: 150}
	of(p, f)
	return p
}

var fixes = map[string]func(*Picture, Fix){
	"beside":   func(p *Picture, _ Fix) { howBeside(p) },
	"socket":   fixSocket,
	"gap":      fixGap,
	"thread":   fixThread,
	"angle":    fixAngle,
	"cover":    func(p *Picture, _ Fix) { fixSequence(p, false) },
	"sequence": func(p *Picture, _ Fix) { fixSequence(p, true) },
	"coil":     fixCoil,
	"leads":    fixCap,
	"cap":      fixCap,
	"rotor":    fixRotor,
	"timing":   fixTiming,
	"legs":     fixLegs,
}

func fixSocket(p *Picture, _ Fix) {
	p.Line("mid", "M118 20v124M202 20v124")
	p.Line("bar", "M148 6h24v66h-24zM140 72h40v26h-40z")
	p.upright(160, 100)
	p.Text("label", 210, 40, "start", "straight, locked")
	p.Text("label", 210, 90, "start", "blow out first")
	p.Line("part", "M206 86l-20 22")
	p.arrowHead(186, 108, -1, 1)
	p.Words = "Socket and extension stand straight in the well and are locked together. Blow the well out first."
}

func fixGap(p *Picture, f Fix) {
	p.Line("bar", "M60 20h44v70h-44zM74 90h16v12h-16z")
	p.Line("bar", "M104 60h14v72h-50v-10h36z")
	p.Line("odd", "M64 112h60")
	p.Text("label", 132, 116, "start", gapWords(f))
	p.Text("label", 132, 40, "start", "push only the ground strap")
	p.Line("part", "M150 48v34h-28")
	p.arrowHead(122, 82, -1, 0)
	p.Text("small", 132, 136, "start", "never the centre electrode")
	p.Words = "The gap lies between centre electrode and ground strap: " + gapWords(f) + ". Push only the strap."
}

func gapWords(f Fix) string {
	if f.High == 0 {
		return "gap"
	}
	return fmt.Sprintf("gap %s to %s mm", unit.Decimal(f.Low), unit.Decimal(f.High))
}

func fixThread(p *Picture, _ Fix) {
	p.upright(160, 30)
	p.Line("mid", "M120 76h28v60M200 76h-28v60")
	p.Line("part", "M196 20A40 14 0 0 1 124 20")
	p.arrowHead(124, 20, -1, 0)
	p.Text("label", 204, 26, "start", "1 back: it drops")
	p.Text("label", 204, 50, "start", "2 then forwards")
	p.Text("label", 204, 100, "start", "by hand, no ratchet")
	p.Words = "Turn the plug backwards until it drops into the thread, then forwards by hand."
}

func fixAngle(p *Picture, f Fix) {
	const x, y, r = 100.0, 76.0, 56.0
	p.Line("axis", circle(x, y, r))
	p.Line("bar", hexagon(x, y, 26))
	end := f.Turn * math.Pi / 180
	large := 0
	if f.Turn > 180 {
		large = 1
	}
	ex, ey := x+r*math.Sin(end), y-r*math.Cos(end)
	p.Line("odd", fmt.Sprintf("M%.1f %.1fA%.0f %.0f 0 %d 1 %.1f %.1f", x, y-r, r, r, large, ex, ey))
	p.Line("whisk", fmt.Sprintf("M%.1f %.1fV%.1fM%.1f %.1fL%.1f %.1f", x, y-r-6, y-r+10, x, y, ex, ey))
	p.Text("label", 176, 40, "start", "mark at finger-tight")
	p.Text("text", 176, 84, "start", fmt.Sprintf("turn by %s°", unit.Decimal(math.Round(f.Turn*10)/10)))
	p.Words = fmt.Sprintf("From finger-tight turn the plug by %s degrees.", unit.Decimal(math.Round(f.Turn*10)/10))
}

// fixSequence draws the bolts of a cover with the order in which they are tightened, from the middle
// outwards, or loosened, from the outside inwards.
func fixSequence(p *Picture, tighten bool) {
	p.Line("bar", "M20 24h280v96h-280z")
	for col := range 4 {
		for row := range 2 {
			x, y := 50+73*float64(col), 46+52*float64(row)
			n := map[int]int{0: 5, 1: 1, 2: 3, 3: 7}[col] + row
			if !tighten {
				n = 9 - n
			}
			p.Line("axis", circle(x, y, 12))
			p.Text("text", x, y+5, "middle", fmt.Sprint(n))
		}
	}
	words := "from the middle outwards, in two rounds"
	if !tighten {
		words = "from the outside inwards, by steps"
	}
	p.Text("label", 160, 142, "middle", words)
	p.Words = "Order of the bolts: " + words + "."
}

func fixCoil(p *Picture, _ Fix) {
	p.coilOver(90, 26)
	p.upright(90, 98)
	p.Line("mid", "M70 50v90M110 50v90")
	p.Line("part", "M60 8v34")
	p.arrowHead(60, 44, 0, 1)
	p.Text("label", 134, 30, "start", "1 press down by its body")
	p.Text("label", 134, 54, "start", "2 bolt")
	p.Text("label", 134, 78, "start", "3 connector, then lock")
	p.Text("label", 134, 102, "start", "boot clicks on the plug")
	p.Words = "Press the coil down by its body until the boot clicks. Then bolt, connector and lock."
}

func circle(x, y, r float64) string {
	return fmt.Sprintf("M%.1f %.1fa%.1f %.1f 0 1 0 %.1f 0a%.1f %.1f 0 1 0 %.1f 0z", x-r, y, r, r, 2*r, r, r, -2*r)
}

func hexagon(x, y, r float64) string {
	d := ""
	for i := range 6 {
		a := math.Pi / 3 * float64(i)
		d += fmt.Sprintf("%s%.1f %.1f", map[bool]string{true: "M", false: "L"}[i == 0], x+r*math.Cos(a), y+r*math.Sin(a))
	}
	return d + "z"
}

// tower returns the place of the i-th tower of a cap in firing order: from the top, in the sense in
// which the rotor turns.
func tower(f Fix, i int, x, y, r float64) (float64, float64) {
	a := 2 * math.Pi * float64(i) / float64(max(1, len(f.Order)))
	if f.Rotor == engine.Anticlockwise {
		a = -a
	}
	return x + r*math.Sin(a), y - r*math.Cos(a)
}

// fixCap draws the cap from above with the cylinder of each tower.
func fixCap(p *Picture, f Fix) {
	const x, y, r = 76.0, 78.0, 52.0
	p.Line("bar", circle(x, y, r+14))
	for i, c := range f.Order {
		tx, ty := tower(f, i, x, y, r)
		p.Line("axis", circle(tx, ty, 11))
		p.Text("text", tx, ty+5, "middle", fmt.Sprint(c))
	}
	p.Line("axis", circle(x, y, 9))
	p.Text("label", 164, 50, "start", "firing order "+engine.OrderString(f.Order))
	words := "sense of the rotor: see its arrow"
	if f.Rotor != "" {
		words = "rotor turns " + string(f.Rotor)
	}
	p.Text("label", 164, 76, "start", words)
	p.Text("small", 164, 100, "start", "seen from above")
	p.Words = "Cap from above. " + words + ". Leads in the order " + engine.OrderString(f.Order) + "."
}

// fixRotor draws the rotor with its mark and the angle that it stands off, and one tooth.
func fixRotor(p *Picture, f Fix) {
	const x, y, r = 76.0, 78.0, 52.0
	p.Line("bar", circle(x, y, r+10))
	p.Line("whisk", fmt.Sprintf("M%.1f %.1fv14", x, y-r-14))
	p.Text("small", x+8, 16, "start", "mark")
	off := 0.0
	if f.MeasuredKnown {
		off = f.Measured
	}
	sense := 1.0
	if f.Rotor == engine.Anticlockwise {
		sense = -1
	}
	a := -sense * off * math.Pi / 180 // early: against its sense
	p.Line("odd", fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x, y, x+r*math.Sin(a), y-r*math.Cos(a)))
	p.Line("axis", circle(x, y, 9))
	words := "rotor on its mark"
	if f.MeasuredKnown && off != 0 {
		words = fmt.Sprintf("rotor %s° before its mark", unit.Decimal(off))
	}
	p.Text("text", 152, 60, "start", words)
	if f.Teeth > 0 {
		p.Text("label", 152, 90, "start", fmt.Sprintf("one tooth: %.0f°, %.0f° crank", 360/float64(f.Teeth), 720/float64(f.Teeth)))
	}
	p.Words = "Distributor from above: " + words + "."
}

// fixTiming draws the pulley with the mark that the lamp shows and the one to reach, before top dead
// centre to the left of the pointer.
func fixTiming(p *Picture, f Fix) {
	const x, y, r = 160.0, 150.0, 112.0
	at := func(degrees float64) (float64, float64) {
		a := -2 * degrees * math.Pi / 180 // drawn twice as wide, so that two degrees can be seen
		return math.Sin(a), -math.Cos(a)
	}
	p.Line("bar", fmt.Sprintf("M%.0f %.0fA%.0f %.0f 0 0 1 %.0f %.0f", x-r, y-2, r, r, x+r, y-2))
	for d := -10.0; d <= 30; d += 10 {
		sx, sy := at(d)
		p.Line("axis", fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x+r*sx, y+r*sy, x+(r-10)*sx, y+(r-10)*sy))
		p.Text("small", x+(r-22)*sx, y+(r-22)*sy+4, "middle", unit.Decimal(d))
	}
	p.Line("whisk", fmt.Sprintf("M%.0f 14v20", x))
	p.Text("small", x+6, 20, "start", "pointer")
	words := ""
	mark := func(class, name string, d float64) {
		sx, sy := at(math.Max(-24, math.Min(44, d)))
		p.Line(class, fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x+(r+8)*sx, y+(r+8)*sy, x+(r-14)*sx, y+(r-14)*sy))
		words += fmt.Sprintf(" %s at %s°.", name, unit.Decimal(d))
	}
	if f.AimKnown {
		mark("part", "Aim", f.Aim)
		p.Text("label", 8, 20, "start", fmt.Sprintf("aim %s°", unit.Decimal(f.Aim)))
	}
	if f.MeasuredKnown {
		mark("odd", "Lamp", f.Measured)
		p.Text("alarm", 8, 40, "start", fmt.Sprintf("lamp %s°", unit.Decimal(f.Measured)))
	}
	p.Words = "Pulley with degrees before top dead centre." + words
}

func fixLegs(p *Picture, f Fix) {
	p.Line("bar", "M30 130A90 90 0 0 1 210 130z")
	p.Line("bar", "M66 8h108v20h-20v18h-20v-18h-28v18h-20v-18h-20z")
	p.Line("odd", "M82 50h28M130 50h28")
	p.Text("small", 96, 72, "middle", "1")
	p.Text("small", 144, 72, "middle", "2")
	p.Text("label", 188, 30, "start", "coil")
	p.Text("label", 188, 56, "start", airWords(f))
	p.Text("small", 120, 118, "middle", "flywheel")
	p.Words = "The air gap lies between each leg of the coil and the flywheel: " + airWords(f) + "."
}

func airWords(f Fix) string {
	if f.High == 0 {
		return "air gap"
	}
	return fmt.Sprintf("%s to %s mm", unit.Decimal(f.Low), unit.Decimal(f.High))
}
