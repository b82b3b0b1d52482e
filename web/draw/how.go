package draw

import "fmt"

// The drawings beside the instructions of a tool: 320 by 120 pixels, seen from the side, the coil
// above and the plug below.
const howW, howH = 320, 120

// How returns the drawing of a tool by the name of its view; nil for a tool without one.
func How(view string) *Picture {
	of := hows[view]
	if of == nil {
		return nil
	}
	p := &Picture{Title: view, W: howW, H: howH}
	of(p)
	return p
}

var hows = map[string]func(*Picture){
	"look": howLook, "move": howMove, "spark": howSpark, "meter": howMeter,
	"chain": howChain, "kv": howScope, "plugs": howPlugs, "beside": howBeside,
}

// upright draws a plug with its nose down: hexagon at x, y; about 18 wide and 44 high.
func (p *Picture) upright(x, y float64) {
	p.Line("bar", fmt.Sprintf("M%.0f %.0fh6v-18h-2v-4h-2v4h-2z", x-3, y)) // terminal and insulator
	p.Line("bar", fmt.Sprintf("M%.0f %.0fh18v8h-18z", x-9, y))
	p.Line("bar", fmt.Sprintf("M%.0f %.0fh12v16h-12z", x-6, y+8))
	p.Line("whisk", fmt.Sprintf("M%.0f %.0fv4M%.0f %.0fv8h-6", x, y+24, x+6, y+24))
}

// coilOver draws a coil with its boot, above a well at x; y is its top.
func (p *Picture) coilOver(x, y float64) {
	p.Line("bar", fmt.Sprintf("M%.0f %.0fh36v20h-36z", x-18, y))
	p.Line("bar", fmt.Sprintf("M%.0f %.0fh12v30h-12z", x-6, y+20))
	p.Line("whisk", fmt.Sprintf("M%.0f %.0fh10v8h-10", x+18, y+6))
}

// arrowHead draws the head of an arrow that ends at x, y and points along dx, dy (-1, 0 or 1).
func (p *Picture) arrowHead(x, y, dx, dy float64) {
	p.Line("part", fmt.Sprintf("M%.0f %.0fL%.0f %.0fL%.0f %.0f", x-6*dx+4*dy, y-6*dy+4*dx, x, y, x-6*dx-4*dy, y-6*dy-4*dx))
}

func howLook(p *Picture) {
	p.coilOver(90, 14)
	p.upright(90, 84)
	p.Text("label", 128, 26, "start", "latch and pins")
	p.Text("label", 128, 54, "start", "boot: tears, tracks, rust")
	p.Text("label", 128, 84, "start", "well: oil or water")
	p.Line("mid", "M70 40v74M110 40v74")
	p.Line("part", "M118 22l8 -1M98 50h28M112 80h14")
	p.Words = "Look at latch and pins, at the boot for tears, tracks and rust, and into the well for oil or water."
}

func howMove(p *Picture) {
	p.coilOver(70, 40)
	p.coilOver(240, 40)
	p.Text("text", 70, 55, "middle", "C2")
	p.Text("text", 240, 55, "middle", "C4")
	p.Text("small", 70, 110, "middle", "cylinder 2")
	p.Text("small", 240, 110, "middle", "cylinder 4")
	p.Line("part", "M80 34C110 6 200 6 228 30")
	p.arrowHead(230, 32, 1, 1)
	p.Line("part", "M210 66C180 88 130 88 100 68")
	p.arrowHead(98, 66, -1, 0)
	p.Words = "Coil C2 goes to cylinder 4, and coil C4 to cylinder 2. The plugs stay."
}

func howSpark(p *Picture) {
	p.coilOver(60, 8)
	p.Line("bar", "M50 62h20v14h-20zM56 76h8v12h-8z")
	p.Line("odd", "M60 90l-4 5h7l-5 6")
	p.Line("bar", "M56 103h8v9h-8z")
	p.Line("part", "M64 108h100")
	p.Line("whisk", "M164 96v22M172 100v14M180 104v6")
	p.Text("label", 84, 74, "start", "tester at the end of the boot")
	p.Text("label", 84, 98, "start", "gap: sets the kilovolts")
	p.Text("label", 192, 112, "start", "bare metal")
	p.Words = "The tester hangs at the end of the boot. Its gap sets the kilovolts. A lead grounds it on bare metal."
}

func howMeter(p *Picture) {
	p.Line("bar", "M20 20h64v84h-64zM30 30h44v22h-44z")
	p.Text("text", 52, 47, "middle", "6.2 k")
	p.Line("odd", "M40 96C60 130 90 96 116 60")
	p.Line("whisk", "M64 96C150 124 250 120 284 64")
	p.Line("bar", "M112 44h22v14h-22zM268 44h22v14h-22z")
	p.Line("part", "M134 51C170 34 230 68 268 51")
	p.Text("label", 200, 36, "middle", "lead, ignition off")
	p.Text("label", 200, 84, "middle", "bend it while you read")
	p.Words = "The meter reads from one end of the lead to the other, with the ignition off. Bend the lead while you read."
}

func howChain(p *Picture) {
	for i, words := range []string{"feed", "ground", "trigger", "coil", "spark"} {
		x := 8 + 62*float64(i)
		p.Box("bar", x, 40, 54, 34)
		p.Text("text", x+27, 62, "middle", words)
		if i > 0 {
			p.Line("part", fmt.Sprintf("M%.0f 57h7", x-8))
		}
	}
	p.Text("label", 8, 100, "start", "start here, and go on while it is there")
	p.Line("part", "M34 90v-12")
	p.arrowHead(34, 78, 0, -1)
	p.Words = "Start at the feed, and go on to ground, trigger, coil and spark while each is there."
}

func howScope(p *Picture) {
	p.Line("bar", "M16 52h34v40h-34z")
	p.Line("part", "M50 70C80 70 100 44 132 44")
	p.Line("bar", "M94 44h20v18h-20z")
	p.Line("whisk", "M104 62C104 100 150 104 184 96")
	p.Line("bar", "M184 14h122v96h-122z")
	p.Line("odd", "M190 88h20v-62l3 40l30 -4l8 26c4 -16 6 12 10 0s5 6 8 0h32")
	p.Text("small", 33, 46, "middle", "coil")
	p.Text("label", 104, 34, "middle", "clamp")
	p.Text("small", 224, 34, "start", "firing kV")
	p.Text("small", 246, 58, "start", "burn time")
	p.Words = "A clamp around the lead shows firing kilovolts and burn time on the scope."
}

func howPlugs(p *Picture) {
	for i := range 4 {
		x := 46 + 74*float64(i)
		p.upright(x, 44)
		p.Text("text", x, 104, "middle", fmt.Sprintf("P%d", i+1))
	}
	p.Line("mid", "M10 86h300")
	p.Text("label", 16, 116, "start", "in cylinder order, side by side")
	p.Words = "Lay the plugs out in cylinder order, side by side."
}

func howBeside(p *Picture) {
	p.upright(70, 50)
	p.upright(130, 50)
	p.Text("small", 70, 18, "middle", "old")
	p.Text("small", 130, 18, "middle", "new")
	p.Line("part", "M40 58h24M40 74h24M44 58v16M144 50h20M144 58h20")
	p.Line("mid", "M60 74h90")
	p.Text("label", 38, 70, "end", "reach")
	p.Text("label", 170, 58, "start", "hexagon")
	p.Text("label", 170, 78, "start", "seat and thread")
	p.Text("label", 170, 98, "start", "gap and electrode")
	p.Words = "Hold old and new side by side: reach, hexagon, seat, thread, gap and electrode."
}
