// Package coil is a lumped ignition coil: current builds up through resistance and inductance,
// is let go, the secondary rises through inductance and capacitance until the gap breaks down,
// the arc stands until its current is used up, and what is left rings. Energy is accounted for.
package coil

import "math"

// Coil is what a coil is made of (SI units but where named).
type Coil struct {
	PrimaryMH, PrimaryOhm float64
	Turns                 float64 // secondary for each primary
	PicoFarad             float64 // of the secondary with its wiring
	LossMOhm              float64 // across the secondary: what makes it ring down; little where turns are shorted
	SupplyV, DwellMS      float64
}

// Usual is a common coil (C; judgement: some 40 mJ and 4 kHz).
var Usual = Coil{PrimaryMH: 3, PrimaryOhm: 0.7, Turns: 90, PicoFarad: 60, LossMOhm: 2, SupplyV: 13.5, DwellMS: 3}

// Load is what a shot meets.
type Load struct {
	// Breakdown is the kilovolts at which something gives way, Arc those of the arc then.
	Breakdown, Arc float64
	// SeriesKOhm stands between coil and gap, ShuntMOhm across the gap; 0 is none.
	SeriesKOhm, ShuntMOhm float64
}

// Energy is where a shot's energy went, in millijoules.
type Energy struct{ Stored, Arc, Loss, Left float64 }

// Shot is one event: the secondary at equal steps of time, from when it is let go, in kV.
type Shot struct {
	KV     []float64
	Step   float64 // seconds
	Firing float64 // kV at which it broke down; of one that did not, the highest
	BurnMS float64 // how long the arc stood
	Fired  bool
	Energy Energy
}

const (
	rise     = 1e-7 // seconds of one step of the sums until it breaks down
	coarse   = 1e-6 // and after, when nothing is as quick any more
	leastArc = 4e-3 // amperes under which an arc goes out (C; judgement)
)

// Amperes is the primary's current at the end of its dwell: i = V/R·(1 − e^(−tR/L)).
func (c Coil) Amperes() float64 {
	return c.SupplyV / c.PrimaryOhm * -math.Expm1(-c.DwellMS/1000*c.PrimaryOhm/(c.PrimaryMH/1000))
}

// Hertz is how the secondary rings: 1/(2π√(LC)).
func (c Coil) Hertz() float64 {
	return 1 / (2 * math.Pi * math.Sqrt(c.secondaryH()*c.PicoFarad*1e-12))
}

func (c Coil) secondaryH() float64 { return c.PrimaryMH / 1000 * c.Turns * c.Turns }

// For is the coil whose stored energy would just bring its secondary to some kilovolts with
// nothing in the way: the dwell is made so.
func (c Coil) For(kV float64) Coil {
	amperes := kV * 1000 * math.Sqrt(c.PicoFarad*1e-12/(c.PrimaryMH/1000))
	if full := c.SupplyV / c.PrimaryOhm; amperes > 0.95*full {
		c.PrimaryOhm = c.SupplyV / (amperes / 0.95)
	}
	c.DwellMS = -1000 * c.PrimaryMH / 1000 / c.PrimaryOhm * math.Log1p(-amperes*c.PrimaryOhm/c.SupplyV)
	return c
}

// Fire lets the coil go into a load and follows it for some milliseconds; samples are every
// so many seconds.
func (c Coil) Fire(l Load, ms, every float64) Shot {
	s := Shot{Step: every}
	L, C := c.secondaryH(), c.PicoFarad*1e-12
	i, v := c.Amperes()/c.Turns, 0.0
	s.Energy.Stored = 500 * L * i * i
	across := 1 / (c.LossMOhm * 1e6)
	shunt := 0.0
	if l.ShuntMOhm > 0 {
		shunt = 1 / (l.ShuntMOhm * 1e6)
	}
	series, arc := l.SeriesKOhm*1000, l.Arc*1000
	burning := false
	next, step := 0.0, rise
	for t := 0.0; t < ms/1000; t += step {
		if t >= next {
			s.KV, next = append(s.KV, v/1000), next+every
		}
		if burning {
			// The arc holds the voltage; the inductance drives its current through it.
			v = (arc + i*series) / (1 + series*across)
			through := i - v*across // the arc's own current
			s.Energy.Arc += 1000 * arc * through * step
			s.Energy.Loss += 1000 * (through*through*series + v*v*across) * step
			i -= v / L * step
			s.BurnMS += 1000 * step
			if i < leastArc {
				burning = false
			}
			continue
		}
		lost := v * (across + shunt)
		s.Energy.Loss += 1000 * v * lost * step
		// Semi-implicit steps keep the swing of an undamped circuit.
		i -= v / L * step
		v += (i - lost) / C * step
		if !s.Fired && v/1000 < s.Firing {
			step = coarse // it has been as high as it gets
		}
		if !s.Fired {
			s.Firing = max(s.Firing, v/1000)
		}
		if !s.Fired && v >= l.Breakdown*1000 {
			s.Fired, burning, step = true, true, coarse
			to := (arc + i*series) / (1 + series*across)
			s.Energy.Arc += 500 * C * (v*v - to*to) // the capacitance empties into the gap
			s.Firing = v / 1000
			s.KV, next = append(s.KV, s.Firing), t+every // the peak is shorter than a sample
			v = to
		}
	}
	s.Energy.Left = 500 * (L*i*i + C*v*v)
	return s
}
