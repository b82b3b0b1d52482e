package worksheet

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Design states how the gap of a design of electrodes is measured, and whether and how it is adjusted.
type Design struct {
	Electrode part.Electrode
	// Adjust is "yes", "gently" (only by that school) or "never".
	Adjust string
	// Tool measures the gap, How states where to measure and where to push.
	Tool, How string
	Source    string
}

// Designs lists the designs of electrodes (C: bend the ground strap only).
var Designs = []Design{
	{"nickel", "yes", "gauge wires", "Bend the ground strap only, with a tool that pushes off the shell. Never lever on the centre electrode or the nose.", "C"},
	{"fine-wire", "gently", "gauge wires", "Push the ground strap only, with a tool that rests on the shell. The fine wire breaks when anything touches it from the side.", "C"},
	{"multi-ground", "never", "gauge wires", "Measure from the insulator to each side electrode. Do not bend the electrodes.", "C: multi-ground types are not bent, and may be measured from insulator to side electrode"},
	{"surface-gap", "never", "lamp", "The spark creeps along the insulator. Look at it only: nothing is measured or bent.", "C: surface types are not bent"},
}

// DesignOf returns the row of a design; ok is false for an unknown one.
func DesignOf(e part.Electrode) (Design, bool) {
	for _, d := range Designs {
		if d.Electrode == e {
			return d, true
		}
	}
	return Design{}, false
}

// Adjusts reports whether a gap of the design may be adjusted under a school.
func (d Design) Adjusts(school string) bool {
	return d.Adjust == "yes" || d.Adjust == "gently" && school == "gently"
}

// gaps adds the gap of each new plug, and the evenness of a set.
func (b *builder) gaps() {
	plugs := b.of(engine.Plug)
	for _, t := range plugs {
		b.step(b.gapStep(t))
	}
	if len(plugs) > 1 {
		even := b.factor("even-set")
		b.step(Step{ID: "gap.even", Phase: Gap, Target: engine.Whole, Title: "Compare the gaps of the set", Do: "Type the gap of each plug at its step. The set is even if its widest and narrowest gap are close.",
			Why:    "One plug that differs runs differently from the others.",
			Figure: &Figure{Name: "Greatest difference", Value: even, Low: 0, High: even, Unit: "mm", Source: "C; judgement", row: "worksheet:even-set"}, Minutes: 1})
	}
}

func (b *builder) gapStep(t target) Step {
	m, _, _ := b.makeOf(t)
	d := designOf(m)
	s := Step{ID: id("gap.plug", t.place), Phase: Gap, Target: t.place, Title: "Check the gap of the new plug for " + where(t.place), School: "gap", Minutes: 2, Drawing: "gap",
		Why: "A gap that is too wide overworks the coil, and one that is too narrow misfires at idle."}
	design, known := DesignOf(d.Electrode)
	f, ok := b.known("Gap", engine.PlugGap, "", 0, 0, "", d.GapLow, d.GapHigh)
	if ok {
		f = f.inches()
		s.Figure = &f
	}
	switch {
	case !known:
		s.Do = "Look at the electrodes: their design is not recorded. Bend nothing before you know it. Measure the gap with wires."
		s.Tools = []string{"gauge wires"}
	case design.Adjust == "never":
		s.Do, s.Tools = design.How, []string{design.Tool}
		if ok {
			s.Do += " A gap outside the range is a reason to send the plug back."
		}
	case design.Adjusts(b.school("gap")):
		s.Do, s.Tools = "Measure with wires, and adjust if it is out. "+design.How, []string{design.Tool, "gap tool"}
	default:
		s.Do, s.Tools = "Inspect only: measure with wires, and send the plug back if it is out. Do not bend it.", []string{design.Tool}
	}
	if design.Electrode != "surface-gap" {
		s.Ask = &Ask{Words: "Gap, or the wires around it", Of: AskGap, Design: d.Electrode}
		s.Do += b.bracket(f, ok)
	}
	if !ok {
		s.Do += " The range is not recorded: take it from the maker or the box."
	}
	return s
}

// bracket names the gauge wires of the workshop that decide about a range.
func (b *builder) bracket(f Figure, known bool) string {
	if !known || len(b.Tools.Wires) == 0 {
		return ""
	}
	passes, stops := b.Tools.wires(f.Low, f.High)
	switch {
	case passes > 0 && stops > 0 && passes < stops:
		return fmt.Sprintf(" Of your wires, %s must pass and %s must not: then it is in.", mm(passes), mm(stops))
	case passes > 0 || stops > 0:
		return fmt.Sprintf(" Your wires cannot prove the range: only %s lies in it.", mm(math.Max(passes, stops)))
	}
	return " None of your wires lies in the range: they cannot prove it."
}

func mm(x float64) string { return unit.Decimal(x) + " mm" }
