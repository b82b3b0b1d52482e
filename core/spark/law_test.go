package spark

import (
	"fmt"
	"math"
	"testing"
)

// The law against handbook values: 1 cm at density 1 is 30.3 kV (P: Kuffel, from
// memory), and the standard gaps of 2 cm spheres, within 10 % (P: IEC 60052, from
// memory).
func TestBreakdown(t *testing.T) {
	for gap, want := range map[float64]float64{0.5: 2.8, 1.0: 4.7, 2.0: 8.0, 3.0: 11.2, 4.0: 14.4, 5.0: 17.4} {
		if got, err := Breakdown(gap, 1); err != nil || math.Abs(got/want-1) > 0.10 {
			t.Errorf("%g mm: %.2f kV, %v; want %g within 10 %%", gap, got, err, want)
		}
	}
	if got, _ := Breakdown(10, 1); math.Abs(got-30.3) > 0.05 {
		t.Errorf("1 cm: %.2f kV, want 30.3", got)
	}
	for _, gap := range []float64{0.1, 20} { // the ends of the law's range, which it holds at
		if _, err := Breakdown(gap, 1); err != nil {
			t.Errorf("%g mm: %v", gap, err)
		}
	}
	for _, gap := range []float64{0.05, 0, -1, 30, math.NaN()} {
		if got, err := Breakdown(gap, 1); err == nil {
			t.Errorf("%g mm is given %v kV, outside the law's range", gap, got)
		}
	}
}

// In the engine: 1.0 mm, effective ratio 7, charge at 330 K needs 8.0 kV at 35 kPa
// and 19.3 kV at 98 kPa (the two laws together).
func TestInTheEngine(t *testing.T) {
	for kPa, want := range map[float64]float64{35: 8.0, 98: 19.3} {
		if got, err := Breakdown(1.0, Density(kPa, 330, 7)); err != nil || math.Abs(got-want) > 0.1 {
			t.Errorf("at %g kPa: %.2f kV, %v; want %g", kPa, got, err, want)
		}
	}
}

func ExampleBreakdown() {
	kV, err := Breakdown(5, 1)
	fmt.Printf("%.1f kV %v\n", kV, err)
	_, err = Breakdown(0.01, 1)
	fmt.Println(err != nil)
	// Output:
	// 16.4 kV <nil>
	// true
}

// The way back from kilovolts to a tester's gap, over the whole range; air thins with
// height as the standard atmosphere does (P: ISO 2533, from memory).
func TestTester(t *testing.T) {
	for _, s := range Shapes {
		for _, gap := range []float64{0.5, 2, 5, 9, 15} {
			p, err := s.Proof(gap, 0.95)
			if err != nil || p.Low >= p.High {
				t.Fatalf("%s, %g mm: %+v, %v", s.ID, gap, p, err)
			}
			if back, err := s.GapFor(p.Low, 0.95); err != nil || math.Abs(back-gap) > 1e-9 {
				t.Errorf("%s, %g mm: back is %v, %v", s.ID, gap, back, err)
			}
		}
	}
	if got, err := Shapes[0].GapFor(80, 1); err == nil {
		t.Errorf("80 kV are given a gap of %v mm, outside the law", got)
	}
	for metres, want := range map[float64]float64{0: 101.325, 1000: 89.87, 2000: 79.50} {
		if got := AirKPa(metres); math.Abs(got-want) > 0.02 {
			t.Errorf("%g m: %v kPa, want %v", metres, got, want)
		}
	}
}

// Energy is what the current has brought in: after many time constants ½·L·(V/R)², and
// on the way the integral of what the supply gives less what the resistance takes.
func TestCharging(t *testing.T) {
	const volts, ohms, mH = 12.0, 0.6, 3.0
	stored, i := 0.0, 0.0
	const steps = 200_000
	for k := range steps { // 5 ms by small steps
		next := Charging(volts, ohms, mH, 5*float64(k+1)/steps).Amperes
		mid := (i + next) / 2
		stored += (volts - ohms*mid) * mid * 5 / steps // V·A·ms = mJ
		i = next
	}
	if got := Charging(volts, ohms, mH, 5).MJ; math.Abs(got-stored) > 1e-3*stored {
		t.Errorf("%v mJ, by the integral %v", got, stored)
	}
}
