package knowledge

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/spark"
)

// The rows of the spark test hold for a tester that asks for so many kilovolts (C;
// judgement: some 5 mm between points). What another one shows follows from what is
// available behind each answer.
const usualTester = 14.0

// BehindRow is what a coil has to give behind an answer of the usual tester: a share that gives
// nothing at all, one that comes and goes whatever is asked, and the rest with a middle and a
// spread (of logarithms) in kilovolts.
type BehindRow struct {
	Answer            evidence.ResultID
	Dead, Comes       float64
	Kilovolts, Spread float64
}

// Behind lists them in the order of the spark test's answers (C: a sound coil has 25 to 40 and more, a
// quarter of which is its spread; judgement).
var Behind = [NumSparks]BehindRow{
	SparkStrong:       {evidence.Strong, 0, 0, 33, 0.12},
	SparkWeak:         {evidence.Weak, 0, 0, 16.5, 0.10},
	SparkComesAndGoes: {evidence.ComesAndGoes, 0, 0.5, 14, 0.10},
	SparkNone:         {evidence.NoSpark, 0.5, 0, 9, 0.30},
}

// The places of the answers of the spark test, in its order.
const (
	SparkStrong = iota
	SparkWeak
	SparkComesAndGoes
	SparkNone
	// NumSparks is how many there are.
	NumSparks
)

var _ = Register(TableOf[BehindRow, struct{}]{
	Title: "Behind a spark", In: OfTests, Ships: Behind[:],
	Describe: func(b *BehindRow) Row {
		return Row{Of: "A coil whose spark over the usual tester is: " + answerWords(evidence.Spark, b.Answer), Source: "C; judgement",
			Says: fmt.Sprintf("gives nothing %.3g\u202f%%, comes and goes %.3g\u202f%%, else %g kV, within a factor of %.2g", 100*b.Dead, 100*b.Comes, b.Kilovolts, math.Exp(b.Spread))}
	},
})

// How a spark looks, by what is available over what the gap asks (C; judgement).
const (
	jumpsAt  = 0.92  // below it never
	steadyAt = 1.05  // below it now and then
	strongAt = 1.35  // below it weak
	Mistaken = 0.001 // of all sparks, each answer is given in error
)

// SparkChances is the chance of each answer of one tester given each answer of the usual one.
type SparkChances [NumSparks][NumSparks]float64

// ThroughGap is the chance of each answer of a tester that asks for some kilovolts, given
// each answer that the usual one would have: rows as in Behind.
func ThroughGap(proof spark.Range) (t SparkChances) {
	const steps = 5
	for i, b := range Behind {
		below := func(kV float64) float64 { // chance that less is available
			return 0.5 * math.Erfc(-math.Log(kV/b.Kilovolts)/b.Spread/math.Sqrt2)
		}
		for s := range steps {
			asks := proof.Low + (proof.High-proof.Low)*float64(s)/(steps-1)
			rest := (1 - b.Dead - b.Comes) / steps
			none, now, weak := below(asks*jumpsAt), below(asks*steadyAt), below(asks*strongAt)
			t[i][SparkNone] += rest*none + b.Dead/steps
			t[i][SparkComesAndGoes] += rest*(now-none) + b.Comes/steps
			t[i][SparkWeak] += rest * (weak - now)
			t[i][SparkStrong] += rest * (1 - weak)
		}
		for k := range t[i] {
			t[i][k] = (1-NumSparks*Mistaken)*t[i][k] + Mistaken
		}
	}
	return t
}

// SeenThrough is the chances of the answers through a tester.
func SeenThrough(chance []float64, t *SparkChances) (out [NumSparks]float64) {
	for i, p := range chance {
		for k := range out {
			out[k] += p * t[i][k]
		}
	}
	return out
}

// BeyondEnd lists the faults that lie beyond the end at which a spark is taken: they are
// not in the way.
var BeyondEnd = map[engine.Kind]fault.Keys{
	engine.Coil: {fault.AnyPlug, fault.AnyBoot, fault.AnySeat, fault.AnyWell, fault.AnyLead, fault.AnyRotor, fault.AnyCap, fault.AnyCoilLead},
	engine.Boot: {fault.AnyPlug},
}
