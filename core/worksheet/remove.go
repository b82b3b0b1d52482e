package worksheet

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
)

// remove adds what comes off to reach the parts.
func (b *builder) remove() {
	for _, c := range b.covers() {
		s := Step{ID: "remove.cover-" + slug(c.Name), Phase: Remove, Target: engine.Whole, Title: "Take the " + c.Name + " off", Do: "Loosen its bolts a little at a time, from the outside inwards. Note each hose, sensor, bracket and bolt under “What came off”.",
			Why: "What is listed as it comes off is not forgotten when it goes back.", Minutes: c.Off, Drawing: "cover"}
		if len(c.Gaskets) > 0 {
			s.Do += fmt.Sprintf(" Renew: %s.", listOf(c.Gaskets, ""))
		}
		s.State.Done = slices.Contains(b.off, c.Name)
		s.If = []Trouble{{"A bolt or clip is lost, or another one takes its place", "Record it under “What came off”. Find it before the engine runs: it may lie in the intake."}}
		b.step(s)
	}
	for _, t := range b.targets {
		b.loosen(t)
	}
}

// loosen takes the part of a target, or what sits on it, out of the way.
func (b *builder) loosen(t target) {
	switch t.kind {
	case engine.Coil, engine.Boot, engine.Plug:
		if b.eng.OwnCoils() && b.eng.Ignition == engine.CoilOnPlug {
			b.coilOff(t.place)
			return
		}
		if b.eng.Ignition == engine.Magneto {
			b.magnetoOff(t)
			return
		}
		if t.kind == engine.Coil {
			b.step(Step{ID: id("remove.coil", t.place), Phase: Remove, Target: t.place, Title: "Take " + coilAt(t.place) + " off", Do: "Mark its leads with their cylinders. Release the connector at its latch, pull the leads by their boots, and take the bolts out.",
				Why: "Marked leads go back without a look at the firing order.", Tools: []string{"tape and marker"}, Cautions: []string{highVoltage}, If: brittle(), Minutes: 4})
			return
		}
		b.leadOff(t.place)
	case engine.Lead, engine.CoilLead:
		b.leadOff(t.place)
	case engine.Cap, engine.Rotor:
		b.once(Step{ID: "remove.cap", Phase: Remove, Target: t.place, Title: "Take the distributor cap off", Do: "Mark the tower of cylinder 1 on the cap. Release clips or screws, and lift the cap with its leads on.",
			Why: "The leads stay in their order while the cap hangs beside its place.", Tools: []string{"marker", "screwdriver"}, Cautions: []string{highVoltage}, Minutes: 3})
	case engine.Connector:
		b.step(Step{ID: id("remove.connector", t.place), Phase: Remove, Target: t.place, Title: "Open the connector of " + where(t.place), Do: "Slide its lock back, press the latch, and pull at the housing. Never pull at the wires.", Why: "Its terminals are repaired out of the housing.", Cautions: []string{highVoltage}, If: brittle(), Minutes: 2})
	}
}

// once adds a step unless one of its id is there.
func (b *builder) once(s Step) {
	if !slices.ContainsFunc(b.steps, func(have Step) bool { return have.ID == s.ID }) {
		b.step(s)
	}
}

// brittle is what to do with an old connector.
func brittle() []Trouble {
	return []Trouble{{"The latch of the connector is brittle or breaks", "Renew the connector housing. A connector that does not lock works loose and misfires."}}
}

func (b *builder) coilOff(at engine.Place) {
	b.once(Step{ID: id("remove.coil", at), Phase: Remove, Target: at, Title: "Pull " + coilAt(at), Do: "Release the connector at its latch. Take the bolt out. Turn the coil a little, then pull it by its body with its weather seal.",
		Why: "A coil pulled by its connector breaks, and a seal left behind lets water in.", Tools: []string{"small socket"}, Cautions: []string{highVoltage},
		If: append(brittle(), Trouble{"The boot tears, and a piece stays in the well", "Lift it out with long pliers before anything else. Renew the boot: a torn one arcs."},
			Trouble{"The coil does not come", "Turn it both ways to break the seal. Blow air along the boot. Never lever at its ear."}), Minutes: 3})
}

func (b *builder) leadOff(at engine.Place) {
	b.once(Step{ID: id("remove.lead", at), Phase: Remove, Target: at, Title: "Pull the lead of " + where(at), Do: "Write its cylinder on it. Turn the boot half a turn, then pull by the boot and never by the lead.",
		Why: "A lead pulled by its cable breaks inside.", Tools: []string{"tape and marker", "boot pliers"}, Cautions: []string{highVoltage},
		If: []Trouble{{"The boot tears, and a piece stays in the well", "Lift it out with long pliers. Renew the lead: a torn boot arcs."}}, Minutes: 2})
}

// out adds the way a plug comes out of its well.
func (b *builder) out() {
	for _, t := range b.of(engine.Plug) {
		s := Step{ID: id("remove.plug", t.place), Phase: Remove, Target: t.place, Title: fmt.Sprintf("Take plug %s out of %s", t.tag, where(t.place)),
			Do:    "Blow the well out first. Set the socket on straight, with the extension locked to it. Loosen a quarter turn, blow again, then turn it out by hand.",
			Why:   "What lies in the well falls into the cylinder.",
			Tools: []string{"plug socket", "compressed air"}, Cautions: []string{airEyes, alloyThreads, noPower}, Minutes: 5, Drawing: "socket",
			If: []Trouble{
				{"The plug stays in the well", "Lift it with a magnet, or push a rubber hose over its terminal."},
				{"The socket stays on the plug", "Pull it with the locked extension, or with long pliers. Do not knock it sideways: the insulator cracks."},
			}}
		stuck := Trouble{"It is seized, or turns hard over its whole thread", "Stop. Turn it back in, soak the thread, and wait. Then work it to and fro a little at a time, with the head cold."}
		if b.eng.Head == engine.Iron || b.school("heat") == "warm" {
			stuck.Do = "Stop. Turn it back in, soak the thread, and warm the engine up. Then work it to and fro a little at a time."
		}
		s.If = append(s.If, stuck, Trouble{"It was cross-threaded, or metal comes out with it", "Stop here. A thread insert is work for someone who is equipped for it: hand it over."})
		b.step(s)
	}
	if plugs := b.of(engine.Plug); len(plugs) > 0 {
		b.step(Step{ID: "remove.read", Phase: Remove, Target: engine.Whole, Title: "Read the old plugs", Do: "Lay them out in cylinder order, noses up, and record what you see on each.",
			Why: "The next misfire starts from this record, and the look shows what the engine does to its plugs.", Tools: []string{"lamp"}, Minutes: float64(len(plugs))})
	}
	if wells := b.of(engine.Well); len(wells) > 0 {
		for _, t := range wells {
			b.step(Step{ID: id("remove.well", t.place), Phase: Remove, Target: t.place, Title: "Dry and clean the well of " + where(t.place), Do: "Soak up oil or water, and blow the well out. Renew the seal above it. Look at the boot: oil swells it.",
				Why: "Liquid returns while the seal leaks.", Tools: []string{"compressed air", "lint-free cloth"}, Cautions: []string{airEyes}, Minutes: 12})
		}
	}
}
