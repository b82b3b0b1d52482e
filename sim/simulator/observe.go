package simulator

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// Codes returns the codes that the monitor sets in some runs. It stores a cylinder's code if
// its misfires pass the emissions threshold over 1000 revolutions or the catalyst threshold
// over 200. It adds random misfire if no cylinder has nine of ten misfires (13 CCR
// 1968.2(e)(3), from memory, at the lowest permitted thresholds). A control unit without
// primary current sets the circuit code of the coil.
func (b *Engine) Codes(at part.Positions, runs ...Run) evidence.Codes {
	codes := evidence.Codes{Read: []trouble.Reading{}}
	if !b.E.Scanned() {
		return codes
	}
	add := func(c trouble.Code) {
		codes.Read = append(codes.Read, trouble.Reading{Code: c, State: trouble.Stored})
	}
	total, most := 0, 0
	var set engine.Set
	for _, c := range b.E.All() {
		n, events, worst := 0, 0, 0.0
		for _, r := range runs {
			n += r.Counted[c-1]
			events += r.Events
			// Misfires are distributed like the blocks.
			for k := range r.Blocks {
				if sum := r.Blocks[k]; sum > 0 {
					share := float64(sum) * float64(r.Counted[c-1]) / max(1, float64(sumOf(r.Counted)))
					worst = max(worst, share/(blockEvents*float64(b.E.Cylinders)))
				}
			}
		}
		total, most = total+n, max(most, n)
		if events == 0 {
			continue
		}
		all := float64(n) / float64(events*b.E.Cylinders)
		if all >= trouble.EmissionsThreshold/100 || worst >= trouble.CatalystThreshold/100 {
			set |= engine.SetOf(c)
		}
	}
	for _, c := range set.List() {
		add(trouble.MisfireOn(c))
	}
	if set != 0 && float64(most) < 0.9*float64(total) {
		add(trouble.RandomMisfire)
	}
	for _, c := range b.CircuitCodes(at) {
		add(c)
	}
	return codes
}

// CircuitCodes returns the codes of the coils whose primary current is missing often enough for the control unit to notice.
func (b *Engine) CircuitCodes(at part.Positions) (all []trouble.Code) {
	for _, coil := range b.E.Coils() {
		p := b.path(coil.Cylinders[0], at, conditions[evidence.Idle])
		if p.open > 0.15 && int(coil.Letter) <= int(engine.MaxLetter) {
			all = append(all, coilCircuit(coil.Letter))
		}
	}
	return all
}

func sumOf(counts []int) int {
	sum := 0
	for _, n := range counts {
		sum += n
	}
	return sum
}

// coilCircuit returns the circuit code of a coil: P0351 and up, counted in decimal.
func coilCircuit(l engine.Letter) trouble.Code {
	n := 351 + int(l)
	return trouble.Code(n/100<<8 | n/10%10<<4 | n%10)
}

// Trim returns the sum of the fuel trims of a bank in per cent, from excess air and, slightly,
// the unburnt air of misfires.
func (b *Engine) Trim(bank int, at part.Positions) trouble.Trim {
	sum := b.excess(bank, at, conditions[evidence.Idle]) + 2.5*b.rng.NormFloat64()
	sum = min(max(sum, -40), 40)
	return trouble.Trim{Bank: bank, Short: sum * 0.3, Long: sum * 0.7}
}

// excess returns what the mixture control of a bank has to add, in per cent.
func (b *Engine) excess(bank int, at part.Positions, in running) float64 {
	sum := 0.0
	row := b.E.Bank(bank)
	for _, c := range row {
		sum += 100*b.lean(c, in) + 12*b.path(c, at, in).misfires(1, b.World.Scatter)
	}
	return sum / float64(len(row)) * 0.6
}

// Look returns the finding of a look at an item, with the parts at their positions, after a run
// in a condition.
func (b *Engine) Look(item evidence.Seen, at part.Positions, when evidence.Condition) evidence.Finding {
	if item.Tag == "" {
		return b.connectorLook(item.Place)
	}
	s := b.parts[item.Tag]
	var cyl engine.Cylinder
	if feeds := at.Feeds(item.Tag); len(feeds) > 0 {
		cyl = feeds[0]
	}
	leaks := s.leakKV < sound
	switch item.Tag.Kind() {
	case engine.Plug:
		return b.plugLook(s, cyl, at, when)
	case engine.Boot:
		return b.bootLook(s, cyl, at)
	case engine.Lead:
		if cyl > 0 && b.leaks(engine.Seat, cyl) && b.see(0.7) {
			return evidence.LeadNotHome
		}
		if b.seesWet(cyl) {
			return evidence.LeadWet
		}
		return b.pick(leaks || s.seriesMM > 0 && b.see(0.3), 0.75, evidence.LeadBurnt, evidence.LeadSound)
	case engine.Cap:
		if s.burnt > 0 {
			return b.pick(true, 0.72, evidence.CapCorroded, evidence.CapSound)
		}
		return b.pick(s.tracked != 0, 0.75, evidence.CapTracked, evidence.CapSound)
	case engine.Rotor:
		return b.pick(leaks || s.seriesMM > 0, 0.7, evidence.RotorBurnt, evidence.RotorSound)
	case engine.CoilLead:
		return b.pick(leaks || s.seriesMM > 0, 0.6, evidence.CoilLeadBurnt, evidence.CoilLeadSound)
	}
	return b.pick(s.innerKV < sound, 0.5, evidence.CoilCracked, evidence.CoilSound)
}

// see is true with a probability. What is seen more often than not is seen more or less often in another world; chance
// findings are as frequent in all.
func (b *Engine) see(chance float64) bool {
	if chance > seldom {
		chance = min(0.99, chance*b.World.Looks)
	}
	return b.rng.Float64() < chance
}

// seldom is the probability up to which a finding is one by chance.
const seldom = 0.25

// pick returns the finding of an abnormal item if it is noticed, which has a probability, and
// sometimes of a sound one.
func (b *Engine) pick(abnormal bool, chance float64, of, or evidence.Finding) evidence.Finding {
	if abnormal && b.see(chance) || !abnormal && b.see(0.03) {
		return of
	}
	return or
}

// seesWet reports whether oil or water is noticed in the well of a cylinder.
func (b *Engine) seesWet(c engine.Cylinder) bool {
	wet := c > 0 && b.leaks(engine.Well, c)
	return wet && b.see(0.85) || !wet && b.see(0.02)
}

func (b *Engine) connectorLook(place engine.Place) evidence.Finding {
	switch s := b.sites[site{engine.Connector, place}]; {
	case s.open > 0 && b.see(0.7):
		if b.see(0.5) {
			return evidence.ConnectorLoose
		}
		return evidence.ConnectorBad
	case b.see(0.04):
		return evidence.ConnectorLoose
	}
	return evidence.ConnectorSound
}

func (b *Engine) bootLook(s partState, c engine.Cylinder, at part.Positions) evidence.Finding {
	if c > 0 && b.leaks(engine.Seat, c) && b.see(0.75) {
		return evidence.BootNotHome
	}
	if b.seesWet(c) {
		return evidence.BootWet
	}
	if s.seriesMM > 0 && b.see(0.7) {
		return evidence.BootSpring
	}
	tracked := s.leakKV < sound || c > 0 && b.parts[at.Serving(engine.Plug, c)].crackKV < sound && b.see(0.4)
	if tracked && b.see(0.45) {
		return evidence.BootTorn
	}
	return b.pick(tracked, 0.75, evidence.BootTracked, evidence.BootSound)
}

// leaks reports whether a seat or well of a cylinder leaks. An engine without one is dry.
func (b *Engine) leaks(k engine.Kind, c engine.Cylinder) bool {
	s, there := b.sites[site{k, engine.At(c)}]
	return there && s.leakKV < sound
}

func (b *Engine) plugLook(s partState, c engine.Cylinder, at part.Positions, when evidence.Condition) evidence.Finding {
	see := func(chance float64) bool { return b.rng.Float64() < chance }
	switch {
	case s.wrong && see(0.7):
		return evidence.PlugWrong
	case s.vent > 0 && see(0.8):
		return evidence.PlugLoose
	case s.gapMM < 0.4 && see(0.85):
		return evidence.PlugClosed
	case s.crackKV < sound && see(0.65):
		return evidence.PlugCracked
	case s.gapMM > 1.35 && see(0.85):
		return evidence.PlugWorn
	case s.deposit != "" && see(0.85):
		return s.deposit
	case s.shuntMOhm < sound && see(0.85):
		return evidence.PlugSoot
	}
	if c > 0 {
		in := conditions[when]
		p := b.path(c, at, in)
		unlit := p.misfires(1, b.World.Scatter)
		wet := unlit * (1 - min(1, 2*b.lean(c, in))) // a plug without fuel is not wet
		switch {
		case see(0.8 * wet):
			return evidence.PlugFuel
		case see(0.35 * unlit):
			return evidence.PlugSoot
		case b.squeeze(c) < 0.6 && see(0.3):
			return evidence.PlugOil
		}
	}
	switch u := b.rng.Float64(); {
	case u < 0.12:
		return evidence.PlugWorn
	case u < 0.15:
		return evidence.PlugSoot
	case u < 0.18:
		return evidence.PlugOil
	case u < 0.20:
		return [3]evidence.Finding{evidence.PlugClosed, evidence.PlugWrong, evidence.PlugLoose}[b.rng.IntN(3)]
	}
	return evidence.PlugNormal
}

// Parameters of the tests (C; judgement).
const (
	testerKV  = 14.0 // demand of the gap of the spark tester
	weakKV    = 19.0 // below it the spark looks weak
	kvApart   = 0.30 // deviation of an abnormal reading
	kvJumps   = 0.22 // spread of a jumping reading
	nothingKV = 1.0  // what is read where no spark comes
	readings  = 12
	cranking  = 0.9 // remaining share of the coil's kilovolts while cranking
	fewMisses = 0.02
)

// Answer returns the result of a plain test at a place.
func (b *Engine) Answer(id evidence.TestID, place engine.Place, at part.Positions) (result evidence.ResultID, where engine.Place) {
	feeds, _ := b.E.Feeds(place)
	c := feeds.First()
	s := func(k engine.Kind) siteState { return b.sites[site{k, place}] }
	switch id {
	case evidence.Spark:
		return b.sparkAt(place, engine.Boot, testerKV, at), place
	case evidence.Kilovolts:
		return b.kilovolts(c, at), place
	case evidence.CoilResistance, evidence.LeadResistance:
		return b.resistance(id, place, at), place
	case evidence.TriggerWatch:
		return b.triggerRunning(c, place, at), place
	case evidence.Overlay:
		return b.overlaid(c, place, at), place
	case evidence.TriggerPulse:
		return b.pulse(place), place
	case evidence.WireTest:
		return b.choose(s(engine.Trigger).open > 0, 0.88, "bad", "sound"), place
	case evidence.InjectorTest:
		return b.choose(s(engine.Injector).leanLoad != 0, 0.88, "odd", "in-line"), place
	case evidence.Wiggle:
		contact := s(engine.Connector).open > 0 || (s(engine.Trigger).open > 0 || s(engine.Feed).open > 0 || s(engine.Ground).open > 0) && b.see(0.3)
		return b.choose(contact, 0.8, "changes", "steady"), place
	case evidence.InjectorExchange:
		return b.choose(s(engine.Injector).leanLoad != 0, 0.95, "followed", "stayed"), place
	case evidence.LeakDown:
		return b.leakDown(place), place
	case evidence.CrankSignal:
		return b.choose(s(engine.Pickup).open > 0.02, 0.92, "weak", "strong"), place
	case evidence.CompressionTest:
		return b.choose(b.squeeze(c)*(1-b.parts[at.Serving(engine.Plug, c)].vent) < 0.8, 0.95, "low", "in-line"), place
	case evidence.Smoke:
		return b.smoke()
	case evidence.FuelPressure:
		return b.choose(s(engine.FuelSupply).leanLoad > 0, 0.85, "low", "in-range"), place
	case evidence.StopWireOff:
		return b.choose(s(engine.StopWire).open > 0.05, 0.95, "sparks", "still-none"), place
	case evidence.StopWireRun:
		return b.choose(b.stopWireCures(c, at), 0.97, "clean", "still"), place
	case evidence.AirGapCheck:
		wide := slices.ContainsFunc(b.E.Items(), func(i engine.Item) bool {
			return i.Kind == engine.AirGap && b.sites[site{engine.AirGap, i.Place}].weak > 0
		})
		return b.choose(wide, 0.93, "wide", "right"), place
	case evidence.LeadRouting:
		return b.choose(s(engine.LeadOrder).swapped != 0, 0.96, "exchanged", "right"), place
	case evidence.TimingLamp:
		return b.choose(s(engine.Timing).late > 0, 0.92, "off", "right"), place
	}
	return "", place
}

// choose returns yes for an abnormal item with a probability, and sometimes for a sound one.
func (b *Engine) choose(abnormal bool, hit float64, yes, no evidence.ResultID) evidence.ResultID {
	if abnormal && b.see(hit) || !abnormal && b.see(0.03) {
		return yes
	}
	return no
}

// leakDown returns where the air of a cylinder escapes, which is sometimes heard elsewhere.
func (b *Engine) leakDown(place engine.Place) evidence.ResultID {
	way := b.sites[site{engine.Compression, place}].way
	switch {
	case way == "", !b.see(0.95):
		return b.choose(false, 0, "rings", "tight")
	case b.see(0.1):
		way = [3]evidence.ResultID{"valve", "rings", "gasket"}[b.rng.IntN(3)]
	}
	return way
}

// smoke returns where smoke escapes from the intake.
func (b *Engine) smoke() (evidence.ResultID, engine.Place) {
	for _, item := range b.E.Items() {
		leak := b.sites[site{engine.AirLeak, item.Place}].leanIdle
		if item.Kind == engine.AirLeak && leak > 0 && b.see(0.75+0.25*min(1, leak)) {
			return "leak", item.Place
		}
	}
	if b.see(0.03) {
		return "leak", engine.Whole
	}
	return "tight", engine.Whole
}

// stopWireCures reports whether the misfire of a cylinder stops while the stop wire is off, in
// five minutes each.
func (b *Engine) stopWireCures(c engine.Cylinder, at part.Positions) bool {
	on, off := 0, 0
	with, without := b.Rate(c, at, evidence.Idle), b.healed(engine.StopWire, engine.Whole, c, at)
	for range watched {
		if b.see(with) {
			on++
		}
		if b.see(without) {
			off++
		}
	}
	return on > 0 && off == 0
}

// watched is the number of firing events in five minutes at idle.
const watched = 1750

// triggerOpen returns how often the trigger of a place is missing.
func (b *Engine) triggerOpen(place engine.Place) float64 {
	s := func(k engine.Kind) siteState { return b.sites[site{k, place}] }
	return 1 - (1-s(engine.Trigger).open)*(1-s(engine.Driver).open)*(1-b.sites[site{engine.Pickup, engine.Whole}].open)
}

// triggerRunning returns the result of observing the trigger at both ends, and the input of
// the driver, for five minutes at idle.
func (b *Engine) triggerRunning(c engine.Cylinder, place engine.Place, at part.Positions) evidence.ResultID {
	see := func(chance float64) bool { return b.rng.Float64() < chance }
	open, noSignal, rate := b.triggerOpen(place), b.sites[site{engine.Pickup, engine.Whole}].open, b.Rate(c, at, evidence.Idle)
	missing, signal, misfired := see(0.005), false, false
	for range watched {
		missing = see(open) || missing
		signal = see(noSignal) || signal
		misfired = see(rate) || misfired
	}
	unit := b.sites[site{engine.Driver, place}].open > 0 || signal
	switch {
	case !missing || see(0.05): // it can be missed
	case see(0.1):
		return "missing" // only the coil's end is accessible
	case signal && see(0.95):
		return "signal"
	case see(0.95) == unit: // one time in twenty the ends are confused
		return "unit"
	default:
		return "wire"
	}
	if misfired {
		return "there"
	}
	return "quiet"
}

// healed returns the misfire rate of a cylinder at idle with a fault of a place bypassed: a
// stop wire removed, or a wire replaced by another.
func (b *Engine) healed(k engine.Kind, place engine.Place, c engine.Cylinder, at part.Positions) float64 {
	key := site{k, place}
	if was, there := b.sites[key]; there {
		off := was
		off.open, off.weak = 0, 0
		b.sites[key] = off
		defer func() { b.sites[key] = was }()
	}
	return b.Rate(c, at, evidence.Idle)
}

// overlaid replaces feed, ground and trigger wire in turn, five minutes each, and returns
// which one stopped the misfire. A clip slips three times in a hundred.
func (b *Engine) overlaid(c engine.Cylinder, place engine.Place, at part.Positions) evidence.ResultID {
	misfired := func(rate float64) bool {
		for range watched {
			if b.rng.Float64() < rate {
				return true
			}
		}
		return false
	}
	if !misfired(b.Rate(c, at, evidence.Idle)) {
		return "same"
	}
	for _, wire := range []struct {
		kind   engine.Kind
		result evidence.ResultID
	}{{engine.Feed, "feed"}, {engine.Ground, "ground"}, {engine.Trigger, "trigger"}} {
		if !misfired(b.healed(wire.kind, place, c, at)) && b.rng.Float64() >= 0.03 {
			return wire.result
		}
	}
	return "same"
}

// kilovolts compares the median of some events of a cylinder with that of the others, if any.
func (b *Engine) kilovolts(c engine.Cylinder, at part.Positions) evidence.ResultID {
	read := func(c engine.Cylinder) (median, spread, least float64) {
		kv := b.fires(c, at, evidence.Idle)
		return math.Log(kv[readings/2]), math.Log(kv[readings*9/10] / kv[readings/10]), kv[0]
	}
	mine, spread, least := read(c)
	var others []float64
	for _, o := range b.E.All() {
		if o != c {
			m, _, _ := read(o)
			others = append(others, m)
		}
	}
	usual := math.Log(9)
	if len(others) > 0 {
		slices.Sort(others)
		usual = others[len(others)/2]
	}
	switch {
	case least < nothingKV:
		return "missing"
	case spread > kvJumps+2*b.World.Scatter:
		return "jumping"
	case mine-usual > kvApart:
		return "high"
	case usual-mine > kvApart:
		return "low"
	}
	return "in-line"
}

// fires returns the kilovolts of some events of a cylinder, sorted.
func (b *Engine) fires(c engine.Cylinder, at part.Positions, when evidence.Condition) []float64 {
	p := b.path(c, at, conditions[when])
	var all []float64
	for range readings {
		kv := p.need * math.Exp(b.World.Scatter*b.rng.NormFloat64())
		unsteady := 3 * jitter
		if p.caps < p.have {
			unsteady = b.World.Jumps
		}
		if caps := min(p.have, p.caps) * math.Exp(unsteady*b.rng.NormFloat64()); kv > caps {
			kv = caps // the insulation breaks down before the plug
		}
		if b.rng.Float64() < p.open {
			kv = 0.3
		}
		all = append(all, kv)
	}
	slices.Sort(all)
	return all
}

// resistance returns the result of an ohmmeter on a coil or lead, compared with the others.
func (b *Engine) resistance(id evidence.TestID, place engine.Place, at part.Positions) evidence.ResultID {
	kind := engine.Coil
	if id == evidence.LeadResistance {
		kind = engine.Lead
	}
	ohms := b.parts[at.In(kind, place)].ohms * math.Exp(0.02*b.rng.NormFloat64())
	primary := b.parts[at.In(kind, place)].primary
	switch {
	case ohms > 1.5, primary > 1.5:
		return "open"
	case (ohms < 0.8 || primary < 0.8) && kind == engine.Coil:
		return "low"
	}
	return "in-line"
}

// pulse returns the result of testing feed, ground and trigger at a coil connector.
func (b *Engine) pulse(place engine.Place) evidence.ResultID {
	open := b.triggerOpen(place)
	drops := func(k engine.Kind) bool {
		state := b.sites[site{k, place}]
		return state.weak > 0 || state.open > 0.03
	}
	switch {
	case drops(engine.Feed) && b.rng.Float64() < 0.9:
		return "feed"
	case drops(engine.Ground) && b.rng.Float64() < 0.9:
		return "ground"
	case open > 0.8:
		return "missing"
	case open > 0.03 && b.rng.Float64() < 0.9:
		return "intermittent"
	}
	return "there"
}
