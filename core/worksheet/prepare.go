package worksheet

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// harness lists the sites whose repair is work on the wiring.
var harness = []engine.Kind{engine.Connector, engine.Feed, engine.Ground, engine.Trigger, engine.Driver, engine.Module}

// pulled reports whether plugs come out.
func (b *builder) pulled() bool { return b.renews(engine.Plug, engine.Compression) }

// prepare adds what is done before anything comes off.
func (b *builder) prepare() {
	if b.pulled() {
		b.temperature()
	}
	if b.renews(harness...) || b.school("battery") == "always" {
		b.step(Step{ID: "prepare.battery", Phase: Prepare, Target: engine.Whole, Title: "Disconnect the battery", Do: "Save codes and settings first. Disconnect the negative terminal, and keep it off while you work on the wiring.",
			Why: "A short on the harness destroys a control unit.", Cautions: []string{memoryLoss, makerFirst}, School: "battery", Minutes: 3})
	} else {
		b.step(Step{ID: "prepare.ignition", Phase: Prepare, Target: engine.Whole, Title: "Switch the ignition off and take the key out", Do: "Switch the ignition off, take the key out, and wait a minute for the control unit.",
			Why: "The coils carry no voltage then, and no memory is lost.", Cautions: []string{highVoltage}, School: "battery", Minutes: 1})
	}
	b.sockets()
	b.bundle()
	for _, t := range b.targets {
		if t.tag != "" {
			b.beside(t)
		}
	}
}

// temperature states at which temperature the plugs come out.
func (b *builder) temperature() {
	s := Step{ID: "prepare.heat", Phase: Prepare, Target: engine.Whole, School: "heat"}
	if b.school("heat") == "warm" {
		s.Title, s.Do, s.Minutes = "Let the engine cool until it is hand-warm", "Wait until you can keep your hand on the head. Then loosen the plugs.", 5
		s.Why, s.Cautions = "Warmth frees a plug that carbon has seized.", []string{hotEngine, makerFirst}
	} else {
		s.Title, s.Do, s.Minutes = "Let the engine cool down", "Wait until the head is cold to the hand.", 5
		s.Why, s.Cautions = "A hot alloy head is soft, and its threads come out with the plug.", []string{alloyThreads, hotEngine, makerFirst}
		if b.eng.Head == engine.Iron {
			s.Why, s.Cautions = "A cold plug is safe to touch. Cast iron threads stand warmth as well.", []string{hotEngine, makerFirst}
		}
	}
	b.step(s)
}

// bundle asks what is renewed or put right with the unit of the verdict.
func (b *builder) bundle() {
	signed, ok := b.Job.Signed()
	if !ok || len(signed.Verdict().Also) == 0 && signed.Verdict().Cause == "" {
		return
	}
	v := signed.Verdict()
	s := Step{ID: "prepare.also", Phase: Prepare, Target: engine.Whole, Title: "Decide what is put right with it", Do: "Take what the verdict names onto this worksheet, or leave it. To know which part it was, renew one, run the engine, then renew the other.",
		Why: "A part fails again where its cause stays.", Minutes: 1}
	if v.Cause != "" {
		s.Do = "What lies behind it: " + v.Cause + ". " + s.Do
	}
	for _, also := range v.Also {
		s.If = append(s.If, Trouble{"It goes with it", also})
	}
	b.step(s)
}

// also lists the parts that a verdict names besides its unit.
func (b *builder) also(signed evidence.Entry) (all []Also) {
	if signed.Verdict() == nil {
		return nil
	}
	for _, line := range signed.Verdict().Also {
		tag, ok := b.tagIn(line)
		if ok && !slices.ContainsFunc(all, func(a Also) bool { return a.Tag == tag }) {
			all = append(all, Also{tag, line, b.chosen(StepAlso+string(tag)) == "yes"})
		}
	}
	return all
}

// sockets lists sockets, extension and aids by the parts.
func (b *builder) sockets() {
	var tools []string
	add := func(words string) { tools = append(tools, words) }
	do := "Lay the tools out before anything comes off."
	if b.pulled() {
		hex := ""
		for _, t := range b.of(engine.Plug) {
			if m, _, _ := b.makeOf(t); m.Plug != nil && m.Plug.HexMM > 0 {
				hex = fmt.Sprintf("%g mm ", m.Plug.HexMM)
			}
		}
		if hex == "" {
			do += " Measure the hexagon of the plug: its width is not recorded."
		}
		add(hex + "plug socket with rubber insert")
		if depth, ok := b.eng.Spec(SpecWellDepth); ok {
			add(fmt.Sprintf("extension of %.0f mm or more, locked to the socket", extension(depth.High)))
		} else {
			add("extension locked to the socket, longer than the well is deep")
		}
		if len(b.covers()) > 0 {
			add("swivel joint")
		}
		add("magnet or rubber hose to lift a loose plug")
		add("compressed air")
	}
	if b.renews(engine.Coil, engine.Boot) && b.eng.OwnCoils() {
		add("small socket for the coil bolts")
	}
	if b.renews(engine.Lead, engine.CoilLead) {
		add("boot pliers")
	}
	if b.renews(engine.Cap, engine.Rotor, engine.Timing) {
		add("screwdriver")
	}
	if b.renews(engine.Timing) {
		add("timing lamp")
	}
	if b.renews(engine.AirGap) || b.eng.Ignition == engine.Magneto && b.renews(engine.Coil) {
		add("feeler gauges")
	}
	add("torque wrench")
	b.step(Step{ID: "prepare.tools", Phase: Prepare, Target: engine.Whole, Title: "Lay out sockets, extension and wrench", Do: do, Why: "A socket that stays behind on a plug costs more time than all other steps.", Tools: tools, Minutes: 3})
}

// extension returns the length of an extension bar for a well: its depth and a hand's width above,
// rounded up to the usual bars of 75, 150 and 250 mm (C).
func extension(depthMM float64) float64 {
	for _, bar := range []float64{75, 150, 250} {
		if bar >= depthMM-25 { // the socket itself reaches 25 mm out of the well
			return bar
		}
	}
	return math.Ceil(depthMM/50) * 50
}

// beside compares the new part with the old one.
func (b *builder) beside(t target) {
	s := Step{ID: id("prepare.beside-"+slug(string(t.kind)), t.place), Tag: t.tag, Phase: Prepare, Target: t.place, Title: fmt.Sprintf("Lay the new %s beside %s", t.kind, t.words()),
		Do: "Compare the two in every point before you fit the new one.", Why: "New parts can be wrong, damaged or copies.", Minutes: 2, Drawing: "beside"}
	m, _, listed := b.makeOf(t)
	old, _ := part.For(b.Job.Vehicle.Parts, t.kind, t.tag.Home())
	if listed {
		differ, _ := part.Compare(t.kind, old.Make(), m)
		for _, d := range differ {
			if d.Grave {
				s.If = append(s.If, Trouble{"The catalogue's part differs: " + d.Words, unit.Capital(d.Judged) + ". Do not fit it."})
			}
		}
	}
	switch t.kind {
	case engine.Plug:
		s.Do = "Compare thread, reach, seat, hexagon, heat range and electrode. Measure the resistor from terminal to centre electrode."
		s.Tools = []string{"ohmmeter"}
		s.Ask = &Ask{Words: "Resistor of the new plug", Of: AskOhms}
		f := Figure{Name: "Resistor", Value: 5000, Low: 3000, High: 8000, Unit: "Ω", Source: "C: resistor plugs"}
		if m.Plug != nil && m.Plug.ResistorOhms > 0 {
			f.Value, f.Low, f.High, f.Source = m.Plug.ResistorOhms, 0.8*m.Plug.ResistorOhms, 1.2*m.Plug.ResistorOhms, "the workshop's catalogue, a fifth either way (judgement)"
		}
		if m.Plug == nil || m.Plug.Resistor != "no" {
			s.Figure = &f
		}
		s.If = append(s.If, Trouble{"It was dropped, even once", "Do not fit it: a hairline crack shows only under load."})
		s.If = append(s.If, Trouble{"Wrong or blurred lettering, or no fine centre wire where the list names one", "It is the wrong part or a counterfeit. Do not fit it: return it, and keep the box."})
	case engine.Coil:
		s.Do = "Compare pins, the side of the latch, and the length from flange to mouth."
		if b.eng.Ignition == engine.Magneto {
			s.Do = "Compare the bolt holes and the distance between them, not the looks. Find the mark of the outward face."
		}
	case engine.Lead, engine.CoilLead:
		s.Do = "Compare length, core and both ends. Measure the new lead from end to end."
		s.Tools = []string{"ohmmeter"}
		s.Ask = &Ask{Words: "Resistance of the new lead", Of: AskOhms}
		s.Figure = &Figure{Name: "Resistance in all", Value: 25_000, Low: 0, High: 50_000, Unit: "Ω", Source: "C: none above 50 kΩ"}
	case engine.Cap, engine.Rotor:
		s.Do = "Compare towers, fixing and height. Look for a spring or carbon contact inside."
	case engine.Boot:
		s.Do = "Compare length and ends. Pull the new spring a little: it must be one piece."
	}
	s.Cautions = []string{makerFirst}
	b.step(s)
}
