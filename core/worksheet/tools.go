package worksheet

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Tools are the workshop's own tools that a figure depends on.
type Tools struct {
	// Wrenches are its torque wrenches.
	Wrenches []Wrench `json:"wrenches,omitzero"`
	// Wires are the diameters of its gauge wires in millimetres.
	Wires []float64 `json:"wires_mm,omitzero"`
}

// Wrench is the range of a torque wrench in newton metres.
type Wrench struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Bounds of the tools.
const (
	maxWrenches = 8
	maxWires    = 40
)

// Trusted returns the lowest torque that the wrench is trusted for: the low end of its range, or a fifth
// of its high end for a click wrench (C).
func (w Wrench) Trusted() float64 { return math.Max(w.Low, leastTrustedShare*w.High) }

// Reaches reports whether the wrench can be trusted with a torque.
func (w Wrench) Reaches(nm float64) bool { return nm >= w.Trusted() && nm <= w.High }

// Words returns the range in words.
func (w Wrench) Words() string { return fmt.Sprintf("%g to %g N·m", w.Low, w.High) }

// Check returns an error for each invalid field.
func (t Tools) Check() error {
	var bad invalid.Errors
	if len(t.Wrenches) > maxWrenches {
		bad.Add("wrenches", fmt.Sprintf("at most %d wrenches", maxWrenches), fmt.Sprint(len(t.Wrenches)))
	}
	for i, w := range t.Wrenches {
		if !(w.Low >= unit.LeastTorque && w.Low < w.High && w.High <= 1000) {
			bad.Add(fmt.Sprintf("wrenches[%d]", i), "a range whose low end is below its high end, such as 5-25 Nm", w.Words())
		}
	}
	if len(t.Wires) > maxWires {
		bad.Add("wires_mm", fmt.Sprintf("at most %d wires", maxWires), fmt.Sprint(len(t.Wires)))
	}
	for i, mm := range t.Wires {
		if !(mm >= 0.05 && mm <= 10) || slices.Contains(t.Wires[:i], mm) {
			bad.Add("wires_mm", "wires of 0.05 to 10 mm, each once", fmt.Sprintf("%g", mm))
			break
		}
	}
	return bad.Err()
}

// wrench states which wrench reaches a torque, or that none does. ok is false if none does; without
// any wrench on record nothing is known and ok is true.
func (t Tools) wrench(nm float64) (words string, ok bool) {
	if len(t.Wrenches) == 0 {
		return "", true
	}
	best := -1
	for i, w := range t.Wrenches {
		if w.Reaches(nm) && (best < 0 || w.High < t.Wrenches[best].High) {
			best = i
		}
	}
	if best >= 0 {
		return fmt.Sprintf("Use the wrench of %s.", t.Wrenches[best].Words()), true
	}
	lowest := slices.MinFunc(t.Wrenches, func(x, y Wrench) int { return int(math.Copysign(1, x.Trusted()-y.Trusted())) })
	if nm < lowest.Trusted() {
		return fmt.Sprintf("No wrench at hand reaches that low: the smallest is trusted from %.3g N·m.", lowest.Trusted()), false
	}
	return "No wrench at hand has this torque in its range.", false
}

// wires returns the two gauge wires that decide about a range: the largest that must pass and the
// smallest that must stop. 0 means that the set has none.
func (t Tools) wires(low, high float64) (passes, stops float64) {
	const slack = 1e-9
	for _, mm := range t.Wires {
		if mm >= low-slack && mm < high-slack && (passes == 0 || mm < passes) {
			passes = mm
		}
		if mm > low+slack && mm <= high+slack && mm > stops {
			stops = mm
		}
	}
	return passes, stops
}
