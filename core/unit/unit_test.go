package unit

import (
	"fmt"
	"math"
	"testing"
)

func TestParseDistance(t *testing.T) {
	for _, c := range []struct {
		text string
		want Kilometres
	}{
		{"184000", 184000},
		{"184 000 km", 184000},
		{"184\u202f000", 184000},
		{"184'000 km", 184000},
		{"12.5 km", 12.5},
		// The mile is 1760 yd of 36 in of exactly 25.4 mm: P, international inch.
		{"1 mi", 1760 * 36 * 25.4 / 1e6},
		{"114,000 miles", 114000 * 1760 * 36 * 25.4 / 1e6},
		{"0", 0},
	} {
		got, err := ParseDistance(c.text)
		if err != nil || math.Abs(float64(got-c.want)) > 1e-6 {
			t.Errorf("ParseDistance(%q) = %v, %v; want %v", c.text, float64(got), err, float64(c.want))
		}
	}
	for _, text := range []string{"", "far", "-1", "NaN", "Inf", "1e300", "6000000", "12,5", "1,23,456 km x"} {
		if got, err := ParseDistance(text); err == nil {
			t.Errorf("ParseDistance(%q) = %v, want an error", text, float64(got))
		}
	}
}

func TestParseRevolutions(t *testing.T) {
	for _, c := range []struct {
		text string
		want Revolutions
	}{
		{"3000", 3000}, {"3 000", 3000}, {"3,000 rev", 3000}, {"3000 revolutions", 3000},
		{"5 min at 600 rpm", 3000}, {"5min@600", 3000}, {"2.5 minutes at 1,200 rpm", 3000}, {"5 MIN x 600", 3000},
	} {
		if got, err := ParseRevolutions(c.text); err != nil || got != c.want {
			t.Errorf("ParseRevolutions(%q) = %v, %v; want %v", c.text, got, err, c.want)
		}
	}
	for _, text := range []string{"", "some", "1", "-3000", "4000000", "5 min", "5 min at fast", "1e9 min at 1e9 rpm"} {
		if got, err := ParseRevolutions(text); err == nil {
			t.Errorf("ParseRevolutions(%q) = %v, want an error", text, got)
		}
	}
}

func TestOpportunities(t *testing.T) {
	// Definition: a four-stroke cylinder fires once in two revolutions, so 300
	// times a minute at 600 rpm.
	revs, err := ParseRevolutions("1 min at 600 rpm")
	if err != nil || revs.Opportunities() != 300 {
		t.Errorf("a minute at 600 rpm gives %d opportunities, %v; want 300", revs.Opportunities(), err)
	}
}

func TestPercentNeverClaimsCertainty(t *testing.T) {
	for p, want := range map[float64]string{0: "0\u202f%", 0.004: "<1\u202f%", 0.336: "34\u202f%", 0.9999: ">99\u202f%", 1: "100\u202f%"} {
		if got := Percent(p); got != want {
			t.Errorf("Percent(%v) = %q, want %q", p, got, want)
		}
	}
}

func TestLikelier(t *testing.T) {
	for want, c := range map[string][2]float64{
		"so 2.4× as likely":                  {2.4, 2.4},
		"so likelier, 1.2× to 3×":            {1.2, 3},
		"so less likely, 0.1× to 0.5×":       {0.1, 0.5},
		"so by kind 0.21× to 1.4× as likely": {0.212, 1.4},
	} {
		if got := Likelier(c[0], c[1]); got != want {
			t.Errorf("%v: %q, not %q", c, got, want)
		}
	}
}

func TestThousands(t *testing.T) {
	for n, want := range map[int]string{0: "0", 999: "999", 1500: "1\u202f500", -1234567: "−1\u202f234\u202f567"} {
		if got := Thousands(n); got != want {
			t.Errorf("Thousands(%d) = %q, want %q", n, got, want)
		}
	}
}

// The bounds can be typed; what lies beyond them, or is no plain figure, is refused.
func TestBoundsOfFigures(t *testing.T) {
	for text, ok := range map[string]bool{"2": true, "1": false, fmt.Sprint(int(MaxRevolutions)): true, fmt.Sprint(int(MaxRevolutions) + 1): false} {
		if _, err := ParseRevolutions(text); (err == nil) != ok {
			t.Errorf("%s revolutions: %v", text, err)
		}
	}
	for text, want := range map[string]float64{"+5": 5, "-5": -5, "−0,5": -0.5, "12 000.5": 12000.5, ".5": 0.5} {
		if got, ok := Figure(text); !ok || got != want {
			t.Errorf("Figure(%q) = %g, %v", text, got, ok)
		}
	}
	for _, text := range []string{"", "5-3", "5+", "x5", "1e3", "*5", "/5", ":5", "NaN", "Inf"} {
		if got, ok := Figure(text); ok {
			t.Errorf("Figure(%q) = %g", text, got)
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"184 000 km", "5 min at 600 rpm", "1,2,3", "١٢", "1e400", "9999999999999999999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		if k, err := ParseDistance(s); err == nil && !(k >= 0 && k <= MaxDistance) {
			t.Errorf("ParseDistance(%q) = %v, out of bounds", s, float64(k))
		}
		if r, err := ParseRevolutions(s); err == nil && (r < 2 || r > MaxRevolutions) {
			t.Errorf("ParseRevolutions(%q) = %v, out of bounds", s, r)
		}
	})
}

func ExampleParseRevolutions() {
	revs, _ := ParseRevolutions("5 min at 700 rpm")
	fmt.Println(int(revs), "revolutions,", revs.Opportunities(), "chances to misfire on each cylinder")
	// Output: 3500 revolutions, 1750 chances to misfire on each cylinder
}
