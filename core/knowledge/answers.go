package knowledge

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// RateAnswers is two answers of a test. A fault shows one or the other depending on its
// misfire rate. The row of the test states how often it shows either.
type RateAnswers struct {
	Test evidence.TestID
	// Measure names the measure that the pair applies to; "" means the plain answers of the
	// test.
	Measure evidence.MeasureID
	Modes   fault.Keys
	// Seldom is the answer at a low misfire rate, Often at a high one.
	Seldom, Often evidence.ResultID
	By            Tally
	Source        string
}

// RateAnswerRows lists the pairs (C; judgement).
var RateAnswerRows = []RateAnswers{
	{evidence.Spark, "", MissesSome, evidence.ComesAndGoes, evidence.NoSpark, InARow, "C: what takes whole sparks away takes all of them from a dead cylinder"},
	{evidence.TriggerPulse, "", MissesSome, evidence.ComesAndGoes, evidence.Missing, InARow, "C: likewise"},
	{evidence.Kilovolts, "", shortfall, evidence.InLine, evidence.Low, MostOf, "C: the usual reading is low where most sparks find another way, or fall short; the others are as ever"},
	{evidence.Kilovolts, evidence.KVSteady, shortfall, evidence.InLine, evidence.Low, MostOf, "C: likewise"},
}

// MissesSome lists the faults that show only as missing sparks. The other sparks are normal.
var MissesSome = fault.Keys{fault.CoilPrimaryOpen, fault.AnyConnector, fault.AnyModule, fault.AnyTrigger, fault.AnyDriver, fault.AnyPickup, fault.AnyStopWire}

// givesWay lists faults on the plug side that appear when a spark needs a high voltage:
// insulation that breaks down, and weak coils.
var givesWay = fault.Keys{fault.BootTracked, fault.BootTorn, fault.BootSwollen, fault.LeadLeaking, fault.CoilLeadLeaking, fault.CapTracked, fault.RotorLeaking, fault.AnySeat, fault.AnyWell,
	fault.CoilCracked, fault.CoilPrimaryShorted, fault.CoilSecondaryShorted}

// shortfall lists faults whose failing sparks show fewer kilovolts and whose good sparks show
// the normal value. The spark takes another path, or the voltage is too low for the plug.
var shortfall = slices.Concat(fault.Keys{fault.PlugCracked}, givesWay)

// Tally is the way in which a misfire rate leads to the second of two answers.
type Tally int

// The ways: a number of consecutive misfires, or a majority of misfires.
const (
	InARow Tally = iota
	MostOf
)

// Words states when the second answer is seen.
func (o Tally) Words() string {
	if o == MostOf {
		return "most events misfire"
	}
	return fmt.Sprintf("%d events in a row misfire", inARow)
}

// Parameters of the tallies (C; judgement).
const (
	inARow   = 5    // consecutive events without spark that look like no spark at all
	ofThirty = 5    // exponent of the odds that more than half of about thirty events are misfires (approximates the binomial within 0.03)
	TurnSlip = 0.03 // probability that one answer is taken for the other
)

// Of returns the probability of the second answer at a rate.
func (o Tally) Of(rate float64) float64 {
	p := math.Pow(rate, inARow)
	if o == MostOf {
		hit, miss := math.Pow(rate, ofThirty), math.Pow(1-rate, ofThirty)
		p = hit / (hit + miss)
	}
	return TurnSlip + (1-2*TurnSlip)*p
}

var _ = Register(TableOf[RateAnswers, struct{}]{
	Title: "Answers that go by the rate", In: OfTests, Ships: RateAnswerRows,
	Describe: func(t *RateAnswers) Row {
		test, _ := evidence.FindTest(t.Test)
		of := test.Words
		if m, ok := evidence.FindMeasure(t.Measure); ok {
			of = m.Words
		}
		return Row{Of: of + ", of " + modeWords(t.Modes), Source: t.Source,
			Says: fmt.Sprintf("of the two, %s as often as %s, else %s", answerWords(t.Test, t.Often), t.By.Words(), answerWords(t.Test, t.Seldom))}
	},
})

// RateAnswer is a [RateAnswers] with the indices of its answers in the rows of its test or
// measure.
type RateAnswer struct {
	By            Tally
	Seldom, Often int
}

// RateAnswerOf returns the pair that applies to a mode in a test or a measure, or nil if the
// misfire rate does not matter.
func RateAnswerOf(test evidence.TestID, measure evidence.MeasureID, mode fault.ModeID) *RateAnswer {
	for i := range RateAnswerRows {
		if t := &RateAnswerRows[i]; t.Test == test && t.Measure == measure && t.Modes.Covers(mode) {
			return &rateAnswers[i]
		}
	}
	return nil
}

// rateAnswers holds [RateAnswerRows] with indices.
var rateAnswers = func() (all []RateAnswer) {
	for _, t := range RateAnswerRows {
		place := func(id evidence.ResultID) int {
			rows := Shipped.Numbers(t.Measure)
			for i, r := range rows {
				if r.Answer == id && shownBy(rows, i, t.Modes) {
					return i
				}
			}
			return slices.Index(results(t.Test), id)
		}
		all = append(all, RateAnswer{t.By, place(t.Seldom), place(t.Often)})
	}
	return all
}()

// shownBy reports whether a mode selected by keys shows answer row i.
func shownBy(rows []*NumberRow, i int, keys fault.Keys) bool {
	for _, m := range fault.Catalogue {
		if keys.Covers(m.ID) {
			return Shows(rows, i, m.ID)
		}
	}
	return false
}
