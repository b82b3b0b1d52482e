package knowledge

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// RateAnswers is two answers of which a fault shows one or the other by how often it misfires: the row of
// the test says how often it shows either.
type RateAnswers struct {
	Test evidence.TestID
	// Measure is whose figures it holds for; none is a plain answer.
	Measure evidence.MeasureID
	Modes   fault.Keys
	// Seldom and Often are the answers of one that misfires now and then and of one that nearly always does.
	Seldom, Often evidence.ResultID
	By            Tally
	Source        string
}

// RateAnswerRows lists them (C; judgement).
var RateAnswerRows = []RateAnswers{
	{evidence.Spark, "", MissesSome, evidence.ComesAndGoes, evidence.NoSpark, InARow, "C: what takes whole sparks away takes all of them from a dead cylinder"},
	{evidence.TriggerPulse, "", MissesSome, evidence.ComesAndGoes, evidence.Missing, InARow, "C: likewise"},
	{evidence.Kilovolts, "", shortfall, evidence.InLine, evidence.Low, MostOf, "C: the usual reading is low where most sparks find another way, or fall short; the others are as ever"},
	{evidence.Kilovolts, evidence.KVSteady, shortfall, evidence.InLine, evidence.Low, MostOf, "C: likewise"},
}

// MissesSome lists the faults that show only in the sparks that are missing: what fires is as it was.
var MissesSome = fault.Keys{fault.CoilPrimaryOpen, fault.AnyConnector, fault.AnyModule, fault.AnyTrigger, fault.AnyDriver, fault.AnyPickup, fault.AnyStopWire}

// givesWay lists the faults of what serves the plug that a spark which asks for much finds: insulation
// that gives way before it, and coils that fall short.
var givesWay = fault.Keys{fault.BootTracked, fault.BootTorn, fault.BootSwollen, fault.LeadLeaking, fault.CoilLeadLeaking, fault.CapTracked, fault.RotorLeaking, fault.AnySeat, fault.AnyWell,
	fault.CoilCracked, fault.CoilPrimaryShorted, fault.CoilSecondaryShorted}

// shortfall lists the faults of which a spark that fails shows fewer kilovolts, and one that does not as
// many as ever: it finds another way, or there is not enough for the plug.
var shortfall = slices.Concat(fault.Keys{fault.PlugCracked}, givesWay)

// Tally is how the rate of a misfire comes to the second of two answers.
type Tally int

// The ways: so many events in a row misfire, or most of them do.
const (
	InARow Tally = iota
	MostOf
)

// Words say when the second answer is seen.
func (o Tally) Words() string {
	if o == MostOf {
		return "most events misfire"
	}
	return fmt.Sprintf("%d events in a row misfire", inARow)
}

// Figures of those (C; judgement).
const (
	inARow   = 5    // events without anything that pass for nothing at all
	ofThirty = 5    // power of the odds that of some thirty events more than half are such (the binomial, within 0.03)
	TurnSlip = 0.03 // that either is taken for the other
)

// Of is the chance of the second answer at a rate.
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

// RateAnswer is a [RateAnswers] with the places of its answers in the rows of its test or measure.
type RateAnswer struct {
	By            Tally
	Seldom, Often int
}

// RateAnswerOf is what holds for the answers of a test, or the figures of a measure, to a mode; nil
// where its rate does not matter.
func RateAnswerOf(test evidence.TestID, measure evidence.MeasureID, mode fault.ModeID) *RateAnswer {
	for i := range RateAnswerRows {
		if t := &RateAnswerRows[i]; t.Test == test && t.Measure == measure && t.Modes.Covers(mode) {
			return &rateAnswers[i]
		}
	}
	return nil
}

// rateAnswers is [RateAnswerRows], each with its places.
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

// shownBy says that the first mode that some keys cover shows an answer as the i-th row has it.
func shownBy(rows []*NumberRow, i int, keys fault.Keys) bool {
	for _, m := range fault.Catalogue {
		if keys.Covers(m.ID) {
			return Shows(rows, i, m.ID)
		}
	}
	return false
}
