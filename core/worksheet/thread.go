package worksheet

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// paste reports whether a plug's thread gets paste, and why (C: by the school, the thread's finish and
// the head's metal).
func (b *builder) paste(d part.PlugDesign) (yes bool, why string) {
	alloy := b.eng.Head != engine.Iron
	switch b.school("paste") {
	case "never":
		return false, "no paste falsifies the torque"
	case "always":
		if alloy {
			return true, "it keeps an alloy thread from seizing"
		}
		return false, "a cast iron thread needs none"
	}
	switch {
	case d.Finish == part.Bright:
		return false, "the bright plating of the shell replaces it"
	case d.Finish == part.Dark && alloy:
		return true, "a bare shell seizes in an alloy head"
	case d.Finish == part.Dark:
		return false, "a cast iron thread needs none"
	}
	return false, "the finish of the shell is not recorded: a bright one needs none"
}

// threads adds paste and boot grease.
func (b *builder) threads() {
	for _, t := range b.of(engine.Plug) {
		m, _, _ := b.makeOf(t)
		d := designOf(m)
		yes, why := b.paste(d)
		s := Step{ID: id("thread.plug", t.place), Phase: Thread, Target: t.place, School: "paste", Minutes: 1, Cautions: []string{makerFirst}}
		if yes {
			s.Title, s.Do = "Put a little paste on the thread of the new plug", "Put a dab the size of a grain of rice on the middle threads. Leave the first two threads dry, and wipe insulator and electrodes clean."
			s.Why = fmt.Sprintf("By the school chosen, %s. The dry torque does not hold with it: the step below uses %.0f %%.", why, 100*b.factor("paste"))
			s.Tools, s.Cautions = []string{"anti-seize paste", "clean cloth"}, []string{skin, "Paste on insulator or electrode conducts: wipe it off.", makerFirst}
		} else {
			s.Title, s.Do = "Fit the new plug with a dry thread", "Wipe the thread clean and leave it dry."
			s.Why = fmt.Sprintf("By the school chosen, %s.", why)
		}
		b.step(s)
	}
	b.grease()
}

// grease adds the grease of a boot that is pushed on.
func (b *builder) grease() {
	for _, t := range b.of(engine.Coil, engine.Boot, engine.Plug, engine.Lead, engine.Seat) {
		if t.kind == engine.Coil && (!b.eng.OwnCoils() || b.eng.Ignition == engine.Magneto) {
			continue
		}
		s := Step{ID: id("thread.boot", t.place), Phase: Thread, Target: t.place, Title: "Grease the boot of " + where(t.place), Tools: []string{"dielectric grease"}, Minutes: 1, School: "boots",
			Do:  "Smear a thin film of dielectric grease inside the mouth of the boot, a finger's width deep. Keep it off the contact spring. If the new coil came with grease in its boot, add none.",
			Why: "The boot slides home and comes off again. Ordinary grease carbonises and arcs."}
		if b.school("boots") == "set" && t.kind == engine.Plug {
			s.Title, s.Do = "Fit a new boot on "+where(t.place)+", and grease it", "Renew the boot with the plug. "+s.Do
		}
		b.once(s)
	}
}
