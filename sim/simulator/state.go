// Package simulator is a simulated engine with one or two hidden faults. A fault changes only
// physical state: gaps, leaks, stored energy, contacts, mixture, pressure. The required and
// the available kilovolts then give the misfires of each firing event. Counters, codes,
// kilovolts, resistance and looks all follow from that state. The package does not use the
// reasoning that is measured on it: no likelihood and no plan.
package simulator

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Rand is the source of random numbers.
type Rand interface {
	Float64() float64
	NormFloat64() float64
	IntN(n int) int
}

// partState is the physical state of one part. The relevant fields depend on its kind. A sound
// part is made by sound.
type partState struct {
	// Plugs: the gap, the additional demand of worn edges, the kilovolts at which the
	// insulator breaks down, the shunt of its fouling, and how poorly it ignites (0 to 1).
	gapMM, edge, crackKV, shuntMOhm, poor float64
	// Leads, boots, rotors, caps, coil leads: the kilovolts at which they leak when dry, and
	// the gap of a break in series.
	leakKV, seriesMM float64
	// vent is the share of the charge that a loose plug lets out. dead is the probability that
	// a coil has no primary current. primary is the ratio of its primary resistance to that of
	// a sound coil.
	vent, dead, primary float64
	// Coils: the available kilovolts, the share lost by heat, the kilovolts at which they
	// break down inside, and the ratio of the secondary resistance to that of a sound coil.
	availKV, hotLoss, innerKV, ohms float64
	// tracked is the pair of towers that a track in a cap connects; burnt is the tower with
	// the lost contact.
	tracked engine.Set
	burnt   engine.Cylinder
	// deposit is what fouls a plug; wrong is true if it is the wrong plug for the engine.
	deposit evidence.Finding
	wrong   bool
}

// siteState is the physical state of a site.
type siteState struct {
	// open is the probability that a firing event finds no contact or no trigger. It applies to
	// connector, module, seat, trigger, pickup and stop wire.
	open float64
	// leakKV is the voltage at which a badly seated boot leaks.
	leakKV float64
	// weak is the share of the kilovolts that is lost: air gap.
	weak float64
	// leanIdle and leanLoad are added to the air ratio at idle and under load.
	leanIdle, leanLoad float64
	// squeeze is the remaining share of the charge's density: compression.
	squeeze float64
	// way is where the compression escapes.
	way evidence.ResultID
	// ohms is the ratio of an injector's resistance to a sound one; 0 is sound.
	ohms float64
	// late is how much ignition suffers from timing (0 to 1), swapped are two
	// cylinders that get each other's spark.
	late    float64
	swapped engine.Set
}

const sound = math.MaxFloat64 // kilovolts or megohms that never matter

func soundPart() partState {
	return partState{gapMM: 1.0, edge: 1, crackKV: sound, shuntMOhm: sound, leakKV: sound, availKV: 38, innerKV: sound, ohms: 1, primary: 1}
}

func soundSite() siteState { return siteState{leakKV: sound, squeeze: 1} }

type site struct {
	kind  engine.Kind
	place engine.Place
}

// Engine is one engine with its parts, its sites and its faults.
type Engine struct {
	E engine.Engine
	// Hidden lists the faults by key.
	Hidden []fault.Hypothesis

	// Left lists the sites at which work has left a fault behind.
	Left []engine.Item
	// World is how everything behaves.
	World World

	parts map[part.Tag]partState
	sites map[site]siteState
	cured bool    // what handling can cure has been cured
	swing float64 // of the contacts, in the run that is being made; 1 between runs
	worn  wornAlike
	rng   Rand
}

// New returns an engine of the middle world with the scatter of sound engines and the given faults.
func New(e engine.Engine, rng Rand, hidden ...fault.Hypothesis) *Engine {
	return In(Middle, e, rng, hidden...)
}

// In is [New] in a world.
func In(w World, e engine.Engine, rng Rand, hidden ...fault.Hypothesis) *Engine {
	e = e.Derive()
	b := &Engine{E: e, Hidden: hidden, World: w, swing: 1, parts: map[part.Tag]partState{}, sites: map[site]siteState{}, rng: rng}
	for _, at := range part.Home(e).All() {
		b.parts[at.Tag] = b.scattered()
	}
	for _, item := range e.Items() {
		if !item.Part {
			b.sites[site{item.Kind, item.Place}] = soundSite()
		}
	}
	for _, h := range hidden {
		b.apply(h)
	}
	return b
}

// scattered returns a sound part with usual scatter of gap and coil.
func (b *Engine) scattered() partState {
	s := soundPart()
	s.gapMM += min(0.12, max(-0.12, 0.05*b.rng.NormFloat64()))
	s.edge = 1.03 + min(0.12, 0.05*math.Abs(b.rng.NormFloat64()))
	s.availKV += min(3, max(-3, 1.5*b.rng.NormFloat64()))
	s.ohms = 1 + 0.02*b.rng.NormFloat64()
	return s
}

// between draws a severity, uniformly distributed.
func (b *Engine) between(low, high float64) float64 { return low + (high-low)*b.rng.Float64() }

// logBetween draws a severity, uniformly distributed in its logarithm.
func (b *Engine) logBetween(low, high float64) float64 {
	return low * math.Pow(high/low, b.rng.Float64())
}

// apply adds a fault. It is the only function that depends on the name of a fault. Severities
// range from hardly noticeable to dead (C; judgement).
func (b *Engine) apply(h fault.Hypothesis) {
	switch {
	case h.IsSet():
		b.applyToSet(h)
	case h.Tag != "":
		b.applyToPart(h)
	default:
		b.applyToSite(h)
	}
}

// applyToSet adds a fault to each part of a set: those that are to misfire as it is drawn, the others in a milder way.
func (b *Engine) applyToSet(h fault.Hypothesis) {
	for _, t := range h.Members() {
		one := h
		one.Set, one.Misfiring, one.Tag, one.Place = 0, 0, t, ""
		sound := b.parts[t]
		b.applyToPart(one)
		if h.MisfiresOn(t) {
			continue
		}
		p := b.parts[t] // halfway to a sound part
		half := func(bad, good float64) float64 { return math.Sqrt(bad * good) }
		p.gapMM, p.edge, p.availKV = half(p.gapMM, sound.gapMM), half(p.edge, sound.edge), half(p.availKV, sound.availKV)
		p.seriesMM, p.vent, p.poor, p.ohms = p.seriesMM/2, p.vent/3, p.poor/3, half(p.ohms, sound.ohms)
		p.leakKV, p.crackKV, p.innerKV = milder(p.leakKV), milder(p.crackKV), milder(p.innerKV)
		if p.shuntMOhm < soundPart().shuntMOhm {
			p.shuntMOhm *= 8
		}
		b.parts[t] = p
	}
}

// milder is a leak that breaks down at twice the kilovolts.
func milder(kV float64) float64 {
	if kV == sound {
		return kV
	}
	return 2 * kV
}

// applyToPart adds a fault that moves with its part.
func (b *Engine) applyToPart(h fault.Hypothesis) {
	p := b.parts[h.Tag]
	switch h.Mode.ID {
	case fault.CoilPrimaryOpen:
		p.dead = b.logBetween(0.05, 1)
		if p.dead > 0.5 {
			p.primary = 1000
		}
	case fault.CoilPrimaryShorted:
		p.availKV, p.primary = b.between(3, 15), b.between(0.3, 0.9)
	case fault.CoilSecondaryOpen:
		p.availKV, p.ohms = b.between(2, 12), b.logBetween(3, 1000)
	case fault.CoilSecondaryShorted:
		p.availKV, p.ohms = b.between(3, 15), b.between(0.3, 0.9)
	case fault.CoilWeakHot:
		p.hotLoss = b.between(0.6, 0.9)
	case fault.CoilWeakLoad:
		p.availKV = b.between(8, 18)
	case fault.CoilCracked:
		p.innerKV = b.between(4, 18) // a track inside or over the case
	case fault.BootTracked, fault.BootTorn, fault.BootSwollen, fault.LeadLeaking, fault.RotorLeaking, fault.CoilLeadLeaking:
		p.leakKV = b.between(3, 17)
	case fault.BootSpring, fault.RotorWorn:
		p.seriesMM = b.between(1.5, 8)
	case fault.LeadOpen, fault.CoilLeadOpen:
		p.seriesMM, p.ohms = b.between(1.5, 9), b.logBetween(5, 1000)
	case fault.LeadHighResistance:
		p.seriesMM, p.ohms = b.between(0.8, 4), b.logBetween(2, 50)
	case fault.PlugWornGap:
		p.gapMM, p.edge = b.between(1.5, 3.2), b.between(1.15, 1.5)
	case fault.PlugCracked:
		p.crackKV = b.between(3, 16)
	case fault.PlugCarbonFouled, fault.PlugFuelFouled, fault.PlugOilFouled:
		p.shuntMOhm = b.logBetween(0.02, 3)
		p.deposit = map[fault.ModeID]evidence.Finding{fault.PlugCarbonFouled: evidence.PlugSoot, fault.PlugFuelFouled: evidence.PlugFuel, fault.PlugOilFouled: evidence.PlugOil}[h.Mode.ID]
	case fault.PlugClosedGap:
		p.gapMM, p.poor = b.between(0.1, 0.35), b.between(0.03, 0.7)
	case fault.PlugWrong:
		p.wrong = true
		if b.rng.IntN(2) == 0 { // too cold, so it fouls
			p.shuntMOhm = b.logBetween(0.05, 3)
		} else { // a counterfeit with an eroded gap
			p.gapMM, p.edge = b.between(1.4, 2.4), b.between(1.15, 1.6)
		}
	case fault.PlugLoose:
		p.vent = b.between(0.4, 0.75)
	case fault.CapTracked:
		p.tracked, p.leakKV = h.Pair, b.between(3, 15)
	case fault.CapTowerBurnt:
		p.burnt, p.seriesMM = h.Pair.First(), b.between(1.5, 8)
	}
	b.parts[h.Tag] = p
}

// applyToSite adds a fault that stays at its place.
func (b *Engine) applyToSite(h fault.Hypothesis) {
	key := site{h.Mode.Unit, h.Place}
	s := b.sites[key]
	switch h.Mode.ID {
	case fault.ConnectorLoose, fault.ConnectorCorroded, fault.ModulePoorContact, fault.TriggerWire, fault.DriverDead, fault.PickupWeak, fault.StopWireShorted, fault.StopWireSwitch:
		s.open = b.logBetween(0.01, 1)
	case fault.FeedLow, fault.GroundPoor: // a poor joint drops volts, a worse one opens
		if b.rng.IntN(2) == 0 {
			s.weak = b.between(0.45, 0.9)
		} else {
			s.open = b.logBetween(0.01, 1)
		}
	case fault.WellOil:
		s.leakKV = b.between(4, 17)
	case fault.WellWater:
		s.leakKV = b.between(4, 20)
	case fault.SeatNotHome:
		s.leakKV = b.between(3, 14)
	case fault.AirGapWide:
		s.weak = b.between(0.45, 0.9)
	case fault.TimingOff, fault.TimingKey:
		s.late = b.between(0.05, 0.7)
	case fault.LeadOrderExchanged:
		s.swapped = h.Pair
	case fault.InjectorLeaking:
		rich := -b.between(0.25, 0.6)
		s.leanIdle, s.leanLoad = rich, rich*b.between(0.3, 0.8)
	case fault.InjectorElectrical, fault.InjectorClogged:
		lean := b.between(0.3, 1.2)
		s.leanIdle, s.leanLoad = lean*b.between(0.6, 1), lean
		if h.Mode.ID == fault.InjectorElectrical {
			if s.ohms = b.logBetween(1.5, 1e6); b.rng.IntN(2) == 0 {
				s.ohms = b.between(0.3, 0.8)
			}
		}
	case fault.CompressionValve, fault.CompressionRings, fault.CompressionGasket:
		s.way = map[fault.ModeID]evidence.ResultID{fault.CompressionValve: "valve", fault.CompressionRings: "rings", fault.CompressionGasket: "gasket"}[h.Mode.ID]
		s.squeeze = b.between(0.25, 0.62)
		for _, c := range h.Pair.List() {
			other := b.sites[site{h.Mode.Unit, engine.At(c)}]
			other.squeeze, other.way = s.squeeze*b.between(0.95, 1.05), s.way
			b.sites[site{h.Mode.Unit, engine.At(c)}] = other
		}
	case fault.AirLeak:
		s.leanIdle = b.between(0.35, 0.9)
		s.leanLoad = s.leanIdle * b.between(0.1, 0.4)
	case fault.FuelLow:
		s.leanLoad = b.between(0.35, 0.9)
		s.leanIdle = s.leanLoad * b.between(0.1, 0.5)
	case fault.SomethingElse: // a rough road, a sticking valve: random misfires
		s.late = b.between(0.02, 0.4)
	}
	if h.Mode.ID != fault.CompressionGasket {
		b.sites[key] = s
	}
}

// Touch handles some sites or parts. This may cure a fault that handling can cure.
func (b *Engine) Touch(handled func(fault.Hypothesis) bool) {
	for _, h := range b.Hidden {
		if p := b.World.cureChance(h.Mode.ID); !b.cured && p > 0 && handled(h) && b.rng.Float64() < p {
			b.cured = true
			if h.Tag != "" {
				b.parts[h.Tag] = b.scattered()
			} else {
				b.sites[site{h.Mode.Unit, h.Place}] = soundSite()
			}
		}
	}
}

// LeaveBehind makes a new fault at one of the sites that a piece of work has disturbed, with the chance of the world.
func (b *Engine) LeaveBehind(disturbed []engine.Item) {
	if len(disturbed) == 0 || b.rng.Float64() >= b.World.Breaks {
		return
	}
	total := 0.0
	weight := func(i engine.Item) float64 {
		for _, row := range leaves {
			if row.kind == i.Kind {
				return row.share
			}
		}
		return 0
	}
	for _, i := range disturbed {
		total += weight(i)
	}
	u := b.rng.Float64() * total
	for _, i := range disturbed {
		if u -= weight(i); u > 0 || weight(i) == 0 {
			continue
		}
		s := b.sites[site{i.Kind, i.Place}]
		if i.Kind == engine.Seat {
			s.leakKV = b.between(3, 14)
		} else {
			s.open = b.logBetween(0.02, 1)
		}
		b.sites[site{i.Kind, i.Place}] = s
		b.Left = append(b.Left, i)
		return
	}
}

// Repair puts right the fault of a place. For a gasket between two cylinders, either place
// repairs both.
func (b *Engine) Repair(kind engine.Kind, place engine.Place) {
	at := []engine.Place{place}
	for _, h := range b.Hidden {
		if feeds, ok := b.E.Feeds(place); ok && h.Mode.Unit == kind && h.Pair&feeds != 0 {
			for _, c := range h.Pair.List() {
				at = append(at, engine.At(c))
			}
		}
	}
	for _, p := range at {
		if _, there := b.sites[site{kind, p}]; there {
			b.sites[site{kind, p}] = soundSite()
		}
	}
}

// running is a condition in physical terms: manifold pressure and temperature of the charge,
// heat and moisture of the parts, and mixture.
type running struct {
	kPa, chargeK float64
	hot, wet     bool
	load         float64 // 0 idle to 1 full
	lean         float64 // added to the air ratio
}

// conditions lists common values (C; judgement).
var conditions = map[evidence.Condition]running{
	evidence.AnyCondition: {45, 335, false, false, 0.3, 0},
	evidence.Idle:         {35, 330, false, false, 0, 0},
	evidence.Load:         {92, 345, false, false, 0.9, 0},
	evidence.Hot:          {45, 360, true, false, 0.3, 0},
	evidence.Cold:         {45, 290, false, false, 0.2, 0.05},
	evidence.Wet:          {55, 325, false, true, 0.4, 0},
	evidence.Snap:         {98, 335, false, false, 1, 0.06},
}

// Fit registers the parts of a move. Spares and new parts among them are sound.
func (b *Engine) Fit(parts []part.Relocation) {
	for _, r := range parts {
		if _, known := b.parts[r.Tag]; !known && !r.Tag.IsOriginal() {
			b.parts[r.Tag] = b.scattered()
		}
	}
}
