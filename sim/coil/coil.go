// Package coil is a lumped model of an ignition coil. Primary current rises through resistance
// and inductance and is interrupted. The secondary voltage rises until the gap breaks down.
// The spark burns until its current is used up, and the remaining energy rings. Energy is
// accounted for.
package coil

import "math"

// Coil holds the parameters of a coil (SI units unless named).
type Coil struct {
	PrimaryMH, PrimaryOhm float64
	Turns                 float64 // ratio of secondary to primary turns
	PicoFarad             float64 // of the secondary with its wiring
	LossMOhm              float64 // across the secondary: damps the ringing; low with shorted turns
	SupplyV, DwellMS      float64
}

// Usual is a common coil (C; judgement: about 40 mJ and 4 kHz).
var Usual = Coil{PrimaryMH: 3, PrimaryOhm: 0.7, Turns: 90, PicoFarad: 60, LossMOhm: 2, SupplyV: 13.5, DwellMS: 3}

// Load is the load of one shot.
type Load struct {
	// Breakdown is the breakdown voltage in kilovolts, Arc the voltage of the spark
	// afterwards.
	Breakdown, Arc float64
	// SeriesKOhm is between coil and gap, ShuntMOhm across the gap; 0 means none.
	SeriesKOhm, ShuntMOhm float64
}

// Energy is the energy balance of a shot in millijoules.
type Energy struct{ Stored, Arc, Loss, Left float64 }

// Shot is one event: the secondary voltage in kV at equal time steps, from turn-off.
type Shot struct {
	KV     []float64
	Step   float64 // seconds
	Firing float64 // breakdown voltage in kV; without breakdown the maximum
	BurnMS float64 // burn time
	Fired  bool
	Energy Energy
}

const (
	rise     = 1e-7 // time step in seconds before breakdown
	coarse   = 1e-6 // and afterwards, when nothing changes as fast
	leastArc = 4e-3 // amperes: the spark goes out below this current (C; judgement)
)

// Amperes returns the primary current at the end of its dwell: i = V/R·(1 − e^(−tR/L)).
func (c Coil) Amperes() float64 {
	return c.SupplyV / c.PrimaryOhm * -math.Expm1(-c.DwellMS/1000*c.PrimaryOhm/(c.PrimaryMH/1000))
}

// Hertz returns the ringing frequency of the secondary: 1/(2π√(LC)).
func (c Coil) Hertz() float64 {
	return 1 / (2 * math.Pi * math.Sqrt(c.secondaryH()*c.PicoFarad*1e-12))
}

func (c Coil) secondaryH() float64 { return c.PrimaryMH / 1000 * c.Turns * c.Turns }

// For returns the coil with the dwell that gives a maximum secondary voltage in kilovolts
// without load.
func (c Coil) For(kV float64) Coil {
	amperes := kV * 1000 * math.Sqrt(c.PicoFarad*1e-12/(c.PrimaryMH/1000))
	if full := c.SupplyV / c.PrimaryOhm; amperes > 0.95*full {
		c.PrimaryOhm = c.SupplyV / (amperes / 0.95)
	}
	c.DwellMS = -1000 * c.PrimaryMH / 1000 / c.PrimaryOhm * math.Log1p(-amperes*c.PrimaryOhm/c.SupplyV)
	return c
}

// Sampling is how a scope takes samples.
type Sampling struct {
	// Every is the sample interval in seconds, Phase the time of the first sample after turn-off, from 0 to Every.
	Every, Phase float64
	// PeakDetect is true if the scope keeps the extreme value of each interval. Otherwise the firing peak, which is shorter
	// than a sample, falls between two samples.
	PeakDetect bool
}

// Fire interrupts the primary into a load and simulates some milliseconds; every is the sample
// interval in seconds. The peak is sampled.
func (c Coil) Fire(l Load, ms, every float64) Shot {
	return c.FireSampled(l, ms, Sampling{Every: every, PeakDetect: true})
}

// FireSampled is [Coil.Fire] with the sampling of a scope.
func (c Coil) FireSampled(l Load, ms float64, how Sampling) Shot {
	every := how.Every
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
	next, step := how.Phase, rise
	for t := 0.0; t < ms/1000; t += step {
		if t >= next {
			s.KV, next = append(s.KV, v/1000), next+every
		}
		if burning {
			// The spark holds the voltage; the inductance drives its current.
			v = (arc + i*series) / (1 + series*across)
			through := i - v*across // current of the spark
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
		// Semi-implicit steps preserve the amplitude of an undamped circuit.
		i -= v / L * step
		v += (i - lost) / C * step
		if !s.Fired && v/1000 < s.Firing {
			step = coarse // the maximum has passed
		}
		if !s.Fired {
			s.Firing = max(s.Firing, v/1000)
		}
		if !s.Fired && v >= l.Breakdown*1000 {
			s.Fired, burning, step = true, true, coarse
			to := (arc + i*series) / (1 + series*across)
			s.Energy.Arc += 500 * C * (v*v - to*to) // the capacitance discharges into the gap
			s.Firing = v / 1000
			if how.PeakDetect {
				s.KV, next = append(s.KV, s.Firing), t+every // the peak is shorter than a sample
			}
			v = to
		}
	}
	s.Energy.Left = 500 * (L*i*i + C*v*v)
	return s
}

// TurnOn is the voltage that the secondary shows when the primary is switched on: the turns ratio times the voltage across
// the inductance, of opposite polarity to the spark. It decays as the current rises and rings at first.
type TurnOn struct {
	// KV is the turns ratio times the battery voltage in kilovolts: 0.3 to 1.5 (C: 25 to 110 turns at 12 to 14 V). A diode
	// in the secondary leaves a few percent of it; a secondary with two ends shows half at each.
	KV float64
	// DecayMS is the time constant L/R of the primary: 1 to 6 ms. RingHz and RingMS are the frequency and the time constant
	// of the ringing of the leakage inductance.
	DecayMS, RingHz, RingMS float64
}

// At returns the voltage in kilovolts some milliseconds after turn-on, positive in the direction opposite to the spark.
func (o TurnOn) At(ms float64) float64 {
	if o.KV == 0 || ms < 0 {
		return 0
	}
	return o.KV * (math.Exp(-ms/o.DecayMS) - math.Exp(-ms/o.RingMS)*math.Cos(2*math.Pi*o.RingHz*ms/1000))
}
