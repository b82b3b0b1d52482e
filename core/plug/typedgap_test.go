package plug

import (
	"math"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

func TestParseGap(t *testing.T) {
	for s, want := range map[string]TypedGap{
		"0.9": {MM: 0.9}, "0,9 mm": {MM: 0.9}, "35 thou": {MM: 0.889}, "0.85-0.95": {0.9, 0.85, 0.95}, "0.85 – 0.95 mm": {0.9, 0.85, 0.95}, "34 thou - 38 thou": {0.914, 0.8636, 0.9652},
	} {
		if got, err := ParseGap(s); err != nil || math.Abs(got.MM-want.MM) > 1e-9 || math.Abs(got.Passes-want.Passes) > 1e-9 || math.Abs(got.Stops-want.Stops) > 1e-9 {
			t.Errorf("%q is %+v, %v; want %+v", s, got, err, want)
		}
	}
	for s, expected := range map[string]string{"": "a gap from", "wide": "a gap from", "0.95-0.85": "the largest wire that passes", "0.9-": "a gap from", "-0.9": "a gap from", "39": "with its unit", "0.8-0.9-1": "a gap from"} {
		_, err := ParseGap(s)
		if bad := invalid.From(err); len(bad) != 1 || !strings.Contains(bad[0].Expected, expected) {
			t.Errorf("%q: %v, want %q", s, err, expected)
		}
	}
	// In, out, or cannot tell: the wires bracket a gap that is meant to be 0.8 to 0.9 mm.
	for s, want := range map[string]string{"0.8-0.9": "in", "0.95-1": "out", "0.85-0.95": "cannot tell: try a wire between 0.85 and 0.95", "0.7-0.75": "out", "0.85": ""} {
		got, err := ParseGap(s)
		if says := got.Says(0.8, 0.9); err != nil || says != want {
			t.Errorf("%q says %q, %v; want %q", s, says, err, want)
		}
		if says := got.Says(0, 0); says != "" {
			t.Errorf("%q says %q of no range", s, says)
		}
	}
}

func FuzzParseGap(f *testing.F) {
	for _, s := range []string{"0.9", "0.85-0.95", "0.035 in", "1e9", "-", "0,9–1", "NaN", "35 thou - 1 mm"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		g, err := ParseGap(s)
		switch {
		case err != nil:
			if len(invalid.From(err)) != 1 {
				t.Fatalf("%q: %v", s, err)
			}
		case !(g.MM >= 0.01 && g.MM <= 30), g.Stops != 0 && !(g.Passes < g.Stops && g.MM >= g.Passes-1e-3 && g.MM <= g.Stops+1e-3):
			t.Fatalf("%q is %+v", s, g)
		}
		g.Says(0.8, 0.9)
	})
}
