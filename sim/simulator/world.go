package simulator

import (
	"glenmist/core/engine"
	"glenmist/core/fault"
)

// World is the behaviour of engines, instruments and people in one run. The reasoning knows none of these figures.
type World struct {
	Name string
	// Scatter is the standard deviation of the log of the required kilovolts between events, Drift that of its drift
	// between blocks of events, Memory the autocorrelation of the drift.
	Scatter, Drift, Memory float64
	// Swing is the standard deviation of the log rate of a contact between runs.
	Swing float64
	// Jumps is the standard deviation of the log of a leak's breakdown kilovolts between events.
	Jumps float64
	// WetLeak is the factor of water on the breakdown kilovolts of a leak. Warm is the share of a heat loss that is present
	// below operating heat.
	WetLeak, Warm float64
	// Detected is the share of misfires that are counted, Elsewhere the share of those that are counted on the cylinder that
	// fires next. RoughRoad is the probability of a false count per event of a rough run, RoughRuns the share of such runs.
	Detected, Elsewhere, RoughRoad, RoughRuns float64
	// Looks is a factor on the probability that a sign is seen. Meter is the relative error of a meter.
	Looks, Meter float64
	// Cures places the probability that handling cures within the range of each fault, 0 to 1. Breaks is the probability
	// that a piece of work causes a new fault.
	Cures, Breaks float64
	// Loose is the share of drivers who state a condition at random, Unstated the share who state none.
	Loose, Unstated float64
	// Wrong is the probability of a wrong observation: a random result, or counters shifted by one cylinder.
	Wrong float64
}

// span is the range of a figure in outer worlds, and its value in the middle world.
type span struct{ low, middle, high float64 }

// spans lists the ranges (C; judgement: wide, from workshop experience and not from a table of the reasoning).
var spans = []struct {
	words string
	of    span
	at    func(*World) *float64
}{
	{"scatter of the required kilovolts", span{0.05, 0.09, 0.16}, func(w *World) *float64 { return &w.Scatter }},
	{"drift of the required kilovolts", span{0.04, 0.10, 0.25}, func(w *World) *float64 { return &w.Drift }},
	{"autocorrelation of that drift", span{0.5, 0.85, 0.97}, func(w *World) *float64 { return &w.Memory }},
	{"variation of contacts between runs", span{0.1, 0.5, 1.4}, func(w *World) *float64 { return &w.Swing }},
	{"scatter of a leak's breakdown", span{0.08, 0.22, 0.5}, func(w *World) *float64 { return &w.Jumps }},
	{"factor of water on a leak", span{0.35, 0.55, 0.85}, func(w *World) *float64 { return &w.WetLeak }},
	{"share of a heat loss while warm", span{0.05, 0.25, 0.6}, func(w *World) *float64 { return &w.Warm }},
	{"misfires counted", span{0.85, 0.97, 1}, func(w *World) *float64 { return &w.Detected }},
	{"counted on the next cylinder", span{0, 0.008, 0.06}, func(w *World) *float64 { return &w.Elsewhere }},
	{"false counts on rough roads", span{0, 0.0003, 0.002}, func(w *World) *float64 { return &w.RoughRoad }},
	{"rough runs", span{0.02, 0.15, 0.4}, func(w *World) *float64 { return &w.RoughRuns }},
	{"factor on visible signs", span{0.6, 1, 1.15}, func(w *World) *float64 { return &w.Looks }},
	{"relative error of meters", span{0.003, 0.008, 0.04}, func(w *World) *float64 { return &w.Meter }},
	{"cures by handling", span{0, 0.5, 1}, func(w *World) *float64 { return &w.Cures }},
	{"faults caused by handling", span{0, 0.01, 0.05}, func(w *World) *float64 { return &w.Breaks }},
	{"random statements", span{0, 0.15, 0.45}, func(w *World) *float64 { return &w.Loose }},
	{"no statement", span{0, 0.2, 0.5}, func(w *World) *float64 { return &w.Unstated }},
	{"wrong observations", span{0, 0.005, 0.05}, func(w *World) *float64 { return &w.Wrong }},
}

// Middle is the world with the middle value of every figure.
var Middle = func() World {
	w := World{Name: "middle"}
	for _, s := range spans {
		*s.at(&w) = s.of.middle
	}
	return w
}()

// Outer draws an outer world: each figure is uniform in its range.
func Outer(rng Rand) World {
	w := World{Name: "outer"}
	for _, s := range spans {
		*s.at(&w) = s.of.low + (s.of.high-s.of.low)*rng.Float64()
	}
	return w
}

// Span is one range of the worlds, for display.
type Span struct {
	Words             string
	Low, Middle, High float64
}

// Spans lists the ranges of the worlds.
func Spans() (all []Span) {
	for _, s := range spans {
		all = append(all, Span{s.words, s.of.low, s.of.middle, s.of.high})
	}
	return all
}

// cures lists the range of the probability that handling cures a fault (C; judgement of this package).
var cures = []struct {
	of        fault.Key
	low, high float64
}{
	{fault.ConnectorLoose, 0.4, 0.95}, {fault.ConnectorCorroded, 0.15, 0.7}, {fault.SeatNotHome, 0.55, 0.98}, {fault.PlugLoose, 0.7, 1},
	{fault.ModulePoorContact, 0.15, 0.65}, {fault.WellWater, 0.1, 0.6}, {fault.CoilLeadOpen, 0.1, 0.5}, {fault.BootSpring, 0.05, 0.4},
	{fault.PlugFuelFouled, 0, 0.35}, {fault.AirGapWide, 0, 0.35}, {fault.WellOil, 0, 0.2}, {fault.GroundPoor, 0, 0.25}, {fault.AnyStopWire, 0, 0.25},
	{fault.AnyLead, 0, 0.12}, {fault.AnyFeed, 0, 0.12}, {fault.AnyTrigger, 0, 0.12},
}

// cureChance returns the probability that handling cures a fault.
func (w World) cureChance(m fault.ModeID) float64 {
	for _, row := range cures {
		if row.of.Covers(m) {
			return row.low + w.Cures*(row.high-row.low)
		}
	}
	return 0
}

// leaves lists the sites where work causes faults, with the share of each (C; judgement).
var leaves = []struct {
	kind  engine.Kind
	share float64
}{{engine.Connector, 0.4}, {engine.Seat, 0.4}, {engine.Module, 0.1}, {engine.Ground, 0.1}}

// Tuning draws a world for fitting tables: each figure is uniform in the middle two thirds of its range, so that the outer
// worlds have values that no table was fitted to.
func Tuning(rng Rand) World {
	w := World{Name: "tuning"}
	for _, s := range spans {
		low, high := s.of.low+(s.of.middle-s.of.low)/3, s.of.high-(s.of.high-s.of.middle)/3
		*s.at(&w) = low + (high-low)*rng.Float64()
	}
	return w
}
