package draw

import (
	"fmt"
	"html/template"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/plug"
)

// PlugDrawing is one plug with its nose up and the boot below it, drawn from the record. What
// was not inspected is drawn thin and empty.
type PlugDrawing struct {
	// X, Y, W, H are the visible part.
	X, Y, W, H float64
	Words      string
	Marks      []Mark
	// Fill is the colour of a swatch, "#rrggbb".
	Fill string
}

// Positions on the drawing of a plug, which is 100 wide.
const (
	plugW, plugH = 100.0, 194.0
	bootH        = 60.0
	wellH        = 26.0
	mid          = 50.0
)

// plugLooks gives the style of each class. The colours are those of the real objects in both
// themes.
var plugLooks = map[string]template.HTMLAttr{
	"p-steel":  `fill="#b4bcbf" stroke="#3d474b" stroke-width="1.2" stroke-linejoin="round"`,
	"p-dark":   `fill="none" stroke="#3d474b" stroke-width="1"`,
	"p-brass":  `fill="#cdb26a" stroke="#5b4a1c" stroke-width="1"`,
	"p-glazed": `fill="#f7f6f1" stroke="#6c7476" stroke-width="1.2"`,
	"p-rib":    `fill="none" stroke="#b9bdb8" stroke-width="1.2"`,
	"p-empty":  `fill="#eceeea" stroke="#8a948f" stroke-width="1.2" stroke-dasharray="3 2"`,
	"p-tan":    `fill="#c9a274" stroke="#6b5334" stroke-width="1.2"`,
	"p-grey":   `fill="#cbc9c1" stroke="#6c6a62" stroke-width="1.2"`,
	"p-pale":   `fill="#efe6d3" stroke="#8d8468" stroke-width="1.2"`,
	"p-white":  `fill="#ffffff" stroke="#54646c" stroke-width="1.6"`,
	"p-black":  `fill="#2a2623" stroke="#0d0c0b" stroke-width="1.2"`,
	"p-soot":   `fill="#191614" stroke="#000000" stroke-width="0.4"`,
	"p-ash":    `fill="#e8ddb8" stroke="#8c7c46" stroke-width="0.8"`,
	"p-glaze":  `fill="#d9b23c" fill-opacity="0.75" stroke="#8a6a10" stroke-width="0.8"`,
	"p-shine":  `fill="none" stroke="#ffffff" stroke-width="1.6" stroke-linecap="round"`,
	"p-bubble": `fill="#fffdf4" stroke="#7c7350" stroke-width="1"`,
	"p-lump":   `fill="#4a3d33" stroke="#1c1611" stroke-width="1"`,
	"p-fuel":   `fill="#bfe0ea" fill-opacity="0.9" stroke="#2c6c85" stroke-width="1"`,
	"p-oil":    `fill="#7a5413" fill-opacity="0.85" stroke="#3a2706" stroke-width="1"`,
	"p-water":  `fill="#69a8dc" fill-opacity="0.85" stroke="#1d4c79" stroke-width="1"`,
	"p-rust":   `fill="#a5572a" fill-opacity="0.8" stroke="#5f2c10" stroke-width="0.8"`,
	"p-ring":   `fill="#9b6a3c" fill-opacity="0.75" stroke="none"`,
	"p-crack":  `fill="none" stroke="#a01608" stroke-width="1.8" stroke-linejoin="round"`,
	"p-track":  `fill="none" stroke="#120f0d" stroke-width="2.4" stroke-linejoin="round" stroke-linecap="round"`,
	"p-rubber": `fill="#3a4045" stroke="#15191b" stroke-width="1.2" stroke-linejoin="round"`,
	"p-pale-r": `fill="none" stroke="#d6dadb" stroke-width="1.4" stroke-linecap="round"`,
	"p-copper": `fill="none" stroke="#c98d4a" stroke-width="2"`,
	"p-hole":   `fill="#2b3236" stroke="#15191b" stroke-width="1"`,
	"p-alarm":  `fill="#a01608" font-size="20" font-weight="700"`,
}

func (d *PlugDrawing) line(class, path string) {
	d.Marks = append(d.Marks, Mark{Class: class, D: path})
}

// spots draws small round marks at points.
func (d *PlugDrawing) spots(class string, r float64, at ...[2]float64) {
	var b strings.Builder
	for _, p := range at {
		fmt.Fprintf(&b, "M%.1f %.1fq0 %.1f %.1f %.1fq%.1f 0 %.1f %.1fq0 %.1f %.1f %.1fq%.1f 0 %.1f %.1fz", p[0]-r, p[1], -r, r, -r, r, r, r, r, -r, r, -r, -r, -r)
	}
	d.line(class, b.String())
}

// drops draws drops of liquid.
func (d *PlugDrawing) drops(class string, at ...[2]float64) {
	var b strings.Builder
	for _, p := range at {
		fmt.Fprintf(&b, "M%.1f %.1fq-5 6.5 0 9q5 -2.5 0 -9z", p[0], p[1])
	}
	d.line(class, b.String())
}

// Plug draws a plug and, below it, the boot or lead end. boot is "" if it was not inspected;
// it is not drawn if the engine has none.
func Plug(l plug.Look, hasBoot bool, boot evidence.Finding) *PlugDrawing {
	d := &PlugDrawing{W: plugW, H: plugH, Words: l.Words()}
	if hasBoot {
		d.H += bootH + wellH
	}
	d.body(l)
	d.tip(l)
	if hasBoot {
		d.boot(boot)
		d.well(l, boot)
	}
	return d
}

// body draws everything below the tip: shell, thread, gasket, hex, upper insulator, terminal.
func (d *PlugDrawing) body(l plug.Look) {
	d.line("p-brass", "M45 178h10v12q-5 4 -10 0z")
	insulator := "p-glazed"
	if l.Insulator == "" {
		insulator = "p-empty"
	}
	d.line(insulator, "M36 132h28l-2 28l-4 20h-16l-4 -20z")
	d.line("p-rib", "M36.7 146h26.6M37.3 154h25.4M38 162h24")
	if l.Ring == plug.Ring {
		d.line("p-ring", "M35 132h30v8q-15 5 -30 0z")
	}
	switch l.Insulator {
	case plug.Tracked:
		d.line("p-track", "M55 179l-4 -9l6 -7l-5 -9l5 -8l-3 -7l4 -6")
	case plug.Cracked:
		d.line("p-crack", "M39 142l8 6l-4 6l10 6M43 41l5 5l-4 5l7 5")
	}
	d.line("p-steel", "M22 112h56l4 4v14l-4 4h-56l-4 -4v-14z")
	d.line("p-dark", "M38 112v22M62 112v22")
	switch l.Gasket {
	case plug.Uncrushed:
		d.line("p-brass", "M24 100h52q5 0 5 6q0 6 -5 6h-52q-5 0 -5 -6q0 -6 5 -6z")
	case plug.Taper:
		d.line("p-steel", "M29 98h42l9 14h-60z")
	case plug.Crushed:
		d.line("p-brass", "M20 107h60v5h-60z")
	default:
		d.line("p-empty", "M22 106h56v6h-56z")
	}
	d.line("p-steel", "M28 56h44v44h-44z")
	var thread strings.Builder
	for y := 62.0; y < 100; y += 6 {
		fmt.Fprintf(&thread, "M28 %.0fl44 3", y)
	}
	d.line("p-dark", thread.String())
	switch l.High {
	case plug.Oil:
		d.line("p-oil", "M26 114q6 10 2 18h8q-1 -9 4 -18zM58 94q5 8 2 14h9q0 -8 3 -14z")
		d.drops("p-oil", [2]float64{72, 118}, [2]float64{50, 136})
	case plug.Water:
		d.line("p-rust", "M24 115q9 3 13 0q5 5 -2 9q-9 3 -12 -2zM58 118q9 -4 15 1q0 8 -8 8q-8 -2 -7 -9zM34 94q8 3 14 0v6h-14z")
		d.drops("p-water", [2]float64{50, 136}, [2]float64{69, 134})
	}
	if l.Lettering == plug.Wrong {
		d.Marks = append(d.Marks, Mark{Class: "p-alarm", X: mid, Y: 172, Anchor: "middle", Text: "≠"})
	}
	if l.Hold == plug.Loose {
		d.line("p-crack", "M84 96q8 10 0 20M88 92q11 14 0 28")
	}
}

// tip draws the firing end: nose, electrodes and deposits.
func (d *PlugDrawing) tip(l plug.Look) {
	nose := map[plug.Sign]string{plug.Tan: "p-tan", plug.Grey: "p-grey", plug.Pale: "p-pale", plug.White: "p-white", plug.Black: "p-black"}[l.Nose]
	if nose == "" {
		nose = "p-empty"
	}
	// The gap is drawn four times as large as the rest: 1 mm is 9 high.
	gap := 8.0
	if l.GapMM > 0 {
		gap = min(24, max(1, 9*l.GapMM))
	} else if l.Edges == plug.Rounded || l.Edges == plug.Eaten {
		gap = 13
	}
	under := 16.0 // below the strap
	top := under + gap
	d.line("p-steel", "M28 56q22 8 44 0v-5q-22 -7 -44 0z")
	d.line("p-dark", "M33 52q17 6 34 0")
	d.line(nose, fmt.Sprintf("M39 55l4.5 %.1fq6.5 -5 13 0l4.5 %.1fq-11 4 -22 0z", top+9-55, 55-top-9))
	half := 4.5
	switch l.Tip {
	case plug.Fine:
		half = 1.6
	case plug.Missing:
		half = 6
	}
	left, right, foot := mid-half, mid+half, top+9
	switch l.Edges {
	case plug.Rounded:
		d.line("p-steel", fmt.Sprintf("M%.1f %.1fv%.1fq%.1f -5.5 %.1f 0v%.1fz", left, foot, top+4-foot, half, 2*half, foot-top-4))
	case plug.Eaten:
		d.line("p-steel", fmt.Sprintf("M%.1f %.1fl%.1f %.1fq%.1f -4 %.1f 0l%.1f %.1fz", left, foot, half*0.5, top+4-foot, half*0.5, half, half*0.5, foot-top-4))
	case plug.Bruised:
		d.line("p-steel", fmt.Sprintf("M%.1f %.1fl-2 %.1fl3 -3l2 4l3 -5l2 4l%.1f %.1fz", left, foot, top+3-foot, right-left-8, foot-top-3))
	case "":
		d.line("p-empty", fmt.Sprintf("M%.1f %.1fV%.1fh%.1fV%.1fz", left, foot, top, 2*half, foot))
	default:
		d.line("p-steel", fmt.Sprintf("M%.1f %.1fV%.1fh%.1fV%.1fz", left, foot, top, 2*half, foot))
	}
	switch {
	case l.Strap == plug.Closed:
		d.line("p-steel", fmt.Sprintf("M66 53V34Q66 %.1f 56 %.1fL42 %.1fv-6l16 -2Q74 %.1f 74 30V54z", top+2, top+1, top, top-8))
	case l.Strap == plug.Bent:
		d.line("p-steel", "M66 53V26Q66 20 60 18L38 10l2 -6l22 7Q74 14 74 26V54z")
	case l.Strap == "":
		d.line("p-empty", "M67 53V26Q67 16 58 16H40v-6h20Q74 10 74 24V54z")
	case l.Edges == plug.Rounded || l.Edges == plug.Eaten:
		d.line("p-steel", "M67 53V26Q67 16 58 16q-4 -2 -9 -2q-5 0 -9 2v-6h20Q74 10 74 24V54z")
	default:
		d.line("p-steel", "M67 53V26Q67 16 58 16H40v-6h20Q74 10 74 24V54z")
	}
	switch l.Deposit {
	case plug.Soot:
		d.spots("p-soot", 1.5, [2]float64{42, 51}, [2]float64{46, 46}, [2]float64{50, 50}, [2]float64{55, 45}, [2]float64{58, 51}, [2]float64{45, 41}, [2]float64{53, 39}, [2]float64{32, 53}, [2]float64{37, 55}, [2]float64{62, 55}, [2]float64{68, 53}, [2]float64{70, 40}, [2]float64{71, 30}, [2]float64{64, 17}, [2]float64{52, 13}, [2]float64{45, 12})
	case plug.Ash:
		d.line("p-ash", "M41 53l3 -7l5 3l4 -5l4 6l3 -1l1 5q-10 3 -20 -1zM62 12l5 -3l5 5l2 7l-4 2l-3 -7zM44 11l4 -3l5 3l-4 3z")
	case plug.Glaze:
		d.line("p-glaze", "M41 53q1 -7 4 -11q6 -4 10 1q3 4 4 10q-9 3 -18 0z")
		d.line("p-shine", "M45 50q0 -4 2 -6M53 49q1 -2 0 -5")
	case plug.Blisters:
		d.spots("p-bubble", 2.2, [2]float64{44, 50}, [2]float64{50, 46}, [2]float64{56, 50}, [2]float64{47, 41}, [2]float64{54, 41})
	case plug.Bridged:
		d.line("p-lump", fmt.Sprintf("M43 %.1fq-2 %.1f 2 %.1fh10q4 %.1f 2 %.1fq-7 3 -14 0z", 15.0, gap/2, gap+2, -gap/2, -gap-2))
	}
	switch l.Wet {
	case plug.Fuel:
		d.drops("p-fuel", [2]float64{44, 40}, [2]float64{55, 44}, [2]float64{70, 34}, [2]float64{36, 54})
	case plug.Oil:
		d.line("p-oil", "M40 54q3 -9 8 -8q5 1 9 8q-8 3 -17 0zM67 46q4 2 6 -2v10h-6z")
		d.drops("p-oil", [2]float64{46, 40}, [2]float64{57, 46}, [2]float64{70, 24}, [2]float64{36, 54})
		d.line("p-shine", "M45 51q1 -3 4 -3")
	case plug.Water:
		d.drops("p-water", [2]float64{44, 40}, [2]float64{55, 44}, [2]float64{70, 34}, [2]float64{36, 54})
	}
}

// boot draws the boot with its opening upwards.
func (d *PlugDrawing) boot(found evidence.Finding) {
	y := plugH + 6
	path := func(class, format string, at ...any) { d.line(class, fmt.Sprintf(format, at...)) }
	class := "p-rubber"
	if found == "" {
		class = "p-empty"
	}
	switch found {
	case evidence.BootTorn:
		path(class, "M33 %.0fl6 8l5 -7l4 10l6 -11l4 6l9 -6l4 46h-42z", y+2)
	default:
		path(class, "M33 %.0fh34l4 46h-42z", y+2)
	}
	switch found {
	case evidence.BootTracked, evidence.LeadBurnt:
		path("p-pale-r", "M44 %.0fl5 9l-4 8l6 9l-3 10", y+6)
	case evidence.BootNotHome, evidence.LeadNotHome:
		path("p-crack", "M26 %.0fh48M32 %.0fl-6 5l6 5M68 %.0fl6 5l-6 5", y-2, y-7, y-7)
	case evidence.BootSpring:
		path("p-copper", "M46 %.0fl8 4l-8 4l8 4M48 %.0fl8 5", y+8, y+30)
	case evidence.BootWet, evidence.LeadWet:
		d.drops("p-oil", [2]float64{42, y + 10}, [2]float64{58, y + 12}, [2]float64{50, y + 26})
	case "":
	default:
		path("p-copper", "M44 %.0fh12M44 %.0fh12M44 %.0fh12", y+10, y+16, y+22)
	}
}

// well draws the plug well from above: dry, or with its liquid.
func (d *PlugDrawing) well(l plug.Look, boot evidence.Finding) {
	y := plugH + bootH + 12
	ellipse := func(class string, w, h, y float64) {
		d.line(class, fmt.Sprintf("M%.1f %.1fq0 %.1f %.1f %.1fq%.1f 0 %.1f %.1fq0 %.1f %.1f %.1fq%.1f 0 %.1f %.1fz", mid-w, y, -h, w, -h, w, w, h, h, -w, h, -w, -w, -h))
	}
	looked := l.High != "" || boot != ""
	if !looked {
		ellipse("p-empty", 26, 10, y)
		return
	}
	ellipse("p-steel", 26, 10, y)
	ellipse("p-hole", 20, 7, y)
	switch wet := boot == evidence.BootWet || boot == evidence.LeadWet; {
	case l.High == plug.Water:
		ellipse("p-water", 15, 4.5, y+1.5)
	case wet, l.High == plug.Oil:
		ellipse("p-oil", 15, 4.5, y+1.5)
		d.line("p-shine", fmt.Sprintf("M44 %.1fq4 -2 8 -1", y+0.5))
	}
}

// aspectViews gives the part of the drawing that shows an aspect: x, y, width and height.
var aspectViews = map[string][4]float64{
	"nose": {20, 0, 60, 62}, "deposit": {20, 0, 60, 62}, "wet": {20, 0, 60, 62}, "edges": {24, 0, 56, 56}, "strap": {20, 0, 60, 62}, "tip": {24, 0, 56, 56},
	"insulator": {15, 118, 70, 76}, "ring": {15, 104, 70, 60}, "high": {10, 84, 80, 66}, "gasket": {10, 84, 80, 54}, "hold": {4, 84, 96, 54}, "lettering": {15, 118, 70, 76},
}

// Sign draws the part of a plug that shows an aspect, with one sign.
func Sign(l plug.Look, a plug.Aspect, s plug.Sign) *PlugDrawing {
	shown := plug.Sound.Over(plug.Look{Gasket: plug.Crushed}).Over(l).With(a, s)
	if a.ID != "nose" && l.Nose == "" {
		shown.Nose = plug.Tan
	}
	if a.ID == "deposit" && s != plug.Clean && l.Nose == "" {
		shown.Nose = map[plug.Sign]plug.Sign{plug.Soot: plug.Black, plug.Ash: plug.Tan, plug.Glaze: plug.White, plug.Blisters: plug.White, plug.Bridged: plug.Tan}[s]
	}
	if a.ID == "insulator" && s == plug.Cracked {
		shown.Insulator = plug.Cracked
	}
	d := Plug(shown, false, "")
	v := aspectViews[a.ID]
	d.X, d.Y, d.W, d.H = v[0], v[1], v[2], v[3]
	return d
}
