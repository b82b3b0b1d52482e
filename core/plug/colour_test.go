package plug

import (
	"math"
	"slices"
	"testing"
)

// byTheStandard is sRGB to CIELAB straight from the standards: the curve and the matrix of IEC
// 61966-2-1, the white point D65, and the cube root with its linear foot of CIE 15 (P).
func byTheStandard(c RGB) Lab {
	line := func(x float64) float64 {
		if x <= 0.04045 {
			return x / 12.92
		}
		return math.Pow((x+0.055)/1.055, 2.4)
	}
	r, g, b := line(c.R), line(c.G), line(c.B)
	x := 0.4124*r + 0.3576*g + 0.1805*b
	y := 0.2126*r + 0.7152*g + 0.0722*b
	z := 0.0193*r + 0.1192*g + 0.9505*b
	f := func(t float64) float64 {
		if t > 216.0/24389 {
			return math.Cbrt(t)
		}
		return (24389.0/27*t + 16) / 116
	}
	fx, fy, fz := f(x/0.9505), f(y), f(z/1.0890)
	return Lab{116*fy - 16, 500 * (fx - fy), 200 * (fy - fz)}
}

func TestLabByTheStandard(t *testing.T) {
	near := func(a, b Lab, by float64) bool {
		return math.Abs(a.L-b.L) < by && math.Abs(a.A-b.A) < by && math.Abs(a.B-b.B) < by
	}
	for r := 0.0; r <= 1; r += 0.125 {
		for g := 0.0; g <= 1; g += 0.125 {
			for b := 0.0; b <= 1; b += 0.125 {
				c := RGB{r, g, b}
				if got, want := c.Lab(), byTheStandard(c); !near(got, want, 0.1) {
					t.Fatalf("%+v is %+v, by the standard %+v", c, got, want)
				}
			}
		}
	}
	// The primaries as they are tabulated (M: CIELAB of sRGB under D65).
	for c, want := range map[RGB]Lab{{1, 0, 0}: {53.24, 80.09, 67.20}, {0, 1, 0}: {87.73, -86.18, 83.18}, {0, 0, 1}: {32.30, 79.19, -107.86}, {1, 1, 1}: {100, 0, 0}, {}: {}} {
		if got := c.Lab(); !near(got, want, 0.15) {
			t.Errorf("%+v is %+v, tabulated %+v", c, got, want)
		}
	}
}

// Pairs of Sharma, Wu and Dalal, The CIEDE2000 color-difference formula (2005), table 1 (M).
func TestDistanceAsPublished(t *testing.T) {
	for _, c := range []struct {
		x, y Lab
		want float64
	}{
		{Lab{50, 2.6772, -79.7751}, Lab{50, 0, -82.7485}, 2.0425},
		{Lab{50, 3.1571, -77.2803}, Lab{50, 0, -82.7485}, 2.8615},
		{Lab{50, 2.5, 0}, Lab{50, 0, -2.5}, 4.3065},
		{Lab{50, 2.5, 0}, Lab{73, 25, -18}, 27.1492},
		{Lab{2.0776, 0.0795, -1.1350}, Lab{0.9033, -0.0636, -0.5514}, 0.9082},
	} {
		if got := ColourDistance(c.x, c.y); math.Abs(got-c.want) > 5e-4 {
			t.Errorf("%+v to %+v: %.4f, published %.4f", c.x, c.y, got, c.want)
		}
	}
}

// A nose under a yellow lamp: without a white it is taken for glaze or tan at best unsurely; with
// the white paper beside it its own colour comes back, and what is no white is refused.
func TestBalance(t *testing.T) {
	lamp := func(c, light RGB) RGB { // in linear light, as a camera sees it
		lit := func(x, k float64) float64 { return math.Pow(math.Pow(x, 2.2)*k, 1/2.2) }
		return RGB{lit(c.R, light.R), lit(c.G, light.G), lit(c.B, light.B)}
	}
	grey, paper := RGB{0.70, 0.69, 0.67}, RGB{0.93, 0.93, 0.93}
	warm := RGB{0.95, 0.75, 0.40}
	seen, white := lamp(grey, warm), lamp(paper, warm)
	back, err := Balanced(seen, white)
	if err != nil {
		t.Fatal(err)
	}
	if d := ColourDistance(back.Lab(), grey.Lab()); d > 3 {
		t.Errorf("balanced it is %.1f from its own colour", d)
	}
	with, _ := ProposeColour(back.Lab(), true)
	without, _ := ProposeColour(seen.Lab(), false)
	if with[0].Look.Nose != Grey || with[0].P < 0.6 {
		t.Errorf("with a white: %s at %.2f", with[0].Words, with[0].P)
	}
	if without[0].P > 0.75 {
		t.Errorf("without a white it is as sure as %.2f", without[0].P)
	}
	for name, w := range map[string]RGB{"dark": {0.05, 0.05, 0.05}, "overexposed": {1, 1, 1}, "red": {0.9, 0.2, 0.1}} {
		if _, err := Balanced(grey, w); err == nil {
			t.Errorf("a %s spot is taken for white", name)
		}
	}
}

func TestProposeAtTheCentres(t *testing.T) {
	for _, k := range ColourClasses {
		got, none := ProposeColour(k.Centre, true)
		sum := none
		for _, p := range got {
			sum += p.P
		}
		i := slices.IndexFunc(got, func(p ColourProposal) bool { return p.Words == k.Words })
		if i > 1 || got[i].P < 2*k.Share || math.Abs(sum-1) > 1e-9 { // a rare one can lie behind a common one
			t.Errorf("the middle of %q is %q, itself %.2f; all sum to %g", k.Words, got[0].Words, got[i].P, sum)
		}
	}
	// Bright blue is no nose.
	if _, none := ProposeColour(RGB{0.1, 0.2, 0.95}.Lab(), true); none < 0.9 {
		t.Errorf("blue is none of them at %.2f only", none)
	}
}
