package coil

import (
	"fmt"
	"math"
	"slices"
	"testing"
)

// What is stored comes out again: arc, losses and what is left are within 2 % of it, whatever
// stands in the way.
func TestEnergyIsConserved(t *testing.T) {
	for name, l := range map[string]Load{
		"sound": {Breakdown: 9, Arc: 1.3}, "wide gap": {Breakdown: 22, Arc: 2}, "open": {Breakdown: 1e6}, "resistance": {Breakdown: 12, Arc: 1.3, SeriesKOhm: 40},
		"fouled": {Breakdown: 9, Arc: 1.1, ShuntMOhm: 0.5}, "closed gap": {Breakdown: 3, Arc: 0.7},
	} {
		for _, loss := range []float64{2, 0.15} {
			c := Usual
			c.LossMOhm = loss
			s := c.Fire(l, 12, 5e-6)
			out := s.Energy.Arc + s.Energy.Loss + s.Energy.Left
			if math.Abs(out/s.Energy.Stored-1) > 0.02 {
				t.Errorf("%s: %.2f mJ of %.2f: %+v", name, out, s.Energy.Stored, s.Energy)
			}
		}
	}
}

// The textbook on each part: the current of the dwell, the energy ½·L·i², the highest voltage
// √(L/C)·i of an open secondary but for its losses, the ring, the slope of a burn without
// resistance, and what a fault does to each.
func TestAgainstTheTextbook(t *testing.T) {
	c := Usual
	if want := 13.5 / 0.7 * (1 - math.Exp(-3e-3*0.7/3e-3)); math.Abs(c.Amperes()-want) > 1e-9 {
		t.Errorf("%v A, want %v", c.Amperes(), want)
	}
	if got, want := c.Fire(Load{Breakdown: 9, Arc: 1.3}, 1, 5e-6).Energy.Stored, 0.5*3*c.Amperes()*c.Amperes(); math.Abs(got/want-1) > 1e-9 {
		t.Errorf("%v mJ, want %v", got, want)
	}
	open := c.For(30)
	open.LossMOhm = 1e4
	if s := open.Fire(Load{Breakdown: 1e6}, 2, 5e-6); math.Abs(s.Firing/30-1) > 0.01 || s.Fired {
		t.Errorf("an open secondary of 30 kV rises to %v", s.Firing)
	}
	sound := c.Fire(Load{Breakdown: 9, Arc: 1.3}, 8, 2e-6)
	L := 3e-3 * 90 * 90
	if want := 1000 * (c.Amperes()/90 - leastArc) * L / 1300; math.Abs(sound.BurnMS/want-1) > 0.05 || math.Abs(sound.Firing-9) > 0.2 {
		t.Errorf("burns %.2f ms from %.2f kV, want %.2f and 9", sound.BurnMS, sound.Firing, want)
	}
	crossings, first, last := 0, 0, 0
	from := int((sound.BurnMS + 0.1) / 1000 / sound.Step)
	for k := from + 1; k < len(sound.KV); k++ {
		if (sound.KV[k] > 0) != (sound.KV[k-1] > 0) && math.Abs(sound.KV[k]) < 0.3 {
			if crossings++; crossings == 1 {
				first = k
			}
			last = k
		}
		if crossings == 5 {
			break
		}
	}
	if hz := float64(crossings-1) / 2 / (float64(last-first) * sound.Step); math.Abs(hz/c.Hertz()-1) > 0.1 {
		t.Errorf("rings at %.0f Hz, want %.0f", hz, c.Hertz())
	}
	wide := c.Fire(Load{Breakdown: 22, Arc: 1.3}, 8, 2e-6)
	series := c.Fire(Load{Breakdown: 9, Arc: 1.3, SeriesKOhm: 40}, 8, 2e-6)
	if wide.BurnMS >= sound.BurnMS || series.BurnMS >= sound.BurnMS {
		t.Errorf("burn: sound %.2f, wide %.2f, resistance %.2f ms", sound.BurnMS, wide.BurnMS, series.BurnMS)
	}
	begin, end := int(2e-4/series.Step), int(series.BurnMS/1000*0.8/series.Step)
	if series.KV[begin]-series.KV[end] < 0.5 || math.Abs(sound.KV[begin]-sound.KV[end]) > 0.05 {
		t.Errorf("the line falls by %.2f kV with resistance, %.2f without", series.KV[begin]-series.KV[end], sound.KV[begin]-sound.KV[end])
	}
}

// At turn-on the secondary shows the turns ratio times the battery voltage. It starts at 0, decays with L/R, and rings.
func TestTurnOnIsTurnsTimesBattery(t *testing.T) {
	c := Usual
	on := TurnOn{KV: c.Turns * c.SupplyV / 1000, DecayMS: c.PrimaryMH / c.PrimaryOhm, RingHz: 8000, RingMS: 0.2}
	if math.Abs(on.At(0)) > 1e-9 || on.At(-1) != 0 {
		t.Errorf("starts at %v kV", on.At(0))
	}
	if got, want := on.At(on.DecayMS), on.KV/math.E; math.Abs(got/want-1) > 1e-3 {
		t.Errorf("%v kV after one time constant, want %v", got, want)
	}
	most := 0.0
	for ms := 0.0; ms < 1; ms += 0.001 {
		most = max(most, on.At(ms))
	}
	if most < 1.3*on.KV || most > 2*on.KV {
		t.Errorf("rings to %v kV at %v kV", most, on.KV)
	}
}

// A peak that falls between two samples reads too low; peak detection keeps it.
func TestPeakBetweenSamples(t *testing.T) {
	l := Load{Breakdown: 9, Arc: 1.3}
	highest := func(how Sampling) float64 { return slices.Max(Usual.For(30).FireSampled(l, 4, how).KV) }
	kept, lowest := highest(Sampling{Every: 4e-6, PeakDetect: true}), math.Inf(1)
	for k := range 8 {
		lowest = min(lowest, highest(Sampling{Every: 4e-6, Phase: float64(k) * 5e-7}))
	}
	if math.Abs(kept-9) > 0.2 || lowest > 0.9*kept || lowest < 0.6*kept {
		t.Errorf("%v kV with peak detection, as low as %v without", kept, lowest)
	}
}

func ExampleCoil_Fire() {
	s := Usual.Fire(Load{Breakdown: 9, Arc: 1.3}, 8, 5e-6)
	fmt.Printf("%.1f kV, burns %.1f ms\n", s.Firing, s.BurnMS)
	// Output: 9.1 kV, burns 1.9 ms
}
