package knowledge

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/plug"
)

// Every row of every table says what it is of, what it states and where that comes from; its figures lie
// within their bounds, its shares sum to 1, and its name is its own.
func TestEveryRowIsStated(t *testing.T) {
	seen := map[string]string{}
	for _, table := range Tables() {
		rows := table.Rows()
		if len(rows) == 0 {
			t.Errorf("%s has no rows", table.Name())
		}
		for _, r := range rows {
			if r.Of == "" || r.Says == "" || r.Source == "" && table.Name() != "Sets of plugs" {
				t.Errorf("%s: %+v is not stated", table.Name(), r)
			}
			if (r.ID == "") != (len(r.Figures) == 0) {
				t.Errorf("%s: a row with a name has figures: %+v", table.Name(), r)
			}
			if other, twice := seen[r.ID]; twice && r.ID != "" {
				t.Errorf("%s names %s and %s", r.ID, other, r.Of)
			}
			seen[r.ID] = r.Of
			sum, shares := 0.0, 0
			for _, f := range r.Figures {
				if !f.Share && (*f.At < f.Least || *f.At > f.Most) {
					t.Errorf("%s: %s is %v", r.ID, f.Words, *f.At)
				}
				if f.Share {
					sum += *f.At
					shares++
				}
			}
			if shares > 0 && math.Abs(sum-1) > 1e-9 {
				t.Errorf("%s sums to %v", r.ID, sum)
			}
		}
	}
}

// The chances of a row are keyed by everything that can come, each once.
func TestChancesCoverEveryAnswer(t *testing.T) {
	for _, r := range TestRows {
		covers(t, r.RowID(), r.Answers, results(r.Test))
	}
	for _, r := range Looks {
		var all []evidence.Finding
		for _, f := range evidence.FindingsOn(r.On) {
			all = append(all, f.Finding)
		}
		covers(t, r.RowID(), r.Findings, all)
	}
	signs := slices.Concat(SoundSigns, Signs)
	for _, s := range Sets {
		signs = append(signs, s.Signs...)
	}
	for _, r := range signs {
		a, ok := plug.FindAspect(r.Aspect)
		if !ok {
			t.Errorf("%s: no such aspect", r.RowID())
		}
		var all []plug.Sign
		for _, s := range a.Signs {
			all = append(all, s.Sign)
		}
		covers(t, r.RowID(), r.Signs, all)
	}
	var shapes []WaveID
	for _, w := range Waves {
		shapes = append(shapes, w.ID)
		covers(t, string(w.ID), w.Rises, []evidence.ResultID{evidence.RisesAlike, evidence.RisesMore, evidence.RisesLess, evidence.FailsOnSnap})
	}
	for _, r := range WaveChances {
		covers(t, r.RowID(), r.Shapes, shapes)
	}
	for _, r := range ConditionProfiles {
		covers(t, r.RowID(), r.When, Conditions)
	}
	for _, r := range MeasureRows {
		var all []evidence.ResultID
		for _, n := range Shipped.Numbers(r.Measure) {
			all = append(all, n.Answer)
		}
		covers(t, r.RowID(), r.Answers, all)
	}
	share := 0.0
	for _, s := range Sets {
		share += s.Share
	}
	if math.Abs(share-1) > 1e-9 {
		t.Errorf("the kinds of set sum to %g", share)
	}
}

func covers[K comparable](t *testing.T, row string, c Chances[K], all []K) {
	t.Helper()
	sum := 0.0
	for _, k := range all {
		if c.At(k) <= 0 {
			t.Errorf("%s says nothing of %v", row, k)
		}
		sum += c.At(k)
	}
	if len(c) != len(all) || math.Abs(sum-1) > 1e-9 {
		t.Errorf("%s: %d chances of %d sum to %v", row, len(c), len(all), sum)
	}
}

// The places of answers that code goes by are those of their tests.
func TestPlacesOfAnswers(t *testing.T) {
	for i, b := range Behind {
		if results(evidence.Spark)[i] != b.Answer {
			t.Errorf("behind answer %d stands %s", i, b.Answer)
		}
	}
	for _, m := range fault.Catalogue {
		if Shipped.Severity(m.ID) == nil || Shipped.Profile(m.ID) == nil || Shipped.WaveChances(m.ID) == nil {
			t.Errorf("%s lacks a severity, a condition profile or a shape", m.ID)
		}
	}
}

// Of 31 events more than half misfire as often as the binomial distribution says (textbook).
func TestMajorityOfEventsIsBinomial(t *testing.T) {
	for rate := 0.05; rate < 1; rate += 0.05 {
		want := 0.0
		for k := 16; k <= 31; k++ {
			a, _ := math.Lgamma(32)
			b, _ := math.Lgamma(float64(k + 1))
			c, _ := math.Lgamma(float64(32 - k))
			want += math.Exp(a - b - c + float64(k)*math.Log(rate) + float64(31-k)*math.Log1p(-rate))
		}
		if got := (MostOf.Of(rate) - TurnSlip) / (1 - 2*TurnSlip); math.Abs(got-want) > 0.03 {
			t.Errorf("at %.2f: %.3f, want %.3f", rate, got, want)
		}
	}
}

// Every mode is told of by some step beside its share: a test, a look or a touch.
func TestEveryModeHasAStepThatShowsIt(t *testing.T) {
	for _, m := range fault.Catalogue {
		told := AtFault[m.ID] != "" || m.CuredByTouch > 0.3
		for _, test := range evidence.Tests {
			told = told || Shipped.States(test.ID, m.ID)
		}
		if !told && m.Unit != fault.Else && m.Unit != fault.NoFault {
			t.Errorf("no step says anything of %s", m.ID)
		}
	}
}

// What is no row, no figure or has no reason is refused, with what was expected.
func TestOwnRowsRefused(t *testing.T) {
	own := func(row string, values ...float64) Override {
		return Override{Row: row, Values: values, Reason: "x", By: "x"}
	}
	for name, c := range map[string]struct {
		o    Override
		want string
	}{
		"no such row":     {own("look:plug/blue", 1), "a row of a table"},
		"no table":        {own("weather:wet", 1), "a row of a table"},
		"no reason":       {Override{Row: "fault:plug.cracked", Values: []float64{2}, By: "x"}, "why your figures differ"},
		"nobody":          {Override{Row: "fault:plug.cracked", Values: []float64{2}, Reason: "x"}, "who says so"},
		"impossible":      {own(TestRows[0].RowID(), 1, 0, 0, 0), "weak or yellow, %: 0.1 to 100"},
		"sum is not 1":    {own(TestRows[0].RowID(), .5, .1, .1, .1), "4 chances that sum to 1"},
		"too few figures": {own(ConditionProfiles[0].RowID(), .2, .2, .2, .2, .2), "8 figures: Fails at idle, %"},
		"always sure":     {own(ConditionProfiles[0].RowID(), .2, .2, .2, .2, .2, 1, .5, .5), "always there if slight, %: 0.1 to 99.9"},
		"upside down":     {own(Thumbs[0].RowID(), 13, 6), "below the most"},
		"no spread":       {own(Gaps[0].RowID(), 0, 0), "Gap, give or take a factor of: a factor above 0"},
		"an infinite gap": {own(Gaps[0].RowID(), math.Inf(-1), 1), "Gap, as a factor: a factor above 0"},
		"not a number":    {own("fault:plug.cracked", math.NaN()), "0.05 to 20"},
		"a wild factor":   {own("fault:plug.cracked", 1000), "0.05 to 20"},
		"half a reading":  {own(NumberRows[0].RowID(), 0, 1), "3 figures: Over range, %"},
	} {
		if _, err := Believe([]Override{c.o}); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// An own row takes the place of one row and leaves the tables that ship as they were.
func TestOwnRowIsACopy(t *testing.T) {
	for _, table := range Tables() {
		for _, r := range table.Rows() {
			if r.ID == "" {
				continue
			}
			var values []float64
			before := fmt.Sprint(table.Rows())
			for _, f := range r.Figures {
				values = append(values, *f.At)
			}
			slices.Reverse(values)
			if _, err := Believe([]Override{{Row: r.ID, Values: values, Reason: "turned about", By: "Wyn"}}); err == nil && fmt.Sprint(table.Rows()) != before {
				t.Fatalf("%s changed what ships", r.ID)
			}
		}
	}
	own, err := Believe([]Override{{Row: TestRows[0].RowID(), Values: []float64{.1, .2, .3, .4}, Reason: "ours", By: "Wyn"}})
	if err != nil || !slices.Equal(own.Test(evidence.Spark, fault.CoilPrimaryOpen), []float64{.1, .2, .3, .4}) || Shipped.Test(evidence.Spark, fault.CoilPrimaryOpen)[0] != TestRows[0].Answers[0].P {
		t.Errorf("own %v, ships %v, %v", own, Shipped.Test(evidence.Spark, fault.CoilPrimaryOpen), err)
	}
}

func ExampleBelieve() {
	_, err := Believe([]Override{{Row: "fault:plug.worn-gap", Values: []float64{2}, By: "Wyn"}})
	fmt.Println(err)
	own, err := Believe([]Override{{Row: "fault:plug.worn-gap", Values: []float64{2}, Reason: "gas engines wear plugs fast", By: "Wyn"}})
	fmt.Println(own.Shares()[fault.PlugWornGap], err)
	// Output:
	// overrides[0].reason: expected why your figures differ, in a few words, at most 2000 characters, got nothing
	// 2 <nil>
}
