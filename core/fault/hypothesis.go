package fault

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Hypothesis is one mode on one part or at one place, with its affected cylinders.
type Hypothesis struct {
	Mode Mode
	// Tag is the faulty part, for modes of parts. The fault moves with the part.
	Tag part.Tag
	// Place is the faulty place, for modes of sites.
	Place engine.Place
	// Pair holds the two cylinders of a fault that connects two.
	Pair engine.Set
	// Set is the home cylinders of a faulty set of parts, Misfiring those of them whose parts misfire. Both are 0 for a
	// single part or place.
	Set, Misfiring engine.Set
	// Prior is the probability before any evidence.
	Prior float64

	row    int        // index in the catalogue
	tower  int        // of a coil or cap, from 1; 0 means all
	series bool       // affects all cylinders in series
	fixed  engine.Set // affected cylinders of a fault of a site
}

// Key returns the hypothesis as one stable word: "coil.cracked@C2". A pair of cylinders follows the place:
// "cap.tracked@DA:1-5". A set has its cylinders and the misfiring ones: "plug.wrong@set:1-2-3-4:2-3". Hypotheses of one
// fault with different affected cylinders share a key.
func (h Hypothesis) Key() string {
	at := string(h.Place)
	if h.Tag != "" {
		at = string(h.Tag)
	}
	if h.Pair != 0 {
		at += ":" + engine.OrderString(h.Pair.List())
	}
	if h.IsSet() {
		at = "set:" + engine.OrderString(h.Set.List()) + ":" + engine.OrderString(h.Misfiring.List())
	}
	return string(h.Mode.ID) + "@" + at
}

// Enumerate lists every single fault of an engine, with "something else" (at each cylinder and
// for the whole engine) and "no fault now". The complaint changes the shares. The priors sum
// to 1.
func Enumerate(e engine.Engine, c Complaint) []Hypothesis {
	layout := slices.Index(engine.Ignitions(), e.Ignition)
	items := map[Unit][]engine.Item{}
	for _, item := range e.Items() {
		items[item.Kind] = append(items[item.Kind], item)
	}
	items[Else] = append(eachCylinder(e), engine.Item{Place: engine.Whole, Feeds: e.Everything()})
	items[NoFault] = []engine.Item{{Place: engine.Whole}}
	all := make([]Hypothesis, 0, 32*e.Cylinders+48)
	total := 0.0
	for row, m := range Catalogue {
		share := m.Prior[layout] * c.factor(m)
		if share == 0 {
			continue
		}
		var of []Hypothesis
		for _, item := range items[m.Unit] {
			of = append(of, m.at(e, item)...)
		}
		own := 0.0
		for _, h := range of {
			own += h.Prior
		}
		for _, h := range of {
			h.row = row
			h.Prior *= share / own * c.aged(&h)
			total += h.Prior
			all = append(all, h)
		}
	}
	for i := range all {
		all[i].Prior /= total
	}
	return all
}

func eachCylinder(e engine.Engine) []engine.Item {
	var all []engine.Item
	for _, c := range e.All() {
		all = append(all, engine.Item{Place: engine.At(c), Feeds: engine.SetOf(c)})
	}
	return all
}

// at lists the hypotheses of a mode at one item, with relative priors.
func (m Mode) at(e engine.Engine, item engine.Item) []Hypothesis {
	h := Hypothesis{Mode: m, Place: item.Place, Prior: 1, fixed: item.Feeds}
	if item.Part {
		h.Tag, h.Place = part.Of(m.Unit, item.Place), ""
	}
	shared := 0.0 // fraction that several cylinders have in common
	switch m.Unit {
	case Else:
		shared = ElseWholeEngine
	case engine.AirLeak:
		shared = SharedAir
	}
	if shared > 0 && e.Cylinders > 1 {
		if _, one := item.Place.Cylinder(); one {
			h.Prior = (1 - shared) / float64(e.Cylinders)
		} else {
			h.Prior = shared
			if e.Banks() == 2 && m.Unit == engine.AirLeak { // half for the whole, a quarter a bank
				h.Prior /= 2
				if item.Place != engine.Whole {
					h.Prior /= 2
				}
			}
		}
	}
	var out []Hypothesis
	add := func(prior float64, change func(*Hypothesis)) {
		one := h
		one.Prior *= prior
		change(&one)
		out = append(out, one)
	}
	pairs := func(of func(engine.Cylinder) []engine.Cylinder) {
		for _, a := range item.Feeds.List() {
			for _, b := range of(a) {
				if a < b {
					add(1, func(h *Hypothesis) { h.Pair = engine.SetOf(a, b) })
				}
			}
		}
	}
	n := item.Feeds.Len()
	switch m.Scope {
	case Towers:
		if n < 2 || e.Ignition == engine.Distributor { // one tower leads to all
			return []Hypothesis{h}
		}
		add(1-OneTowerOnly, func(*Hypothesis) {})
		for t := 1; t <= n; t++ {
			add(OneTowerOnly/float64(n), func(h *Hypothesis) { h.tower = t })
		}
	case Circuit:
		if e.Circuit(item.Feeds.First()) == item.Feeds {
			return []Hypothesis{h}
		}
		both := StarvesBoth[m.ID]
		add(1-both, func(*Hypothesis) {})
		add(both, func(h *Hypothesis) { h.series = true })
	case OneTower:
		for t := 1; t <= n; t++ {
			add(1, func(h *Hypothesis) { h.tower, h.Pair = t, engine.SetOf(item.Feeds.List()[t-1]) })
		}
	case CapNeighbours:
		pairs(e.FiringNeighbours)
	case Beside:
		pairs(e.Neighbours)
	case AnyTwo:
		pairs(func(engine.Cylinder) []engine.Cylinder { return item.Feeds.List() })
	default:
		return []Hypothesis{h}
	}
	return out
}

// Affected returns the cylinders that the fault affects with the parts at the given positions.
func (h Hypothesis) Affected(at part.Positions) engine.Set {
	if h.Mode.Unit == NoFault {
		return 0
	}
	if h.IsSet() {
		return h.served(at, h.Misfiring)
	}
	if h.Tag == "" {
		if h.Pair != 0 {
			return h.Pair
		}
		return h.fixed
	}
	feeds := at.Feeds(h.Tag)
	switch {
	case len(feeds) == 0: // on the bench
		return 0
	case h.tower > 0:
		return engine.SetOf(feeds[min(h.tower, len(feeds))-1])
	case h.Pair != 0:
		return h.Pair
	case h.series:
		return at.Engine().Circuit(feeds[0])
	}
	return engine.SetOf(feeds...)
}

// Complaint holds those facts of the complaint that change the prior shares.
type Complaint struct {
	Signs []evidence.Sign
	// Used is the wear of the parts. Shares holds the workshop's own factor for the share of a
	// mode, by mode id. Factors holds its own factors for circumstances, by row id.
	Used    Wear
	Shares  map[ModeID]float64
	Factors map[string]float64
	// Learnt holds the factors that the workshop's closed jobs have taught, by repair unit.
	Learnt map[Unit]float64
}

// Shift is one circumstance that makes some faults more or less likely.
type Shift struct {
	// When is the circumstance.
	When evidence.Sign
	// Modes lists the affected modes by id or family.
	Modes Keys
	// Factor multiplies the shares of the modes.
	Factor float64
	Source string
}

const complaintTable = "C: what has happened shifts; factor by judgement"

// Shifts lists the effect of each circumstance. The factors multiply the shares before any
// evidence. All shares are then scaled to a sum of 1.
var Shifts = []Shift{
	{evidence.AfterService, Keys{PlugCracked, PlugClosedGap, PlugWrong, PlugLoose, AnyBoot, AnySeat, AnyConnector, AnyGround, AnyLeadOrder, AnyLead, AirLeak}, 2.5, complaintTable},
	{evidence.SomebodyHere, Keys{PlugCracked, PlugClosedGap, PlugWrong, PlugLoose, AnyBoot, AnySeat, AnyConnector, AnyLeadOrder}, 1.8, complaintTable},
	{evidence.TouchedPlugs, Keys{PlugCracked, PlugClosedGap, PlugWrong, PlugLoose, AnySeat, AnyBoot}, 2.5, complaintTable},
	{evidence.TouchedPlugs, Keys{PlugWornGap}, 0.4, complaintTable},
	{evidence.TouchedCoils, Keys{AnySeat, AnyConnector, AnyBoot, AnyCoil}, 1.8, complaintTable},
	{evidence.TouchedLeads, Keys{AnyLeadOrder, AnySeat, AnyLead}, 3, complaintTable},
	{evidence.TouchedIntake, Keys{AirLeak, AnyInjector, AnyConnector}, 3, complaintTable},
	{evidence.AfterJolt, Keys{AnyConnector, AnyGround, AnyTrigger, AnySeat, CoilCracked, CoilPrimaryOpen, AnyModule}, 2.5, complaintTable},
	{evidence.LongSince, Keys{PlugWornGap}, 2.5, complaintTable},
	{evidence.LongSince, Keys{AnyCoil, AnyLead, AnyCap, AnyRotor}, 1.3, complaintTable},
	{evidence.LampFlashing, Keys{NoFaultNow}, 0.3, "C: a strong misfire seldom has no cause; judgement"},
	{evidence.LampOff, Keys{NoFaultNow}, 1.5, "C: what is only felt can be something else; judgement"},
	{evidence.HardStart, Keys{AnyCompression, FuelLow, AnyPickup, AnyTiming}, 1.3, "C: general, weak evidence; judgement"},
}

// RowID returns the row id of a shift.
func (s Shift) RowID() string { return "shift:" + string(s.When) + "/" + s.Modes.String() }

// times returns the factor of a shift: the workshop's own factor if it has one.
func (c Complaint) times(s *Shift) float64 {
	if len(c.Factors) > 0 {
		if own, ok := c.Factors[s.RowID()]; ok {
			return own
		}
	}
	return s.Factor
}

// bears reports whether the shift applies to a mode.
func (s Shift) bears(m Mode) bool {
	return s.Modes.Covers(m.ID)
}

func (c Complaint) holds(s Shift) bool {
	return slices.Contains(c.Signs, s.When)
}

// MostShift bounds the combined factor of all circumstances on one mode, in either direction.
// The complaint alone therefore never condemns a part (judgement).
const MostShift = 6

func (c Complaint) factor(m Mode) float64 {
	f := 1.0
	for i := range Shifts {
		if s := &Shifts[i]; c.holds(*s) && s.bears(m) {
			f *= c.times(s)
		}
	}
	f = min(max(f, 1.0/MostShift), MostShift)
	if own, ok := c.Shares[m.ID]; ok {
		f *= own
	}
	if learnt, ok := c.Learnt[m.Unit]; ok {
		f *= learnt
	}
	return f
}

// Shifted lists the circumstances that apply to any of the modes, each with its factor, or
// with the smallest and largest where the modes differ: "tank was run dry, so 2× as likely".
func (c Complaint) Shifted(modes []Mode) []string {
	var words []string
	done := map[evidence.Sign]bool{}
	for _, of := range Shifts {
		if done[of.When] || !c.holds(of) {
			continue
		}
		done[of.When] = true
		var factors []float64
		for _, s := range Shifts {
			if s.When == of.When && slices.ContainsFunc(modes, s.bears) {
				factors = append(factors, c.times(&s))
			}
		}
		if len(factors) == 0 {
			continue
		}
		words = append(words, of.When.Words()+", "+unit.Likelier(slices.Min(factors), slices.Max(factors)))
	}
	return words
}
