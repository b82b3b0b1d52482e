package main

import (
	"math"
	"math/rand/v2"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
	"glenmist/sim/trial"
)

// drawn is one engine with its hidden faults, and what each policy made of it.
type drawn struct {
	pattern engine.Pattern
	hidden  []fault.Hypothesis
	world   simulator.World
	// contradict falsifies the first run after a move.
	contradict bool
	results    []trial.Result
}

// named reports whether a fault has a unit that could be named.
func named(h fault.Hypothesis) bool {
	return h.Mode.Unit != fault.Else && h.Mode.Unit != fault.NoFault
}

// pick draws a fault by its prior, each times a factor.
func pick(rng *rand.Rand, e engine.Engine, factor func(fault.Mode) float64) fault.Hypothesis {
	all := fault.Enumerate(e, fault.Complaint{})
	sum := 0.0
	for _, h := range all {
		sum += h.Prior * factor(h.Mode)
	}
	u := rng.Float64() * sum
	for _, h := range all {
		if u -= h.Prior * factor(h.Mode); u < 0 {
			return h
		}
	}
	return all[0]
}

func asStated(fault.Mode) float64 { return 1 }

// single draws a pattern of the shelf evenly, and a fault that has a unit.
func single(rng *rand.Rand, factor func(fault.Mode) float64) drawn {
	d := drawn{pattern: engine.Shelf[rng.IntN(len(engine.Shelf))]}
	for {
		if h := pick(rng, d.pattern.Engine(), factor); named(h) {
			d.hidden = []fault.Hypothesis{h}
			return d
		}
	}
}

// double draws two faults that can be at once.
func double(rng *rand.Rand) drawn {
	d := single(rng, asStated)
	home := part.Home(d.pattern.Engine())
	for {
		h := pick(rng, d.pattern.Engine(), asStated)
		times := fault.Together(&d.hidden[0], &h, h.Serves(home)&d.hidden[0].Serves(home) != 0)
		if times > 0 && rng.Float64() < times/12 { // the causes come more often
			d.hidden = append(d.hidden, h)
			return d
		}
	}
}

// setShare is the share of sets of parts at fault: those of the causes that a layout can have, about.
const setShare = 0.04

// asModel draws as the model has it: a fault, two of them, a set, something else, or none.
func asModel(rng *rand.Rand) drawn {
	switch u := rng.Float64(); {
	case u < fault.TwoFaults:
		return double(rng)
	case u < fault.TwoFaults+setShare:
		return set(rng, asStated)
	}
	d := drawn{pattern: engine.Shelf[rng.IntN(len(engine.Shelf))]}
	d.hidden = []fault.Hypothesis{pick(rng, d.pattern.Engine(), asStated)}
	return d
}

// off makes priors that are wrong by a factor of two either way, mode by mode.
func off(rng *rand.Rand) func(fault.Mode) float64 {
	by := map[fault.ModeID]float64{}
	for _, m := range fault.Catalogue {
		by[m.ID] = math.Pow(2, float64(2*rng.IntN(2)-1))
	}
	return func(m fault.Mode) float64 { return by[m.ID] }
}

// set draws a set of like parts at fault, of which some misfire: which, is drawn evenly.
func set(rng *rand.Rand, factor func(fault.Mode) float64) drawn {
	for {
		d := drawn{pattern: engine.Shelf[rng.IntN(len(engine.Shelf))]}
		e := d.pattern.Engine()
		var sick engine.Set
		for _, c := range e.All() {
			if rng.IntN(2) == 0 {
				sick |= engine.SetOf(c)
			}
		}
		if sick.Len() < 2 {
			continue
		}
		var of []fault.Hypothesis
		sum := 0.0
		for _, h := range fault.Sets(e, fault.Complaint{}, []fault.MisfireGroup{{Cylinders: sick, At: part.Home(e)}}) {
			if h.Misfiring == sick {
				of = append(of, h)
				sum += h.Prior * factor(h.Mode)
			}
		}
		u := rng.Float64() * sum
		for _, h := range of {
			if u -= h.Prior * factor(h.Mode); u < 0 {
				d.hidden = []fault.Hypothesis{h}
				return d
			}
		}
	}
}

// in puts what was drawn into the middle world, or each into an outer world of its own.
func in(rng *rand.Rand, outer bool, runs []drawn) []drawn {
	for i := range runs {
		runs[i].world = simulator.Middle
		if outer {
			runs[i].world = simulator.Outer(rng)
		}
	}
	return runs
}

// run has some policies work on what was drawn, each with the same chances.
func run(seed uint64, runs []drawn, policies []trial.Policy) {
	parallel(len(runs), func(i int) {
		for _, p := range policies {
			var chance simulator.Rand = rand.New(rand.NewPCG(seed, uint64(i)+1)) //nolint:gosec // published seeds, nothing secret
			s := trial.Setup{Engine: runs[i].pattern.Engine(), Hidden: runs[i].hidden, World: runs[i].world, Contradict: runs[i].contradict, Shop: plan.Default}
			runs[i].results = append(runs[i].results, s.Run(p, chance))
		}
	})
}
