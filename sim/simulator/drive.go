package simulator

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/part"
)

// Moment is how an engine runs at one moment: the load from 0 (idle) to 1 (full), the temperature of the coolant in °C, and
// whether its ignition is wet.
type Moment struct {
	Load    float64
	Coolant float64
	Wet     bool
}

// Temperatures of the coolant (C; judgement).
const (
	coldCoolant = 15.0
	warmCoolant = 85.0
	hotCoolant  = 97.0
)

// running converts a moment to physical terms, between the conditions that a run is made in.
func (m Moment) running() running {
	warm := min(max((m.Coolant-coldCoolant)/(warmCoolant-coldCoolant), 0), 1)
	in := running{kPa: 35 + 63*m.Load, chargeK: 288 + 42*warm + 15*m.Load, load: m.Load, lean: 0.05 * (1 - warm), hot: m.Coolant >= hotCoolant, wet: m.Wet}
	if in.hot {
		in.chargeK += 20
	}
	return in
}

// Course is an engine that runs on: required kilovolts drift from block to block, and contacts stay as they were when it was
// started.
type Course struct {
	b      *Engine
	swing  float64
	rough  bool
	drift  []float64 // of each cylinder
	events []int     // of each cylinder in its block

	paths []path // of each cylinder, at a moment with the parts at their positions
	of    Moment
	at    part.Positions
}

// Start starts the engine.
func (b *Engine) Start() *Course {
	n, w := b.E.Cylinders, &b.World
	c := &Course{b: b, swing: math.Exp(w.Swing * b.rng.NormFloat64()), rough: b.rng.Float64() < w.RoughRuns, drift: make([]float64, n), events: make([]int, n)}
	for i := range c.drift {
		c.drift[i] = w.Drift * b.rng.NormFloat64()
	}
	return c
}

// Fire runs on for a number of firing events of each cylinder. It returns the true misfires of each cylinder and those that
// the control unit counts. Cylinders whose injector is cut do not fire, and are not counted.
func (c *Course) Fire(at part.Positions, m Moment, events int, cut engine.Set) (misfires, counted []int) {
	b, w := c.b, &c.b.World
	b.swing = c.swing
	defer func() { b.swing = 1 }()
	misfires, counted = make([]int, b.E.Cylinders), make([]int, b.E.Cylinders)
	c.see(at, m)
	for i, cyl := range b.E.All() {
		if cut.Has(cyl) {
			misfires[i] = events
			continue
		}
		p := c.paths[i]
		chance := p.misfires(math.Exp(c.drift[i]), w.Scatter)
		for range events {
			if c.events[i]++; c.events[i] >= blockEvents {
				c.events[i] = 0
				c.drift[i] = w.Memory*c.drift[i] + w.Drift*math.Sqrt(1-w.Memory*w.Memory)*b.rng.NormFloat64()
				chance = p.misfires(math.Exp(c.drift[i]), w.Scatter)
			}
			if b.fire(cyl, chance, c.rough, counted) {
				misfires[i]++
			}
		}
	}
	return misfires, counted
}

// see works out the paths anew where the moment differs enough from the last one.
func (c *Course) see(at part.Positions, m Moment) {
	near := math.Abs(m.Load-c.of.Load) < 0.01 && math.Abs(m.Coolant-c.of.Coolant) < 0.5 && m.Wet == c.of.Wet && (m.Coolant >= hotCoolant) == (c.of.Coolant >= hotCoolant)
	if c.paths != nil && near && at.Equal(c.at) {
		return
	}
	c.paths, c.of, c.at = c.paths[:0], m, at
	for _, cyl := range c.b.E.All() {
		c.paths = append(c.paths, c.b.path(cyl, at, m.running()))
	}
}

// Onto lets the same run go on with another engine: the one whose parts were handled.
func (c *Course) Onto(b *Engine) { c.b, c.paths = b, nil }

// Excess returns what the mixture control of a bank has to add at a moment, in per cent.
func (b *Engine) Excess(bank int, at part.Positions, m Moment) float64 {
	return min(max(b.excess(bank, at, m.running()), -40), 40)
}
