package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/spark"
	"glenmist/core/unit"
)

// TesterID identifies a kind of spark tester.
type TesterID string

// Tester is a kind of spark tester.
type Tester struct {
	ID    TesterID
	Words string
	// Short is the label of a button.
	Short string
	// Shape is the shape of the gap; "" is a lamp, which shows current but no kilovolts.
	Shape  string
	Source string
}

// Testers lists the spark testers (C).
var Testers = []Tester{
	{"open-gap", "adjustable open gap", "open gap", "points", "C"},
	{"opened-plug", "old plug, opened wide", "opened plug", "plug", "C"},
	{"good-plug", "known-good plug, grounded", "good plug", "plug", "C"},
	{"lamp", "in-line lamp", "lamp", "", "C: shows that current flows, not how many kilovolts"},
}

// FindTester finds a tester by its id.
func FindTester(id TesterID) (Tester, bool) {
	i := slices.IndexFunc(Testers, func(t Tester) bool { return t.ID == id })
	if i < 0 {
		return Tester{}, false
	}
	return Testers[i], true
}

// Sparks is a spark test of one or more cylinders.
type Sparks struct {
	Tester TesterID `json:"tester"`
	// GapMM is the gap of the tester in millimetres; 0 for a lamp.
	GapMM float64 `json:"gap_mm,omitzero"`
	// From is where the spark was taken: at the coil tower, at the end of the lead or boot, or
	// with the plug fitted.
	From engine.Kind `json:"from"`
	// Running is true if the engine ran; otherwise it was cranked.
	Running bool `json:"running,omitzero"`
	// AirKPa and AirCelsius describe the ambient air.
	AirKPa     float64   `json:"air_kpa,omitzero"`
	AirCelsius float64   `json:"air_celsius,omitzero"`
	Each       []Sparked `json:"each"`
}

// Sparked is the observation for one cylinder.
type Sparked struct {
	Place engine.Place `json:"place"`
	Seen  ResultID     `json:"seen"`
}

// Ends lists where a spark can be taken, with words.
var Ends = []struct {
	From  engine.Kind
	Words string
}{{engine.Boot, "lead or boot"}, {engine.Coil, "coil"}, {engine.Plug, "in line"}}

// lampKV is the voltage that a lamp proves: what a plug needs while cranking or at idle (C;
// judgement, about half to all of the 8 kV of a sound engine at idle).
var lampKV = spark.Range{Low: 3, High: 8}

// Proof returns the voltage in kilovolts that a spark proved: at least Low. The error is that
// of a gap outside the valid range of the formula.
func (s Sparks) Proof() (spark.Range, error) {
	t, _ := FindTester(s.Tester)
	shape, ok := spark.FindShape(t.Shape)
	if !ok {
		return lampKV, nil
	}
	return shape.Proof(s.GapMM, spark.AirDensity(s.AirKPa, s.AirCelsius))
}

// KindSparks is the kind of a [Sparks].
const KindSparks Kind = "sparks"

func init() { register(KindSparks, func() Body { return new(Sparks) }) }

// Sparks returns the body of the entry, or nil if it is of another kind.
func (e Entry) Sparks() *Sparks { return body[Sparks](e) }

// Kind returns KindSparks.
func (Sparks) Kind() Kind { return KindSparks }

// Sentence returns the test in a sentence.
func (s Sparks) Sentence() string { return s.Words() }

func (s Sparks) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	t, ok := FindTester(s.Tester)
	if !ok {
		bad.Add("tester", "open-gap, opened-plug, good-plug or lamp", invalid.Quote(string(s.Tester)))
	}
	if !slices.ContainsFunc(Ends, func(e struct {
		From  engine.Kind
		Words string
	}) bool {
		return e.From == s.From
	}) {
		bad.Add("from", "coil, boot or plug", invalid.Quote(string(s.From)))
	}
	switch {
	case ok && t.Shape == "":
		if s.GapMM != 0 {
			bad.Add("gap_mm", "nothing: a lamp has no gap", fmt.Sprint(s.GapMM))
		}
	case !(s.GapMM >= 0.1 && s.GapMM <= unit.Gap.High):
		bad.Add("gap_mm", fmt.Sprintf("the tester's gap, 0.1 to %g mm", unit.Gap.High), fmt.Sprint(s.GapMM))
	case !(s.AirKPa >= 45 && s.AirKPa <= 110):
		bad.Add("air_kpa", "the pressure of the air, 45 to 110 kPa", fmt.Sprint(s.AirKPa))
	case !(s.AirCelsius >= -60 && s.AirCelsius <= 60):
		bad.Add("air_celsius", "the temperature of the air, -60 to 60 °C", fmt.Sprint(s.AirCelsius))
	case ok:
		_, err := s.Proof()
		bad.Under("gap_mm", err)
	}
	if len(s.Each) == 0 || len(s.Each) > engine.MaxCylinders {
		bad.Add("each", "what was seen for at least one cylinder", fmt.Sprint(len(s.Each)))
		return bad
	}
	test, _ := FindTest(Spark)
	seen := map[engine.Place]bool{}
	for i, one := range s.Each {
		if !has(eng, engine.Plug, one.Place) || seen[one.Place] {
			bad.Add(fmt.Sprintf("each[%d].place", i), "a cylinder of this engine, such as cyl-1, once", invalid.Quote(string(one.Place)))
		}
		seen[one.Place] = true
		if _, ok := test.Result(one.Seen); !ok {
			bad.Add(fmt.Sprintf("each[%d].seen", i), "strong, weak, intermittent or none", invalid.Quote(string(one.Seen)))
		}
	}
	return bad.Err()
}

// Words returns the test in a sentence.
func (s Sparks) Words() string {
	t, _ := FindTester(s.Tester)
	test, _ := FindTest(Spark)
	text := "spark, " + t.Words
	if s.GapMM > 0 {
		text += fmt.Sprintf(" at %.3g mm", s.GapMM)
		if proof, err := s.Proof(); err == nil {
			text += fmt.Sprintf(", which proves %.1f kV", proof.Low)
		}
	}
	var each []string
	for _, one := range s.Each {
		answer, _ := test.Result(one.Seen)
		each = append(each, one.Place.String()+" "+answer.Words)
	}
	return text + ": " + strings.Join(each, ", ")
}
