package shop

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/knowledge"
	"glenmist/core/plan"
)

func traced(t *testing.T) job.Job {
	t.Helper()
	p, ok := engine.FindPattern("four-across")
	if !ok {
		t.Fatal("no such pattern")
	}
	j := job.Job{Vehicle: job.Vehicle{Engine: p.Engine()}}
	j.Ledger = evidence.Ledger{{Seq: 1, Body: &evidence.Codes{}}, {Seq: 2, Body: &evidence.Counters{Revolutions: 3000, Counts: []int{0, 0, 240, 0}, Fresh: true}}}
	return j
}

// What cannot be used is refused at its field, and the default can be used.
func TestSettingsAreChecked(t *testing.T) {
	if err := Default().Validate(); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		change func(*Settings)
		want   string
	}{
		"free work":     {func(s *Settings) { s.HourlyRate = 0 }, "hourly_rate: expected what an hour of work costs"},
		"no number":     {func(s *Settings) { s.WrongVerdict = math.NaN() }, "wrong_verdict_minutes: expected minutes"},
		"below zero":    {func(s *Settings) { s.WrongVerdict = -1 }, "wrong_verdict_minutes"},
		"unknown tool":  {func(s *Settings) { s.Missing = []string{"divining rod"} }, "tools that a step asks for"},
		"unknown row":   {func(s *Settings) { s.Rows = []knowledge.Override{{Row: "step:nap", Values: []float64{1}}} }, "a row of a table"},
		"too many rows": {func(s *Settings) { s.Rows = make([]knowledge.Override, knowledge.MaxOverrides+1) }, "at most 200 rows"},
	} {
		s := Default()
		c.change(&s)
		if err := s.Validate(); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// The bounds themselves can be used.
func TestSettingsAtTheirBounds(t *testing.T) {
	for _, s := range []Settings{{HourlyRate: LeastRate}, {HourlyRate: MostRate, WrongVerdict: MostWrong}} {
		if err := s.Validate(); err != nil {
			t.Errorf("%+v: %v", s, err)
		}
	}
}

// Each tool is listed once, in the order of the alphabet.
func TestToolsAreListedOnce(t *testing.T) {
	tools := ToolNames()
	if len(tools) < 10 || !slices.IsSorted(tools) || len(slices.Compact(slices.Clone(tools))) != len(tools) {
		t.Errorf("%q", tools)
	}
}

// A row of its own replaces the one before it, and goes again.
func TestRowsComeAndGo(t *testing.T) {
	row := func(minutes float64) knowledge.Override {
		return knowledge.Override{Row: "step:swap.coil", Values: []float64{minutes}, Reason: "two hands", By: "Wyn"}
	}
	s := Default().With(row(9)).With(row(8))
	if o, ok := s.Own("step:swap.coil"); !ok || len(s.Rows) != 1 || o.Values[0] != 8 {
		t.Errorf("own rows: %+v", s.Rows)
	}
	if m := plan.StepMinutes(s.Beliefs(), plan.SwapCoil); m != 8 {
		t.Errorf("a step of %v minutes", m)
	}
	if s = s.Without("step:swap.coil"); len(s.Rows) != 0 || s.Beliefs() != knowledge.Shipped {
		t.Errorf("still there: %+v", s.Rows)
	}
}

// A row that a later version has no place for does not take the others with it.
func TestRowsThatHaveGone(t *testing.T) {
	good := knowledge.Override{Row: "step:swap.coil", Values: []float64{9}, Reason: "two hands", By: "Wyn"}
	split := knowledge.Override{Row: "severity:trigger+connector", Values: []float64{.1, .1, .2, .2, .2, .2}, Reason: "salt", By: "Wyn"}
	s := Default().With(split).With(good)
	if m := plan.StepMinutes(s.Beliefs(), plan.SwapCoil); m != 9 {
		t.Errorf("a step of %v minutes", m)
	}
	current, gone := s.Current()
	if len(gone) != 1 || gone[0].Row != split.Row || len(current.Rows) != 1 || current.Validate() != nil {
		t.Errorf("kept %+v, gone %+v, %v", current.Rows, gone, current.Validate())
	}
}

// The plan is made for the workshop: no step without its tool, its own minutes on the
// card, and with a high penalty more testing is worth its minutes.
func TestThePlanIsTheWorkshops(t *testing.T) {
	j := traced(t)
	made := func(s Settings) plan.Plan { return s.Plan().Plan(j, diagnose.AssessBy(s.Beliefs(), j)) }
	uses := func(p plan.Plan, tool string) bool {
		return slices.ContainsFunc(p.Steps(), func(c plan.Card) bool { return slices.Contains(c.Step.Tools, tool) })
	}
	for _, tool := range []string{"spark tester", "plug socket", "smoke machine"} {
		s := Default()
		if !uses(made(s), tool) {
			t.Errorf("no step uses the %s", tool)
		}
		if s.Missing = []string{tool}; uses(made(s), tool) {
			t.Errorf("a step uses the %s, which is not at hand", tool)
		}
	}
	own := Default().With(knowledge.Override{Row: "step:swap.coil", Values: []float64{3}, Reason: "bare engine", By: "Wyn"})
	at := func(p plan.Plan) float64 {
		i := slices.IndexFunc(p.Steps(), func(c plan.Card) bool { return c.Step.ID == plan.SwapCoil })
		return p.Steps()[i].Minutes
	}
	if got, was := at(made(own)), at(made(Default())); got != was-9 {
		t.Errorf("%v minutes of %v", got, was)
	}
	dear := Default().With(knowledge.Override{Row: "repair:plug", Values: []float64{12, 400}, Reason: "only from the maker", By: "Wyn"})
	if p, q := made(dear), made(Default()); p.Without <= q.Without+20 {
		t.Errorf("with plugs at 400 it is %v in vain, at 12 it is %v", p.Without, q.Without)
	}
	careful := Default()
	careful.WrongVerdict = 600
	if p, q := made(careful), made(Default()); p.Without <= q.Without || p.Without-p.With <= q.Without-q.With {
		t.Errorf("a dear mistake makes testing worth %v, a cheap one %v", p.Without-p.With, q.Without-q.With)
	}
}

// A workshop's own minutes and price of a repair count, in its plans only.
func TestOwnRepair(t *testing.T) {
	own := Default().With(knowledge.Override{Row: "repair:coil", Values: []float64{15, 90}, Reason: "deep wells", By: "Wyn"})
	if err := own.Validate(); err != nil {
		t.Fatal(err)
	}
	if r := plan.RepairOf(own.Beliefs(), engine.Coil); r.Minutes != 15 || r.Price != 90 {
		t.Errorf("%+v", r)
	}
	if r := plan.RepairOf(knowledge.Shipped, engine.Coil); r.Minutes == 15 || r.Price == 90 {
		t.Errorf("the tables that ship have a workshop's own figures: %+v", r)
	}
	for name, values := range map[string][]float64{"no price": {9}, "no minutes": {0, 9}, "no money": {9, -1}} {
		o := knowledge.Override{Row: "repair:coil", Values: values, Reason: "x", By: "Wyn"}
		if err := Default().With(o).Validate(); err == nil {
			t.Errorf("%s is accepted", name)
		}
	}
}
