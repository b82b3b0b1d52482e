package scope

import (
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glenmist/core/engine"
)

// Events far off the cylinder's own usual one are jumps, whichever way; a snap is its own.
func TestEventsFarFromTheUsualAreJumps(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	var a Assigned
	want := map[int]int{12: 1, 30: -1, 31: -1}
	for i := range 60 {
		s := Shot{Event: Event{At: float64(i), Firing: 9 * math.Exp(0.06*r.NormFloat64())}, Cylinder: engine.Cylinder(1 + i%2), Snap: i >= 40 && i < 50}
		if s.Snap {
			s.Firing *= 2
		}
		s.Firing *= math.Exp(float64(want[i]) * 0.7)
		a.Shots = append(a.Shots, s)
	}
	for i, j := range a.Jumps() {
		if j != want[i] {
			t.Errorf("event %d of %.1f kV: jump %d, want %d", i, a.Shots[i].Firing, j, want[i])
		}
	}
}

// A difference is told where it is larger than the scatter, and where a technician would care.
func TestCompare(t *testing.T) {
	base := Summary{Cylinder: 1, Events: 20, Sparks: 20, Usual: 9, Low: 8, High: 10.2, Scatter: 0.08, Burn: 1.4, Fired: 1, Counted: true}
	with := func(change func(*Summary)) Summary {
		s := base
		change(&s)
		return s
	}
	for name, c := range map[string]struct {
		before, after Summary
		clear         bool
		words         string
	}{
		"the same":       {base, base, false, ""},
		"a little":       {base, with(func(s *Summary) { s.Usual = 9.7 }), false, ""},
		"fell":           {with(func(s *Summary) { s.Usual = 15 }), base, true, "fell from 15.0 to 9.0 kV"},
		"few and wild":   {with(func(s *Summary) { s.Usual, s.Events, s.Scatter = 12, 5, 0.4 }), base, false, ""},
		"jumps":          {base, with(func(s *Summary) { s.Low = 3 }), false, "jumps now"},
		"no more":        {with(func(s *Summary) { s.Low = 3 }), base, false, "jumps no longer"},
		"burns short":    {base, with(func(s *Summary) { s.Burn = 0.7 }), false, "burns 0.70 ms, 1.40 before"},
		"dead":           {base, Summary{Cylinder: 1, Counted: true}, true, "no events any more; fires in 0 %"},
		"alive":          {Summary{Cylinder: 1, Counted: true}, base, true, "fires again"},
		"misses a third": {base, with(func(s *Summary) { s.Fired = 0.66 }), false, "66 % of the cycles, 100 before"},
	} {
		d := Compare([]Summary{c.before}, []Summary{c.after})[0]
		if d.Clear != c.clear || !strings.Contains(d.Words, c.words) || c.words == "" && d.Words != "" {
			t.Errorf("%s: %v, %q", name, d.Clear, d.Words)
		}
	}
}
