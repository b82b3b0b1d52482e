package scope

import (
	"fmt"
	"math"

	"glenmist/core/engine"
)

// Thresholds of a jump and a difference (C; judgement): a number of robust standard
// deviations, and a size that matters to a technician.
const (
	jumpSpread = 4.0
	leastJump  = 0.35 // in logarithms
	clearBy    = 4.0
	leastShift = 0.14
)

// Jumps marks the events that are far from their cylinder's usual value, steady and snap
// separately, in the order of the shots: 1 upward, -1 downward, 0 none.
func (a Assigned) Jumps() []int {
	type group struct {
		cylinder engine.Cylinder
		snap     bool
	}
	of := map[group][]float64{}
	for _, s := range a.Shots {
		if !s.Waste && !s.Between && s.Cylinder > 0 {
			g := group{s.Cylinder, s.Snap}
			of[g] = append(of[g], math.Log(max(s.Firing, 1e-3)))
		}
	}
	usual, wide := map[group]float64{}, map[group]float64{}
	for g, v := range of {
		usual[g] = median(v)
		var off []float64
		for _, x := range v {
			off = append(off, math.Abs(x-usual[g]))
		}
		wide[g] = max(leastJump, jumpSpread*1.4826*median(off))
	}
	jumps := make([]int, len(a.Shots))
	for i, s := range a.Shots {
		if s.Waste || s.Between || s.Cylinder == 0 {
			continue
		}
		g := group{s.Cylinder, s.Snap}
		wide := wide[g] + s.Unsure/max(s.Firing, 1e-3)
		switch off := math.Log(max(s.Firing, 1e-3)) - usual[g]; {
		case off > wide:
			jumps[i] = 1
		case off < -wide:
			jumps[i] = -1
		}
	}
	return jumps
}

// Difference is the change of a cylinder between two captures.
type Difference struct {
	Cylinder      engine.Cylinder
	Before, After Summary
	// Clear is true if the kilovolts changed by more than their scatter.
	Clear bool
	// Words describes the changes; "" means none.
	Words string
}

// Compare compares two captures of one engine by cylinder.
func Compare(before, after []Summary) []Difference {
	var all []Difference
	for i, b := range before {
		if i >= len(after) {
			break
		}
		d := Difference{Cylinder: b.Cylinder, Before: b, After: after[i]}
		a := d.After
		say := func(words string) {
			if d.Words != "" {
				d.Words += "; "
			}
			d.Words += words
		}
		switch {
		case b.Usual == 0 && a.Usual == 0:
		case b.Usual == 0:
			d.Clear = true
			say(fmt.Sprintf("fires again, at %.1f kV", a.Usual))
		case a.Usual == 0:
			d.Clear = true
			say("has no events any more")
		default:
			shift := math.Log(a.Usual / b.Usual)
			// The error of a median of n is about 1.25 of its scatter by the root of n (statistics).
			unsure := 1.25 * math.Hypot(b.Scatter/math.Sqrt(float64(b.Events)), a.Scatter/math.Sqrt(float64(a.Events)))
			if d.Clear = math.Abs(shift) > max(leastShift, clearBy*unsure); d.Clear {
				way := "rose"
				if shift < 0 {
					way = "fell"
				}
				say(fmt.Sprintf("%s from %.1f to %.1f kV", way, b.Usual, a.Usual))
			}
			was, is := math.Log(b.High/b.Low), math.Log(a.High/a.Low)
			switch {
			case was > 0.8 && is < was/2:
				say("jumps no longer")
			case is > 0.8 && was < is/2:
				say("jumps now")
			}
		}
		if b.Sparks >= leastSparks && a.Sparks >= leastSparks {
			if ratio := a.Burn / b.Burn; ratio > 1.25 || ratio < 0.8 {
				say(fmt.Sprintf("burns %.2f ms, %.2f before", a.Burn, b.Burn))
			}
		}
		if math.Abs(a.Fired-b.Fired) > 0.2 && b.Counted && a.Counted {
			say(fmt.Sprintf("fires in %.0f %% of the cycles, %.0f before", 100*a.Fired, 100*b.Fired))
		}
		all = append(all, d)
	}
	return all
}
