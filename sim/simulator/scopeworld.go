package simulator

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/sim/coil"
)

// Scope is a scope on the secondary side with its clamps and the disturbances that they pick up.
type Scope struct {
	Rate float64 // samples per second
	// PeakDetect is true if the scope keeps the extreme value of each sample interval.
	PeakDetect bool
	NoiseKV    float64 // standard deviation
	// HumKV and HumHz are the amplitude and the frequency of mains hum. OffsetKV is the offset of the probe, DriftKV its
	// change over the recording.
	HumKV, HumHz, OffsetKV, DriftKV float64
	// Crosstalk is the fraction of a cylinder's voltage that a clamp on a neighbouring lead picks up.
	Crosstalk float64
	TurnOn    coil.TurnOn
	// Strikes is the number of sparks in one event, StrikeMS the time between them.
	Strikes  int
	StrikeMS float64
	// Wiring is which cylinders each channel shows. Style is how the channels are named. SyncFirst puts the sync on the first
	// channel.
	Wiring    Wiring
	Style     NameStyle
	SyncFirst bool
	// SyncRingMS is the time constant of the ringing of the sync clamp; 0 is a clean pulse.
	SyncRingMS float64
	// Overrun is the number of cycles with closed throttle at the end.
	Overrun int
}

// Wiring is which cylinders each channel shows.
type Wiring int

// The wirings. WiredUsually is one channel for all cylinders and a sync, and one for each cylinder on wasted spark.
const (
	WiredUsually Wiring = iota
	WiredTogether
	WiredEach
	WiredBanks
	// WiredSome has one channel on one cylinder and one on its successor in the firing order.
	WiredSome
)

// NameStyle is how the channels of a recording are named.
type NameStyle int

// The styles: "cylinder 3", "Cyl 3", "#3", and only the letters or numbers of the inputs.
const (
	NamedFully NameStyle = iota
	NamedShort
	NamedHash
	NamedByInput
)

// PlainScope is the scope of the stand-in: no disturbances but noise, and a small turn-on pulse.
func PlainScope(rate, noiseKV float64) Scope {
	return Scope{Rate: rate, PeakDetect: true, NoiseKV: noiseKV, Strikes: 1, TurnOn: coil.TurnOn{KV: 0.5, DecayMS: 0.02, RingHz: 9000, RingMS: 0.08}}
}

// between draws a figure evenly from a range.
func between(rng Rand, low, high float64) float64 { return low + (high-low)*rng.Float64() }

// TuningScope draws a scope for fitting tables: milder than [OuterScope], and with other ranges.
func TuningScope(rng Rand, e engine.Engine, noiseKV float64) Scope {
	return drawScope(rng, e, noiseKV, scopeRanges{turnOn: [2]float64{0.1, 0.9}, decay: [2]float64{0.5, 4}, crosstalk: [2]float64{0, 0.06}, hum: 0.05, offset: 0.2, drift: 0.1, multi: 0.15, missPeak: 0.2, rings: 0.2})
}

// OuterScope draws a scope for measuring, from wide ranges (C: textbook figures of coils and clamps; judgement for the shares).
func OuterScope(rng Rand, e engine.Engine, noiseKV float64) Scope {
	return drawScope(rng, e, noiseKV, scopeRanges{turnOn: [2]float64{0.3, 1.5}, decay: [2]float64{1, 6}, crosstalk: [2]float64{0.02, 0.10}, hum: 0.15, offset: 0.5, drift: 0.3, multi: 0.3, missPeak: 0.4, rings: 0.5})
}

type scopeRanges struct {
	turnOn, decay, crosstalk [2]float64
	// hum, offset and drift are the largest in kV. multi, missPeak and rings are the shares of coils with several sparks at
	// idle, of scopes without peak detection, and of sync clamps that ring.
	hum, offset, drift, multi, missPeak, rings float64
}

func drawScope(rng Rand, e engine.Engine, noiseKV float64, r scopeRanges) Scope {
	s := Scope{
		Rate: []float64{250_000, 250_000, 500_000, 1_000_000}[int(4*rng.Float64())], PeakDetect: rng.Float64() >= r.missPeak, NoiseKV: noiseKV,
		HumKV: between(rng, 0, r.hum), HumHz: []float64{50, 60}[int(2*rng.Float64())],
		OffsetKV: between(rng, -r.offset, r.offset), DriftKV: between(rng, -r.drift, r.drift),
		Crosstalk: between(rng, r.crosstalk[0], r.crosstalk[1]),
		TurnOn: coil.TurnOn{KV: between(rng, r.turnOn[0], r.turnOn[1]), DecayMS: between(rng, r.decay[0], r.decay[1]),
			RingHz: between(rng, 4000, 15_000), RingMS: between(rng, 0.1, 0.5)},
		Strikes: 1, StrikeMS: between(rng, 1.0, 2.0),
		Style: NameStyle(3 * rng.Float64()), SyncFirst: rng.Float64() < 0.2, Overrun: int(4 * rng.Float64()),
	}
	if rng.Float64() < 0.3 {
		s.TurnOn.KV *= 0.05 // a diode in the secondary
	}
	switch e.Ignition {
	case engine.WastedSpark:
		s.TurnOn.KV /= 2
	case engine.Magneto: // no battery is switched on
		s.TurnOn.KV = 0
	}
	if rng.Float64() < r.multi && e.Ignition != engine.Magneto {
		s.Strikes = 2 + int(2*rng.Float64())
	}
	if rng.Float64() < r.rings {
		s.SyncRingMS = between(rng, 0.1, 1)
	}
	s.Wiring = drawWiring(rng, e)
	if s.Wiring == WiredEach { // a file of a recorder with many inputs is slower
		s.Rate = min(s.Rate, 500_000)
	}
	return s
}

// drawWiring draws which cylinders each channel shows. A common channel needs a place where all secondary current passes.
func drawWiring(rng Rand, e engine.Engine) Wiring {
	u := rng.Float64()
	switch {
	case e.Cylinders == 1:
		return WiredTogether
	case e.Ignition == engine.WastedSpark:
		return WiredEach
	case u < 0.45:
		return WiredTogether
	case u < 0.85:
		return WiredEach
	case e.Banks() > 1:
		return WiredBanks
	}
	return WiredSome
}

// channel is one channel of a recording: the cylinders whose voltage it shows.
type channel struct {
	name string
	of   engine.Set
	sync bool
	v    []float32
}

// channels lists the channels of a recording on an engine.
func (s Scope) channels(e engine.Engine) (all []channel) {
	input := func(n int) string { return string(rune('A' + n)) }
	named := func(c engine.Cylinder, n int) string {
		switch s.Style {
		case NamedShort:
			return fmt.Sprintf("Cyl %d", c)
		case NamedHash:
			return fmt.Sprintf("#%d", c)
		case NamedByInput:
			return input(n)
		}
		return fmt.Sprintf("cylinder %d", c)
	}
	wiring := s.Wiring
	if wiring == WiredUsually {
		wiring = WiredTogether
		if e.Ignition == engine.WastedSpark {
			wiring = WiredEach
		}
	}
	sync := channel{name: syncName, sync: true}
	switch wiring {
	case WiredEach:
		order := e.All()
		if s.Style == NamedShort {
			order = e.FiringOrder
		}
		for n, c := range order {
			all = append(all, channel{name: named(c, n), of: engine.SetOf(c)})
		}
		return all
	case WiredBanks:
		for bank := 1; bank <= e.Banks(); bank++ {
			all = append(all, channel{name: fmt.Sprintf("Bank %d", bank), of: e.BankSet(bank)})
		}
	case WiredSome:
		first := e.FiringOrder[0]
		all = append(all, channel{name: named(first, 0), of: engine.SetOf(first)}, channel{name: named(e.FiringOrder[1], 1), of: engine.SetOf(e.FiringOrder[1])})
		return all
	default:
		name := "A"
		if s.Style == NamedFully {
			name = "all cylinders"
		}
		all = append(all, channel{name: name, of: e.Everything()})
	}
	if s.SyncFirst {
		return append([]channel{sync}, all...)
	}
	return append(all, sync)
}

// quiet fills a trace with what is there without an event.
func (s Scope) quiet(v []float32, rng Rand) {
	phase := 2 * math.Pi * rng.Float64()
	for i := range v {
		t := float64(i) / s.Rate
		x := s.NoiseKV*rng.NormFloat64() + s.OffsetKV + s.DriftKV*float64(i)/float64(len(v))
		if s.HumKV > 0 {
			x += s.HumKV * math.Sin(2*math.Pi*s.HumHz*t+phase)
		}
		v[i] = float32(x)
	}
}

// Shown lists the cylinders of each channel, without the sync.
func (s Scope) Shown(e engine.Engine) (all []engine.Set) {
	for _, c := range s.channels(e) {
		if !c.sync {
			all = append(all, c.of)
		}
	}
	return all
}
