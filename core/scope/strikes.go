package scope

import "math"

// Bounds of several sparks in one event (C; judgement: a coil charges for a millisecond between them).
const (
	strikeApart = 2.2e-3 // at most, from the end of one to the next
	strikeLast  = 2.2    // the time to the next event, of the time between two sparks
	mostStrikes = 5
)

// strikes joins the sparks of one event: none is stronger than the one before, and the next event comes much later.
func strikes(all []Event) []Event {
	var out []Event
	for i := 0; i < len(all); {
		one := all[i]
		n := 1
		for i+n < len(all) && n < mostStrikes {
			last, next := all[i+n-1], all[i+n]
			if next.At-last.At-last.Burn/1000 > strikeApart || next.Firing > 1.1*last.Firing || next.Negative != last.Negative {
				break
			}
			n++
		}
		if n > 1 && i+n < len(all) && all[i+n].At-all[i+n-1].At < strikeLast*(all[i+1].At-one.At) {
			n = 1 // the events of several cylinders at high speed
		}
		for _, next := range all[i+1 : i+n] {
			one.Strikes += next.Strikes
			if !next.Open && !one.Open {
				one.Burn = 1000*(next.At-one.At) + next.Burn
			}
		}
		out = append(out, one)
		i += n
	}
	return out
}

// betweenSamples is the least median of a rise over the one before it from which the scope keeps no peaks. The voltage rises
// evenly up to the breakdown. With peak detection the last rise is cut at a random point, by half at the median.
const betweenSamples = 0.8

// between corrects firing voltages of a scope that keeps no peaks: the breakdown is on average half a step after the highest
// sample.
func (f *finder) between(all []Event) {
	var ratios, steps []float64
	rises := make([]float64, len(all))
	for i, e := range all {
		if e.AtLeast && f.clipped(e.Index) || e.Index < 2 {
			continue
		}
		x := [3]float64{math.Abs(f.at(e.Index - 2)), math.Abs(f.at(e.Index - 1)), math.Abs(f.at(e.Index))}
		fell := e.Index+1 < len(f.v) && math.Abs(f.at(e.Index+1)) < 0.7*x[2] // a breakdown
		if x[1]-x[0] > 6*f.noise && x[2] > x[1] && fell {
			ratios = append(ratios, (x[2]-x[1])/(x[1]-x[0]))
			rises[i] = x[2] - x[1]
			steps = append(steps, rises[i])
		}
	}
	if len(ratios) < 5 || median(ratios) < betweenSamples {
		return
	}
	for i := range all {
		all[i].Firing += rises[i] / 2
		all[i].Unsure = max(rises[i], median(steps)) / 2
	}
}
