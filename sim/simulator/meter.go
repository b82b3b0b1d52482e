package simulator

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/spark"
	"glenmist/core/unit"
)

// Values of a sound engine as instruments show them (C; judgement, each within its rule of
// thumb).
const (
	primaryOhm    = 0.7
	secondaryOhm  = 9500.0
	leadOhmMetre  = 15_000.0 // carbon core
	plugOhm       = 5000.0
	springOhm     = 0.4
	wireOhm       = 0.3
	injectorOhm   = 14.5
	batteryVolts  = 12.2 // while cranking, at the post
	feedLoss      = 0.18
	groundLoss    = 0.05
	feelerMM      = 0.30
	humpAmperes   = 120.0
	gaugeBar      = 12.5
	leakPercent   = 8.0
	railBar       = 3.5
	primaryMH     = 3.0
	dwellMS       = 3.0
	chargingVolts = 13.5
)

// Properties of a simple meter (C): resistance of its leads, accuracy, highest range, and how
// often a reading catches an intermittent fault.
const (
	meterLeads  = 0.2 // ohms
	meterMost   = 2e6
	meetsIt     = 0.88
	warmestShop = 45.0 // °C of parts that are still warm
)

// Meter returns a reading of one item by a meter, gauge or clamp. Parts are given by tag,
// sites by place. The second result states how the set was read. Readings of a set belong
// together.
func (b *Engine) Meter(id evidence.MeasureID, each []evidence.Reading, at part.Positions) evidence.Readings {
	m, _ := evidence.FindMeasure(id)
	set := evidence.Readings{Measure: id}
	if m.Leads {
		set.Leads = meterLeads
	}
	if m.Copper {
		celsius := math.Round(b.between(18, warmestShop))
		set.Celsius = &celsius
	}
	if m.Length {
		set.Make = "carbon-core"
	}
	if maker, known := makers[id]; known {
		set.Maker = &maker
	}
	for _, one := range each {
		set.Each = append(set.Each, b.meter(m, one, at, set.At()))
	}
	return set
}

// Base timing of the simulated engine in crank degrees before top dead centre, by how much a fault can
// retard it, and the error of a timing lamp (C; judgement).
const (
	timingDegrees = 9.0
	lateDegrees   = 35.0
	lampError     = 0.6
)

// makers lists the maker's ranges of the simulated engine for measures that prove nothing
// without one.
var makers = map[evidence.MeasureID]evidence.Range{
	evidence.FuelBar:    {Low: 3.3, High: 3.7},
	evidence.AirGapLegs: {Low: 0.25, High: 0.4},
	evidence.BaseTiming: {Low: 8, High: 10},
	// A single cylinder has no siblings to compare with.
	evidence.CompressionDry: {Low: 0.9 * gaugeBar, High: 1.1 * gaugeBar},
}

// instrument is a meter that reads one item. Its methods return the reading with its error.
type instrument struct {
	b   *Engine
	m   evidence.Measure
	one evidence.Reading
}

func (i instrument) show(v float64) float64 {
	return round3(v * math.Exp(i.b.World.Meter*i.b.rng.NormFloat64()))
}

func (i instrument) figures(v ...float64) evidence.Reading {
	for k := range v {
		v[k] = i.show(max(0, v[k]))
	}
	i.one.Figures = v
	return i.one
}

func (i instrument) ohms(v float64) evidence.Reading {
	if v > meterMost {
		i.one.Over = true
		return i.one
	}
	if i.m.Leads {
		v += meterLeads
	}
	return i.figures(v)
}

// wire returns the resistance of a wire that is open part of the time.
func (i instrument) wire(sound, open float64) evidence.Reading {
	switch {
	case open > 0.8:
		i.one.Over = true
		return i.one
	case open > 0 && i.b.see(meetsIt):
		i.one.Jumps = true
	}
	return i.ohms(sound)
}

// meter makes one reading at a temperature.
func (b *Engine) meter(m evidence.Measure, one evidence.Reading, at part.Positions, celsius float64) evidence.Reading {
	i := instrument{b, m, one}
	if one.Tag != "" {
		return i.part(b.parts[one.Tag], celsius)
	}
	return i.site(b.sites[site{m.On, one.Place}], at)
}

// part reads a part at a temperature.
func (i instrument) part(p partState, celsius float64) evidence.Reading {
	b := i.b
	switch i.m.ID {
	case evidence.CoilPrimary:
		return i.ohms(unit.CopperAt(primaryOhm*like(p.primary), celsius) * b.alike(0.015))
	case evidence.CoilSecondary:
		return i.ohms(unit.CopperAt(secondaryOhm*like(p.ohms), celsius))
	case evidence.PrimaryRamp:
		if p.dead > 0.5 {
			return i.figures(0, 0, dwellMS)
		}
		turns := min(like(p.primary), like(p.ohms), 1) // shorted turns on either side
		ohm, mH := primaryOhm*min(like(p.primary), 3), primaryMH*turns*turns
		// i = V/R·(1 − e^(−tR/L)), as in spark.Charging.
		return i.figures(spark.Charging(chargingVolts, ohm, mH, dwellMS).Amperes*b.alike(0.02), chargingVolts/mH*b.alike(0.03), dwellMS)
	case evidence.LeadOhms, evidence.CoilLeadOhms:
		i.one.Millimetres = b.leadMM(i.one.Tag)
		return i.ohms(leadOhmMetre * i.one.Millimetres / 1000 * like(p.ohms) * b.alike(0.05))
	case evidence.PlugOhms:
		if p.wrong && p.gapMM > 1.3 { // a counterfeit without resistor
			return i.ohms(b.between(1, 60))
		}
		return i.ohms(plugOhm * b.alike(0.08))
	case evidence.SpringOhms:
		if p.seriesMM > 0 && b.see(meetsIt) {
			return i.wire(springOhm+b.logBetween(5, 2000), b.between(0.3, 1))
		}
		return i.ohms(springOhm * b.alike(0.2))
	}
	return i.one
}

// site reads a place.
func (i instrument) site(s siteState, at part.Positions) evidence.Reading {
	b, place := i.b, i.one.Place
	c, _ := place.Cylinder()
	switch i.m.ID {
	case evidence.FeedDrop:
		return b.drop(i.m, i.one, feedLoss, s, i.show)
	case evidence.GroundDrop:
		return b.drop(i.m, i.one, groundLoss, s, i.show)
	case evidence.WireOhms:
		return i.wire(wireOhm*b.alike(0.2), s.open)
	case evidence.AirGapLegs:
		gap := feelerMM * (1 + 3*s.weak)
		return i.figures(gap*b.alike(0.06), gap*b.alike(0.06))
	case evidence.BaseTiming:
		i.one.Figures = []float64{round3(timingDegrees - lateDegrees*s.late + lampError*b.rng.NormFloat64())}
		return i.one
	case evidence.StarterCurrent:
		return i.figures(humpAmperes * b.charge(place, at) * b.alike(0.02))
	case evidence.CompressionDry:
		return i.figures(gaugeBar * b.charge(place, at) * b.alike(0.025))
	case evidence.CompressionWet:
		charge := b.charge(place, at)
		if s.way == "rings" { // oil seals most of the leak
			charge += 0.5 * (1 - charge)
		}
		return i.figures(gaugeBar * charge * 1.04 * b.alike(0.025))
	case evidence.LeakDownLoss:
		if s.way != "" {
			if i.one.Heard = s.way; b.see(0.1) { // the sound is not always heard at the true place
				i.one.Heard = [3]evidence.ResultID{"valve", "rings", "gasket"}[b.rng.IntN(3)]
			}
		}
		return i.figures(min(98, leakPercent*b.alike(0.2)+90*(1-b.squeeze(c))))
	case evidence.InjectorOhms:
		return i.ohms(injectorOhm * like(s.ohms) * b.alike(0.01))
	case evidence.KVSteady:
		kv := b.fires(c, at, evidence.Idle)
		r := i.figures(kv[len(kv)/2], kv[0], kv[len(kv)-1])
		// One clamp shows all three with the same error.
		r.Figures[1], r.Figures[2] = min(r.Figures[1], r.Figures[0]), max(r.Figures[2], r.Figures[0])
		return r
	case evidence.KVSnap:
		kv := b.fires(c, at, evidence.Idle)
		snap := b.fires(c, at, evidence.Snap)
		return i.figures(kv[len(kv)/2], snap[len(snap)*3/4])
	case evidence.FuelBar:
		return i.fuel(s)
	}
	return i.one
}

// fuel reads the fuel pressure at idle and under load. Flow is proportional to the root of the
// pressure.
func (i instrument) fuel(s siteState) evidence.Reading {
	low := func(lean float64) float64 { return railBar / ((1 + lean) * (1 + lean)) }
	under := s.leanLoad
	if !i.b.see(meetsIt) { // not driven hard enough to show it
		under = s.leanIdle
	}
	return i.figures(low(s.leanIdle)*i.b.alike(0.015), low(under)*i.b.alike(0.015))
}

// drop returns the volts lost in a feed or ground under load. A poor joint loses the same
// share as the spark does. An intermittent joint makes the reading jump.
func (b *Engine) drop(m evidence.Measure, one evidence.Reading, usual float64, s siteState, show func(float64) float64) evidence.Reading {
	lost := usual * b.alike(0.3)
	switch {
	case s.weak > 0:
		lost += s.weak * batteryVolts
	case s.open > 0.02 && b.rng.Float64() < meetsIt:
		lost += s.open * batteryVolts
		one.Jumps = s.open < 0.9
	}
	lost = min(lost, batteryVolts)
	if m.ID == evidence.FeedDrop {
		post := show(batteryVolts)
		one.Figures = []float64{post, round3(max(0, post-lost))}
	} else {
		one.Figures = []float64{round3(lost)}
	}
	return one
}

// charge returns the remaining share of a cylinder's charge.
func (b *Engine) charge(at engine.Place, where part.Positions) float64 {
	c, _ := at.Cylinder()
	return b.squeeze(c) * (1 - b.parts[where.Serving(engine.Plug, c)].vent)
}

// leadMM returns the length of a lead. It is constant for each lead and differs within a set.
func (b *Engine) leadMM(t part.Tag) float64 {
	sum := 0
	for _, r := range string(t) {
		sum += int(r)
	}
	return float64(300 + 50*(sum%9))
}

// like returns a factor relative to a sound part; 1 if none is recorded.
func like(factor float64) float64 {
	if factor == 0 {
		return 1
	}
	return factor
}

// alike draws the ratio between equal parts.
func (b *Engine) alike(spread float64) float64 { return math.Exp(spread * b.rng.NormFloat64()) }

// round3 rounds to three significant digits, like a display.
func round3(v float64) float64 {
	if v <= 0 {
		return 0
	}
	scale := math.Pow(10, 2-math.Floor(math.Log10(v)))
	return math.Round(v*scale) / scale
}

// Sparks returns the result of a spark tester at some cylinders. The demand of its gap varies
// within its range. Components after the test point do not matter.
func (b *Engine) Sparks(test evidence.Sparks, places []engine.Place, at part.Positions) (evidence.Sparks, error) {
	asks, err := test.Proof()
	if err != nil {
		return test, err
	}
	test.Each = nil
	for _, place := range places {
		test.Each = append(test.Each, evidence.Sparked{Place: place, Seen: b.sparkAt(place, test.From, b.between(asks.Low, asks.High), at)})
	}
	return test, nil
}

// beyond lists the components, besides the plug, that do not affect a spark taken at an end.
var beyond = map[engine.Kind][]engine.Kind{
	engine.Coil: {engine.Boot, engine.Lead, engine.CoilLead, engine.Cap, engine.Rotor, engine.Seat, engine.Well},
}

// sparkAt returns the result of a tester with a demand in kilovolts at an end of a cylinder's
// ignition. The plug is not involved unless the tester is in line with it.
func (b *Engine) sparkAt(place engine.Place, from engine.Kind, asks float64, at part.Positions) evidence.ResultID {
	feeds, _ := b.E.Feeds(place)
	c := feeds.First()
	clean := *b
	clean.parts, clean.sites = map[part.Tag]partState{}, map[site]siteState{}
	for t, state := range b.parts {
		clean.parts[t] = state
	}
	for k, state := range b.sites {
		clean.sites[k] = state
	}
	if from != engine.Plug {
		clean.parts[at.Serving(engine.Plug, c)] = soundPart()
	}
	for _, item := range b.E.Series(c) {
		for _, k := range beyond[from] {
			switch {
			case item.Kind != k:
			case item.Part:
				clean.parts[at.In(k, item.Place)] = soundPart()
			default:
				clean.sites[site{k, item.Place}] = soundSite()
			}
		}
	}
	p := clean.path(c, at, conditions[evidence.Idle])
	have := min(p.have*cranking, p.caps) * math.Exp(0.05*b.rng.NormFloat64())
	switch {
	case p.open > 0.9 || have < asks*0.8:
		return "none"
	case p.open > fewMisses*3 || have < asks*1.05:
		return "intermittent"
	case have < asks*weakKV/testerKV:
		return "weak"
	}
	return "strong"
}

// With returns the same engine with another source of random numbers.
func (b *Engine) With(rng Rand) *Engine {
	same := *b
	same.rng = rng
	return &same
}
