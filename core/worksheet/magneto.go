package worksheet

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// magnetoOff takes the coil of a magneto off, or the lead off its plug.
func (b *builder) magnetoOff(t target) {
	b.once(Step{ID: id("remove.magneto-lead", t.place), Phase: Remove, Target: t.place, Title: "Pull the lead off the plug", Do: "Pull the boot off the plug, and tie the lead away from it.", Why: "The engine cannot start while your hand is near the flywheel.", Cautions: []string{bladeFirst, highVoltage}, Minutes: 1})
	if t.kind == engine.Coil {
		b.once(Step{ID: id("remove.magneto-coil", t.place), Phase: Remove, Target: t.place, Title: "Take the magneto coil off", Do: "Turn the magnets away from the coil. Mark its outward face. Pull the stop wire off, take the bolts out, and note each spacer.",
			Why: "A coil that is fitted with the wrong face outward fires at the wrong time.", Tools: []string{"marker", "small socket"}, Cautions: []string{bladeFirst}, Minutes: 6})
	}
}

// magneto adds the fitting of a coil and its air gap, leg by leg.
func (b *builder) magneto() {
	if b.eng.Ignition != engine.Magneto || !b.renews(engine.Coil, engine.AirGap) {
		return
	}
	if b.renews(engine.Coil) {
		b.insert(Torque, Step{ID: "refit.magneto-coil", Phase: Torque, Target: engine.Whole, Title: "Set the new coil on its bosses", Do: "Mark outward, bolts only finger-tight. Carry the boot over if the new coil came without one, and push the stop wire on.",
			Why: "Bolt holes decide whether it fits, not its looks.", Cautions: []string{bladeFirst}, Minutes: 6})
	}
	low, high := b.factor("air-gap-low"), b.factor("air-gap-high")
	f, _ := b.known("Air gap, each leg", SpecAirGap, "worksheet:air-gap-low", low, high, "C: by maker", 0, 0)
	f = f.inches()
	b.insert(Torque, Step{ID: "gap.air", Phase: Gap, Target: engine.Whole, Title: "Set the air gap, a leg at a time", Do: "Turn the magnets to the coil. Lay the feeler between, and let the magnets pull the coil down onto it. Measure each leg.",
		Why: "The worse leg decides. A leg outside the range is out, whatever the other shows.", Figure: &f, Tools: []string{"brass feeler gauge"}, Cautions: []string{bladeFirst}, Minutes: 6, Drawing: "legs",
		Ask: &Ask{Words: "First and second leg", Of: AskLegs, Low: f.Low, High: f.High}})
	b.step(Step{ID: "refit.air-again", Phase: Refit, Target: engine.Whole, Title: "Measure the air gap again after tightening", Do: "Turn the flywheel once by hand: nothing may touch. Measure both legs again.", Why: "The coil moves while its bolts are tightened.", Figure: &f, Tools: []string{"brass feeler gauge"},
		Cautions: []string{bladeFirst}, Minutes: 3, Drawing: "legs", Ask: &Ask{Words: "First and second leg", Of: AskLegs, Low: f.Low, High: f.High}})
	b.step(Step{ID: "refit.magneto-spark", Phase: Refit, Target: engine.Whole, Title: "See a spark before the cover goes on", Do: "Plug out, grounded tester on the lead. Pull the starter, and look for a strong spark.", Why: "The coil is still in reach.", Tools: []string{"spark tester"}, Cautions: []string{sparkGround}, Minutes: 3})
	for _, p := range b.places() {
		b.step(b.home(p))
	}
}

// switches are what can short a stop wire, in the order in which they are traced (C).
var switches = []struct{ id, words string }{
	{"key", "key or stop switch"}, {"seat", "seat switch"}, {"brake", "brake or blade switch"}, {"oil", "oil level switch"},
}

// stopWire traces which switch or wire is shorted.
func (b *builder) stopWire() {
	if !b.renews(engine.StopWire) {
		return
	}
	b.step(Step{ID: "refit.stop-off", Phase: Refit, Target: engine.Whole, Title: "Pull the stop wire off the coil, and look for a spark", Do: "With the wire off, pull the starter with a grounded tester on the lead.", Why: "A spark now means that the wire or one of its switches is shorted.",
		Tools: []string{"spark tester"}, Cautions: []string{cannotStop, sparkGround, bladeFirst}, Minutes: 4, Ask: &Ask{Words: "Spark with the wire off", Of: AskYes}})
	for _, s := range switches {
		b.step(Step{ID: "refit.stop-" + s.id, Phase: Refit, Target: engine.Whole, Title: "Unplug the " + s.words + ", with the wire on again", Do: fmt.Sprintf("Unplug the %s alone, if this engine has one. Pull the starter with the tester on: is there a spark now?", s.words),
			Why: "The switch that brings the spark back when it is unplugged is the shorted one. Skip it if there is none.", Tools: []string{"spark tester"}, Cautions: []string{cannotStop, sparkGround}, Minutes: 3, Ask: &Ask{Words: "Spark with it unplugged", Of: AskYes}})
	}
	b.step(Step{ID: "refit.stop-repair", Phase: Refit, Target: engine.Whole, Title: "Repair the " + b.shorted(), Do: "Renew it, or the chafed piece of wire. Lay the wire into its clips, clear of moving parts. Then prove that the engine stops by each switch.",
		Why: "An engine that cannot be stopped is dangerous.", Cautions: []string{cannotStop, makerFirst}, Minutes: 10})
}

// shorted names the switch that brought the spark back; without one the wire itself is left.
func (b *builder) shorted() string {
	for _, s := range switches {
		if v, ok := b.measured("refit.stop-" + s.id); ok && v == "yes" {
			return s.words + ", which is shorted"
		}
	}
	return "stop wire: no switch brought the spark back"
}

// legs reads the two legs of an air gap: "0.30 0.35", "0.3 mm / 0.35 mm".
func legs(s string) (a, c float64, err error) {
	first, second := split2(s)
	if a, err = unit.Feeler.Parse(first); err != nil {
		return 0, 0, err
	}
	c, err = unit.Feeler.Parse(second)
	return a, c, err
}
