package scope

import (
	"math"
	"slices"
)

// towardSpark is a sample in the direction of the sparks. Turn-on of the coil goes the other way. Where sparks of both directions
// occur, it is the magnitude.
func (f *finder) towardSpark(x float64) float64 {
	if f.sign == 0 {
		return math.Abs(x)
	}
	return f.sign * x
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
