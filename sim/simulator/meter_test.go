package simulator

import (
	"math"
	"math/rand/v2"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/meter"
	"glenmist/core/part"
	"glenmist/core/spark"
)

// Instruments on a sound engine of each layout read what the rules of thumb say (C): the
// ruler's figures are not far from the trade's.
func TestSoundReadings(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	for _, p := range engine.Shelf {
		e := p.Engine().Derive()
		b, at := New(e, r), part.Home(e)
		for _, m := range evidence.Measures {
			if can, _ := m.Sense(e); !can || !m.There(e) || m.Scoped {
				continue
			}
			set := b.Meter(m.ID, m.Each(e, at), at)
			for _, one := range set.Each {
				v, known := set.True(one)
				rule, has := meter.RuleOf(m.Item, set.Make)
				if has {
					of := rule.For(one.Millimetres / 1000)
					if !known || v < 0.8*of.Low || v > 1.2*of.High {
						t.Errorf("%s, %s of %s%s: %v (%v), rule %v", p.ID, m.ID, one.Tag, one.Place, v, known, of)
					}
				}
				if one.Over || one.Jumps || one.Heard != "" || len(one.Figures) != len(m.Figures) {
					t.Errorf("%s, %s: a sound one reads %+v", p.ID, m.ID, one)
				}
				if set.Maker != nil && (slicesMin(one.Figures) < set.Maker.Low || one.Figures[0] > set.Maker.High) {
					t.Errorf("%s, %s: %v is outside its maker's range %v", p.ID, m.ID, one.Figures, *set.Maker)
				}
			}
		}
	}
}

func slicesMin(of []float64) float64 {
	least := math.Inf(1)
	for _, v := range of {
		least = min(least, v)
	}
	return least
}

// Each fault shows in the instrument that looks at what it changes, most of the time (C).
func TestReadingsShowTheState(t *testing.T) {
	for _, c := range []struct {
		pattern, mode string
		id            evidence.MeasureID
		shows         func(one evidence.Reading) bool
	}{
		{"six-pairs", "coil.secondary-open", evidence.CoilSecondary, func(r evidence.Reading) bool { return r.Over || r.Figures[0] > 2*secondaryOhm }},
		{"six-pairs", "coil.secondary-shorted", evidence.CoilSecondary, func(r evidence.Reading) bool { return r.Figures[0] < 0.95*secondaryOhm }},
		{"six-distributor", "coil.primary-shorted", evidence.PrimaryRamp, func(r evidence.Reading) bool { return r.Figures[1] > 1.1*chargingVolts/primaryMH }},
		{"v8-leads", "lead.open", evidence.LeadOhms, func(r evidence.Reading) bool { return r.Over || r.Figures[0] > 3*leadOhmMetre*r.Millimetres/1000 }},
		{"four-across", "feed.low", evidence.FeedDrop, func(r evidence.Reading) bool { return r.Figures[0]-r.Figures[1] > 0.5 || r.Jumps }},
		{"four-across", "ground.poor", evidence.GroundDrop, func(r evidence.Reading) bool { return r.Figures[0] > 0.2 || r.Jumps }},
		{"four-across", "trigger.wire", evidence.WireOhms, func(r evidence.Reading) bool { return r.Over || r.Jumps }},
		{"four-across", "boot.spring", evidence.SpringOhms, func(r evidence.Reading) bool { return r.Over || r.Figures[0] > 3 }},
		{"four-across", "injector.electrical", evidence.InjectorOhms, func(r evidence.Reading) bool { return r.Over || math.Abs(r.Figures[0]/injectorOhm-1) > 0.15 }},
		{"four-across", "compression.valve", evidence.CompressionDry, func(r evidence.Reading) bool { return r.Figures[0] < 0.75*gaugeBar }},
		{"four-across", "compression.rings", evidence.CompressionWet, func(r evidence.Reading) bool { return r.Figures[0] > 0.6*gaugeBar }},
		{"four-across", "compression.gasket", evidence.LeakDownLoss, func(r evidence.Reading) bool { return r.Figures[0] > 30 && r.Heard == "gasket" }},
		{"single-magneto", "air-gap.wide", evidence.AirGapLegs, func(r evidence.Reading) bool { return r.Figures[0] > 0.5 }},
		{"four-across", "fuel.low", evidence.FuelBar, func(r evidence.Reading) bool { return r.Figures[1] < 3.2 }},
	} {
		shown := 0
		const runs = 40
		for seed := range uint64(runs) {
			b, h := hidden(t, c.pattern, fault.ModeID(c.mode), seed)
			m, _ := evidence.FindMeasure(c.id)
			for _, one := range m.Each(b.E, part.Home(b.E)) {
				if one.Tag != "" && one.Tag == h.Tag || one.Place != "" && one.Place == h.Place {
					if c.shows(b.Meter(c.id, []evidence.Reading{one}, part.Home(b.E)).Each[0]) {
						shown++
					}
				}
			}
		}
		if shown < runs*7/10 {
			t.Errorf("%s shows in %s %d times of %d", c.mode, c.id, shown, runs)
		}
	}
}

// A wider tester never looks better; what lies beyond the end at which a spark is taken does
// not bear on it; a spark that jumps has at least the kilovolts that the gap proves.
func TestTesterAsksMore(t *testing.T) {
	rank := map[evidence.ResultID]int{"none": 0, "intermittent": 1, "weak": 2, "strong": 3}
	for seed := range uint64(30) {
		b, h := hidden(t, "six-pairs", fault.CoilWeakLoad, seed)
		at := part.Home(b.E)
		cyl := engine.At(at.Feeds(h.Tag)[0])
		last := 3
		for _, asks := range []float64{2, 6, 10, 14, 18, 24, 30, 38} {
			saw := rank[b.With(rand.New(rand.NewPCG(seed, 1))).sparkAt(cyl, engine.Boot, asks, at)]
			if saw > last {
				t.Errorf("seed %d: a tester of %g kV looks better than a narrower one", seed, asks)
			}
			last = saw
			if c, _ := cyl.Cylinder(); saw == 3 && b.path(c, at, conditions[evidence.Idle]).have < asks {
				t.Errorf("seed %d: %g kV jumped where %g are there", seed, asks, b.path(c, at, conditions[evidence.Idle]).have)
			}
		}
		leaky, h := hidden(t, "six-pairs", fault.LeadLeaking, seed)
		at = part.Home(leaky.E)
		cyl = engine.At(at.Feeds(h.Tag)[0])
		if saw := leaky.sparkAt(cyl, engine.Coil, 20, at); saw != "strong" {
			t.Errorf("seed %d: a leaking lead bears on a spark at the coil: %s", seed, saw)
		}
		if saw := leaky.sparkAt(cyl, engine.Boot, 20, at); saw == "strong" {
			t.Errorf("seed %d: 20 kV past a lead that leaks at %g", seed, leaky.parts[h.Tag].leakKV)
		}
	}
	if _, err := New(shelf(t, "four-across"), rand.New(rand.NewPCG(1, 1))).Sparks(evidence.Sparks{Tester: "open-gap", GapMM: 25, AirKPa: 101}, nil, part.Positions{}); err == nil {
		t.Error("25 mm are within the law")
	}
}

// The ramp is what the textbook says of its resistance and inductance.
func TestRampIsTheTextbook(t *testing.T) {
	e := shelf(t, "six-distributor").Derive()
	b := New(e, rand.New(rand.NewPCG(2, 2)))
	got := b.Meter(evidence.PrimaryRamp, []evidence.Reading{{Tag: "CA"}}, part.Home(e)).Each[0].Figures
	want := spark.Charging(chargingVolts, primaryOhm, primaryMH, dwellMS).Amperes
	if math.Abs(got[0]/want-1) > 0.1 || math.Abs(got[1]*primaryMH/chargingVolts-1) > 0.15 {
		t.Errorf("%v, want %v A and %v A/ms", got, want, chargingVolts/primaryMH)
	}
}

// A recording holds one event of each cylinder a cycle, and on wasted spark an idle one beside
// it, but for what falls behind its end; what it says was drawn is in its samples, and kilovolts follow from the law of the gap
// (8.0 kV for 1.0 mm at warm idle; values of the trade) and its wear.
func TestCaptureIsWhatWasDrawn(t *testing.T) {
	for _, c := range []struct {
		pattern  string
		channels int
		each     int
	}{{"four-across", 2, 1}, {"v8-leads", 2, 1}, {"six-pairs", 6, 2}, {"single-magneto", 2, 1}} {
		e := shelf(t, c.pattern).Derive()
		b := New(e, rand.New(rand.NewPCG(6, 6)))
		const cycles = 3
		got := b.Capture(part.Home(e), Recording{When: evidence.Idle, RPM: 750, Cycles: cycles, Scope: PlainScope(250_000, 0)})
		if len(got.Channels) != c.channels || len(got.Names) != c.channels || len(got.Drawn) > cycles*e.Cylinders*c.each || len(got.Drawn) < (cycles*c.each-1)*e.Cylinders {
			t.Errorf("%s: %d channels, %d events", c.pattern, len(got.Channels), len(got.Drawn))
		}
		for _, d := range got.Drawn {
			v := got.Channels[0]
			if e.Ignition == engine.WastedSpark {
				v = got.Channels[d.Cylinder-1]
			}
			peak := float32(0)
			for k := int(d.At * 250_000); k < min(len(v), int((d.At+2e-4)*250_000)); k++ {
				peak = max(peak, v[k])
			}
			if math.Abs(float64(peak)/d.Firing-1) > 0.02 && !d.Idle { // an idle peak is no higher than its arc
				t.Errorf("%s: %.2f kV of cylinder %d are %.2f in the trace", c.pattern, d.Firing, d.Cylinder, peak)
			}
			if low, high := 6.0, 14.0; !d.Idle && (d.Firing < low || d.Firing > high) || d.Idle && d.Firing > 3.5 {
				t.Errorf("%s: cylinder %d fires at %.2f kV, idle %v", c.pattern, d.Cylinder, d.Firing, d.Idle)
			}
		}
	}
}
