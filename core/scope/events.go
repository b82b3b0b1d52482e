package scope

import (
	"math"
	"slices"
)

// Event is one ignition event of a trace.
type Event struct {
	At    float64 // seconds from the start of the capture to the peak
	Index int     // sample of the peak
	// Firing is the firing voltage: the peak above the base line in kilovolts, without sign.
	// AtLeast is true if the true value may be higher, because of clipping or a low sample
	// rate.
	Firing  float64
	AtLeast bool
	// Unsure is how far Firing can be off in kilovolts, either way, because the peak fell between two samples; 0 if the scope
	// keeps peaks.
	Unsure float64
	// Negative is the polarity.
	Negative bool
	// Burn is the burn time in milliseconds. Line is the spark line voltage in kilovolts,
	// Slope its change in kV per millisecond. Open is true if no spark formed.
	Burn, Line, Slope float64
	Open              bool
	// Rings is the number of half waves after the spark, RingHz their frequency; 0 means none,
	// or a sample rate that is too low.
	Rings  int
	RingHz float64
	// Dwell is the time since turn-on of the coil in milliseconds; 0 if it is not visible.
	Dwell float64
	// Strikes is the number of sparks of the event: coils that fire several times are one event. Burn reaches from the first
	// to the end of the last.
	Strikes int
}

// Sample rates needed for each figure (C; judgement). A firing peak lasts some microseconds, a
// half wave of ringing some tens of them.
const (
	rateForFiring = 200_000.0
	rateForRings  = 60_000.0
	dwellNoise    = 0.06 // fraction of a usual peak: the size of the turn-on jump
)

// Times in an event, in seconds (C; judgement).
const (
	blockTime   = 4e-3   // block in which the maximum is searched
	peakWithin  = 150e-6 // from the rise
	settles     = 60e-6  // after the peak, before the spark line counts
	deadTime    = 1.5e-3 // in which no other event begins
	longestBurn = 6e-3
	ringsFor    = 2.5e-3
	settled     = 0.5e-3 // after a spark, in which ringing is no new event
	dwellMost   = 9e-3
	jumpRings   = 0.4e-3 // after turn-on of the coil
	smoothMost  = 200e-6 // longest smoothing of a spark line to find its end
	leastStrike = 0.6e-3 // from one spark of an event to the next
	strikeGap   = 0.8e-3 // without a spark, within one event
)

// Shares of the firing voltage (C; judgement). A later spark of an event needs at least strikeShare of the first, since the
// gap is still ionised. What is followed by followsTurnOn times as much, before it ends, is turn-on of the coil.
const (
	strikeShare   = 0.3
	followsTurnOn = 2.0
)

// Events finds the ignition events of a trace. It tolerates noise, an offset, slow drift, both
// polarities and clipped peaks.
func (t *Trace) Events(channel int) []Event {
	events, _ := t.listen(channel)
	return events
}

// listen finds the events once, and the detection threshold in kilovolts.
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
		b := i / f.block
		f.level(b)
		if f.peaks[b] < f.threshold {
			i = (b+1)*f.block - 1 // quiet throughout
			continue
		}
		if f.turned(f.at(i)) < f.threshold {
			continue
		}
		e := f.read(f.begin(i))
		if f.on > i { // the spark comes after it
			i = f.on - 1
			continue
		}
		if !f.charging(e) {
			all = append(all, e)
		}
		i = max(i+dead, f.end+f.steps(settled))
		f.after = f.end
	}
	f.between(all)
	return strikes(all), f.lowest
}

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

// turned is a sample in the direction of the sparks. Turn-on of the coil goes the other way. Where sparks of both directions
// occur, it is the magnitude.
func (f *finder) turned(x float64) float64 {
	if f.sign == 0 {
		return math.Abs(x)
	}
	return f.sign * x
}

// begin goes back from a loud sample to the start of its event. The peak of a weak event can
// be lower than the ringing after its spark. If no spark came before, the event starts at the
// sample.
func (f *finder) begin(i int) int {
	floor := max(3.5*f.noise, 0.3*f.threshold)
	quiet, start := 0, i
	for k := i - 1; k > max(f.after, i-f.steps(longestBurn)) && quiet < f.steps(50e-6); k-- {
		if quiet++; f.turned(f.smooth(k)) > floor {
			quiet, start = 0, k
		}
	}
	return start
}

// finder is a trace with precomputed statistics.
type finder struct {
	v         []float32
	rate      float64
	noise     float64 // standard deviation of the quiet trace
	threshold float64
	top       float64 // usual peak
	most      float32 // largest and smallest sample, and how often each occurs exactly
	least     float32
	flat      [2]int
	base      []float32 // of each block
	peaks     []float64 // loudest sample of each block, in the direction of the sparks
	block     int
	end       int // end of the last event
	// sign is the direction of the sparks; 0 if both occur. tops is the usual peak around each group of blocks, lowest the
	// lowest threshold. on is the sample at which a spark follows what proved to be turn-on; 0 for none.
	sign   float64
	tops   []float64
	lowest float64
	on     int
	after  int // no event begins before this sample
}

// ownShare is the threshold of an event, of the usual peak around it: less is ringing or crosstalk (C; judgement).
const ownShare = 0.10

// group is the number of blocks for which one usual peak is computed: a quarter of a second.
const group = 64

// level sets the usual peak and the threshold for a block.
func (f *finder) level(b int) {
	f.top = f.tops[b/group]
	f.threshold = max(7*f.noise, ownShare*f.top)
}

func (f *finder) steps(seconds float64) int { return max(1, int(seconds*f.rate)) }

// at returns a sample relative to its base line.
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
	// The base line is the middle of the shortest half of several blocks: sparks and turn-on are less than half of the time.
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
		middle := shorth(some)
		for k := 0; k < len(part); k += f.block {
			f.base = append(f.base, middle)
		}
		for _, x := range some {
			diffs = append(diffs, math.Abs(float64(x-middle)))
		}
	}
	slices.Sort(diffs)
	f.noise = diffs[len(diffs)/4] / 0.3186 // a quarter of a normal distribution is within 0.3186 standard deviations
	f.most, f.least = v[0], v[0]
	var up, down, sharpUp, sharpDown []float64
	for i := 0; i < len(v); i += f.block {
		low, high := i, i
		for k := i; k < min(len(v), i+f.block); k++ {
			if v[k] < v[low] {
				low = k
			}
			if v[k] > v[high] {
				high = k
			}
		}
		base := f.base[len(up)]
		up, down = append(up, float64(v[high]-base)), append(down, float64(base-v[low]))
		sharpUp = append(sharpUp, sharp(float64(v[high]-base), float64(v[high]-v[min(high+1, len(v)-1)])))
		sharpDown = append(sharpDown, sharp(float64(base-v[low]), float64(v[min(low+1, len(v)-1)]-v[low])))
		f.most, f.least = max(f.most, v[high]), min(f.least, v[low])
	}
	for _, x := range v {
		switch x {
		case f.most:
			f.flat[0]++
		case f.least:
			f.flat[1]++
		}
	}
	f.sign = direction(sharpUp, sharpDown)
	f.peaks = up
	for i := range f.peaks {
		switch {
		case f.sign < 0:
			f.peaks[i] = down[i]
		case f.sign == 0:
			f.peaks[i] = max(up[i], down[i])
		}
	}
	f.lowest = math.Inf(1)
	for b := 0; b < len(f.peaks); b += group {
		top, ok := usualPeak(f.peaks[max(0, b-group/2):min(len(f.peaks), b+group+group/2)], 9*f.noise)
		if !ok {
			if top, ok = usualPeak(f.peaks, 9*f.noise); !ok {
				return nil
			}
		}
		f.tops = append(f.tops, top)
		f.lowest = min(f.lowest, max(7*f.noise, ownShare*top))
	}
	return f
}

// shorth is the middle of the shortest half of ascending samples.
func shorth(some []float32) float32 {
	half := (len(some) + 1) / 2
	at := 0
	for i := 0; i+half <= len(some); i++ {
		if some[i+half-1]-some[i] < some[at+half-1]-some[at] {
			at = i
		}
	}
	return some[at+half/2]
}

// sharp weighs a peak by its fall in one sample: a breakdown falls at once, turn-on of the coil is round at its top. A round
// peak counts for smooth of a sharp one (C; judgement), so that events without a spark still show the direction.
func sharp(peak, fall float64) float64 {
	const smooth, breaksDown = 0.3, 0.3
	if peak <= 0 {
		return 0
	}
	return peak * (smooth + (1-smooth)*min(1, max(0, fall)/(breaksDown*peak)))
}

// bothWays is the fraction of blocks with large peaks in the less common direction from which sparks of both directions occur.
const bothWays = 0.2

// direction is the sign of the sparks from the peaks of the blocks: that of most large peaks, or 0 if both are common.
func direction(up, down []float64) float64 {
	most := max(slices.Max(up), slices.Max(down))
	ups, downs := 0, 0
	for i := range up {
		if max(up[i], down[i]) < 0.4*most {
			continue
		}
		if up[i] > down[i] {
			ups++
		} else {
			downs++
		}
	}
	switch {
	case float64(min(ups, downs)) > bothWays*float64(ups+downs):
		return 0
	case ups > downs:
		return 1
	}
	return -1
}

// usualPeak is the median of the loud peaks; ok is false if none is above the floor.
func usualPeak(peaks []float64, floor float64) (top float64, ok bool) {
	most := slices.Max(peaks)
	var loud []float64
	for _, p := range peaks {
		if p > floor && p > 0.3*most {
			loud = append(loud, p)
		}
	}
	return median(loud), len(loud) > 0
}

// read measures the event that starts at a sample.
func (f *finder) read(i int) Event {
	peak := i
	for k := i; k < min(len(f.v), i+f.steps(peakWithin)); k++ {
		if f.turned(f.at(k)) > f.turned(f.at(peak)) {
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

// oftenTheSame is the number of exactly equal maxima that indicates the end of the range. With
// any noise no value occurs twice (C; judgement).
const oftenTheSame = 4

// clipped reports whether a peak is flat at the end of the range.
func (f *finder) clipped(peak int) bool {
	v := f.v[peak]
	return v == f.most && f.flat[0] >= oftenTheSame || v == f.least && f.flat[1] >= oftenTheSame
}

// smooth returns the mean around a sample over some microseconds.
func (f *finder) smooth(i int) float64 { return f.mean(i, f.steps(12e-6)/2) }

// mean returns the mean around a sample, with w samples on either side.
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

// HasEvents reports whether any channel has an ignition event.
func (t *Trace) HasEvents() bool {
	for i := range t.Channels {
		if events, _ := t.listen(i); len(events) > 0 {
			return true
		}
	}
	return false
}
