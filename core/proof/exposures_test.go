package proof

import (
	"fmt"
	"math"
	"testing"
)

// A sequential test of a chance, by hand: one clean exposure adds ln((1 − 0.1 p)/(1 − p)), a failed one takes off
// ln 10, and the limit is ln 20. With three of three failed before, the lower bound is the cube root of 0.05.
func TestExposuresByHand(t *testing.T) {
	p := LowerBound(3, 3, 0.95)
	if math.Abs(p-math.Cbrt(0.05)) > 1e-9 {
		t.Fatalf("three of three: %.6f, want %.6f", p, math.Cbrt(0.05))
	}
	x := UsualExposures(p)
	clean := math.Log((1 - 0.1*p) / (1 - p))
	if got := x.LogRatio(4, 1); math.Abs(got-(3*clean-math.Log(10))) > 1e-12 {
		t.Errorf("one of four: %.6f", got)
	}
	want := int(math.Ceil(math.Log(20) / clean))
	if want != 8 || x.More(0, 0) != want {
		t.Errorf("%d clean ones asked for, by hand %d", x.More(0, 0), want)
	}
	for n := range want + 1 {
		s, progress := x.After(n, 0)
		if (s == Proven) != (n == want) || math.Abs(progress-min(1, float64(n)*clean/math.Log(20))) > 1e-12 {
			t.Errorf("after %d: %s at %.3f", n, s, progress)
		}
		if x.More(n, 0) != want-n {
			t.Errorf("after %d: %d more", n, x.More(n, 0))
		}
	}
	if s, _ := x.After(2, 2); s != NotFixed {
		t.Errorf("two of two failed again: %s", s)
	}
	x.Other = math.Log(20) / 2
	if got := x.More(0, 0); got != int(math.Ceil(math.Log(20)/2/clean)) {
		t.Errorf("with half a proof from elsewhere: %d more", got)
	}
}

// A clean run elsewhere multiplies the odds by 1/(1 − chance that the fault shows there).
func TestOutsideByHand(t *testing.T) {
	for shows, odds := range map[float64]float64{0: 1, 0.5: 2, 0.9: 10, -1: 1} {
		if got := math.Exp(Outside(shows)); math.Abs(got-odds) > 1e-9 {
			t.Errorf("a fault that shows at %g: odds × %.3f, want %g", shows, got, odds)
		}
	}
	if Outside(1) > 7 {
		t.Error("a single run is beyond all doubt")
	}
}

// Bayes by hand, for a repair that was sure at 98 % and comes back after 73 days: a new trouble is 1 − e^(−1/20)
// or 4.88 % likely, so the verdict was wrong with 0.02/(0.02 + 0.98 × 0.0488) = 29.5 %.
func TestWrongByHand(t *testing.T) {
	if got := Anew(73, 0); math.Abs(got-(1-math.Exp(-0.05))) > 1e-12 {
		t.Errorf("anew %.5f", got)
	}
	if got := Anew(73, 80_000); math.Abs(got-(1-math.Exp(-1))) > 1e-12 {
		t.Errorf("the distance tells more: %.5f", got)
	}
	for _, c := range []struct{ verdict, fixed, want float64 }{
		{0.9999, 0.9999, 0.295}, // nothing is believed above 98 %
		{0.98, 0.5, 0.953},      // 0.5/(0.5 + 0.5 × 0.0488)
		{0.5, 0.99, 0.783},      // hidden by handling: 0.15/(0.15 + 0.85 × 0.0488)
		{0.9, 0, 1},
	} {
		if got := Wrong(c.verdict, c.fixed, 73, 0); math.Abs(got-c.want) > 0.001 {
			t.Errorf("verdict %g, fixed %g: wrong %.4f, by hand %g", c.verdict, c.fixed, got, c.want)
		}
	}
}

func ExampleExposures_More() {
	x := UsualExposures(LowerBound(6, 6, 0.95)) // every one of six starts in the wet failed
	fmt.Println(x.More(0, 0), "clean starts in the wet")
	// Output: 4 clean starts in the wet
}
