package main

import (
	"math"
	"math/rand/v2"

	"glenmist/core/diagnose"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
	"glenmist/sim/trial"
)

// bin is one ten-point bin of what was said and what was so.
type bin struct {
	From float64 `json:"from"`
	To   float64 `json:"to"`
	N    int     `json:"n"`
	Said float64 `json:"said"`
	True float64 `json:"true"`
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// guess is one suspect's probability, and whether it was so.
type guess struct {
	p  float64
	is bool
}

// leastSuspect is the probability from which a suspect can be picked: below it nearly
// all are sound, and would fill the lowest bin alone.
const leastSuspect = 0.02

// histories works through random steps of random length on hidden faults as the model
// has them, in one kind of world, and picks one suspect from each at random.
func histories(seed uint64, n int, outer bool) []guess {
	runs := make([]drawn, n)
	rng := rand.New(rand.NewPCG(seed, 77)) //nolint:gosec // published seeds, nothing secret
	for i := range runs {
		runs[i] = asModel(rng)
	}
	in(rng, outer, runs)
	out := make([]guess, n)
	parallel(n, func(i int) {
		var chance simulator.Rand = rand.New(rand.NewPCG(seed+1, uint64(i))) //nolint:gosec // likewise
		s := trial.Setup{Engine: runs[i].pattern.Engine(), Hidden: runs[i].hidden, World: runs[i].world, Shop: plan.Default}
		a := s.Wander(1+chance.IntN(12), chance)
		var of []diagnose.Suspect
		for _, suspect := range a.Suspects {
			if suspect.P >= leastSuspect && suspect.Real() {
				of = append(of, suspect)
			}
		}
		if len(of) == 0 {
			of = a.Suspects[:1]
		}
		pick := of[chance.IntN(len(of))]
		out[i] = guess{pick.P, s.Holds(pick)}
	})
	return out
}

// bins puts guesses in ten-point bins. worst is the greatest distance of what was so
// from what was said, in points, over the bins of at least enough.
func bins(all []guess, enough int) (out []bin, worst float64) {
	out = make([]bin, 10)
	for k := range out {
		out[k].From, out[k].To = float64(k)/10, float64(k+1)/10
	}
	for _, g := range all {
		b := &out[min(9, int(g.p*10))]
		b.N++
		b.Said += g.p
		b.True += one(g.is)
	}
	for k := range out {
		b := &out[k]
		if b.N == 0 {
			continue
		}
		b.Said /= float64(b.N)
		b.True /= float64(b.N)
		i := wilson(b.True, b.N)
		b.Low, b.High = i.Low, i.High
		if b.N >= enough {
			worst = math.Max(worst, 100*math.Abs(b.True-b.Said))
		}
	}
	return out, worst
}

// scores are the Brier and the mean log score of the guesses: lower is better.
func scores(all []guess) (brier, log float64) {
	for _, g := range all {
		brier += (g.p - one(g.is)) * (g.p - one(g.is))
		p := g.p
		if !g.is {
			p = 1 - p
		}
		log -= math.Log(math.Max(p, 1e-9))
	}
	n := math.Max(1, float64(len(all)))
	return brier / n, log / n
}
