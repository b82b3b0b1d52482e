package trial

import (
	"math/rand/v2"
	"reflect"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

// hide draws a fault of a mode on a pattern of the shelf.
func hide(t *testing.T, pattern string, mode fault.ModeID) Setup {
	t.Helper()
	p, ok := engine.FindPattern(pattern)
	if !ok {
		t.Fatal(pattern)
	}
	e := p.Engine()
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.ID == mode {
			return Setup{Engine: e, Hidden: []fault.Hypothesis{h}, Shop: plan.Default}
		}
	}
	t.Fatalf("%s has no %s", pattern, mode)
	return Setup{}
}

// The plan finds plain faults, and what it took adds up: a right verdict with nothing
// fitted in vain, a proof run that passes, minutes within the cap.
func TestRunsFindPlainFaults(t *testing.T) {
	for pattern, mode := range map[string]string{"four-across": "plug.worn-gap", "six-pairs": "lead.leaking", "six-distributor": "cap.tracked", "single-magneto": "plug.worn-gap", "v6-across": "coil.secondary-open"} {
		s := hide(t, pattern, fault.ModeID(mode))
		s.World = simulator.Middle
		s.World.Breaks, s.World.Wrong = 0, 0 // what work leaves behind is bought after a right verdict
		right, runs := 0, 8
		if testing.Short() {
			runs = 4
		}
		for seed := range uint64(runs) { //nolint:gosec // small and positive
			r := s.Run(Policies[0], rand.New(rand.NewPCG(seed, 3)))
			if seed == 0 && !reflect.DeepEqual(r, s.Run(Policies[0], rand.New(rand.NewPCG(seed, 3)))) {
				t.Fatalf("%s: the same chances give another run", mode)
			}
			if r.Right {
				right++
				if !r.Proven || !r.True || r.Steps == 0 || r.Minutes > MaxMinutes+200 {
					t.Errorf("%s: %+v", mode, r)
				}
			}
			if r.Vain > 0 && r.Right && r.Said >= plan.Condemn {
				t.Errorf("%s: right at once, and %d parts in vain", mode, r.Vain)
			}
		}
		if 4*right < 3*runs {
			t.Errorf("%s on %s: right in %d of %d", mode, pattern, right, runs)
		}
	}
}

// A fault that is dead whatever is asked hides a coil that fails hot: the proof, run in the condition of the
// complaint, passes with the coil left, which is neither right nor the same as a fault not found.
func TestProofCanPassWithAFaultLeft(t *testing.T) {
	for mode, want := range map[fault.ModeID]bool{fault.CoilWeakHot: true, fault.CompressionValve: false} {
		s := hide(t, "four-across", fault.CoilPrimaryShorted)
		for _, h := range fault.Enumerate(s.Engine, fault.Complaint{}) {
			if h.Mode.ID == mode && (h.Tag == "C4" || h.Place == "cyl-4") {
				s.Hidden = append(s.Hidden[:1:1], h)
			}
		}
		for seed := range uint64(4) {
			r := s.Run(Policies[0], rand.New(rand.NewPCG(seed, 4)))
			if r.Silent != want || r.Silent && (!r.Proven || r.Right) {
				t.Errorf("%s, seed %d: %+v", mode, seed, r)
			}
		}
	}
}

// A random history ends in beliefs that can be held against the truth: exactly the
// suspects that hold the hidden fault are said to.
func TestWanderAgainstTheTruth(t *testing.T) {
	s := hide(t, "four-across", fault.CoilCracked)
	a := s.Wander(6, rand.New(rand.NewPCG(5, 5)))
	if len(a.Moments) == 0 {
		t.Fatal("nothing was done")
	}
	for _, suspect := range a.Suspects {
		want := suspect.Tag == s.Hidden[0].Tag
		for _, along := range suspect.With {
			want = want || along == s.Hidden[0].Tag
		}
		if suspect.Real() && s.Holds(suspect) != want {
			t.Errorf("%s is said to hold the fault: %v", suspect.Key(), !want)
		}
	}
}

// A part counts as bought by its unit's own price: a lead order is no lead, a seat costs nothing.
func TestPartsAreBoughtAtTheirOwnPrice(t *testing.T) {
	for unit, want := range map[string]int{"lead order engine": 0, "lead L1": 1, "seat cyl-1": 0, "plug well cyl-1": 1, "coil lead KA": 1, "coil CA": 1, "base timing engine": 0} {
		if got := partsBought(evidence.Verdict{Unit: unit}); got != want {
			t.Errorf("%s: %d bought, want %d", unit, got, want)
		}
	}
}
