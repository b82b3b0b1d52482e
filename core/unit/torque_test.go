package unit

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

func ExampleParseTorque() {
	t, _ := ParseTorque("14-22 ft-lb")
	fmt.Printf("%.1f to %.1f N·m\n", t.Low, t.High)
	_, err := ParseTorque("18")
	var wrong invalid.Error
	errors.As(err, &wrong)
	fmt.Println(wrong.Expected)
	// Output:
	// 19.0 to 29.8 N·m
	// the unit of the torque: type “18 N·m”, “18 lbf·ft” or “18 lbf·in”
}

// Torques as people type them, against P: NIST SP 811 from memory (1 lbf·ft is 1.355 818 N·m, 1 lbf·in
// is 0.112 984 8 N·m).
func TestTorquesAsTyped(t *testing.T) {
	const ft, in = 1.355818, 0.1129848
	for typed, want := range map[string]Torques{
		"12 ft-lbs":            {12 * ft, 12 * ft},
		"12 foot pounds":       {12 * ft, 12 * ft},
		"66 inch pounds":       {66 * in, 66 * in},
		"30 newton meters":     {30, 30},
		"14-22 ft-lb":          {14 * ft, 22 * ft},
		"15 ± 2 Nm":            {13, 17},
		"15 +/- 2 N·m":         {13, 17},
		"20 to 30 N m":         {20, 30},
		"17,5 nm":              {17.5, 17.5},
		"18 lbf·ft":            {18 * ft, 18 * ft},
		"90in-lb":              {90 * in, 90 * in},
		"90 LB-IN":             {90 * in, 90 * in},
		"11–15 pound-feet":     {11 * ft, 15 * ft},
		"2.5 kgf·m":            {2.5 * 9.80665, 2.5 * 9.80665},
		"8 - 12 newton-metres": {8, 12},
	} {
		got, err := ParseTorque(typed)
		if err != nil || math.Abs(got.Low-want.Low) > 1e-5*want.Low || math.Abs(got.High-want.High) > 1e-5*want.High {
			t.Errorf("%q is %v (%v), want %v", typed, got, err, want)
		}
	}
	for typed, want := range map[string]string{
		"18": "the unit of the torque", "14-22": "the unit of the torque", "": "a torque with its unit", "Nm": "a torque with its unit", "tight": "a torque with its unit",
		"900 lbf·ft": "check its unit", "0.1 Nm": "check its unit", "22-14 Nm": "lower end", "-5 Nm": "a torque", "5e3 Nm": "a torque", "15 ± Nm": "a torque", "NaN Nm": "a torque",
	} {
		if got, err := ParseTorque(typed); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q is %v, %v; want an error with %q", typed, got, err, want)
		}
	}
}

// 12 lbf·in are 1 lbf·ft by definition, and every unit reads back what it shows.
func TestTorqueUnitsRoundTrip(t *testing.T) {
	if got := 12 * NewtonMetresPerLbfFt / NewtonMetresPerLbfIn; got != 144 {
		t.Errorf("12 lbf·ft are %v lbf·in", got)
	}
	for nm := 1.0; nm < 140; nm *= 1.13 {
		for _, a := range TorqueAlso(nm) {
			back, err := ParseTorque(fmt.Sprintf("%g %s", a.Value, a.Unit))
			if err != nil || math.Abs(back.Low-nm) > 0.07 {
				t.Errorf("%.3f N·m shown as %g %s reads as %v, %v", nm, a.Value, a.Unit, back, err)
			}
		}
	}
}

func FuzzParseTorque(f *testing.F) {
	for _, s := range []string{"12 ft-lbs", "14-22 ft-lb", "15 ± 2 Nm", "1-2-3 Nm", "±Nm", "9e9 nm", "−3 N·m", "18"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		got, err := ParseTorque(s)
		if err == nil && !(got.Low >= LeastTorque && got.Low <= got.High && got.High <= MostTorque) {
			t.Errorf("%q is %v", s, got)
		}
	})
}
