package scope

import (
	"math"
	"slices"
)

// Shares of the firing voltage (C; judgement). A later spark of an event needs at least strikeShare of the first, since the
// gap is still ionised. What is followed by followsTurnOn times as much, before it ends, is turn-on of the coil.
const (
	strikeShare   = 0.3
	followsTurnOn = 2.0
)

// begin goes back from a loud sample to the start of its event. The peak of a weak event can
// be lower than the ringing after its spark. If no spark came before, the event starts at the
// sample.
func (f *finder) begin(i int) int {
	floor := max(3.5*f.noise, 0.3*f.threshold)
	quiet, start := 0, i
	for k := i - 1; k > max(f.after, i-f.steps(longestBurn)) && quiet < f.steps(50e-6); k-- {
		if quiet++; f.towardSpark(f.smooth(k)) > floor {
			quiet, start = 0, k
		}
	}
	return start
}

// read measures the event that starts at a sample.
func (f *finder) read(i int) Event {
	peak := i
	for k := i; k < min(len(f.v), i+f.steps(peakWithin)); k++ {
		if f.towardSpark(f.at(k)) > f.towardSpark(f.at(peak)) {
			peak = k
		}
	}
	e := Event{At: float64(peak) / f.rate, Index: peak, Firing: math.Abs(f.at(peak)), Negative: f.at(peak) < 0, Strikes: 1}
	f.on = 0
	e.AtLeast = f.rate < rateForFiring || f.clipped(peak)
	sign := 1.0
	if e.Negative {
		sign = -1
	}
	before := f.end
	f.burn(&e, peak, sign)
	f.ring(&e)
	f.dwell(&e, i, before)
	return e
}

// burn measures the spark line after a peak.
func (f *finder) burn(e *Event, peak int, sign float64) {
	from := peak + f.steps(settles)
	level := func(a, b int) float64 {
		var some []float64
		step := max(1, (b-a)/200)
		for k := a; k < b; k += step {
			some = append(some, sign*f.at(k))
		}
		if len(some) == 0 {
			return 0
		}
		slices.Sort(some)
		return some[len(some)/2]
	}
	f.end = from
	first := f.steps(250e-6)
	early := level(from, from+first)
	// Noise of a median over this many samples (statistics: of a normal distribution).
	floor := max(3.5*1.25*f.noise/math.Sqrt(float64(first)), 0.02*f.top)
	if early < floor {
		e.Open = true
		return
	}
	// The spark ends where the trace stays below a third of its line.
	least, stays := early/3, f.steps(25e-6)
	// More noise needs longer smoothing.
	w := min(max(f.steps(12e-6), int(sq(3*f.noise/least))), f.steps(smoothMost)) / 2
	end, below, last := from, 0, peak
	single := 0 // the end of the first spark, if more follow
	for k := from; k < min(len(f.v), last+f.steps(longestBurn)); k++ {
		x := sign * f.at(k)
		if x > followsTurnOn*e.Firing && k > peak+f.steps(peakWithin) {
			f.on, f.after = k, k-f.steps(20e-6)
			return
		}
		if k > last+f.steps(leastStrike) && x > max(2.2*early, strikeShare*e.Firing) && x < e.Firing {
			e.Strikes++
			if single == 0 {
				single = end
			}
			last, below = k, 0
		}
		if sign*f.mean(k, w) < max(least, 0.6*floor) {
			if below++; below >= stays && !f.strikesAgain(k, last, sign, max(2.2*early, strikeShare*e.Firing), e.Firing) {
				break
			}
			continue
		}
		below, end = 0, k
	}
	end = f.kick(max(from, last+f.steps(settles)), end, w, level, func(k int) float64 { return sign * f.mean(k, w) })
	f.end = end
	e.Burn = 1000 * float64(end-peak) / f.rate
	if e.Burn < 0.15 {
		e.Open, e.Burn = true, 0
		return
	}
	if single > from {
		end = single
	}
	a, b := from+(end-from)/10, from+(end-from)*8/10
	e.Line = level(a, b)
	// Slope by least squares over the middle of the spark line.
	var n, sx, sy, sxx, sxy float64
	for k := a; k < b; k += max(1, (b-a)/400) {
		x, y := 1000*float64(k-a)/f.rate, sign*f.at(k)
		n, sx, sy, sxx, sxy = n+1, sx+x, sy+y, sxx+x*x, sxy+x*y
	}
	if d := n*sxx - sx*sx; d > 0 {
		e.Slope = (n*sxy - sx*sy) / d
	}
}

// strikesAgain reports whether another spark of the same event follows a gap after the last one.
func (f *finder) strikesAgain(k, last int, sign, least, most float64) bool {
	for i := max(k, last+f.steps(leastStrike)); i < min(len(f.v), k+f.steps(strikeGap)); i++ {
		if x := sign * f.at(i); x > least {
			return x < most
		}
	}
	return false
}

// kick goes back from the fall of the trace to the end of the spark. The remaining energy of
// the coil raises the voltage once more before it rings.
func (f *finder) kick(from, end, w int, level func(a, b int) float64, at func(int) float64) int {
	a, b := end-f.steps(380e-6), end-f.steps(220e-6)
	if a < from {
		return end
	}
	line, top := level(a, b), end
	for k := end; k > b; k-- {
		if at(k) > at(top) {
			top = k
		}
	}
	if at(top) < line+max(0.12*line, 3*f.noise/math.Sqrt(float64(2*w+1))) {
		return end
	}
	for top > b && at(top) > 1.05*line {
		top--
	}
	return top
}

// ring counts the half waves after the spark.
func (f *finder) ring(e *Event) {
	if f.rate < rateForRings {
		return
	}
	least := max(3*f.noise, 0.004*f.top)
	var crossings []int
	from, until := f.end+f.steps(20e-6), min(len(f.v), f.end+f.steps(ringsFor))
	swing, last := 0.0, 0
	for k := from; k < until; k++ {
		x := f.smooth(k)
		s := 0
		if x > 0 {
			s = 1
		} else if x < 0 {
			s = -1
		}
		swing = max(swing, math.Abs(x))
		if s != 0 && last != 0 && s != last {
			if swing < least {
				break
			}
			crossings = append(crossings, k)
			swing = 0
		}
		if s != 0 {
			last = s
		}
	}
	if len(crossings) < 2 {
		return
	}
	e.Rings = len(crossings)
	e.RingHz = f.rate * float64(len(crossings)-1) / (2 * float64(crossings[len(crossings)-1]-crossings[0]))
}

// dwell searches backwards, up to the previous event, for the turn-on jump of the coil, and
// returns the start of the nearest one.
func (f *finder) dwell(e *Event, begin, before int) {
	least := max(6*f.noise, 0.015*f.top)
	if least > dwellNoise*f.top {
		return // noise hides a jump of this size
	}
	until := max(0, begin-f.steps(dwellMost))
	if before > 0 {
		until = max(until, before+f.steps(ringsFor))
	}
	first := 0
	for k := begin - f.steps(100e-6); k > until; k-- {
		if first > 0 && k < first-f.steps(jumpRings) {
			return
		}
		if math.Abs(f.at(k)) >= least && math.Abs(f.at(k-f.steps(60e-6))) < least/2 {
			if e.Dwell = 1000 * float64(begin-k) / f.rate; first == 0 {
				first = k
			}
		}
	}
}

// charging reports whether the event is only the turn-on jump of the coil: no spark follows,
// and the voltage is far too low to fire.
func (f *finder) charging(e Event) bool { return e.Open && e.Firing < 0.35*f.top && e.Rings > 4 }
