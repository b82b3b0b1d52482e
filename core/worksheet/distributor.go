package worksheet

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// The steps at which the angles of a distributor are measured.
const (
	stepLifted = "remove.distributor-lift"
	stepMeshed = "time.mesh"
	stepLamp   = "time.lamp"
)

// TeethOff returns by how many teeth of the distributor's gear a rotor stands off its mark, rounded to
// whole teeth: one tooth of z is 360/z degrees (definition). off is in degrees of the distributor.
func TeethOff(off float64, teeth int) int {
	return int(math.Round(off * float64(teeth) / 360))
}

// CrankDegrees returns the crank degrees of some teeth of the distributor's gear: 720/z each, since the
// distributor turns at half crank speed (definition).
func CrankDegrees(teeth, of int) float64 { return 720 * float64(teeth) / float64(of) }

// RimMM returns the length in millimetres of some degrees on the rim of a pulley: π·D·θ/360 (definition).
func RimMM(diameter, degrees float64) float64 { return math.Pi * diameter * degrees / 360 }

// Correction is how a distributor's housing is turned to correct the base timing.
type Correction struct {
	// Off is the crank degrees by which the timing is too early; below 0 it is too late.
	Off float64
	// Turn is the degrees to turn the housing, in the sense Sense: half the crank degrees, with the rotor
	// to retard, against it to advance (definition).
	Turn  float64
	Sense engine.Turn
	// Right reports whether the timing is within its tolerance.
	Right bool
}

// Correct compares a base timing with its range, in degrees before top dead centre, for a rotor that
// turns in a sense seen from above. Within the range or the tolerance around its middle it is right.
func Correct(lamp, low, high, tolerance float64, rotor engine.Turn) Correction {
	aim := (low + high) / 2
	c := Correction{Off: lamp - aim, Turn: math.Abs(lamp-aim) / 2}
	c.Right = lamp >= low && lamp <= high || math.Abs(c.Off) <= tolerance
	against := map[engine.Turn]engine.Turn{engine.Clockwise: engine.Anticlockwise, engine.Anticlockwise: engine.Clockwise}
	c.Sense = rotor
	if c.Off < 0 {
		c.Sense = against[rotor]
	}
	return c
}

// Words states the correction: "6° too early: turn the housing 3° clockwise, which retards".
func (c Correction) Words() string {
	if c.Right {
		return "right"
	}
	early, does := "early", "retards"
	if c.Off < 0 {
		early, does = "late", "advances"
	}
	sense := string(c.Sense)
	if sense == "" {
		sense = map[bool]string{true: "with the rotor", false: "against the rotor"}[c.Off > 0]
	}
	return fmt.Sprintf("%s° too %s: turn the housing %s° %s, which %s", unit.Decimal(math.Round(10*math.Abs(c.Off))/10), early, unit.Decimal(math.Round(10*c.Turn)/10), sense, does)
}

// distributor adds the way of a distributor out and in, and its timing.
func (b *builder) distributor() {
	if !b.hasDistributor() {
		return
	}
	if b.renews(engine.Pickup) || b.renews(engine.Timing) && b.school("distributor") == "out" {
		b.distributorOut()
	}
	if b.renews(engine.Rotor) || b.renews(engine.Cap) {
		b.step(Step{ID: "refit.rotor", Phase: Refit, Target: engine.Whole, Title: "Push the rotor on and close the cap", Do: "Turn the rotor until its key drops into the shaft, and push it on. Set the cap on by its key, and close clips or screws evenly.",
			Why: "A cap that sits askew is struck by the rotor at the first turn.", Cautions: []string{highVoltage}, Minutes: 4, Drawing: "cap"})
	}
}

// distributorOut adds marking, lifting and meshing. With the marks no top dead centre is needed.
func (b *builder) distributorOut() {
	teeth, hasTeeth := b.eng.Spec(SpecGearTeeth)
	b.insert(Gap, Step{ID: "remove.distributor-mark", Phase: Remove, Target: engine.Whole, Title: "Mark rotor to body, and body to engine", Do: "Mark where the rotor points on the body. Mark the body against the engine. Take a photo of both. Do not turn the engine from now on.",
		Why: "With both marks no top dead centre is needed.", Tools: []string{"marker", "camera"}, Minutes: 3, Drawing: "cap"})
	b.insert(Gap, Step{ID: stepLifted, Phase: Remove, Target: engine.Whole, Title: "Lift the distributor, and note how far the rotor turns", Do: "Take the clamp off, and lift the body straight. The rotor turns as the gear leaves its mesh. Read how many degrees, and note where it stands.",
		Why: "The new one must start from there, because the gear turns it back as it meshes.", Tools: []string{"protractor or photo"}, Minutes: 6, Ask: &Ask{Words: "Rotor turned while it came out", Of: AskDegrees}, Drawing: "rotor"})
	start := "Set the rotor where it stood when the gear came free: as many degrees before its mark as it turned."
	if turned, ok := b.measured(stepLifted); ok {
		if x, err := unit.Angle.Parse(turned); err == nil {
			start = fmt.Sprintf("Set the rotor %s° before its mark, where it stood when the gear came free.", unit.Decimal(x))
		}
	}
	s := Step{ID: stepMeshed, Phase: Time, Target: engine.Whole, Title: "Set the distributor in, by hand", Do: start + " Lower the body by its mark. The rotor turns onto its mark as the gear meshes. Seat it by hand, never by the bolt.",
		Why: "Drawn down by the bolt on a shaft that is not in mesh, the drive breaks.", Minutes: 10, Ask: &Ask{Words: "Rotor stands off its mark", Of: AskDegrees}, Drawing: "rotor",
		If: []Trouble{{"The body does not go down the last bit", "The drive below is not in line. Turn it with a screwdriver a little, and try again."}}}
	if hasTeeth {
		z := int(teeth.High)
		s.Figure = &Figure{Name: "One tooth at the distributor", Value: 360 / float64(z), Low: 360 / float64(z), High: 360 / float64(z), Unit: "°", Also: []unit.Amount{{Value: CrankDegrees(1, z), Unit: "° crank"}}, Source: fmt.Sprintf("definition: 360/%d; the gear's teeth are recorded for this vehicle", z), of: SpecGearTeeth}
		s.Ask.Teeth = z
		s.If = append(s.If, Trouble{fmt.Sprintf("The rotor stands about %.0f° off its mark", 360/float64(z)), fmt.Sprintf("It is one tooth off, which is %.0f crank degrees. Lift it and set it one tooth over.", CrankDegrees(1, z))})
	}
	s.If = append(s.If, Trouble{"It kicks back, backfires or does not start, and no turn of the housing helps", "It is at least one tooth off. Lift it and set it one tooth over."})
	b.step(s)
	b.bolt("torque.clamp", engine.Whole, "Nip up the clamp of the distributor", b.torque("Torque of the distributor clamp", SpecClampBolt, "clamp"), "Tighten it only so far that the housing can still be turned by hand. The torque comes after the timing.", "The timing is set by turning the housing.")
}

// timing adds the base timing by lamp.
func (b *builder) timing() {
	if !b.renews(engine.Timing, engine.Pickup) {
		return
	}
	f, known := b.known("Base timing", SpecBaseTiming, "", 0, 0, "", 0, 0)
	f.Unit = "°"
	idle := "idle as low as the maker says"
	if s, ok := b.eng.Spec(SpecIdleSpeed); ok {
		idle = fmt.Sprintf("idle at %.0f to %.0f rpm", s.Low, s.High)
	}
	s := Step{ID: stepLamp, Phase: Time, Target: engine.Whole, Title: "Set the base timing with the lamp", School: "distributor", Tools: []string{"timing lamp"}, Minutes: 10, Cautions: []string{runHands, "Wear no loose clothes near the belts. The lamp makes a running fan look still.", makerFirst}, Drawing: "timing",
		Do:  fmt.Sprintf("Warm engine, %s. Disconnect the control input as the maker says. Lamp on cylinder %d. With an advance dial, turn it until the marks meet, and read the dial. Without one, read the mark at the pointer.", idle, b.eng.FiringOrder[0]),
		Why: "Base timing is what the rest of the advance is added to.", Ask: &Ask{Words: "Lamp shows, before top dead centre", Of: AskTiming, Rotor: b.eng.Rotor, Tolerance: b.factor("timing-tolerance")}}
	if known {
		s.Figure = &f
		s.Ask.Low, s.Ask.High = f.Low, f.High
		if d, ok := b.eng.Spec(SpecPulley); ok {
			f.Also = []unit.Amount{{Value: math.Round(10*RimMM(d.High, f.Value)) / 10, Unit: "mm on the rim"}}
			s.Do += fmt.Sprintf(" With no scale, measure %.1f mm along the rim from top dead centre.", RimMM(d.High, f.Value))
		}
	} else {
		s.Do += " The maker's figure is not recorded for this vehicle: enter it here first."
		s.Figure = nil
	}
	b.step(s)
	b.bolt("time.clamp", engine.Whole, "Tighten the clamp, and read the timing again", b.torque("Torque of the distributor clamp", SpecClampBolt, "clamp"), "Tighten the clamp, reconnect the control input, and read the lamp once more.", "The housing creeps while its clamp is tightened.")
	b.steps[len(b.steps)-1].Phase = Time
}

// measured returns what was measured last at a step.
func (b *builder) measured(step string) (value string, ok bool) {
	for i := len(b.Job.Worksheet) - 1; i >= 0; i-- {
		if m := b.Job.Worksheet[i]; m.Step == step && m.Value != "" {
			return m.Value, true
		}
	}
	return "", false
}
