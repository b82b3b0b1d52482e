package engine

// Pattern is a generic engine to start from, by its shape and not by its maker.
type Pattern struct {
	ID    string
	Words string
	make  func() Engine
}

// Engine makes a new engine of the pattern.
func (p Pattern) Engine() Engine { return p.make() }

func row(n int, m Mounting, belt Side, ig Ignition) Engine {
	return Engine{Cylinders: n, Arrangement: Inline, Mounting: m, BeltEnd: belt, Ignition: ig, FiringOrder: UsualOrder(Inline, n, "")}
}

func twoBanks(a Arrangement, n int, m Mounting, belt Side, num Numbering, one Side, ig Ignition) Engine {
	return Engine{Cylinders: n, Arrangement: a, Mounting: m, BeltEnd: belt, Numbering: num, BankOne: one, Ignition: ig, FiringOrder: UsualOrder(a, n, num)}
}

// Shelf is the patterns in the order in which they are offered. Minutes for the
// covers are common practice (C; judgement); the vehicle's own record decides.
var Shelf = []Pattern{
	{"four-across", "Four in line, crossways, coil on plug", func() Engine {
		e := row(4, Crossways, Left, CoilOnPlug)
		e.Wires = 3
		e.Covers = []Cover{{Name: "engine cover", Hides: []Place{Whole}, Off: 1, On: 1}}
		return e
	}},
	{"three-across", "Three in line, crossways, coil on plug", func() Engine {
		e := row(3, Crossways, Right, CoilOnPlug)
		e.Wires = 3
		return e
	}},
	{"four-pairs", "Four in line, crossways, wasted spark with leads", func() Engine {
		e := row(4, Crossways, Left, WastedSpark)
		e.Wires = 3
		return e
	}},
	{"six-along", "Six in line, lengthways, coil on plug", func() Engine {
		e := row(6, Lengthways, Front, CoilOnPlug)
		e.Wires = 3
		e.Covers = []Cover{{Name: "engine cover", Hides: []Place{Whole}, Off: 1, On: 1}, {Name: "cowl", Hides: []Place{At(5), At(6)}, Off: 12, On: 15}}
		return e
	}},
	{"six-pairs", "Six in line, lengthways, wasted spark with leads", func() Engine {
		e := row(6, Lengthways, Front, WastedSpark)
		e.Wires, e.Module = 2, true
		e.Covers = []Cover{{Name: "air box", Hides: []Place{At(1), At(2)}, Off: 4, On: 5}}
		return e
	}},
	{"six-distributor", "Six in line, lengthways, distributor and carburettor", func() Engine {
		e := row(6, Lengthways, Front, Distributor)
		e.Wires, e.Rotor, e.Fuel = 2, Clockwise, Carburettor
		return e
	}},
	{"v6-across", "V6, crossways, bank 1 at the firewall, coil on plug under the plenum", func() Engine {
		e := twoBanks(V, 6, Crossways, Left, Along, Firewall, CoilOnPlug)
		e.Wires = 3
		e.Covers = []Cover{
			{Name: "engine cover", Hides: []Place{AtBank(2)}, Over: []string{"intake plenum"}, Off: 1, On: 1},
			{Name: "intake plenum", Hides: []Place{AtBank(1)}, Off: 35, On: 40, Gaskets: []string{"plenum gasket", "throttle gasket"}},
		}
		return e
	}},
	{"v8-leads", "V8, lengthways, alternating numbers, coil near plug with leads", func() Engine {
		e := twoBanks(V, 8, Lengthways, Front, Alternating, Right, CoilNearPlug)
		e.Wires = 4
		return e
	}},
	{"v6-pairs", "V6, crossways, bank 1 at the firewall, wasted spark with leads", func() Engine {
		e := twoBanks(V, 6, Crossways, Right, Alternating, Firewall, WastedSpark)
		e.Wires = 4
		return e
	}},
	{"v8-distributor", "V8, lengthways, alternating numbers, distributor and carburettor", func() Engine {
		e := twoBanks(V, 8, Lengthways, Front, Alternating, Right, Distributor)
		e.Wires, e.Rotor, e.Fuel = 2, Clockwise, Carburettor
		e.Covers = []Cover{{Name: "air cleaner", Hides: []Place{AtCoil(0)}, Off: 2, On: 2}}
		return e
	}},
	{"four-distributor", "Four in line, crossways, distributor", func() Engine {
		e := row(4, Crossways, Left, Distributor)
		e.Wires, e.Rotor = 2, Anticlockwise
		return e
	}},
	{"v12-along", "V12, lengthways, coil on plug", func() Engine {
		e := twoBanks(V, 12, Lengthways, Front, Along, Left, CoilOnPlug)
		e.Wires = 3
		e.Covers = []Cover{{Name: "engine cover", Hides: []Place{Whole}, Off: 2, On: 2}}
		return e
	}},
	{"flat-four", "Flat four, lengthways, alternating numbers, coil on plug", func() Engine {
		e := twoBanks(Flat, 4, Lengthways, Front, Alternating, Left, CoilOnPlug)
		e.Wires = 3
		e.Covers = []Cover{{Name: "air box", Hides: []Place{AtBank(1)}, Off: 6, On: 7}, {Name: "battery", Hides: []Place{AtBank(2)}, Off: 8, On: 8}}
		return e
	}},
	{"twin-pairs", "Two in line, crossways, wasted spark", func() Engine { return row(2, Crossways, Left, WastedSpark) }},
	{"single-magneto", "Single cylinder with magneto and carburettor", func() Engine {
		return Engine{Cylinders: 1, Arrangement: Single, Mounting: Lengthways, BeltEnd: Front, Ignition: Magneto, Fuel: Carburettor,
			FiringOrder: []Cylinder{1}, Covers: []Cover{{Name: "blower housing", Hides: []Place{Whole}, Off: 6, On: 6}}}
	}},
	{"single-remote", "Single cylinder with remote coil and lead", func() Engine {
		return Engine{Cylinders: 1, Arrangement: Single, Mounting: Lengthways, BeltEnd: Front, Ignition: SingleCoil, Wires: 2, FiringOrder: []Cylinder{1}}
	}},
}

// FindPattern is the pattern of an id.
func FindPattern(id string) (Pattern, bool) {
	for _, p := range Shelf {
		if p.ID == id {
			return p, true
		}
	}
	return Pattern{}, false
}
