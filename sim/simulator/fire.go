package simulator

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/spark"
)

// Physical parameters of a sound engine (C; judgement).
const (
	effectiveRatio = 7.0  // volume ratio at the spark (values: 5.5 to 7.5)
	jitter         = 0.05 // of the available kilovolts
	wasteKV        = 1.8  // demand of the idle plug of a pair
	leanLimit      = 1.42 // air ratio at which half of the charges do not ignite
	leanWidth      = 0.045
	richLimit      = 0.60 // the same for a rich mixture
	richWidth      = 0.03
	squeezeLimit   = 0.42 // share of the charge at which half do not ignite
	squeezeWidth   = 0.05
	shuntSource    = 0.6 // megohms: source impedance of the coil, which fouling divides
)

// path is the secondary circuit of one cylinder, in kilovolts.
type path struct {
	need, have float64 // required and available kilovolts
	caps       float64 // lowest breakdown voltage of the insulation
	open       float64 // probability of no primary current
	dark       float64 // probability that a spark does not ignite the charge
}

// path evaluates the series components of a cylinder with the parts at their positions.
func (b *Engine) path(c engine.Cylinder, at part.Positions, in running) path {
	p := path{have: sound, caps: sound}
	leak := func(kV float64) {
		if in.wet {
			kV *= b.World.WetLeak
		}
		p.caps = min(p.caps, kV)
	}
	squeeze := b.squeeze(c) * (1 - b.parts[at.Serving(engine.Plug, c)].vent)
	density := spark.Density(in.kPa, in.chargeK, effectiveRatio) * squeeze
	lean := in.lean + b.lean(c, in)
	plug := b.parts[at.Serving(engine.Plug, c)]
	p.need = plug.edge * kV(plug.gapMM, density) * (1 + 0.5*max(0, lean))
	leak(plug.crackKV)
	divide := func(mOhm float64) {
		if mOhm < sound {
			p.have *= mOhm / (mOhm + shuntSource)
		}
	}
	series := 0.0
	ok, left := 1.0, 1.0 // probability of primary current, and remaining share of the kilovolts
	for _, item := range b.E.Series(c) {
		if !item.Part {
			s := b.sites[site{item.Kind, item.Place}]
			if item.Kind != engine.Compression {
				ok *= 1 - min(1, s.open*b.swing)
			}
			leak(s.leakKV)
			left *= 1 - s.weak
			continue
		}
		s := b.parts[at.In(item.Kind, item.Place)]
		switch item.Kind {
		case engine.Coil:
			kV := s.availKV
			if in.hot {
				kV *= 1 - s.hotLoss
			} else {
				kV *= 1 - b.World.Warm*s.hotLoss
			}
			p.have = min(p.have, kV)
			ok *= 1 - s.dead
			leak(s.innerKV)
		case engine.Cap:
			if s.tracked.Has(c) {
				leak(s.leakKV)
			}
			if s.burnt == c {
				series += s.seriesMM
			}
		default:
			if item.Kind != engine.Plug {
				leak(s.leakKV)
			}
			series += s.seriesMM
		}
	}
	p.have *= left
	divide(plug.shuntMOhm)
	// The other plug of a pair is in series, on its exhaust stroke, with its lead.
	for _, mate := range (b.E.Circuit(c) &^ engine.SetOf(c)).List() {
		other := b.parts[at.Serving(engine.Plug, mate)]
		p.need += wasteKV * other.gapMM
		series += b.parts[at.Serving(engine.Lead, mate)].seriesMM
	}
	p.need += kV(series, 1)
	p.open = 1 - ok
	p.dark = 1 - (1-b.unlit(lean, squeeze))*(1-plug.poor)*(1-b.late(c))
	return p
}

// kV returns the breakdown voltage of a gap; 0 for no gap. It is constant below the valid
// range and proportional above it.
func kV(gapMM, density float64) float64 {
	const widest = 20.0 // millimetres at density 1
	if gapMM <= 0 {
		return 0
	}
	if gapMM*density > widest {
		v, _ := spark.Breakdown(widest, 1)
		return v * gapMM * density / widest
	}
	v, err := spark.Breakdown(gapMM, density)
	if err != nil {
		return 1
	}
	return v
}

func (b *Engine) squeeze(c engine.Cylinder) float64 {
	return b.sites[site{engine.Compression, engine.At(c)}].squeeze
}

// lean returns what leaks and low fuel supply add to the air ratio of a cylinder.
func (b *Engine) lean(c engine.Cylinder, in running) float64 {
	sum := 0.0
	for _, item := range b.E.Items() {
		if !item.Feeds.Has(c) || item.Part {
			continue
		}
		s := b.sites[site{item.Kind, item.Place}]
		sum += s.leanIdle*(1-in.load) + s.leanLoad*in.load
	}
	return sum
}

func (b *Engine) late(c engine.Cylinder) float64 {
	ok := 1.0
	for _, item := range b.E.Items() {
		if item.Feeds.Has(c) && !item.Part {
			s := b.sites[site{item.Kind, item.Place}]
			ok *= 1 - s.late
			if s.swapped.Has(c) {
				ok = 0
			}
		}
	}
	for _, h := range b.Hidden { // faults outside the catalogue
		if h.Mode.ID == fault.SomethingElse && h.Affected(part.Home(b.E)).Has(c) {
			ok *= 1 - b.sites[site{h.Mode.Unit, h.Place}].late
		}
	}
	return 1 - ok
}

// unlit returns the probability that a charge does not ignite: too lean, or too little.
func (b *Engine) unlit(lean, squeeze float64) float64 {
	a := 1 / (1 + math.Exp(-(1+lean-leanLimit)/leanWidth))
	r := 1 / (1 + math.Exp((1+lean-richLimit)/richWidth))
	s := 1 / (1 + math.Exp(-(squeezeLimit-squeeze)/squeezeWidth))
	return 1 - (1-a)*(1-r)*(1-s)
}

// misfires returns the probability that one firing event misfires, if the required kilovolts
// are a factor above their mean.
func (p path) misfires(factor, scatter float64) float64 {
	have := min(p.have, p.caps)
	z := (math.Log(p.need*factor) - math.Log(have)) / math.Hypot(scatter, jitter)
	noSpark := 0.5 * math.Erfc(-z/math.Sqrt2)
	return 1 - (1-p.open)*(1-noSpark)*(1-p.dark)
}

// Rate returns the mean misfire probability per firing event of a cylinder in a condition.
func (b *Engine) Rate(c engine.Cylinder, at part.Positions, when evidence.Condition) float64 {
	return b.path(c, at, conditions[when]).misfires(1, b.World.Scatter)
}

// Bursts: the required kilovolts drift from block to block of events, so that misfires cluster
// (C; judgement).
const blockEvents = 25

// Run is the true course of a run and its counters.
type Run struct {
	// Misfires and Counted have one value for each cylinder. Blocks holds the true misfires of
	// all cylinders in each block of events.
	Misfires, Counted []int
	Blocks            []int
	Events            int // of each cylinder
}

// Run runs the engine for some revolutions.
func (b *Engine) Run(at part.Positions, when evidence.Condition, revolutions int) Run {
	n, w := b.E.Cylinders, &b.World
	b.swing = math.Exp(w.Swing * b.rng.NormFloat64())
	defer func() { b.swing = 1 }()
	r := Run{Misfires: make([]int, n), Counted: make([]int, n), Events: revolutions / 2}
	rough := b.rng.Float64() < w.RoughRuns
	r.Blocks = make([]int, (r.Events+blockEvents-1)/blockEvents)
	for i, c := range b.E.All() {
		p := b.path(c, at, conditions[when])
		state := w.Drift * b.rng.NormFloat64()
		for k := range r.Blocks {
			state = w.Memory*state + w.Drift*math.Sqrt(1-w.Memory*w.Memory)*b.rng.NormFloat64()
			chance := p.misfires(math.Exp(state), w.Scatter)
			for range min(blockEvents, r.Events-k*blockEvents) {
				if b.fire(c, chance, rough, r.Counted) {
					r.Misfires[i]++
					r.Blocks[k]++
				}
			}
		}
	}
	for i := range r.Counted {
		r.Counted[i] = min(r.Counted[i], r.Events)
	}
	return r
}

// fire is one firing event of a cylinder with a probability to misfire, counted as the control unit counts it.
func (b *Engine) fire(c engine.Cylinder, chance float64, rough bool, counted []int) (misfired bool) {
	w := &b.World
	if b.rng.Float64() >= chance {
		if rough && b.rng.Float64() < w.RoughRoad {
			counted[c-1]++
		}
		return false
	}
	if b.rng.Float64() < w.Detected {
		to := int(c) - 1
		if n := b.E.Cylinders; b.rng.Float64() < w.Elsewhere && n > 1 {
			order := b.E.FiringOrder
			to = int(order[(slices.Index(order, c)+1)%n]) - 1
		}
		counted[to]++
	}
	return true
}
