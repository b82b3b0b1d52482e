package knowledge

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/spark"
)

// The rows of the spark test apply to a tester with this demand in kilovolts (C; judgement:
// about 5 mm between points). The probabilities for other testers follow from the available
// voltage of each answer.
const usualTester = 14.0

// BehindRow is the voltage that a coil can give, by answer of the usual tester. One share
// gives nothing, one is intermittent at any demand, and the rest has a median in kilovolts and
// a spread of logarithms.
type BehindRow struct {
	Answer            evidence.ResultID
	Dead, Comes       float64
	Kilovolts, Spread float64
}

// Behind lists the rows in the order of the spark test's answers (C: a sound coil gives 25 to
// 40 kV and more, a quarter of which is its spread; judgement).
var Behind = [NumSparks]BehindRow{
	SparkStrong:       {evidence.Strong, 0, 0, 33, 0.12},
	SparkWeak:         {evidence.Weak, 0, 0, 16.5, 0.10},
	SparkComesAndGoes: {evidence.ComesAndGoes, 0, 0.5, 14, 0.10},
	SparkNone:         {evidence.NoSpark, 0.5, 0, 9, 0.30},
}

// The indices of the answers of the spark test.
const (
	SparkStrong = iota
	SparkWeak
	SparkComesAndGoes
	SparkNone
	// NumSparks is the number of answers.
	NumSparks
)

var _ = Register(TableOf[BehindRow, struct{}]{
	Title: "Behind a spark", In: OfTests, Ships: Behind[:],
	Describe: func(b *BehindRow) Row {
		return Row{Of: "A coil whose spark over the usual tester is: " + answerWords(evidence.Spark, b.Answer), Source: "C; judgement",
			Says: fmt.Sprintf("gives nothing %.3g\u202f%%, comes and goes %.3g\u202f%%, else %g kV, within a factor of %.2g", 100*b.Dead, 100*b.Comes, b.Kilovolts, math.Exp(b.Spread))}
	},
})

// The look of a spark, by the ratio of available to demanded voltage (C; judgement).
const (
	jumpsAt  = 0.92  // below it there is no spark
	steadyAt = 1.05  // below it the spark is intermittent
	strongAt = 1.35  // below it the spark is weak
	Mistaken = 0.001 // probability of each wrong answer
)

// SparkChances is the probability of each answer of one tester given each answer of the usual
// tester.
type SparkChances [NumSparks][NumSparks]float64

// ThroughGap returns the probability of each answer of a tester with some demand in kilovolts,
// given each answer of the usual tester. Rows are in the order of Behind.
func ThroughGap(proof spark.Range) (t SparkChances) {
	const steps = 5
	for i, b := range Behind {
		below := func(kV float64) float64 { // probability that the available voltage is lower
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

// SeenThrough returns the probabilities of the answers of a tester.
func SeenThrough(chance []float64, t *SparkChances) (out [NumSparks]float64) {
	for i, p := range chance {
		for k := range out {
			out[k] += p * t[i][k]
		}
	}
	return out
}

// BeyondEnd lists the faults behind the end at which a spark is taken. They do not affect that
// test.
var BeyondEnd = map[engine.Kind]fault.Keys{
	engine.Coil: {fault.AnyPlug, fault.AnyBoot, fault.AnySeat, fault.AnyWell, fault.AnyLead, fault.AnyRotor, fault.AnyCap, fault.AnyCoilLead},
	engine.Boot: {fault.AnyPlug},
}
