package vehicle

import (
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/obd"
	"glenmist/core/trouble"
)

// monitor is the misfire monitor of the control unit with its codes. It judges blocks of revolutions, and stores a code when a
// fault is found in two driving cycles in succession (13 CCR 1968.2(e)(3) and (d)(2), from memory; simplified).
type monitor struct {
	e       engine.Engine
	this    []int // misfires of each cylinder in this driving cycle, or in the last one while the engine is off
	average []int // over ten driving cycles
	blocks  []block
	cut     engine.Set // cylinders whose injector is cut until the engine is stopped
	hot     map[engine.Cylinder]int

	found, pending, stored, permanent []trouble.Code
	frame                             []obd.Value
	frameCode                         trouble.Code
	lamp                              bool
	good                              int // driving cycles in succession in which the monitor found nothing
	warmUps                           int // since a fault was last found
	judged                            bool
	incomplete                        []trouble.Monitor
	cycle                             cycle
}

// block is a number of revolutions that is judged at its end.
type block struct {
	size      int // revolutions
	threshold float64
	events    int // of each cylinder so far
	counts    []int
}

// cycle is what a driving cycle has had, for what a permanent code asks.
type cycle struct {
	runs, atSpeed, idles, idledOnce float64 // seconds
	coldest                         float64
	warmedUp                        bool
}

// A driving cycle erases a permanent code if the monitor found nothing in it and it had ten minutes, five of them at 40 km/h or
// more, and half a minute of idling at a stretch (13 CCR 1968.2(d)(2.5), from memory).
const (
	properRuns    = 600.0
	properAtSpeed = 300.0
	properIdle    = 30.0
	properSpeed   = 40.0
)

// Other figures of the monitor.
const (
	cutShare   = 0.6 // of a cylinder's events in a catalyst block, twice in succession (C; judgement)
	lampOff    = 3   // good cycles
	forget     = 40  // warm-ups
	warmRise   = 22.0
	warmLeast  = 71.0
	blockShare = 0.9 // of a block's misfires on one cylinder, so that no random misfire is stored (C; judgement)
)

// others are the monitors besides that of misfires, which a proper driving cycle completes.
var others = []trouble.Monitor{"catalyst", "evaporation", "oxygen-sensor", "oxygen-heater", "exhaust-recirculation"}

// monitors are all that the control unit has.
var monitors = append([]trouble.Monitor{"misfire", "fuel-system", "components"}, others...)

func newMonitor(e engine.Engine) monitor {
	m := monitor{e: e, this: make([]int, e.Cylinders), average: make([]int, e.Cylinders), hot: map[engine.Cylinder]int{}}
	m.reset()
	return m
}

func (m *monitor) reset() {
	m.blocks = []block{{size: trouble.CatalystBlock, threshold: trouble.CatalystThreshold}, {size: trouble.EmissionsBlock, threshold: trouble.EmissionsThreshold}}
	for i := range m.blocks {
		m.blocks[i].counts = make([]int, m.e.Cylinders)
	}
}

// start begins a driving cycle.
func (m *monitor) start(coolant float64) {
	clear(m.this)
	m.found, m.cut, m.judged = nil, 0, false
	clear(m.hot)
	m.cycle = cycle{coldest: coolant}
	m.reset()
}

// stop ends it.
func (m *monitor) stop() {
	for i := range m.average {
		m.average[i] = obd.NextAverage(m.average[i], m.this[i])
	}
	m.cut = 0
	if m.cycle.warmedUp {
		m.warmUps++
	}
	if len(m.found) > 0 {
		m.good, m.warmUps = 0, 0
	} else if m.judged {
		m.good++
		m.pending = nil
		if m.good >= lampOff {
			m.lamp = false
		}
		if m.proper() && !m.lamp && len(m.stored) == 0 {
			m.permanent = nil
		}
	}
	if m.warmUps >= forget && !m.lamp {
		m.stored, m.frame, m.frameCode = nil, nil, 0
	}
	if m.proper() {
		m.incomplete = nil
	}
}

func (m *monitor) proper() bool {
	c := m.cycle
	return c.runs >= properRuns && c.atSpeed >= properAtSpeed && c.idledOnce >= properIdle
}

// tick notes what the driving cycle has.
func (m *monitor) tick(dt float64, v *Vehicle) {
	c := &m.cycle
	c.runs += dt
	if v.speed >= properSpeed {
		c.atSpeed += dt
	}
	if v.speed < 2 && v.load < 40 {
		c.idles += dt
	} else {
		c.idles = 0
	}
	c.idledOnce = max(c.idledOnce, c.idles)
	c.warmedUp = c.warmedUp || v.coolant >= warmLeast && v.coolant-c.coldest >= warmRise
}

// count takes the misfires of some firing events of each cylinder. A cylinder whose injector is cut is not watched.
func (m *monitor) count(counted []int, events int, v *Vehicle) {
	for i, n := range counted {
		if m.cut.Has(engine.Cylinder(i + 1)) {
			continue
		}
		m.this[i] = min(m.this[i]+n, 1<<16-1)
		for k := range m.blocks {
			m.blocks[k].counts[i] += n
		}
	}
	for k := range m.blocks {
		b := &m.blocks[k]
		if b.events += events; 2*b.events < b.size {
			continue
		}
		m.judge(b, v)
		b.events = 0
		clear(b.counts)
	}
}

// judge looks at a whole block.
func (m *monitor) judge(b *block, v *Vehicle) {
	if b.size == trouble.EmissionsBlock {
		m.judged = true
	} else {
		for _, c := range v.engine.CircuitCodes(v.at) {
			m.find(c, v)
		}
	}
	total, most := 0, 0
	for _, n := range b.counts {
		total, most = total+n, max(most, n)
	}
	all := float64(b.events * m.e.Cylinders)
	if 100*float64(total)/all < b.threshold {
		clear(m.hot)
		return
	}
	named := 0
	for i, n := range b.counts {
		c := engine.Cylinder(i + 1)
		if 100*float64(n)/all >= b.threshold/2 {
			m.find(trouble.MisfireOn(c), v)
			named++
		}
		if b.size != trouble.CatalystBlock {
			continue
		}
		if m.hot[c]++; float64(n) < cutShare*float64(b.events) {
			m.hot[c] = 0
		}
		if m.hot[c] >= 2 && m.e.Scanned() {
			m.cut |= engine.SetOf(c)
		}
	}
	if named == 0 || float64(most) < blockShare*float64(total) {
		m.find(trouble.RandomMisfire, v)
	}
}

// find notes a fault: pending at once, stored if it was pending from an earlier cycle.
func (m *monitor) find(c trouble.Code, v *Vehicle) {
	if slices.Contains(m.found, c) {
		return
	}
	m.found = append(m.found, c)
	m.good = 0
	if m.frame == nil {
		m.frameCode = c
		for _, pid := range framePIDs {
			if x, ok := v.figure(pid); ok {
				m.frame = append(m.frame, obd.Value{PID: pid, Value: x})
			}
		}
	}
	if !slices.Contains(m.pending, c) {
		m.pending = append(m.pending, c)
		return
	}
	m.lamp = true
	if !slices.Contains(m.stored, c) {
		m.stored = append(m.stored, c)
	}
	if !slices.Contains(m.permanent, c) {
		m.permanent = append(m.permanent, c)
	}
}

// clear erases what service $04 erases. Permanent codes stay.
func (m *monitor) clear() {
	m.found, m.pending, m.stored, m.frame, m.frameCode, m.lamp = nil, nil, nil, nil, 0, false
	m.good, m.warmUps = 0, 0
	clear(m.this)
	clear(m.average)
	m.incomplete = slices.Clone(others)
	m.reset()
}

// framePIDs are what a freeze frame holds.
var framePIDs = []obd.PID{obd.Load, obd.Coolant, obd.ShortTrim1, obd.LongTrim1, obd.ShortTrim2, obd.LongTrim2, obd.Manifold, obd.RPM, obd.Speed}

// figure returns a figure of live data; ok is false if the vehicle does not have it.
func (v *Vehicle) figure(pid obd.PID) (x float64, ok bool) {
	runs := 0.0
	if v.runs() {
		runs = 1
	}
	switch pid {
	case obd.Load:
		return runs * (v.load + 0.4*v.rng.NormFloat64()), true
	case obd.Coolant:
		return v.coolant, true
	case obd.ShortTrim1:
		return runs * v.short[0], true
	case obd.LongTrim1:
		return v.long[0], true
	case obd.ShortTrim2, obd.LongTrim2:
		if len(v.short) < 2 {
			return 0, false
		}
		if pid == obd.ShortTrim2 {
			return runs * v.short[1], true
		}
		return v.long[1], true
	case obd.Manifold:
		if !v.runs() {
			return 98, true
		}
		return 35 + 63*v.moment().Load, true
	case obd.RPM:
		return runs * max(v.rpm+8*v.rng.NormFloat64(), 0), true
	case obd.Speed:
		return v.speed, true
	case obd.Advance:
		return runs * (10 + 18*(1-v.moment().Load)), true
	case obd.IntakeAir:
		return outside + 6, true
	case obd.Throttle:
		return 4 + 0.7*v.load, true
	case obd.SinceStart:
		return runs * min((v.now-v.started).Truncate(time.Second).Seconds(), 1<<16-1), true
	case obd.SinceClear:
		return v.driven, true
	case obd.Barometer:
		return 98, true
	case obd.UnitVoltage:
		return voltsRest + runs*(voltsRun-voltsRest), true
	case obd.Ambient:
		return outside, true
	}
	return 0, false
}
