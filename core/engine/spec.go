package engine

import (
	"fmt"
	"regexp"
	"slices"

	"glenmist/core/invalid"
)

// Spec is the maker's range of one quantity, stored with the engine for later jobs.
type Spec struct {
	// Of names the quantity: a measure, or "plug-gap".
	Of string `json:"of"`
	// Low and High are the ends of the range, in the unit of the quantity.
	Low  float64 `json:"low"`
	High float64 `json:"high"`
	// Reason is set if the figure is the workshop's own for this vehicle instead of the maker's.
	Reason string `json:"reason,omitzero"`
}

// Bounds of the specs of an engine.
const (
	MaxSpecs   = 60
	maxReason  = 200
	MaxSpec    = 1e9
	PlugGap    = "plug-gap"     // millimetres
	BaseTiming = "base-timing"  // crank degrees before top dead centre; below 0 is after it
	SparkRatio = "volume-ratio" // effective volume ratio at the moment of the spark
)

var specName = regexp.MustCompile(`^[a-z][a-z-]{0,39}$`)

// Spec finds the maker's range of a quantity; ok is false if it is not recorded.
func (e Engine) Spec(of string) (Spec, bool) {
	i := slices.IndexFunc(e.Specs, func(s Spec) bool { return s.Of == of })
	if i < 0 {
		return Spec{}, false
	}
	return e.Specs[i], true
}

// WithSpec returns the engine with a range added. It replaces the range of the same quantity.
func (e Engine) WithSpec(s Spec) Engine {
	e.Specs = append(slices.DeleteFunc(slices.Clone(e.Specs), func(have Spec) bool { return have.Of == s.Of }), s)
	slices.SortFunc(e.Specs, func(a, b Spec) int {
		if a.Of < b.Of {
			return -1
		}
		return 1
	})
	return e
}

func (e Engine) checkSpecs(bad *invalid.Errors) {
	if len(e.Specs) > MaxSpecs {
		bad.Add("specs", fmt.Sprintf("at most %d ranges", MaxSpecs), fmt.Sprint(len(e.Specs)))
		return
	}
	seen := map[string]bool{}
	for i, s := range e.Specs {
		path := fmt.Sprintf("specs[%d]", i)
		if !specName.MatchString(s.Of) || seen[s.Of] {
			bad.Add(path+".of", "the name of a measure, once", invalid.Quote(s.Of))
		}
		seen[s.Of] = true
		if s.Of == BaseTiming {
			bad.Under(path, checkTiming(s.Low, s.High))
		} else {
			bad.Under(path, CheckRange(s.Low, s.High, MaxSpec))
		}
		bad.Under(path, invalid.Text("reason", s.Reason, "why the figure differs from the maker's", maxReason, true))
	}
}

// CheckRange checks a maker's range against the limits 0 and most.
func CheckRange(low, high, most float64) error {
	var bad invalid.Errors
	switch {
	case !(low >= 0 && low <= most):
		bad.Add("low", fmt.Sprintf("the low end of the range, 0 to %g", most), fmt.Sprint(low))
	case !(high >= low && high <= most):
		bad.Add("high", fmt.Sprintf("the high end of the range, %g or more and at most %g", low, most), fmt.Sprint(high))
	}
	return bad.Err()
}

// checkTiming checks a range of base timing in crank degrees before top dead centre.
func checkTiming(low, high float64) error {
	var bad invalid.Errors
	if !(low >= -40 && low <= high && high <= 70) {
		bad.Add("low", "a range of base timing from -40 to 70 degrees, the lower end first", fmt.Sprintf("%g to %g", low, high))
	}
	return bad.Err()
}
