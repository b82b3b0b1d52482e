package scope

import (
	"math"
	"slices"
)

// Event is one ignition event of a trace.
type Event struct {
	At    float64 // seconds from the beginning of the capture to the peak
	Index int     // the sample of the peak
	// Firing is the peak that started the spark, in kilovolts above the base line, without its
	// sign; AtLeast says that it may have been higher: clipped, or sampled too slowly.
	Firing  float64
	AtLeast bool
	// Negative is the polarity.
	Negative bool
	// Burn is how long the spark stood, in milliseconds; Line its kilovolts and Slope their change
	// in kV a millisecond, above 0 where they rise. Open says that no spark stood at all.
	Burn, Line, Slope float64
	Open              bool
	// Rings is how many half waves followed, RingHz their frequency; 0 is none, or too slow a
	// sampling to say.
	Rings  int
	RingHz float64
	// Dwell is the time since the coil was switched on, in milliseconds; 0 where that is not seen.
	Dwell float64
}

// How fast a trace has to be sampled for a figure of it (C; judgement): a firing peak lasts some
// microseconds, a half wave of ringing some tens of them.
const (
	rateForFiring = 200_000.0
	rateForRings  = 60_000.0
	dwellNoise    = 0.06 // of a usual peak: what the jump of a coil being switched on is about
)

// Times in an event, in seconds (C; judgement).
const (
	blockTime   = 4e-3   // in which the greatest is looked for
	peakWithin  = 150e-6 // of the rise
	settles     = 60e-6  // after the peak, before the line counts
	deadTime    = 1.5e-3 // in which no other event begins
	longestBurn = 6e-3
	ringsFor    = 2.5e-3
	settled     = 0.5e-3 // after a spark, in which its ringing is no new event
	dwellMost   = 9e-3
	jumpRings   = 0.4e-3 // after the coil was switched on
	smoothMost  = 200e-6 // over which a line is smoothed to find its end
)

// Events finds the ignition events of a trace. It bears noise, an offset, a drift that is slow
// against an event, both polarities and clipped peaks.
func (t *Trace) Events(channel int) []Event {
	events, _ := t.listen(channel)
	return events
}

// listen finds the events, once, and the kilovolts that one must reach to be found.
func (t *Trace) listen(channel int) (all []Event, floor float64) {
	if f, ok := t.found[channel]; ok {
		return f.events, f.floor
	}
	if t.found == nil {
		t.found = map[int]found{}
	}
	all, floor = t.find(channel)
	t.found[channel] = found{all, floor}
	return all, floor
}

func (t *Trace) find(channel int) (all []Event, floor float64) {
	if len(t.Channels[channel].Samples) == 0 {
		return nil, 0
	}
	f := newFinder(t.Channels[channel].Samples, t.Rate)
	if f == nil {
		return nil, 0
	}
	dead := f.steps(deadTime)
	for i := 1; i < len(f.v); i++ {
		if b := i / f.block; f.peaks[b] < f.threshold {
			i = (b+1)*f.block - 1 // quiet as a whole
			continue
		}
		if math.Abs(f.at(i)) < f.threshold {
			continue
		}
		e := f.read(f.begin(i))
		if !f.charging(e) {
			all = append(all, e)
		}
		i = max(i+dead, f.end+f.steps(settled))
	}
	return all, f.threshold
}

// begin goes back from a sample that is loud to where its event began: the peak of a weak event
// may be lower than the ringing behind its spark. Where there was no spark before, it began there.
func (f *finder) begin(i int) int {
	floor := max(3.5*f.noise, 0.3*f.threshold)
	quiet, start := 0, i
	for k := i - 1; k > max(0, i-f.steps(longestBurn)) && quiet < f.steps(50e-6); k-- {
		if quiet++; math.Abs(f.smooth(k)) > floor {
			quiet, start = 0, k
		}
	}
	return start
}

// finder is a trace with what is known of all of it.
type finder struct {
	v         []float32
	rate      float64
	noise     float64 // standard deviation of the quiet trace
	threshold float64
	top       float64 // usual peak
	most      float32 // the greatest and the least sample, and how often each is met to the bit
	least     float32
	flat      [2]int
	base      []float32 // of each block
	peaks     []float64 // the loudest of each block
	block     int
	end       int // of the event read last
}

func (f *finder) steps(seconds float64) int { return max(1, int(seconds*f.rate)) }

// at is a sample above its base line.
func (f *finder) at(i int) float64 {
	if i < 0 || i >= len(f.v) {
		return 0
	}
	return float64(f.v[i] - f.base[min(i/f.block, len(f.base)-1)])
}

func sq(x float64) float64 { return x * x }

func newFinder(v []float32, rate float64) *finder {
	f := &finder{v: v, rate: rate}
	f.block = f.steps(blockTime)
	// The base line by medians of some blocks together: events take up a small part of them.
	wide := f.block * 8
	var diffs []float64
	for i := 0; i < len(v); i += wide {
		part := v[i:min(len(v), i+wide)]
		step := max(1, len(part)/512)
		var some []float32
		for k := 0; k < len(part); k += step {
			some = append(some, part[k])
		}
		slices.Sort(some)
		middle := some[len(some)/2]
		for k := 0; k < len(part); k += f.block {
			f.base = append(f.base, middle)
		}
		for _, x := range some {
			diffs = append(diffs, math.Abs(float64(x-middle)))
		}
	}
	slices.Sort(diffs)
	f.noise = 1.4826 * diffs[len(diffs)/2]
	f.most, f.least = v[0], v[0]
	for i := 0; i < len(v); i += f.block {
		low, high := v[i], v[i]
		for _, x := range v[i:min(len(v), i+f.block)] {
			low, high = min(low, x), max(high, x)
		}
		base := f.base[len(f.peaks)]
		f.peaks = append(f.peaks, float64(max(high-base, base-low)))
		f.most, f.least = max(f.most, high), min(f.least, low)
	}
	for _, x := range v {
		switch x {
		case f.most:
			f.flat[0]++
		case f.least:
			f.flat[1]++
		}
	}
	peaks := slices.Sorted(slices.Values(f.peaks))
	loud := peaks[:0:0]
	for _, p := range peaks {
		if p > 9*f.noise && p > 0.3*peaks[len(peaks)-1] {
			loud = append(loud, p)
		}
	}
	if len(loud) == 0 {
		return nil
	}
	f.top = loud[len(loud)/2]
	f.threshold = max(7*f.noise, 0.14*f.top)
	return f
}

// read measures the event that begins at a sample.
func (f *finder) read(i int) Event {
	peak := i
	for k := i; k < min(len(f.v), i+f.steps(peakWithin)); k++ {
		if math.Abs(f.at(k)) > math.Abs(f.at(peak)) {
			peak = k
		}
	}
	e := Event{At: float64(peak) / f.rate, Index: peak, Firing: math.Abs(f.at(peak)), Negative: f.at(peak) < 0}
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

// oftenTheSame is how many samples must be the greatest to the bit before it is taken for the
// end of the range: with any noise at all none would be met twice (C; judgement).
const oftenTheSame = 4

// clipped says that a peak lies flat against the end of the range.
func (f *finder) clipped(peak int) bool {
	v := f.v[peak]
	return v == f.most && f.flat[0] >= oftenTheSame || v == f.least && f.flat[1] >= oftenTheSame
}

// smooth is the mean about a sample, over some microseconds.
func (f *finder) smooth(i int) float64 { return f.mean(i, f.steps(12e-6)/2) }

// mean is the mean about a sample, of w on either side.
func (f *finder) mean(i, w int) float64 {
	sum := 0.0
	for k := i - w; k <= i+w; k++ {
		sum += f.at(k)
	}
	return sum / float64(2*w+1)
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
	// What noise leaves of a middle over so many samples (statistics: that of a normal one).
	floor := max(3.5*1.25*f.noise/math.Sqrt(float64(first)), 0.02*f.top)
	if early < floor {
		e.Open = true
		return
	}
	// The spark ends where the trace falls under a third of its line and stays there.
	least, stays := early/3, f.steps(25e-6)
	// Where there is more noise, it is smoothed over more of it.
	w := min(max(f.steps(12e-6), int(sq(3*f.noise/least))), f.steps(smoothMost)) / 2
	end, below := from, 0
	for k := from; k < min(len(f.v), peak+f.steps(longestBurn)); k++ {
		if sign*f.mean(k, w) < max(least, 0.6*floor) {
			if below++; below >= stays {
				break
			}
			continue
		}
		below, end = 0, k
	}
	end = f.kick(from, end, w, level, func(k int) float64 { return sign * f.mean(k, w) })
	f.end = end
	e.Burn = 1000 * float64(end-peak) / f.rate
	if e.Burn < 0.15 {
		e.Open, e.Burn = true, 0
		return
	}
	a, b := from+(end-from)/10, from+(end-from)*8/10
	e.Line = level(a, b)
	// Slope by least squares over the middle of the line.
	var n, sx, sy, sxx, sxy float64
	for k := a; k < b; k += max(1, (b-a)/400) {
		x, y := 1000*float64(k-a)/f.rate, sign*f.at(k)
		n, sx, sy, sxx, sxy = n+1, sx+x, sy+y, sxx+x*x, sxy+x*y
	}
	if d := n*sxx - sx*sx; d > 0 {
		e.Slope = (n*sxy - sx*sy) / d
	}
}

// kick goes back from where a trace falls off to where its spark went out: what is left in the coil
// then drives it up once more, before it rings.
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

// dwell looks back, as far as the event before, for the jump with which the coil was switched on:
// the nearest one, and there its beginning.
func (f *finder) dwell(e *Event, begin, before int) {
	least := max(6*f.noise, 0.015*f.top)
	if least > dwellNoise*f.top {
		return // a jump of its size is lost in the noise
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

// charging says that what was found is only the jump of the coil being switched on: no spark
// behind it, and far below what fires.
func (f *finder) charging(e Event) bool { return e.Open && e.Firing < 0.35*f.top && e.Rings > 4 }
