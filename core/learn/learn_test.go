package learn

import (
	"fmt"
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/fault"
)

// The shares of a layout sum to 1, shipped and used, and jobs of another layout or of a unit that the layout
// does not have change nothing.
func TestSharesSumToOne(t *testing.T) {
	for _, layout := range engine.Ignitions() {
		seen := Seen{{layout, engine.Plug, 12}, {layout, engine.Coil, 3}, {"another", engine.Plug, 50}, {layout, "no such unit", 9}}
		var shipped, used float64
		jobs := 0
		for _, r := range Rows(layout, seen) {
			shipped, used, jobs = shipped+r.Shipped, used+r.Used, jobs+r.Jobs
		}
		if math.Abs(shipped-1) > 1e-12 || math.Abs(used-1) > 1e-12 || jobs != 15 {
			t.Errorf("%s: shipped %.15f, used %.15f, %d jobs", layout, shipped, used, jobs)
		}
		if Factors(layout, Seen{{"another", engine.Plug, 50}}) != nil {
			t.Errorf("%s learns from another layout", layout)
		}
	}
}

// Dirichlet updates by hand: with strength 200 and a shipped share p, k jobs of n give (200 p + k)/(200 + n).
// Three jobs weigh 3/203, whatever they show; many outweigh the table.
func TestUpdatesByHand(t *testing.T) {
	const layout = engine.CoilOnPlug
	share := func(seen Seen, u fault.Unit) (shipped, used float64) {
		for _, r := range Rows(layout, seen) {
			if r.Unit == u {
				return r.Shipped, r.Used
			}
		}
		t.Fatalf("no %s", u)
		return 0, 0
	}
	for _, c := range []struct{ k, n int }{{0, 0}, {3, 3}, {0, 3}, {1, 20}, {150, 200}, {4000, 4000}} {
		seen := Seen{{layout, engine.Coil, c.k}, {layout, engine.Plug, c.n - c.k}}
		p, used := share(seen, engine.Coil)
		if want := (200*p + float64(c.k)) / float64(200+c.n); math.Abs(used-want) > 1e-12 {
			t.Errorf("%d of %d: %.6f, by hand %.6f", c.k, c.n, used, want)
		}
		if weight := float64(c.n) / float64(200+c.n); c.n > 0 {
			want := (1-weight)*p + weight*float64(c.k)/float64(c.n)
			if math.Abs(used-want) > 1e-12 {
				t.Errorf("%d of %d weigh other than %d/%d", c.k, c.n, c.n, 200+c.n)
			}
		}
	}
	if p, used := share(Seen{{layout, engine.Coil, 3}}, engine.Coil); used-p > 3.0/203 || used <= p {
		t.Errorf("three jobs take %.4f to %.4f", p, used)
	}
}

func ExampleFactors() {
	f := Factors(engine.CoilOnPlug, Seen{{engine.CoilOnPlug, engine.Coil, 10}, {engine.CoilOnPlug, engine.Plug, 2}})
	fmt.Printf("coil %.2f, injector %.2f\n", f[engine.Coil], f[engine.Injector])
	// Output: coil 1.11, injector 0.94
}
