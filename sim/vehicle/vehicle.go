// Package vehicle is a simulated vehicle on a diagnostic bus: a simulated engine that is driven, and control units that watch it
// and answer a tester. Its control unit knows only what a real one does: counts of misfires, figures, and times.
package vehicle

import (
	"math"
	"time"

	"glenmist/core/part"
	"glenmist/sim/simulator"
)

// Doing is what the driver does.
type Doing string

// What a driver can do. Off is ignition on, engine off.
const (
	Off  Doing = "off"
	Idle Doing = "idle"
	Road Doing = "road"
	Hill Doing = "hill"
)

// driving lists engine speed in rpm, load in per cent, vehicle speed in km/h and the temperature that the coolant tends to in °C
// (C; judgement).
var driving = map[Doing]struct{ rpm, load, speed, coolant float64 }{
	Off:  {0, 0, 0, outside},
	Idle: {720, 22, 0, 90},
	Road: {1950, 36, 58, 91},
	Hill: {2450, 86, 46, 104},
}

// Doings lists what a driver can do, in order.
var Doings = []Doing{Off, Idle, Road, Hill}

// Figures of the body (C; judgement).
const (
	outside   = 14.0 // °C
	step      = 100 * time.Millisecond
	rpmLag    = 0.9 // seconds
	loadLag   = 0.8
	speedLag  = 6.0
	warmLag   = 190.0
	coolLag   = 5400.0
	coldRPM   = 380.0 // more at a cold idle
	coldLoad  = 12.0
	stalls    = 60.0 // rpm below which the engine stands
	voltsRun  = 14.1
	voltsRest = 12.4
)

// Vehicle is a vehicle with its control units. It is not safe for concurrent use.
type Vehicle struct {
	engine *simulator.Engine
	at     part.Positions
	rng    simulator.Rand
	course *simulator.Course // nil while the engine stands

	doing                     Doing
	wet                       bool
	now, started              time.Duration
	rpm, load, speed, coolant float64
	events                    float64 // of one cylinder, not fired yet
	mono                      monitor
	engineUnit, gearUnit      unitState
	short, long               []float64 // fuel trims by bank
	driven                    float64   // km since cleared
}

// New returns a vehicle that stands warm with its engine off, with its parts at their positions.
func New(b *simulator.Engine, at part.Positions, rng simulator.Rand) *Vehicle {
	banks := b.E.Banks()
	v := &Vehicle{engine: b, at: at, rng: rng, doing: Off, coolant: 86, short: make([]float64, banks), long: make([]float64, banks)}
	v.mono = newMonitor(b.E)
	v.engineUnit, v.gearUnit = newUnits()
	return v
}

// Refit puts the engine as it is after work on it in place of the former one. Counts, codes and trims stay.
func (v *Vehicle) Refit(b *simulator.Engine, at part.Positions) {
	v.engine, v.at = b, at
	if v.course != nil {
		v.course.Onto(b)
	}
}

// Drive changes what the driver does.
func (v *Vehicle) Drive(d Doing) { v.doing = d }

// Doing returns what the driver does.
func (v *Vehicle) Doing() Doing { return v.doing }

// Wet says whether the ignition is wet.
func (v *Vehicle) Wet(wet bool) { v.wet = wet }

// Cool lets the vehicle stand overnight: the engine is off and cold, and its driving cycle has ended.
func (v *Vehicle) Cool() {
	v.doing = Off
	for v.rpm >= stalls {
		v.step()
	}
	v.coolant = outside + 1
	v.now += 10 * time.Hour
}

// Now returns the time of the vehicle.
func (v *Vehicle) Now() time.Duration { return v.now }

// runs reports whether the engine runs.
func (v *Vehicle) runs() bool { return v.course != nil }

// moment is how the engine runs now.
func (v *Vehicle) moment() simulator.Moment {
	idle := driving[Idle].load
	return simulator.Moment{Load: min(max((v.load-idle)/(100-idle), 0), 1), Coolant: v.coolant, Wet: v.wet}
}

// Advance lets time pass.
func (v *Vehicle) Advance(d time.Duration) {
	for ; d >= step; d -= step {
		v.step()
	}
}

func (v *Vehicle) step() {
	v.now += step
	dt := step.Seconds()
	to := driving[v.doing]
	cold := min(max((70-v.coolant)/55, 0), 1)
	if v.doing == Idle {
		to.rpm += coldRPM * cold
		to.load += coldLoad * cold
	}
	toward(&v.rpm, to.rpm, dt, rpmLag)
	toward(&v.load, to.load, dt, loadLag)
	toward(&v.speed, to.speed, dt, speedLag)
	lag := warmLag
	if v.doing == Off {
		lag = coolLag
	}
	toward(&v.coolant, to.coolant, dt, lag)
	v.driven += v.speed / 3600 * dt
	switch {
	case v.rpm < stalls && v.course != nil:
		v.course = nil
		v.mono.stop()
	case v.rpm >= stalls && v.course == nil && v.doing != Off:
		v.course = v.engine.Start()
		v.started, v.events = v.now, 0
		v.mono.start(v.coolant)
	}
	if v.course == nil {
		return
	}
	v.events += v.rpm / 120 * dt
	n := int(v.events)
	v.events -= float64(n)
	if n > 0 {
		_, counted := v.course.Fire(v.at, v.moment(), n, v.mono.cut)
		v.mono.count(counted, n, v)
	}
	v.mono.tick(dt, v)
	v.trim(dt)
}

func toward(x *float64, to, dt, lag float64) { *x += (to - *x) * (1 - math.Exp(-dt/lag)) }

// trim adapts the mixture: the short trim follows at once, the long one takes it over slowly. While an injector is cut the
// control loop is open.
func (v *Vehicle) trim(dt float64) {
	if int(v.now/step)%10 != 0 {
		return
	}
	for i := range v.short {
		if v.mono.cut != 0 {
			v.short[i] = 0
			continue
		}
		need := v.engine.Excess(i+1, v.at, v.moment())
		v.short[i] = min(max(need-v.long[i]+0.8*v.rng.NormFloat64(), -25), 25)
		v.long[i] = min(max(v.long[i]+v.short[i]*(10*dt)/40, -25), 25)
	}
}

// Lead drives the vehicle for a number of driving cycles of nine minutes, before the tester is connected, and leaves it warm with
// the engine off. wet states whether the ignition was wet.
func (v *Vehicle) Lead(cycles int, wet bool) {
	v.wet = wet
	for range cycles {
		v.coolant = 30
		for _, leg := range []struct {
			do   Doing
			time time.Duration
		}{{Idle, 2 * time.Minute}, {Road, 3 * time.Minute}, {Hill, 2 * time.Minute}, {Road, time.Minute}, {Idle, time.Minute}, {Off, 10 * time.Second}} {
			v.Drive(leg.do)
			v.Advance(leg.time)
		}
	}
	v.wet = false
}
