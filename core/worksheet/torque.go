package worksheet

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
)

// torques adds the final turn of plugs, and the bolts of a magneto coil.
func (b *builder) torques() {
	for _, t := range b.of(engine.Plug) {
		b.step(b.plugTorqueStep(t))
	}
	if b.eng.Ignition == engine.Magneto && b.renews(engine.Coil, engine.AirGap) {
		b.bolt("torque.magneto", engine.Whole, "Tighten the bolts of the magneto coil", b.torque("Torque of a magneto bolt", SpecMagnetoBolt, "magneto"),
			"Tighten both bolts in small steps, in turn, with the feeler in the gap. Measure the gap again afterwards.", "A coil moves while it is tightened.")
	}
}

// coilBolt adds the bolt of the coil that goes back on at a place, if it has one there.
func (b *builder) coilBolt(at engine.Place) {
	switch {
	case b.eng.Ignition == engine.CoilOnPlug:
		b.bolt("torque.coil-bolt", at, "Tighten the bolt of "+coilAt(at), b.torque("Torque of the coil bolt", SpecCoilBolt, "coil-bolt"),
			"The coil lies flat before its bolt starts. Never draw it down with the bolt: its ear cracks. Skip this if the coil has no bolt.", "Small bolts are torqued in newton metres or inch-pounds. Foot-pounds by mistake pull the insert out.")
	case b.eng.Ignition != engine.Magneto && slices.ContainsFunc(b.of(engine.Coil), func(t target) bool { return t.place == at }):
		b.bolt("torque.coil-bolt", at, "Tighten the bolts of "+coilAt(at), b.torque("Torque of the coil bolt", SpecCoilBolt, "coil-bolt"), "Tighten its bolts evenly, in turn.", "A bracket that lies unevenly cracks the case.")
	}
}

func (b *builder) plugTorqueStep(t target) Step {
	m, _, _ := b.makeOf(t)
	d := designOf(m)
	paste, _ := b.paste(d)
	s := Step{ID: id("torque.plug", t.place), Phase: Torque, Target: t.place, Title: "Tighten the plug of " + where(t.place), School: "torque", Tools: []string{"torque wrench"}, Cautions: []string{noPower, alloyThreads}, Minutes: 3,
		Why: "Too loose, it overheats and blows out. Too tight, the shell stretches and the insulator cracks."}
	var do []string
	if d.Seat == "gasket" {
		do = append(do, "Feel the washer yield before the torque builds.")
	}
	torque, known := b.plugTorque(m, paste)
	// A new plug comes with a new gasket. A plug that went back in has a used one.
	angle, turns := b.plugAngle(d.Seat, true)
	wrench, reaches := "", true
	if known {
		wrench, reaches = b.Tools.wrench(torque.Value)
	}
	switch {
	case known && reaches && b.school("torque") == "wrench":
		s.Figure, s.Drawing = &torque, ""
		do = append(do, "Read the setting of the wrench again, then tighten in one smooth pull until it clicks once.", wrench)
	case turns:
		s.Figure, s.Tools, s.Drawing = &angle, []string{"plug socket", "marker"}, "angle"
		do = append(do, "Screw it in until it is finger-tight, mark the socket, then turn it by the angle.")
		if !reaches {
			do = append(do, wrench)
		}
		if known {
			do = append(do, fmt.Sprintf("The torque would be %.3g N·m.", torque.Value))
		}
	case known:
		s.Figure = &torque
		do = append(do, "The seat is not recorded, so there is no angle.", wrench)
	default:
		do = append(do, "Thread and seat of this plug are not recorded: enter them in the parts catalogue or on the vehicle, and the torque follows. Tighten nothing by guess.")
	}
	if s.Figure == nil || s.Figure.Unit == "N·m" {
		s.Ask = &Ask{Words: "Torque that was set", Of: AskTorque}
	}
	s.Do = strings.TrimSpace(strings.Join(do, " "))
	return s
}

// bolt adds the tightening of bolts with a torque.
func (b *builder) bolt(what string, at engine.Place, title string, f Figure, do, why string) {
	if wrench, _ := b.Tools.wrench(f.Value); wrench != "" {
		do += " " + wrench
	}
	b.step(Step{ID: id(what, at), Phase: Torque, Target: at, Title: title, Do: do, Why: why, Figure: &f, Tools: []string{"torque wrench"}, Ask: &Ask{Words: "Torque that was set", Of: AskTorque}, Minutes: 2})
}
