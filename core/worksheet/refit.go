package worksheet

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// refit adds the way back: by one cylinder at a time or all at once, then what came off, the start, and
// the covers.
func (b *builder) refit() {
	at := b.places()
	single := b.school("refit") == "single" && len(at) > 1
	b.handTight(single)
	for _, p := range at {
		if b.eng.Ignition == engine.Magneto && b.renews(engine.Coil, engine.AirGap) {
			break // the boot goes on after the spark was seen
		}
		b.step(b.home(p))
		b.coilBolt(p)
		if single {
			b.step(Step{ID: id("refit.start", p), Phase: Refit, Target: p, School: "refit", Title: "Start the engine: is " + where(p) + " right?", Do: "Start it, listen, and stop it again. Then go on to the next cylinder.", Why: "A mistake shows at the cylinder that was just done.", Cautions: []string{runHands}, Minutes: 2})
		}
	}
	if single {
		b.byPlace(at)
	}
	b.leads()
	if b.renews(engine.Connector, engine.Feed, engine.Ground, engine.Trigger, engine.Driver, engine.Module) {
		for _, t := range b.of(harness...) {
			b.step(b.wiring(t))
		}
	}
	if b.renews(engine.Seat) {
		for _, t := range b.of(engine.Seat) {
			b.step(Step{ID: id("refit.seat", t.place), Phase: Refit, Target: t.place, Title: "Push the boot of " + where(t.place) + " home", Do: "Push it on until it clicks, then pull lightly: it must hold.", Why: "A boot that is not home lets the spark jump beside the plug.", Cautions: []string{highVoltage}, Minutes: 2})
		}
	}
	if b.eng.Ignition == engine.Magneto && b.renews(engine.Timing) {
		b.step(Step{ID: "refit.key", Phase: Refit, Target: engine.Whole, Title: "Renew the key of the flywheel", Do: "Take the flywheel off with its puller, and renew the key. Clean both tapers dry. Tighten the nut by the maker's torque.",
			Why: "A sheared or bent key turns the flywheel against the crank, so that the spark comes at the wrong time.", Tools: []string{"flywheel puller", "torque wrench"}, Cautions: []string{bladeFirst, makerFirst}, Minutes: 30})
	}
	for _, t := range b.of(engine.Injector, engine.Compression, engine.AirLeak, engine.FuelSupply, engine.Pickup) {
		b.step(Step{ID: id("refit.site-"+slug(string(t.kind)), t.place), Phase: Refit, Target: t.place, Title: fmt.Sprintf("Repair: %s of %s", t.kind, where(t.place)), Do: "Repair it by the maker's procedure. This worksheet covers the ignition only.",
			Why: "Its steps differ from engine to engine.", Cautions: []string{makerFirst, "Let fuel pressure off before a line is opened; keep flames and sparks away."}, Minutes: 60})
	}
}

// handTight adds the first turns of the plugs, by hand: of all of them, or of each at its place.
func (b *builder) handTight(single bool) {
	plugs := b.of(engine.Plug)
	if len(plugs) == 0 {
		return
	}
	s := Step{ID: "refit.hand-tight", Phase: Torque, Target: engine.Whole, Title: "Screw the plugs in by hand", Why: "A cross-threaded plug stops at once when it is turned by hand.",
		Do:    "Screw every plug in by hand: turn it backwards until it drops, then forwards. Use socket and extension alone, without a ratchet. All of them hand-tight first, then the final turn.",
		Tools: []string{"plug socket", "rubber hose"}, Cautions: []string{alloyThreads, noPower}, Minutes: float64(2 * len(plugs)), Drawing: "thread", School: "refit",
		If: []Trouble{{"It does not turn freely by hand", "Turn it back out and begin again. Never force the first turns."}, {"It slips off the socket into the well", "Never drop a plug in. Lower it in a rubber hose: a dropped plug has a closed gap or a crack."}}}
	if !single {
		if len(plugs) == 1 {
			s.Title, s.Do = "Screw the plug in by hand", "Turn it backwards until it drops, then forwards. Use socket and extension alone, without a ratchet."
		}
		b.insert(Torque, s)
		return
	}
	for _, t := range plugs {
		one := s
		one.ID, one.Target, one.Minutes, one.Title = id(s.ID, t.place), t.place, 2, "Screw the plug of "+where(t.place)+" in by hand"
		one.Do = "Turn it backwards until it drops, then forwards. Use socket and extension alone, without a ratchet."
		b.insert(Torque, one)
	}
}

// byPlace takes the steps of each place together, from taking the coil off to the start, one place
// after the other. What is prepared comes before, and what concerns the whole engine keeps its side.
func (b *builder) byPlace(at []engine.Place) {
	mine := func(s Step) bool { return s.Phase != Prepare && slices.Contains(at, s.Target) }
	first := slices.IndexFunc(b.steps, mine)
	if first < 0 {
		return
	}
	var before, after []Step
	for i, s := range b.steps {
		switch {
		case mine(s):
		case i < first || s.Phase == Remove || s.Phase == Prepare:
			before = append(before, s)
		default:
			after = append(after, s)
		}
	}
	all := before
	for _, p := range at {
		for _, s := range b.steps {
			if mine(s) && s.Target == p {
				all = append(all, s)
			}
		}
	}
	b.steps = append(all, after...)
}

// insert adds a step before the first step of a phase.
func (b *builder) insert(before Phase, s Step) {
	i := slices.IndexFunc(b.steps, func(have Step) bool { return have.Phase == before })
	if i < 0 {
		i = len(b.steps)
	}
	b.steps = slices.Insert(b.steps, i, s)
}

// places lists the places at which a coil, boot or lead goes back on.
func (b *builder) places() (all []engine.Place) {
	for _, t := range b.of(engine.Coil, engine.Boot, engine.Plug) {
		if !slices.Contains(all, t.place) {
			all = append(all, t.place)
		}
	}
	return all
}

// home puts the coil or lead of a place back on.
func (b *builder) home(p engine.Place) Step {
	s := Step{ID: id("refit.home", p), Phase: Refit, Target: p, School: "refit", Minutes: 3, Drawing: "coil"}
	_, cylinder := p.Cylinder()
	switch {
	case b.eng.Ignition == engine.CoilOnPlug:
		s.Title = "Push the coil of " + where(p) + " home"
		s.Do = "Look that the weather seal is on. Push the coil down by its body until the boot clicks on the plug, and it lies flat. Then bolt, connector, and lock, in this order: the latch must click."
		s.Why, s.Cautions = "Drawn down by its bolt, its ear cracks. A connector that does not click works loose.", []string{highVoltage}
		if len(b.eng.All()) > 1 {
			s.Do += " If the connectors differ in colour, they alternate along the bank."
		}
	case b.eng.Ignition == engine.Magneto:
		s.Title, s.Do = "Push the boot onto the plug", "Push the boot on until it clicks, and lay its lead into its clips."
		s.Why, s.Cautions = "A lead that rubs on the fan or the blower housing shorts out.", []string{bladeFirst}
	case !cylinder || !b.eng.OwnCoils() && slices.ContainsFunc(b.of(engine.Coil), func(t target) bool { return t.place == p }):
		s.Title, s.Do = "Connect "+coilAt(p), "Push its leads onto their towers until they click, by the marks on them. Then connector and lock: the latch must click."
		s.Why, s.Cautions = "Two exchanged leads misfire on exactly those two cylinders.", []string{highVoltage}
	default:
		s.Title, s.Do = "Push the lead of "+where(p)+" home", "Push its boot on until it clicks, and lay the lead into its clips, clear of hot and moving parts."
		s.Why, s.Cautions, s.Drawing = "A boot that is not home lets the spark jump beside the plug.", []string{highVoltage}, "leads"
	}
	return s
}

// leads moves leads across one by one.
func (b *builder) leads() {
	if !b.renews(engine.Lead, engine.CoilLead, engine.LeadOrder) {
		return
	}
	order := engine.OrderString(b.eng.FiringOrder)
	s := Step{ID: "refit.leads", Phase: Refit, Target: engine.Whole, Title: "Fit the leads by the firing order", Do: "Move one lead at a time: old one off, new one on, at both ends. The order is " + order + ".",
		Why: "With one lead off at a time, none can be exchanged.", Cautions: []string{highVoltage}, Minutes: float64(2 * max(1, len(b.of(engine.Lead)))), Drawing: "leads",
		If: []Trouble{{"Two leads lie side by side over a long way", "Separate them with their clips: neighbours in the firing order fire across."}}}
	if b.eng.Ignition == engine.Distributor && b.eng.Rotor != "" {
		s.Do += fmt.Sprintf(" Go round the cap %s, seen from above, from the tower of cylinder %d.", b.eng.Rotor, b.eng.FiringOrder[0])
	}
	b.step(s)
}

// wiring is the repair of a connector or a wire.
func (b *builder) wiring(t target) Step {
	s := Step{ID: id("refit.wiring-"+slug(string(t.kind)), t.place), Phase: Refit, Target: t.place, Minutes: 20, Cautions: []string{"No probe pushed into a terminal: it spreads the contact.", makerFirst}}
	switch t.kind {
	case engine.Connector:
		s.Title, s.Do = "Repair the connector of "+where(t.place), "Renew spread or green terminals, and the housing if its latch is weak. Crimp, do not twist. Push it on until the latch clicks, and pull lightly at each wire."
		s.Why = "A terminal that is loose in its housing fails again with the next jolt."
	case engine.Module:
		s.Title, s.Do = "Clean the contacts between coil and module at "+where(t.place), "Take the coil off its module, clean the blades bright, and renew the insulating boot if it is burnt."
		s.Why = "A corroded blade burns, and the coil loses its trigger."
	case engine.Driver:
		s.Title, s.Do = "Renew the driver or control unit for "+where(t.place), "Renew it by the maker's procedure, with its coding. Prove feed, ground and wire first: a short destroys the new one."
		s.Why, s.Minutes = "A new unit on a shorted wire fails like the old one.", 60
	default:
		s.Title, s.Do = fmt.Sprintf("Repair the %s of %s", t.kind, where(t.place)), "Repair the wire with the same cross-section, solder or crimp it, and seal it. Then measure it under load while you bend it."
		s.Why = "A resistance without load proves little."
	}
	return s
}

// start starts the engine before the covers go back on.
func (b *builder) start() {
	covers := b.covers()
	s := Step{ID: "refit.start", Phase: Refit, Target: engine.Whole, Title: "Start the engine", Do: "Reconnect what the engine needs to run. Start it, and listen to every cylinder. Stop it again.",
		Why: "A connector that was forgotten is in reach now.", Cautions: []string{runHands}, Minutes: 3,
		If: []Trouble{{"One cylinder misses", "Look at its connector and boot first: they were handled last."}}}
	if len(covers) > 0 {
		s.Title = "Start the engine before the covers go on"
	}
	if slices.ContainsFunc(covers, intake) {
		s.Title, s.Do = "Check every connector before the intake goes on", "The engine does not run without its intake. Check every connector and hose below it. Look once more for tools and bolts in the ports."
		s.Why, s.Cautions, s.If = "What is left in a port goes into the cylinder.", nil, nil
	}
	b.step(s)
}

// intake reports whether a cover is part of the intake, by its name.
func intake(c engine.Cover) bool {
	return strings.Contains(c.Name, "plenum") || strings.Contains(c.Name, "intake")
}

// coversOn puts the covers back, the innermost first.
func (b *builder) coversOn() {
	covers := b.covers()
	for i := len(covers) - 1; i >= 0; i-- {
		c := covers[i]
		f := b.torque("Torque of a cover bolt", SpecCoverBolt, "cover")
		do := "Clean the faces, start every bolt by hand, then tighten slowly from the middle outwards, in two rounds."
		if intake(c) {
			f = b.torque("Torque of the intake plenum", SpecPlenumBolt, "plenum")
		}
		if len(c.Gaskets) > 0 {
			do = fmt.Sprintf("Fit new: %s. ", listOf(c.Gaskets, "")) + do
		}
		if wrench, _ := b.Tools.wrench(f.Value); wrench != "" {
			do += " " + wrench
		}
		b.step(Step{ID: "refit.cover-" + slug(c.Name), Phase: Refit, Target: engine.Whole, Title: "Fit the " + c.Name, Do: do, Why: "Plastic cracks, and leaks, where it is tightened fast or from one side.",
			Figure: &f, Tools: []string{"torque wrench"}, Minutes: c.On, Drawing: "sequence", Ask: &Ask{Words: "Torque that was set", Of: AskTorque}})
	}
}

// hasDistributor reports whether the repair is at the distributor.
func (b *builder) hasDistributor() bool {
	return b.eng.Ignition == engine.Distributor && b.renews(engine.Cap, engine.Rotor, engine.Timing, engine.Pickup)
}

// designOf is the design of the plugs at a target.
func designOf(m part.Make) part.PlugDesign {
	if m.Plug == nil {
		return part.PlugDesign{}
	}
	return *m.Plug
}
