// Package simulator is a simulated engine with one or two hidden faults, made of
// physics: a fault changes only physical state (gaps, leaks, stored energy,
// contacts, mixture, pressure), and what the kilovolts needed leave of the
// kilovolts there are gives the misfires of each firing event. Counters, codes,
// kilovolts, resistance and looks all follow from that one state. It knows nothing
// of the reasoning that is measured on it: no likelihood and no plan.
package simulator

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Rand is where chance comes from.
type Rand interface {
	Float64() float64
	NormFloat64() float64
	IntN(n int) int
}

// partState is the physical state of one part; which fields matter depends on its
// kind. A sound part is made by sound.
type partState struct {
	// Plugs: the gap, how much more its worn edges need, the kilovolts at which its
	// insulator gives way, the shunt of its fouling, and how poorly it lights even
	// with a spark (0 to 1).
	gapMM, edge, crackKV, shuntMOhm, poor float64
	// Leads, boots, rotors, caps, coil leads: the kilovolts at which they leak, dry,
	// and the gap that a break puts in series.
	leakKV, seriesMM float64
	// vent is the share of the charge that a loose plug lets out, dead the chance that
	// a coil has no primary current, primary its primary resistance against a sound one.
	vent, dead, primary float64
	// Coils: the kilovolts they can give, the share that heat takes away, the
	// kilovolts at which they give way inside, and their secondary resistance
	// against a sound one.
	availKV, hotLoss, innerKV, ohms float64
	// tracked is the pair of towers between which a cap leaks, burnt the tower whose
	// contact is gone.
	tracked engine.Set
	burnt   engine.Cylinder
	// deposit is what fouls a plug; wrong says that it is not the one that belongs there.
	deposit evidence.Finding
	wrong   bool
}

// siteState is the physical state of what stays.
type siteState struct {
	// open is the chance that a firing event finds no contact, or no trigger; share
	// of a connector, module, seat, trigger, pickup, stop wire.
	open float64
	// leakKV is where a seat that is not home leaks.
	leakKV float64
	// weak is the share of the kilovolts lost: air gap.
	weak float64
	// lean is what it adds to the air ratio at idle and under load.
	leanIdle, leanLoad float64
	// squeeze is the share of the charge's density that is left: compression.
	squeeze float64
	// way is where that goes out.
	way evidence.ResultID
	// ohms is the resistance of an injector's winding against a sound one; 0 is sound.
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

// Engine is one engine with its parts, its sites and what is wrong with it.
type Engine struct {
	E engine.Engine
	// Hidden is what is wrong, by the keys of the faults.
	Hidden []fault.Hypothesis

	parts map[part.Tag]partState
	sites map[site]siteState
	cured bool // what touching could cure has been cured
	worn  wornAlike
	rng   Rand
}

// New is an engine with the scatter of sound ones, and with some faults in it.
func New(e engine.Engine, rng Rand, hidden ...fault.Hypothesis) *Engine {
	e = e.Derive()
	b := &Engine{E: e, Hidden: hidden, parts: map[part.Tag]partState{}, sites: map[site]siteState{}, rng: rng}
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

// scattered is a sound part as one finds them: gaps and coils differ a little.
func (b *Engine) scattered() partState {
	s := soundPart()
	s.gapMM += min(0.12, max(-0.12, 0.05*b.rng.NormFloat64()))
	s.edge = 1.03 + min(0.12, 0.05*math.Abs(b.rng.NormFloat64()))
	s.availKV += min(3, max(-3, 1.5*b.rng.NormFloat64()))
	s.ohms = 1 + 0.02*b.rng.NormFloat64()
	return s
}

// between is a severity, evenly drawn.
func (b *Engine) between(low, high float64) float64 { return low + (high-low)*b.rng.Float64() }

// logBetween is a severity, evenly drawn by its order of magnitude.
func (b *Engine) logBetween(low, high float64) float64 {
	return low * math.Pow(high/low, b.rng.Float64())
}

// apply puts a fault in: the only place where a fault's name matters. Severities
// are drawn widely, from hardly felt to dead (C; judgement).
func (b *Engine) apply(h fault.Hypothesis) {
	if h.Tag != "" {
		b.applyToPart(h)
	} else {
		b.applyToSite(h)
	}
}

// applyToPart puts in a fault that goes where its part goes.
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
		p.innerKV = b.between(4, 18) // tracked inside or over its case
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
		if b.rng.IntN(2) == 0 { // too cold: it fouls
			p.shuntMOhm = b.logBetween(0.05, 3)
		} else { // a copy whose gap has burnt away
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

// applyToSite puts in a fault that stays where it is.
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
	case fault.SomethingElse: // a rough road, a sticking valve: it misfires at random
		s.late = b.between(0.02, 0.4)
	}
	if h.Mode.ID != fault.CompressionGasket {
		b.sites[key] = s
	}
}

// Touch says that some sites or parts were handled: what that can cure may be cured.
func (b *Engine) Touch(handled func(fault.Hypothesis) bool) {
	for _, h := range b.Hidden {
		if !b.cured && h.Mode.CuredByTouch > 0 && handled(h) && b.rng.Float64() < h.Mode.CuredByTouch {
			b.cured = true
			if h.Tag != "" {
				b.parts[h.Tag] = b.scattered()
			} else {
				b.sites[site{h.Mode.Unit, h.Place}] = soundSite()
			}
		}
	}
}

// Repair puts right what is wrong at a place: of a gasket between two cylinders both.
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

// running is a condition in physical terms: manifold pressure and temperature of
// the charge, whether parts are hot or wet, and the mixture.
type running struct {
	kPa, chargeK float64
	hot, wet     bool
	load         float64 // 0 idle to 1 full
	lean         float64 // added to the air ratio
}

// conditions are common practice (C; judgement).
var conditions = map[evidence.Condition]running{
	evidence.AnyCondition: {45, 335, false, false, 0.3, 0},
	evidence.Idle:         {35, 330, false, false, 0, 0},
	evidence.Load:         {92, 345, false, false, 0.9, 0},
	evidence.Hot:          {45, 360, true, false, 0.3, 0},
	evidence.Cold:         {45, 290, false, false, 0.2, 0.05},
	evidence.Wet:          {55, 325, false, true, 0.4, 0},
	evidence.Snap:         {98, 335, false, false, 1, 0.06},
}

// Fit says that some parts were put where they now sit: spares among them are
// sound ones.
func (b *Engine) Fit(parts []part.Relocation) {
	for _, r := range parts {
		if _, known := b.parts[r.Tag]; !known && r.Tag.IsSpare() {
			b.parts[r.Tag] = b.scattered()
		}
	}
}
