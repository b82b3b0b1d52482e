package scope

import (
	"math"
	"testing"
)

// near reports whether a sample that was read is the value that was written with three decimals or more: within a unit of the
// last place of either.
func near(h Half, v float32) bool {
	return math.Abs(float64(h.Float()-v)) <= 6e-4+math.Abs(float64(v))/1024
}

// Values of binary16 (IEEE 754-2019; the examples are common ones).
func TestHalf(t *testing.T) {
	for _, c := range []struct {
		v    float32
		bits Half
		back float32
	}{
		{0, 0, 0}, {1, 0x3c00, 1}, {-2, 0xc000, -2}, {0.5, 0x3800, 0.5}, {65504, 0x7bff, 65504}, {1e6, 0x7bff, 65504},
		{0.333251953125, 0x3555, 0.333251953125}, {6.103515625e-05, 0x0400, 6.103515625e-05}, {5.960464477539063e-08, 1, 5.960464477539063e-08},
		{1 + 1.0/2048, 0x3c00, 1}, {1 + 3.0/2048, 0x3c02, 1 + 2.0/1024}, // ties go to even
		{float32(math.Inf(-1)), 0xfbff, -65504}, {float32(math.NaN()), 0, 0},
	} {
		if got := ToHalf(c.v); got != c.bits || got.Float() != c.back {
			t.Errorf("%v is %#04x = %v, want %#04x = %v", c.v, uint16(got), got.Float(), uint16(c.bits), c.back)
		}
	}
	for i := range Half(0x7c00) { // each finite one comes back
		if got := ToHalf(i.Float()); got != i {
			t.Fatalf("%#04x comes back as %#04x", uint16(i), uint16(got))
		}
	}
}
