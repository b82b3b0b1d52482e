package plan

import (
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// story is a job told entry by entry.
type story struct {
	t *testing.T
	j job.Job
}

func begin(t *testing.T, cylinders int) *story {
	return &story{t, job.Job{Number: "t-1", Complaint: "shakes", By: "x", FailsWhen: evidence.Idle,
		Opened: time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC),
		Vehicle: job.Vehicle{Fleet: "T-1", What: "van", Engine: engine.Engine{Cylinders: cylinders, Arrangement: engine.Inline,
			Mounting: engine.Crossways, BeltEnd: engine.Left, Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(cylinders)}}}}
}

func (s *story) add(e evidence.Entry) *story {
	s.t.Helper()
	e.Done, e.By = s.j.Opened.Add(time.Duration(len(s.j.Ledger)+1)*time.Minute), "x"
	l, err := s.j.Ledger.Add(s.j.Vehicle.Engine, e)
	if err != nil {
		s.t.Fatal(err)
	}
	s.j.Ledger = l
	return s
}

func (s *story) code(c engine.Cylinder) *story {
	return s.add(evidence.Entry{Codes: &evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(c), State: trouble.Stored}}}})
}

func (s *story) counts(n ...int) *story {
	return s.add(evidence.Entry{Condition: evidence.Idle, Counters: &evidence.Counters{Revolutions: 3000, Counts: n, Fresh: true}})
}

// swapCoil makes the exchange of coils that the plan proposes.
func (s *story) swapCoil() *story {
	s.t.Helper()
	next := s.plan().Next
	if next.Step.ID != SwapCoil || len(next.Parts) == 0 {
		s.t.Fatalf("next step is %s %s, want %s", next.Step.ID, next.Target, SwapCoil)
	}
	return s.add(evidence.Entry{Move: &evidence.Move{Parts: next.Parts, Cleared: true}})
}

func (s *story) plan() Plan { return For(s.j, diagnose.Assess(s.j)) }

func (s *story) state() string { return StatusOf(s.j, diagnose.Assess(s.j)).State }

func wantStep(t *testing.T, p Plan, step, target string) {
	t.Helper()
	if p.Next.Step.ID != step || p.Next.Target != target {
		t.Errorf("next step is %s on %s, want %s on %s", p.Next.Step.ID, p.Next.Target, step, target)
	}
}

func TestStoryFollowed(t *testing.T) {
	s := begin(t, 4)
	wantStep(t, s.plan(), ReadCodes, "engine")
	s.code(2)
	p := s.plan()
	wantStep(t, p, SwapCoil, "coil C2")
	if p.Next.Partner.Cylinder != 4 {
		t.Errorf("partner is cylinder %d, want 4: the only one not beside 2", p.Next.Partner.Cylinder)
	}
	if len(p.Alternatives) != 2 || p.Alternatives[0].ExtraCost <= 0 {
		t.Errorf("alternatives %+v, want two that cost more", p.Alternatives)
	}
	s.swapCoil()
	wantStep(t, s.plan(), RunAfterMove, "engine")
	s.counts(1, 0, 0, 143)
	p = s.plan()
	wantStep(t, p, LookPlugBoot, "plug P2 and boot B2")
	if p.Verdict != nil {
		t.Error("a verdict is offered before plug and boot were looked at")
	}
	if _, err := p.Sign(); err == nil || !strings.Contains(err.Error(), "a look at plug P2") {
		t.Errorf("signing too early: %v", err)
	}
	s.add(p.Next.Outcomes[0].Record) // both look sound
	p = s.plan()
	wantStep(t, p, SignVerdict, "coil C2")
	if !AllMet(p.Gates) {
		t.Errorf("gates %+v", p.Gates)
	}
	entry, err := p.Sign()
	if err != nil {
		t.Fatal(err)
	}
	v := entry.Verdict
	if v.Unit != "coil C2" || v.P < Condemn || !slices.Equal(v.With, []string{"boot B2"}) || !slices.Contains(v.Cleared, "plug P2") {
		t.Errorf("verdict %+v", v)
	}
	s.add(entry)
	wantStep(t, s.plan(), FixAndProve, "coil C2")
	if s.state() != "signed" {
		t.Errorf("state %s, want signed", s.state())
	}
}

func TestStoryStayed(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil().counts(0, 138, 0, 1)
	if s.state() != "stayed" {
		t.Fatalf("state %s", s.state())
	}
	p := s.plan()
	if p.Verdict != nil || p.Next.Step.ID == SwapCoil {
		t.Errorf("after the misfire stayed: next %s, verdict %+v", p.Next.Step.ID, p.Verdict)
	}
	if got := Cleared(diagnose.Assess(s.j)); !slices.Contains(got, "coil C2") {
		t.Errorf("the coil is not cleared: %v", got)
	}
	// The plug then goes to cylinder 4 and the misfire with it.
	at := s.j.Ledger.Positions(s.j.Vehicle.Engine)
	s.add(evidence.Entry{Move: &evidence.Move{Parts: at.Swap(2, 4, part.Plug), Cleared: true}}).counts(0, 0, 1, 129)
	p = s.plan()
	wantStep(t, p, SignVerdict, "plug P2")
}

func TestStoryGone(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil().counts(0, 0, 0, 0)
	if s.state() != "gone" {
		t.Fatalf("state %s", s.state())
	}
	p := s.plan()
	if p.Verdict != nil {
		t.Errorf("a clean run brings a verdict: %+v", p.Verdict)
	}
	lead := diagnose.Assess(s.j).Suspects[0]
	if lead.P >= Condemn {
		t.Errorf("a clean run condemns %s at %v", lead.Name(), lead.P)
	}
	for _, g := range Gates(diagnose.Assess(s.j), suspect(t, s, "coil C2")) {
		if g.Met {
			t.Errorf("gate met by a clean run: %s", g.Needs)
		}
	}
}

func suspect(t *testing.T, s *story, key string) diagnose.Suspect {
	t.Helper()
	for _, it := range diagnose.Assess(s.j).Suspects {
		if it.Key() == key {
			return it
		}
	}
	t.Fatalf("no suspect %s", key)
	return diagnose.Suspect{}
}

// However long and clean the runs after a move are, the coil is not condemned.
func TestACleanRunNeverCondemns(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil()
	for range 8 {
		s.counts(0, 0, 0, 0)
		if p := s.plan(); p.Verdict != nil || suspect(t, s, "coil C2").P >= Condemn {
			t.Fatalf("after %d entries: verdict %+v", len(s.j.Ledger), p.Verdict)
		}
	}
}

// A gate is asked of each unit that can be condemned.
func TestEveryUnitHasAGate(t *testing.T) {
	s := begin(t, 4).code(2)
	a := diagnose.Assess(s.j)
	for _, it := range a.Suspects {
		if gates := Gates(a, it); it.Real() == (len(gates) == 0) || AllMet(gates) {
			t.Errorf("%s: %d gates, all met: %v", it.Name(), len(gates), AllMet(gates))
		}
	}
}

func TestPartner(t *testing.T) {
	for name, c := range map[string]struct {
		story *story
		from  engine.Cylinder
		want  engine.Cylinder
		why   string
	}{
		"not a neighbour":       {begin(t, 4).code(2), 2, 4, "not beside cylinder 2"},
		"first free one":        {begin(t, 6).code(1), 1, 3, "no misfire of its own"},
		"not one in trouble":    {begin(t, 6).code(1).counts(90, 0, 80, 0, 0, 0), 1, 4, "no misfire of its own"},
		"a three has no choice": {begin(t, 3).code(2), 2, 1, "no other suits better"},
	} {
		a := diagnose.Assess(c.story.j)
		p := partner(a, c.from)
		if p.Cylinder != c.want || !strings.Contains(strings.Join(p.Why, "; "), c.why) {
			t.Errorf("%s: cylinder %d because %v, want %d", name, p.Cylinder, p.Why, c.want)
		}
	}
}

// The outcomes of every card are a whole: their chances sum to 1, and knowing the
// answer never tells less than nothing.
func TestOutcomesAreAWhole(t *testing.T) {
	for _, s := range []*story{begin(t, 2), begin(t, 4).code(2), begin(t, 6).code(3).counts(0, 0, 44, 1, 0, 2),
		begin(t, 4).code(2).swapCoil(), begin(t, 5).code(5).swapCoil().counts(0, 3, 0, 0, 0)} {
		a := diagnose.Assess(s.j)
		for _, c := range append(candidates(a), For(s.j, a).Next) {
			sum := 0.0
			for _, o := range c.Outcomes {
				sum += o.P
			}
			if len(c.Outcomes) > 0 && (sum < 1-1e-9 || sum > 1+1e-9) || c.Bits < 0 {
				t.Errorf("%s on %s: chances sum to %v, %v bits", c.Step.ID, c.Target, sum, c.Bits)
			}
		}
	}
}

func TestStepsAreStated(t *testing.T) {
	for _, s := range Steps {
		if s.Minutes <= 0 || s.Source == "" || s.Words == "" || Find(s.ID).Words != s.Words {
			t.Errorf("step %+v", s)
		}
	}
}

func BenchmarkPlan(b *testing.B) {
	s := begin(&testing.T{}, 4).code(2).counts(0, 140, 1, 0)
	a := diagnose.Assess(s.j)
	b.ReportAllocs()
	for b.Loop() {
		For(s.j, a)
	}
}
