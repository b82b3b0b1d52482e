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
	results []trial.Result
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

// asModel draws as the model has it: a fault, two of them, something else, or none.
func asModel(rng *rand.Rand) drawn {
	if rng.Float64() < fault.TwoFaults {
		return double(rng)
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

// each lists every mode on every pattern's layout, some times each.
func each(rng *rand.Rand, times int) []drawn {
	var all []drawn
	done := map[string]bool{}
	for _, p := range engine.Shelf {
		e := p.Engine()
		byMode := map[fault.ModeID][]fault.Hypothesis{}
		for _, h := range fault.Enumerate(e, fault.Complaint{}) {
			byMode[h.Mode.ID] = append(byMode[h.Mode.ID], h)
		}
		for _, m := range fault.Catalogue {
			of, key := byMode[m.ID], string(e.Ignition)+" "+string(m.ID)
			if len(of) == 0 || !named(of[0]) || done[key] {
				continue
			}
			done[key] = true
			for range times {
				all = append(all, drawn{pattern: p, hidden: []fault.Hypothesis{of[rng.IntN(len(of))]}})
			}
		}
	}
	return all
}

// run has some policies work on what was drawn, each with the same chances.
func run(seed uint64, runs []drawn, policies []trial.Policy, wrong float64) {
	parallel(len(runs), func(i int) {
		for _, p := range policies {
			var chance simulator.Rand = rand.New(rand.NewPCG(seed, uint64(i)+1)) //nolint:gosec // published seeds, nothing secret
			s := trial.Setup{Engine: runs[i].pattern.Engine(), Hidden: runs[i].hidden, Wrong: wrong, Shop: plan.Default}
			runs[i].results = append(runs[i].results, s.Run(p, chance))
		}
	})
}
