package simulator

import (
	"glenmist/core/engine"
	"glenmist/core/fault"
)

// World is how engines, instruments and people behave in one run. The reasoning knows none of these figures.
type World struct {
	Name string
	// Scatter is the standard deviation of the required kilovolts between events, in logs; Drift that of their drift from
	// block to block, and Remembers its autocorrelation.
	Scatter, Drift, Remembers float64
	// Swing is the standard deviation of the rate of a contact from run to run, in logs.
	Swing float64
	// Jumps is the standard deviation of the kilovolts at which a leak breaks down, from event to event, in logs.
	Jumps float64
	// WetLeak is the factor of water on the kilovolts at which a leak breaks down; Warm is the share of a loss by heat that
	// is there while it is not hot.
	WetLeak, Warm float64
	// Detected is the share of misfires that are counted, Elsewhere the share of those counted on the cylinder that fires
	// next; RoughRoad is the chance of a false count for each event of a rough run, RoughRuns the share of rough runs.
	Detected, Elsewhere, RoughRoad, RoughRuns float64
	// Looks is how much a look tells, as a factor on the chance that a sign is seen; Meter is the error of a meter, as a share.
	Looks, Meter float64
	// Cures is how readily handling cures, 0 to 1 within the range of each fault; Breaks is the chance that a piece of work
	// leaves a new fault behind.
	Cures, Breaks float64
	// Loose is the share of drivers who state a condition at random, Mute the share who state none.
	Loose, Mute float64
	// Wrong is the chance of a wrong observation: a result at random, or a set recorded one item further on.
	Wrong float64
}

// span is a range from which a figure of an outer world is drawn, with the figure of the middle world.
type span struct{ low, middle, high float64 }

// spans lists the ranges (C; judgement, wide on purpose, from what is seen in workshops and not from any table of the
// reasoning).
var spans = []struct {
	words string
	of    span
	at    func(*World) *float64
}{
	{"scatter of the required kilovolts", span{0.05, 0.09, 0.16}, func(w *World) *float64 { return &w.Scatter }},
	{"drift of the required kilovolts", span{0.04, 0.10, 0.25}, func(w *World) *float64 { return &w.Drift }},
	{"memory of that drift", span{0.5, 0.85, 0.97}, func(w *World) *float64 { return &w.Remembers }},
	{"swing of contacts from run to run", span{0.1, 0.5, 1.4}, func(w *World) *float64 { return &w.Swing }},
	{"jumping of leaks", span{0.08, 0.22, 0.5}, func(w *World) *float64 { return &w.Jumps }},
	{"leak when wet", span{0.35, 0.55, 0.85}, func(w *World) *float64 { return &w.WetLeak }},
	{"loss by heat while warm", span{0.05, 0.25, 0.6}, func(w *World) *float64 { return &w.Warm }},
	{"misfires counted", span{0.85, 0.97, 1}, func(w *World) *float64 { return &w.Detected }},
	{"counted on the next cylinder", span{0, 0.008, 0.06}, func(w *World) *float64 { return &w.Elsewhere }},
	{"false counts on rough roads", span{0, 0.0003, 0.002}, func(w *World) *float64 { return &w.RoughRoad }},
	{"rough runs", span{0.02, 0.15, 0.4}, func(w *World) *float64 { return &w.RoughRuns }},
	{"what looks tell", span{0.6, 1, 1.15}, func(w *World) *float64 { return &w.Looks }},
	{"error of meters", span{0.003, 0.008, 0.04}, func(w *World) *float64 { return &w.Meter }},
	{"cures by handling", span{0, 0.5, 1}, func(w *World) *float64 { return &w.Cures }},
	{"faults left behind by handling", span{0, 0.01, 0.05}, func(w *World) *float64 { return &w.Breaks }},
	{"loose words", span{0, 0.15, 0.45}, func(w *World) *float64 { return &w.Loose }},
	{"nothing said", span{0, 0.2, 0.5}, func(w *World) *float64 { return &w.Mute }},
	{"wrong observations", span{0, 0.005, 0.05}, func(w *World) *float64 { return &w.Wrong }},
}

// Middle is the world in the middle of all ranges.
var Middle = func() World {
	w := World{Name: "middle"}
	for _, s := range spans {
		*s.at(&w) = s.of.middle
	}
	return w
}()

// Outer draws a foreign world: each figure lies anywhere in its range.
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

// cures lists how often handling cures a fault, from a clumsy hand to a lucky one (C; judgement of this package).
var cures = []struct {
	of        fault.Key
	low, high float64
}{
	{fault.ConnectorLoose, 0.4, 0.95}, {fault.ConnectorCorroded, 0.15, 0.7}, {fault.SeatNotHome, 0.55, 0.98}, {fault.PlugLoose, 0.7, 1},
	{fault.ModulePoorContact, 0.15, 0.65}, {fault.WellWater, 0.1, 0.6}, {fault.CoilLeadOpen, 0.1, 0.5}, {fault.BootSpring, 0.05, 0.4},
	{fault.PlugFuelFouled, 0, 0.35}, {fault.AirGapWide, 0, 0.35}, {fault.WellOil, 0, 0.2}, {fault.GroundPoor, 0, 0.25}, {fault.AnyStopWire, 0, 0.25},
	{fault.AnyLead, 0, 0.12}, {fault.AnyFeed, 0, 0.12}, {fault.AnyTrigger, 0, 0.12},
}

// cureChance is how often handling cures a fault in a world.
func (w World) cureChance(m fault.ModeID) float64 {
	for _, row := range cures {
		if row.of.Covers(m) {
			return row.low + w.Cures*(row.high-row.low)
		}
	}
	return 0
}

// leaves lists the sites and parts on which work leaves a fault behind, with the chance of each among them.
var leaves = []struct {
	kind  engine.Kind
	share float64
}{{engine.Connector, 0.4}, {engine.Seat, 0.4}, {engine.Module, 0.1}, {engine.Ground, 0.1}}
