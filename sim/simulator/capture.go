package simulator

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/sim/coil"
)

// Before is the time in seconds before the first event of a recording. A recording that
// follows another overlaps its end by this time.
const Before = 0.01

// Recording is the setting of a scope on the secondary side.
type Recording struct {
	When    evidence.Condition
	RPM     float64
	Cycles  int
	Rate    float64 // samples per second
	NoiseKV float64 // standard deviation
}

// Captured is a recording with its true events.
type Captured struct {
	Names []string
	// Channels are in kilovolts; a sync is in volts.
	Channels [][]float32
	Drawn    []Drawn
}

// Drawn is one event of a recording.
type Drawn struct {
	Cylinder engine.Cylinder
	At       float64 // seconds
	Firing   float64 // kV
	BurnMS   float64
	// Line is the voltage in the middle of the spark line in kilovolts, Slope its change in kV
	// per millisecond, Hz the ringing frequency, DwellMS the time since turn-on.
	Line, Slope, Hz, DwellMS float64
	Idle                     bool // idle event of a wasted-spark pair
}

// Parameters of a recorded event (C; judgement).
const (
	seriesKOhm  = 11.0 // a lead and a resistor plug
	shortedLoss = 0.4  // megohms across a secondary with shorted turns
	shortedRise = 2.35 // what it would rise to without them, over what it does: exp(ζ/√(1−ζ²)·arccos ζ), ζ = √(L/C)/2R
	soundLoss   = 2.0
	followedMS  = 6.0
	blipKV      = 0.5
	blipMS      = 3.0
)

// Capture records some cycles of all cylinders on one channel, with a sync of cylinder 1. On
// wasted spark it uses one channel for each cylinder, with alternating working and idle
// events.
func (b *Engine) Capture(at part.Positions, r Recording) (out Captured) {
	cycle := 120 / r.RPM
	begin := Before
	length := int((begin + cycle*float64(r.Cycles)) * r.Rate)
	trace := func() []float32 {
		v := make([]float32, length)
		for i := range v {
			v[i] = float32(r.NoiseKV * b.rng.NormFloat64())
		}
		return v
	}
	in := conditions[r.When]
	order := b.E.FiringOrder
	n := float64(len(order))
	if b.E.Ignition == engine.WastedSpark {
		for range b.E.Cylinders {
			out.Channels = append(out.Channels, trace())
		}
		for _, c := range b.E.All() {
			out.Names = append(out.Names, fmt.Sprintf("cylinder %d", c))
		}
		for turn := range r.Cycles {
			for k, c := range order {
				fire := begin + cycle*(float64(turn)+float64(k)/n)
				p := b.path(c, at, in)
				out.add(b.draw(out.Channels[c-1], r.Rate, fire, p, c, at), false)
				idle := p
				idle.need = wasteKV * b.parts[at.Serving(engine.Plug, c)].gapMM
				out.add(b.draw(out.Channels[c-1], r.Rate, fire+cycle/2, idle, c, at), true)
			}
		}
		return out
	}
	kv, sync := trace(), make([]float32, length)
	for turn := range r.Cycles {
		for k, c := range order {
			fire := begin + cycle*(float64(turn)+float64(k)/n)
			out.add(b.draw(kv, r.Rate, fire, b.path(c, at, in), c, at), false)
			if c == 1 {
				for i := int(fire * r.Rate); i < min(length, int((fire+0.001)*r.Rate)); i++ {
					sync[i] = 5
				}
			}
		}
	}
	out.Names, out.Channels = []string{"A", "Sync"}, [][]float32{kv, sync}
	return out
}

func (c *Captured) add(d Drawn, idle bool) {
	if d.Cylinder > 0 {
		d.Idle = idle
		c.Drawn = append(c.Drawn, d)
	}
}

// draw adds one event of a cylinder to a trace and returns it. Without primary current it adds
// nothing.
func (b *Engine) draw(v []float32, rate, fire float64, p path, c engine.Cylinder, at part.Positions) Drawn {
	if b.rng.Float64() < p.open || fire*rate >= float64(len(v)) {
		return Drawn{} // nothing, or after the end of the trace
	}
	blip := int((fire - blipMS/1000) * rate)
	for k := range int(0.0005 * rate) {
		if i := blip + k; i >= 0 && i < len(v) {
			t := float64(k) / rate
			v[i] -= float32(blipKV * math.Exp(-t/8e-5) * math.Cos(2*math.Pi*9000*t))
		}
	}
	plug := b.parts[at.Serving(engine.Plug, c)]
	l := coil.Load{Breakdown: p.need * math.Exp(b.World.Scatter*b.rng.NormFloat64()), Arc: 0.8 + 0.45*plug.gapMM, SeriesKOhm: seriesKOhm}
	if lead := b.parts[at.Serving(engine.Lead, c)]; lead.ohms > 1.5 {
		l.SeriesKOhm += min(200, 6*lead.ohms)
	}
	if caps := p.caps * math.Exp(3*jitter*b.rng.NormFloat64()); caps < l.Breakdown {
		l.Breakdown, l.Arc = caps, 0.7*l.Arc // it breaks down elsewhere: a flat line to ground
	}
	have := max(1, min(p.have, 60)*math.Exp(jitter*b.rng.NormFloat64()))
	of := coil.Usual.For(have)
	of.LossMOhm = soundLoss
	if own := b.parts[at.Serving(engine.Coil, c)]; own.ohms < 0.95 && own.ohms > 0 || own.primary < 0.95 && own.primary > 0 {
		of = coil.Usual.For(shortedRise * have)
		of.LossMOhm = shortedLoss
	}
	shot := of.Fire(l, followedMS, 1/rate)
	first := int(fire * rate)
	for k, kV := range shot.KV {
		if i := first + k; i >= 0 && i < len(v) {
			v[i] += float32(kV)
		}
	}
	d := Drawn{Cylinder: c, At: fire, Firing: shot.Firing, BurnMS: shot.BurnMS, Hz: of.Hertz(), DwellMS: blipMS}
	peak := slices.Index(shot.KV, slices.Max(shot.KV))
	a, z := peak+int(0.2*shot.BurnMS/1000*rate), peak+int(0.8*shot.BurnMS/1000*rate)
	if shot.Fired && z > a && a > peak && z < len(shot.KV) {
		d.Line, d.Slope = shot.KV[(a+z)/2], (shot.KV[z]-shot.KV[a])/(1000*float64(z-a)/rate)
	}
	return d
}

// Then joins two consecutive recordings with the same channels.
func (c Captured) Then(next Captured, rate float64) Captured {
	over := int(Before * rate)
	whole := Captured{Names: c.Names, Drawn: slices.Clone(c.Drawn)}
	begin := len(c.Channels[0]) - over
	for i, v := range c.Channels {
		joined := append(slices.Clone(v[:begin]), next.Channels[i]...)
		for k := range over {
			joined[begin+k] += v[begin+k]
		}
		whole.Channels = append(whole.Channels, joined)
	}
	for _, d := range next.Drawn {
		d.At += float64(begin) / rate
		whole.Drawn = append(whole.Drawn, d)
	}
	return whole
}
