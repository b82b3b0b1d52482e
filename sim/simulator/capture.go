package simulator

import (
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

// Recording is what the engine does while the scope records.
type Recording struct {
	When   evidence.Condition
	RPM    float64
	Cycles int
	Scope  Scope
}

// Captured is a recording with its true events.
type Captured struct {
	Names []string
	// Channels are in kilovolts; a sync is in volts.
	Channels [][]float32
	Drawn    []Drawn
	// base is the offset of the channels in kilovolts at the end.
	base float64
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
	// Strikes is the number of sparks of the event.
	Strikes int
}

// Parameters of a recorded event (C; judgement).
const (
	seriesKOhm  = 11.0 // a lead and a resistor plug
	shortedLoss = 0.4  // megohms across a secondary with shorted turns
	shortedRise = 2.35 // what it would rise to without them, over what it does: exp(ζ/√(1−ζ²)·arccos ζ), ζ = √(L/C)/2R
	soundLoss   = 2.0
	followedMS  = 6.0
	chargeMS    = 3.0
	// nextStrike is the demand of a later spark in one event, of that of the first: the gap is still ionised. leftCharge is
	// the coil's voltage for it, since there is less time to charge.
	nextStrike, leftCharge = 0.6, 0.75
	// overrunNeed is the demand with closed throttle and cut fuel, of that at idle.
	overrunNeed = 0.6
	syncName    = "Sync"
	syncVolts   = 5.0
	syncHz      = 12_000.0 // of a clamp that rings
)

// recorder adds the events of a recording to its channels.
type recorder struct {
	b        *Engine
	at       part.Positions
	r        Recording
	channels []channel
	out      Captured
}

// Capture records some cycles of all cylinders. Each channel shows its cylinders and a little of their neighbours. On wasted
// spark every cylinder has a working and an idle event in each cycle; so has a magneto of a single cylinder, whose crank
// carries the magnet.
func (b *Engine) Capture(at part.Positions, r Recording) Captured {
	rec := recorder{b: b, at: at, r: r, channels: r.Scope.channels(b.E)}
	cycle := 120 / r.RPM
	for i := range rec.channels {
		rec.channels[i].v = make([]float32, int((Before+cycle*float64(r.Cycles))*r.Scope.Rate))
		if !rec.channels[i].sync {
			r.Scope.quiet(rec.channels[i].v, b.rng)
		}
	}
	order := b.E.FiringOrder
	n := float64(len(order))
	twice := b.E.Ignition == engine.WastedSpark || b.E.Ignition == engine.Magneto && b.E.Cylinders == 1 && r.Scope.Overrun > 0
	for turn := range r.Cycles {
		need := 1.0
		if turn >= r.Cycles-r.Scope.Overrun && r.When != evidence.Snap {
			need = overrunNeed
		}
		for k, c := range order {
			fire := Before + cycle*(float64(turn)+float64(k)/n)
			p := b.path(c, at, conditions[r.When])
			p.need *= need
			rec.event(fire, p, c, false)
			if twice {
				p.need = wasteKV * b.parts[at.Serving(engine.Plug, c)].gapMM
				rec.event(fire+cycle/2, p, c, true)
			}
			if c == 1 {
				rec.sync(fire)
			}
		}
	}
	for _, c := range rec.channels {
		rec.out.Names, rec.out.Channels = append(rec.out.Names, c.name), append(rec.out.Channels, c.v)
	}
	rec.out.base = r.Scope.OffsetKV + r.Scope.DriftKV
	return rec.out
}

// IdleAndSnap records eight cycles at idle, then eight of a snap of the throttle.
func (b *Engine) IdleAndSnap(at part.Positions, s Scope) Captured {
	idle := b.Capture(at, Recording{When: evidence.Idle, RPM: 750, Cycles: 8, Scope: s})
	return idle.Then(b.Capture(at, Recording{When: evidence.Snap, RPM: 1500, Cycles: 8, Scope: s}), s.Rate)
}

// sync adds the pulse of cylinder 1.
func (rec *recorder) sync(fire float64) {
	s := rec.r.Scope
	for _, c := range rec.channels {
		if !c.sync {
			continue
		}
		first := int(fire * s.Rate)
		for i := first; i < min(len(c.v), first+int(0.005*s.Rate)); i++ {
			ms := 1000 * float64(i-first) / s.Rate
			switch {
			case s.SyncRingMS > 0:
				c.v[i] += float32(syncVolts * math.Exp(-ms/s.SyncRingMS) * math.Cos(2*math.Pi*syncHz*ms/1000))
			case ms < 1:
				c.v[i] = syncVolts
			}
		}
	}
}

// lay adds a voltage of a cylinder to the channels that show it or pick it up. at returns it in kilovolts for a sample.
func (rec *recorder) lay(c engine.Cylinder, from, n int, at func(k int) float64) {
	for _, ch := range rec.channels {
		share := 0.0
		switch {
		case ch.sync:
		case ch.of.Has(c):
			share = 1
		case rec.r.Scope.Crosstalk > 0:
			apart := math.Inf(1)
			for _, other := range ch.of.List() {
				apart = min(apart, math.Abs(float64(other)-float64(c)))
			}
			share = rec.r.Scope.Crosstalk / apart
		}
		if share == 0 {
			continue
		}
		for k := range n {
			if i := from + k; i >= 0 && i < len(ch.v) {
				ch.v[i] += float32(share * at(k))
			}
		}
	}
}

// event adds one event of a cylinder and notes it. Without primary current there is none.
func (rec *recorder) event(fire float64, p path, c engine.Cylinder, idle bool) {
	b, s := rec.b, rec.r.Scope
	if b.rng.Float64() < p.open || fire*s.Rate >= float64(len(rec.channels[0].v)) {
		return // nothing, or after the end of the trace
	}
	on := int((fire - chargeMS/1000) * s.Rate)
	rec.lay(c, on, int(chargeMS/1000*s.Rate), func(k int) float64 { return -s.TurnOn.At(1000 * float64(k) / s.Rate) })
	plug := b.parts[rec.at.Serving(engine.Plug, c)]
	l := coil.Load{Breakdown: p.need * math.Exp(b.World.Scatter*b.rng.NormFloat64()), Arc: 0.8 + 0.45*plug.gapMM, SeriesKOhm: seriesKOhm}
	if lead := b.parts[rec.at.Serving(engine.Lead, c)]; lead.ohms > 1.5 {
		l.SeriesKOhm += min(200, 6*lead.ohms)
	}
	if caps := p.caps * math.Exp(3*jitter*b.rng.NormFloat64()); caps < l.Breakdown {
		l.Breakdown, l.Arc = caps, 0.7*l.Arc // it breaks down elsewhere: a flat line to ground
	}
	have := max(1, min(p.have, 60)*math.Exp(jitter*b.rng.NormFloat64()))
	own := b.parts[rec.at.Serving(engine.Coil, c)]
	shorted := own.ohms < 0.95 && own.ohms > 0 || own.primary < 0.95 && own.primary > 0
	strikes := s.Strikes
	if rec.r.When != evidence.Idle { // only at low speed there is time for more
		strikes = 1
	}
	var d Drawn
	for strike := range max(1, strikes) {
		of := coil.Usual.For(have)
		of.LossMOhm = soundLoss
		if shorted {
			of = coil.Usual.For(shortedRise * have)
			of.LossMOhm = shortedLoss
		}
		begin := fire + float64(strike)*s.StrikeMS/1000
		first := int(math.Ceil(begin * s.Rate))
		ms := followedMS
		if strike+1 < strikes {
			ms = s.StrikeMS
		}
		shot := of.FireSampled(l, ms, coil.Sampling{Every: 1 / s.Rate, Phase: float64(first)/s.Rate - begin, PeakDetect: s.PeakDetect})
		rec.lay(c, first, len(shot.KV), func(k int) float64 { return shot.KV[k] })
		if strike == 0 {
			d = drawn(shot, of, c, fire, s.Rate)
		} else {
			d.BurnMS = 1000*(begin-fire) + shot.BurnMS
		}
		l.Breakdown *= nextStrike
		have *= leftCharge
	}
	d.Idle, d.Strikes = idle, strikes
	rec.out.Drawn = append(rec.out.Drawn, d)
}

// drawn describes a shot.
func drawn(shot coil.Shot, of coil.Coil, c engine.Cylinder, fire, rate float64) Drawn {
	d := Drawn{Cylinder: c, At: fire, Firing: shot.Firing, BurnMS: shot.BurnMS, Hz: of.Hertz(), DwellMS: chargeMS}
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
	whole := Captured{Names: c.Names, base: next.base, Drawn: slices.Clone(c.Drawn)}
	begin := len(c.Channels[0]) - over
	for i, v := range c.Channels {
		joined := append(slices.Clone(v[:begin]), next.Channels[i]...)
		for k := range over {
			joined[begin+k] += v[begin+k]
			if c.Names[i] != syncName {
				joined[begin+k] -= float32(c.base)
			}
		}
		whole.Channels = append(whole.Channels, joined)
	}
	for _, d := range next.Drawn {
		d.At += float64(begin) / rate
		whole.Drawn = append(whole.Drawn, d)
	}
	return whole
}
