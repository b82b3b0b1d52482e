package scope

import (
	"math"
	"slices"
	"sync"
)

// Half is a sample in half precision (IEEE 754-2019 binary16): 11 significant bits, 6e-8 to 65 504. Scopes resolve 8 to 12
// bits, and a capture in halves takes half of the memory.
type Half uint16

// mostHalf is the largest half.
const mostHalf = 65504

// ToHalf returns the nearest half; ties go to even. Larger values than 65 504 become it, and what is no number becomes 0.
func ToHalf(v float32) Half {
	b := math.Float32bits(v)
	sign, b := Half(b>>16&0x8000), b&0x7fffffff
	switch {
	case b > 0x7f800000:
		return 0
	case b >= 0x477ff000: // rounds to more than the largest
		return sign | 0x7bff
	case b < 0x38800000: // below 2^-14 halves are multiples of 2^-24
		return sign | Half(math.RoundToEven(float64(math.Float32frombits(b))*(1<<24)))
	}
	b += 0xfff + b>>13&1
	return sign | Half((b-0x38000000)>>13) //nolint:gosec // at most 0x7bff, by the cases above
}

// Float returns the value.
func (h Half) Float() float32 { return fromHalf[h] }

// fromHalf holds the value of each half.
var fromHalf = func() *[1 << 16]float32 {
	all := new([1 << 16]float32)
	for i := range all {
		exponent, fraction := i>>10&0x1f, float64(i&0x3ff)
		v := math.Ldexp(fraction, -24)
		if exponent > 0 {
			v = math.Ldexp(1024+fraction, exponent-25)
		}
		if i >= 0x8000 {
			v = -v
		}
		all[i] = float32(v)
	}
	return all
}()

// Halves converts samples.
func Halves(v []float32) []Half {
	all := make([]Half, len(v))
	for i, x := range v {
		all[i] = ToHalf(x)
	}
	return all
}

// scratch holds the samples of channels for searches, so that those of one channel need not be allocated for the next.
var scratch = sync.Pool{New: func() any { return new([]float32) }}

// floats converts the samples of a channel for a search, at the end of which free is called.
func (c Channel) floats() (v []float32, free func()) {
	kept, _ := scratch.Get().(*[]float32)
	*kept = slices.Grow((*kept)[:0], len(c.Samples))[:len(c.Samples)]
	for i, h := range c.Samples {
		(*kept)[i] = h.Float()
	}
	return *kept, func() { scratch.Put(kept) }
}
