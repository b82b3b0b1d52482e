package knowledge

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/evidence"
)

// RateAnswers is two answers of which a fault shows one or the other by how often it misfires: the row of
// the test says how often it shows either.
type RateAnswers struct {
	Test evidence.TestID
	// Measure is whose figures it holds for; none is a plain answer.
	Measure evidence.MeasureID
	Modes   []string
	// Seldom and Often are the answers of one that misfires now and then and of one that nearly always does.
	Seldom, Often evidence.ResultID
	By            Tally
	Source        string
}

// RateAnswerRows lists them (C; judgement).
var RateAnswerRows = []RateAnswers{
	{evidence.Spark, "", MissesSome, "intermittent", "none", InARow, "C: what takes whole sparks away takes all of them from a dead cylinder"},
	{evidence.TriggerPulse, "", MissesSome, "intermittent", "missing", InARow, "C: likewise"},
	{evidence.Kilovolts, "", shortfall, "in-line", "low", MostOf, "C: the usual reading is low where most sparks find another way, or fall short; the others are as ever"},
	{evidence.Kilovolts, evidence.KVSteady, shortfall, "in-line", "low", MostOf, "C: likewise"},
}

// missesSome lists the faults that show only in the sparks that are missing: what fires is as it was.
var MissesSome = []string{"coil.primary-open", "connector", "module", "trigger", "driver", "pickup", "stop-wire"}

// givesWay lists the faults of what serves the plug that a spark which asks for much finds: insulation
// that gives way before it, and coils that fall short.
var givesWay = []string{"boot.tracked", "boot.torn", "boot.swollen", "lead.leaking", "coil-lead.leaking", "cap.tracked", "rotor.leaking", "seat", "well",
	"coil.cracked", "coil.primary-shorted", "coil.secondary-shorted"}

// shortfall lists the faults of which a spark that fails shows fewer kilovolts, and one that does not as
// many as ever: it finds another way, or there is not enough for the plug.
var shortfall = slices.Concat([]string{"plug.cracked"}, givesWay)

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

// of is the chance of the second answer at a rate.
func (o Tally) Of(rate float64) float64 {
	p := math.Pow(rate, inARow)
	if o == MostOf {
		hit, miss := math.Pow(rate, ofThirty), math.Pow(1-rate, ofThirty)
		p = hit / (hit + miss)
	}
	return TurnSlip + (1-2*TurnSlip)*p
}

// turn is a [RateAnswers] with the places of its answers in the rows of its test or measure.
type RateAnswer struct {
	By            Tally
	Seldom, Often int
}

// turned is what holds for the answers of a test, or the figures of a measure, to a mode; nil where
// its rate does not matter.
func RateAnswerOf(test evidence.TestID, measure evidence.MeasureID, mode string) *RateAnswer {
	for i := range RateAnswerRows {
		if t := &RateAnswerRows[i]; t.Test == test && t.Measure == measure && Matches(t.Modes, mode) {
			return &turns[i]
		}
	}
	return nil
}

// turns is Turns, each with its places.
var turns = func() []RateAnswer {
	var all []RateAnswer
	for _, t := range RateAnswerRows {
		index := func(id evidence.ResultID) int {
			for i, r := range ReadingRows[t.Measure] {
				if r.Answer == id && Shows(ReadingRows[t.Measure], i, t.Modes[0]) {
					return i
				}
			}
			test, _ := evidence.FindTest(t.Test)
			return slices.IndexFunc(test.Results, func(r evidence.Result) bool { return r.ID == id })
		}
		all = append(all, RateAnswer{t.By, index(t.Seldom), index(t.Often)})
	}
	return all
}()
