package plug

// Meaning is the interpretation of one look of a plug, as is common in the trade.
type Meaning struct {
	// ID identifies the row; Look describes the plug.
	ID, Look string
	// When reports whether a plug looks so.
	When func(Look) bool
	// Means is the interpretation; Not is a common wrong interpretation.
	Means, Not string
	// Harmless is true if it is no fault.
	Harmless bool
}

// Meanings is the table of looks (C: common practice, row by row).
var Meanings = []Meaning{
	{"normal", "dry, tan to light grey nose, even wear", func(l Look) bool {
		return (l.Nose == Tan || l.Nose == Grey) && len(l.Abnormal()) == 0
	}, "normal", "", true},
	{"pale", "merely pale, matt nose", func(l Look) bool { return l.Nose == Pale && l.Deposit != Glaze && l.Deposit != Blisters }, "can be healthy", "not hot by its colour alone", true},
	{"hot", "chalk-white, glazed or blistered nose", func(l Look) bool { return l.Nose == White || l.Deposit == Blisters }, "ran hot: lean, ignition too early, or a heat range too hot", "", false},
	{"soot", "dry black soot", func(l Look) bool { return l.Deposit == Soot && l.Wet != Oil && l.Wet != Fuel }, "rich, a weak spark, short trips, or a heat range too cold", "", false},
	{"fuel", "wet with fuel", func(l Look) bool { return l.Wet == Fuel }, "did not fire, or was flooded", "the effect, not the cause; after a cold start of under a minute it says nothing", false},
	{"oil-low", "wet with oil at the tip", func(l Look) bool { return l.Wet == Oil }, "oil in the chamber: rings, valve guides or seals", "a trace at a high distance is no reason to rebuild; oil poured in for a compression test wets it too", false},
	{"oil-high", "oil at the hex and threads", func(l Look) bool { return l.High == Oil }, "the valve-cover or well seal: oil in the well swells the boot and lets it arc", "not the rings, when the tip is dry", false},
	{"water-low", "wet with water or coolant at the tip", func(l Look) bool { return l.Wet == Water }, "coolant in the chamber: the head gasket", "", false},
	{"ash", "ash or glaze", func(l Look) bool { return l.Deposit == Ash || l.Deposit == Glaze }, "additives, oil burning, or heat", "", false},
	{"worn", "rounded electrodes, wide gap", func(l Look) bool { return l.Edges == Rounded || l.Edges == Eaten }, "worn out: it needs more kilovolts and overworks the coil", "", false},
	{"cracked", "cracked or chipped insulator", func(l Look) bool { return l.Insulator == Cracked }, "dropped, over-bent or over-torqued: it leaks outside or inside", "", false},
	{"tracked", "burnt tracks lengthwise on the upper insulator, still there after wiping", func(l Look) bool { return l.Insulator == Tracked }, "carbon tracking: the spark has found a way outside; its boot carries the other half, so both go", "", false},
	{"ring", "even brown ring at the metal shell", func(l Look) bool { return l.Ring == Ring }, "a harmless corona stain", "not a leak", true},
	{"strap", "bent or closed ground electrode", func(l Look) bool { return l.Strap == Bent || l.Strap == Closed }, "dropped, or the wrong reach", "", false},
	{"bridged", "deposit across the gap", func(l Look) bool { return l.Deposit == Bridged }, "no gap to fire across: what bridges it came loose or built up", "", false},
	{"bruised", "bruised or hammered tip", func(l Look) bool { return l.Edges == Bruised }, "the wrong reach, or debris in the cylinder", "", false},
	{"uncrushed", "gasket not crushed", func(l Look) bool { return l.Gasket == Uncrushed || l.Hold == Loose }, "was never tight", "", false},
	{"rust", "rust or water in the well", func(l Look) bool { return l.High == Water }, "sealing, or washing; goes with a complaint in rain", "", false},
	{"copy", "no fine centre wire where there should be one, or wrong lettering", func(l Look) bool { return l.Tip == Missing || l.Lettering == Wrong }, "a wrong part or a copy", "", false},
}

// Means lists the interpretations of a look in the order of the table.
func (l Look) Means() []Meaning {
	var all []Meaning
	for _, m := range Meanings {
		if m.When(l) {
			all = append(all, m)
		}
	}
	return all
}
