package knowledge

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/spark"
)

// The rows of the spark test hold for a tester that asks for so many kilovolts (C;
// judgement: some 5 mm between points). What another one shows follows from what is
// available behind each answer.
const usualTester = 14.0

// Behind is what a coil has to give behind an answer of the usual tester: a share that gives
// nothing at all, one that comes and goes whatever is asked, and the rest with a middle and a
// spread (of logarithms) in kilovolts (C: a sound coil has 25 to 40 and more, a quarter of which is its spread; judgement).
var Behind = []struct {
	Answer            evidence.ResultID
	Dead, Comes       float64
	Kilovolts, Spread float64
}{
	{"strong", 0, 0, 33, 0.12},
	{"weak", 0, 0, 16.5, 0.10},
	{"intermittent", 0, 0.5, 14, 0.10},
	{"none", 0.5, 0, 9, 0.30},
}

// How a spark looks, by what is available over what the gap asks (C; judgement).
const (
	jumpsAt  = 0.92  // below it never
	steadyAt = 1.05  // below it now and then
	strongAt = 1.35  // below it weak
	Mistaken = 0.001 // of all sparks, each answer is given in error
)

// throughGap is the chance of each answer of a tester that asks for some kilovolts, given
// each answer that the usual one would have: rows as in Behind.
func ThroughGap(proof spark.Range) (t [4][4]float64) {
	const steps = 5
	for i, b := range Behind {
		below := func(kV float64) float64 { // chance that less is available
			return 0.5 * math.Erfc(-math.Log(kV/b.Kilovolts)/b.Spread/math.Sqrt2)
		}
		for s := range steps {
			asks := proof.Low + (proof.High-proof.Low)*float64(s)/(steps-1)
			rest := (1 - b.Dead - b.Comes) / steps
			none, now, weak := below(asks*jumpsAt), below(asks*steadyAt), below(asks*strongAt)
			t[i][3] += rest*none + b.Dead/steps
			t[i][2] += rest*(now-none) + b.Comes/steps
			t[i][1] += rest * (weak - now)
			t[i][0] += rest * (1 - weak)
		}
		for k := range t[i] {
			t[i][k] = (1-4*Mistaken)*t[i][k] + Mistaken
		}
	}
	return t
}

// seenThrough is the chances of the answers through a tester.
func SeenThrough(chance []float64, t *[4][4]float64) (out [4]float64) {
	for i, p := range chance {
		for k := range out {
			out[k] += p * t[i][k]
		}
	}
	return out
}

// beyondEnd lists the faults that lie beyond the end at which a spark is taken: they are
// not in the way.
var BeyondEnd = map[engine.Kind][]string{
	engine.Coil: {"plug", "boot", "seat", "well", "lead", "rotor", "cap", "coil-lead"},
	engine.Boot: {"plug"},
}
