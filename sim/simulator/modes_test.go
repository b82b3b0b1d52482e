package simulator

import (
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// hidden is an engine of a pattern with one fault of a mode, and where that is.
func hidden(t *testing.T, pattern string, mode fault.ModeID, seed uint64) (*Engine, fault.Hypothesis) {
	t.Helper()
	p, _ := engine.FindPattern(pattern)
	e := p.Engine()
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.ID == mode {
			return New(e, rand.New(rand.NewPCG(seed, 8)), h), h
		}
	}
	t.Fatalf("%s has no %s", pattern, mode)
	return nil, fault.Hypothesis{}
}

// Each mode shows in the tests that ask about what it changes, more often than not, and
// mostly not in those that ask about something else (C): the answers follow from the
// state, whatever the mode is called.
func TestModesShowWhereTheyShould(t *testing.T) {
	at := func(h fault.Hypothesis) engine.Place {
		if h.Tag != "" {
			return h.Tag.Home()
		}
		return h.Place
	}
	for _, c := range []struct {
		pattern, mode string
		test          evidence.TestID
		abnormal      evidence.ResultID // "" is that all is well
	}{
		{"four-across", "feed.low", evidence.TriggerPulse, "feed"},
		{"four-across", "ground.poor", evidence.TriggerPulse, "ground"},
		{"four-across", "trigger.wire", evidence.WireTest, "bad"},
		{"four-across", "driver.dead", evidence.WireTest, ""},
		{"four-across", "compression.valve", evidence.LeakDown, "valve"},
		{"four-across", "compression.rings", evidence.LeakDown, "rings"},
		{"four-across", "compression.gasket", evidence.LeakDown, "gasket"},
		{"four-across", "injector.clogged", evidence.InjectorExchange, "followed"},
		{"four-across", "injector.leaking", evidence.InjectorExchange, "followed"},
		{"four-across", "plug.worn-gap", evidence.InjectorExchange, ""},
		{"four-across", "plug.worn-gap", evidence.Kilovolts, "high"},
		{"four-across", "plug.closed-gap", evidence.Kilovolts, "low"},
		{"four-across", "coil.weak-hot", evidence.CoilResistance, ""},
		{"four-across", "coil.secondary-open", evidence.CoilResistance, "open"},
		{"v8-leads", "lead.high-resistance", evidence.LeadResistance, "open"},
		{"v8-leads", "lead.leaking", evidence.LeadResistance, ""},
		{"four-across", "connector.loose", evidence.Wiggle, "changes"},
		{"four-across", "plug.loose", evidence.CompressionTest, "low"},
		{"six-distributor", "timing.off", evidence.TimingLamp, "off"},
		{"single-magneto", "timing.key", evidence.TimingLamp, "off"},
		{"four-across", "trigger.wire", evidence.TriggerWatch, "wire"},
		{"four-across", "driver.dead", evidence.TriggerWatch, "unit"},
		{"six-distributor", "pickup.weak", evidence.TriggerWatch, "signal"},
		{"four-across", "connector.loose", evidence.TriggerWatch, ""},
		{"four-across", "trigger.wire", evidence.Overlay, "trigger"},
		{"four-across", "driver.dead", evidence.Overlay, ""},
		{"four-across", "connector.loose", evidence.Overlay, ""},
		{"four-across", "feed.low", evidence.Overlay, "feed"},
		{"single-magneto", "stop-wire.shorted", evidence.StopWireRun, "clean"},
		{"single-magneto", "plug.closed-gap", evidence.StopWireRun, ""},
	} {
		shown, n := 0, 60
		for seed := range uint64(n) {
			b, h := hidden(t, c.pattern, fault.ModeID(c.mode), seed)
			got, _ := b.Answer(c.test, at(h), part.Home(b.E))
			test, _ := evidence.FindTest(c.test)
			want := c.abnormal
			if want == "" {
				want = test.Results[0].ID
			}
			if got == want {
				shown++
			}
		}
		if 2*shown < n {
			t.Errorf("%s: %s answers %q in %d of %d", c.mode, c.test, c.abnormal, shown, n)
		}
	}
}

// What the eye finds follows from the state: a deposit as it is, a well that is wet on
// what comes out of it, a spring, a loose plug; and a sound engine is mostly sound.
func TestLooksFollowTheState(t *testing.T) {
	for mode, c := range map[string]struct {
		kind engine.Kind
		want evidence.Finding
	}{
		"plug.oil-fouled": {engine.Plug, evidence.PlugOil}, "plug.fuel-fouled": {engine.Plug, evidence.PlugFuel}, "plug.carbon-fouled": {engine.Plug, evidence.PlugSoot},
		"plug.closed-gap": {engine.Plug, evidence.PlugClosed}, "plug.wrong": {engine.Plug, evidence.PlugWrong}, "plug.loose": {engine.Plug, evidence.PlugLoose},
		"boot.spring": {engine.Boot, evidence.BootSpring}, "well.oil": {engine.Boot, evidence.BootWet}, "seat.not-home": {engine.Boot, evidence.BootNotHome},
	} {
		found, stray, n := 0, 0, 80
		for seed := range uint64(n) {
			b, h := hidden(t, "four-across", fault.ModeID(mode), seed)
			home := part.Home(b.E)
			place := h.Place
			if h.Tag != "" {
				place = h.Tag.Home()
			}
			other := engine.At(4)
			if place == other {
				other = engine.At(3)
			}
			if b.Look(evidence.Seen{Tag: home.In(c.kind, place)}, home, evidence.Idle) == c.want {
				found++
			}
			if b.Look(evidence.Seen{Tag: home.In(c.kind, other)}, home, evidence.Idle) == c.want {
				stray++
			}
		}
		if 2*found < n || 8*stray > n {
			t.Errorf("%s: %s is found on it in %d of %d, elsewhere in %d", mode, c.want, found, n, stray)
		}
	}
}

// Touching cures what it is said to cure, about as often, once; and a repair at its place
// cures what is there.
func TestTouchCuresOnceAndRepairCuresForGood(t *testing.T) {
	cured, n := 0, 400
	for seed := range uint64(n) {
		b, h := hidden(t, "four-across", fault.ConnectorCorroded, seed)
		b.Touch(func(f fault.Hypothesis) bool { return f.Key() == h.Key() })
		c, _ := h.Place.Cylinder()
		if b.Rate(c, part.Home(b.E), evidence.Idle) < 0.001 {
			cured++
		}
		b.Repair(engine.Connector, h.Place)
		if rate := b.Rate(c, part.Home(b.E), evidence.Load); rate > 0.002 {
			t.Fatalf("repaired, and it misfires %v", rate)
		}
	}
	if share := float64(cured) / float64(n); share < 0.38 || share > 0.52 { // 0.45, three standard errors
		t.Errorf("touching cures %.2f", share)
	}
}

// What an engine does not have cannot be seen on it: on every pattern of the shelf the looks of a
// sound engine are mostly sound, item by item, and nothing is wet in a well that is not there.
func TestSoundEnginesLookSound(t *testing.T) {
	for _, p := range engine.Shelf {
		e := p.Engine().Derive()
		home := part.Home(e)
		abnormal, n := map[evidence.Finding]int{}, map[engine.Kind]int{}
		for seed := range uint64(60) {
			b := New(e, rand.New(rand.NewPCG(seed, 9)))
			for _, at := range home.All() {
				if len(evidence.FindingsOn(at.Kind)) == 0 {
					continue
				}
				n[at.Kind]++
				if at.Kind == engine.Plug {
					if b.ReadPlug(at.Tag, home, evidence.Idle).High != plug.Dry {
						abnormal[evidence.BootWet]++
					}
					continue
				}
				if f := b.Look(evidence.Seen{Tag: at.Tag}, home, evidence.Idle); f.Abnormal() {
					abnormal[f]++
				}
			}
		}
		for f, k := range abnormal {
			if most := slices.Max(slices.Collect(maps.Values(n))); 6*k > most {
				t.Errorf("%s: %q on %d of at most %d looks at a sound engine", p.ID, f, k, most)
			}
		}
	}
}
