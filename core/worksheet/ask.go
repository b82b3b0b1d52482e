package worksheet

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// Ask is what can be measured at a step.
type Ask struct {
	Words string
	Of    AskOf
	// Design is the design of a plug whose gap is measured.
	Design part.Electrode
	// Low and High are the range of timing or air gap; both 0 if it is unknown.
	Low, High float64
	// Rotor and Tolerance are for the timing, Teeth for a gear.
	Rotor     engine.Turn
	Tolerance float64
	Teeth     int
}

// AskOf is the kind of what is measured.
type AskOf string

// The kinds.
const (
	AskGap     AskOf = "gap"
	AskOhms    AskOf = "ohms"
	AskTorque  AskOf = "torque"
	AskDegrees AskOf = "degrees"
	AskTiming  AskOf = "timing"
	AskLegs    AskOf = "legs"
	AskYes     AskOf = "yes"
)

// Unit returns the unit in which a bare number is read, "" for an answer in words.
func (a Ask) Unit() string {
	return map[AskOf]string{AskGap: "mm", AskOhms: "Ω", AskTorque: "with its unit", AskDegrees: "°", AskTiming: "°", AskLegs: "mm, two legs"}[a.Of]
}

// Example returns an example of what to type at a step with a figure; nil for none.
func (a Ask) Example(f *Figure) string {
	if a.Of == AskTorque && f != nil {
		return unit.Decimal(f.Value) + " " + f.Unit
	}
	return map[AskOf]string{AskGap: "0.75, or 0.7-0.8 for two wires", AskOhms: "5.1 k", AskTorque: "25 N·m", AskDegrees: "24", AskTiming: "10", AskLegs: "0.30 0.35"}[a.Of]
}

// Judge reads what was measured against the figure of the step. says is the judgement, bad whether it
// is out. Errors are [invalid.Error].
func (a Ask) Judge(s string, f *Figure) (says string, bad bool, err error) {
	s = strings.TrimSpace(s)
	switch a.Of {
	case AskGap:
		return a.judgeGap(s, f)
	case AskOhms:
		o, err := unit.ParseOhms(s)
		if err != nil {
			return "", false, err
		}
		if o.Over {
			return "open: do not fit it", true, nil
		}
		return inRange(o.Value, f)
	case AskTorque:
		return judgeTorque(s, f)
	case AskDegrees:
		x, err := unit.Angle.Parse(s)
		if err != nil || a.Teeth == 0 {
			return "", false, err
		}
		switch n := TeethOff(x, a.Teeth); n {
		case 0:
			return "on its mark", false, nil
		default:
			return fmt.Sprintf("%d %s off, %.0f crank degrees: lift it and set it over", n, toothWord(n), CrankDegrees(n, a.Teeth)), true, nil
		}
	case AskTiming:
		x, err := unit.Advance.Parse(s)
		if err != nil || a.High == 0 && a.Low == 0 {
			return "", false, err
		}
		c := Correct(x, a.Low, a.High, a.Tolerance, a.Rotor)
		return c.Words(), !c.Right, nil
	case AskLegs:
		return a.judgeLegs(s)
	case AskYes:
		if s != "yes" && s != "no" {
			return "", false, invalid.Error{Expected: "yes or no", Got: invalid.Quote(s)}
		}
	}
	return "", false, nil
}

func toothWord(n int) string {
	if n == 1 {
		return "tooth"
	}
	return "teeth"
}

func (a Ask) judgeGap(s string, f *Figure) (string, bool, error) {
	gap, err := plug.ParseGap(s)
	if err != nil {
		return "", false, err
	}
	if f == nil {
		return "the range is not recorded: nothing to compare it with", false, nil
	}
	if says := gap.Says(f.Low, f.High); says != "" {
		return says, says == string(plug.Out), nil
	}
	says, bad, err := inRange(gap.MM, f)
	if d, ok := DesignOf(a.Design); ok && bad && d.Adjust == "never" {
		says += ": this design is not adjusted, send it back"
	}
	return says, bad, err
}

// slack is the relative difference by which a figure may miss its range in the last digit shown.
const slack = 1e-6

func inRange(x float64, f *Figure) (string, bool, error) {
	switch {
	case f == nil:
		return "", false, nil
	case x < f.Low*(1-slack):
		return "out: below the range", true, nil
	case x > f.High*(1+slack):
		return "out: above the range", true, nil
	}
	return "in", false, nil
}

func judgeTorque(s string, f *Figure) (string, bool, error) {
	t, err := unit.ParseTorque(s)
	if err != nil || f == nil || f.Unit != "N·m" {
		return "", false, err
	}
	// A figure that is right in another unit is most likely a slip of the unit.
	if _, out, _ := inRange(t.Mid(), f); out {
		for _, other := range []struct {
			name   string
			factor float64
		}{{"lbf·in", unit.NewtonMetresPerLbfIn / unit.NewtonMetresPerLbfFt}, {"lbf·ft", unit.NewtonMetresPerLbfFt / unit.NewtonMetresPerLbfIn}} {
			if _, bad, _ := inRange(t.Mid()*other.factor, f); !bad {
				return fmt.Sprintf("out: it would be in as %s. Which unit does the wrench show?", other.name), true, nil
			}
		}
	}
	// The setting of a wrench is read to a tenth of a newton metre or a tenth of a foot-pound.
	wide := *f
	wide.Low, wide.High = f.Low-0.1, f.High+0.1
	return inRange(t.Mid(), &wide)
}

func (a Ask) judgeLegs(s string) (string, bool, error) {
	first, second, err := legs(s)
	if err != nil {
		return "", false, err
	}
	worse, name := first, "the first leg"
	if math.Abs(second-(a.Low+a.High)/2) > math.Abs(first-(a.Low+a.High)/2) {
		worse, name = second, "the second leg"
	}
	says, bad, _ := inRange(worse, &Figure{Low: a.Low, High: a.High})
	if bad {
		says += fmt.Sprintf(", by %s: %s", name, mm(worse))
	}
	return says, bad, nil
}

// split2 splits what was typed for two legs; the second is empty if only one was typed.
func split2(s string) (first, second string) {
	for _, between := range []string{"/", ";", " and ", ","} {
		if x, y, ok := strings.Cut(s, between); ok && between != "," || ok && strings.Count(s, ",") == 1 && !strings.Contains(strings.TrimSpace(y), " ") && strings.HasPrefix(y, " ") {
			return strings.TrimSpace(x), strings.TrimSpace(y)
		}
	}
	fields := strings.Fields(s)
	half := len(fields) / 2
	return strings.Join(fields[:half+len(fields)%2], " "), strings.Join(fields[half+len(fields)%2:], " ")
}
