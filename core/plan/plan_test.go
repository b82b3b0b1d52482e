package plan

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/practice"
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
			Mounting: engine.Crossways, BeltEnd: engine.Left, Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(engine.Inline, cylinders, "")}}}}
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
	return s.add(evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(c), State: trouble.Stored}}}})
}

func (s *story) counts(n ...int) *story {
	return s.add(evidence.Entry{Condition: evidence.Idle, Body: &evidence.Counters{Revolutions: 3000, Counts: n, Fresh: true}})
}

// swapCoil makes the exchange of coils that the plan thinks of first, whether something else comes before it or not.
func (s *story) swapCoil() *story {
	s.t.Helper()
	a := diagnose.Assess(s.j)
	for _, c := range append([]Card{For(s.j, a).Next}, Candidates(a)...) {
		if c.Step.ID == SwapCoil && len(c.Parts) > 0 {
			return s.add(evidence.Entry{Body: &evidence.Move{Parts: c.Parts, Cleared: true}})
		}
	}
	s.t.Fatalf("no exchange of coils can be made")
	return s
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
	s.j.FailsWhen = evidence.AnyCondition
	wantStep(t, s.plan(), ReadCodes, "engine")
	p := s.code(2).counts(0, 140, 1, 0).plan()
	wantStep(t, p, SwapCoil, "coil C2")
	if p.Next.Partner.Place != "cyl-4" {
		t.Errorf("partner is %s, want cylinder 4: the only one not beside 2", p.Next.Partner.Place)
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
	if !gate.AllMet(p.Gates) {
		t.Errorf("gates %+v", p.Gates)
	}
	entry, err := p.Sign()
	if err != nil {
		t.Fatal(err)
	}
	v := entry.Verdict()
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
	s.add(evidence.Entry{Body: &evidence.Move{Parts: at.Swap("cyl-2", "cyl-4", engine.Plug), Cleared: true}}).counts(0, 0, 1, 129)
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
	for _, g := range gate.Of(diagnose.Assess(s.j), suspect(t, s, "coil C2")) {
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

// However long and clean the runs after a move are, no part is condemned; that what was
// handled has been put right by it may be signed.
func TestCleanRunsNeverCondemn(t *testing.T) {
	s := begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil()
	for range 8 {
		s.counts(0, 0, 0, 0)
		if p := s.plan(); p.Verdict != nil && p.Verdict.Unit != "seat cyl-2" || suspect(t, s, "coil C2").P >= Condemn {
			t.Fatalf("after %d entries: verdict %+v", len(s.j.Ledger), p.Verdict)
		}
	}
}

// A gate is asked of each unit that can be condemned.
func TestEveryUnitHasAGate(t *testing.T) {
	s := begin(t, 4).code(2)
	a := diagnose.Assess(s.j)
	for _, it := range a.Suspects {
		if gates := gate.Of(a, it); it.Real() == (len(gates) == 0) || gate.AllMet(gates) {
			t.Errorf("%s: %d gates, all met: %v", it.Name(), len(gates), gate.AllMet(gates))
		}
	}
}

func TestPartner(t *testing.T) {
	plenum := beginOn(t, "v6-across").code(2)
	off := beginOn(t, "v6-across").code(5).add(evidence.Entry{Body: &evidence.Covers{Off: []string{"engine cover", "intake plenum"}}})
	abnormal := begin(t, 4).code(2)
	abnormal.j.Vehicle.Parts = []part.Record{{Kind: engine.Coil, Number: "A", Pins: 3}, {Kind: engine.Coil, Place: "cyl-4", Number: "B", Pins: 4}}
	for name, c := range map[string]struct {
		story *story
		tag   part.Tag
		want  string
		why   string
	}{
		"not a neighbour":         {begin(t, 4).code(2), "C2", "cyl-4", "not beside cylinder 2"},
		"first free one":          {begin(t, 6).code(1), "C1", "cyl-3", "no misfire of its own"},
		"not one in trouble":      {begin(t, 6).code(1).counts(90, 0, 80, 0, 0, 0), "C1", "cyl-4", "no misfire of its own"},
		"a three has no choice":   {begin(t, 3).code(2), "C2", "cyl-1", "stands beside cylinder 2"},
		"another number of pins":  {abnormal, "C2", "cyl-1", "stands beside"},
		"not its own companion":   {beginOn(t, "six-pairs").code(2), "P2", "cyl-4", "no misfire of its own"},
		"coil of a pair":          {beginOn(t, "six-pairs").counts(0, 90, 0, 0, 88, 0), "CB", "coil-A", "no misfire of its own"},
		"within a lead's reach":   {beginOn(t, "six-distributor").watch(2), "L2", "cyl-1", "within the lead's reach"},
		"behind what is off":      {off, "C5", "cyl-1", "behind what is off anyway"},
		"not under the plenum":    {beginOn(t, "v6-across").code(5), "C5", "cyl-4", "stands beside"},
		"under the plenum anyway": {plenum, "C2", "cyl-4", "behind what is off anyway"},
		"the only one":            {beginOn(t, "single-magneto").watch(1), "P1", "bench", "known-good spare"},
		"all in trouble":          {beginOn(t, "twin-pairs").counts(400, 380), "P1", "bench", "no place suits"},
	} {
		a := diagnose.Assess(c.story.j)
		p := partner(a, c.tag)
		if string(p.Place) != c.want || !strings.Contains(strings.Join(p.Why, "; "), c.why) || (p.Place == engine.Bench) != (p.Spare != "") {
			t.Errorf("%s: %s because %v, want %s because %s", name, p.Place, p.Why, engine.Place(c.want), c.why)
		}
	}
}

func beginOn(t *testing.T, pattern string) *story {
	t.Helper()
	p, ok := engine.FindPattern(pattern)
	if !ok {
		t.Fatalf("no pattern %s", pattern)
	}
	s := begin(t, 4)
	s.j.Vehicle.Engine = p.Engine()
	return s
}

func (s *story) watch(c ...engine.Cylinder) *story {
	return s.add(evidence.Entry{Condition: evidence.Idle, Body: &evidence.Watch{Cylinders: c}})
}

// Several cylinders with lean trims go to unmetered air, and then to fuel pressure,
// before any coil is touched (C). No code is needed.
func TestLeanComesBeforeCoils(t *testing.T) {
	for _, pattern := range []string{"four-across", "v6-across", "six-pairs", "v8-leads"} {
		s := beginOn(t, pattern)
		n := s.j.Vehicle.Engine.Cylinders
		counts := make([]int, n)
		for i := range counts {
			counts[i] = 25 + 3*i
		}
		trims := &evidence.Trims{}
		for b := 1; b <= s.j.Vehicle.Engine.Banks(); b++ {
			trims.Banks = append(trims.Banks, trouble.Trim{Bank: b, Short: 4, Long: 19})
		}
		s.counts(counts...).add(evidence.Entry{Body: trims})
		wantStep(t, s.plan(), CheckSmoke, "engine")
		s.add(evidence.Entry{Body: &evidence.Check{Test: evidence.Smoke, Place: engine.Whole, Result: "tight"}})
		wantStep(t, s.plan(), CheckFuel, "engine")
	}
}

// What a move can show is told before it is made: the outcomes are a whole, a
// split move has one for each part.
func TestOutcomesOfAMoveAreForeseen(t *testing.T) {
	s := beginOn(t, "v8-leads").code(5)
	a := diagnose.Assess(s.j)
	split := append(a.Now.Swap("cyl-5", "cyl-8", engine.Coil), a.Now.Swap("cyl-5", "cyl-2", engine.Plug)...)
	sum, words := 0.0, ""
	for _, o := range Foretell(a, split) {
		sum += o.P
		words += o.Words + "; "
	}
	if sum < 1-1e-9 || sum > 1+1e-9 || !strings.Contains(words, "Followed coil C5: now on cylinder 8; Followed plug P5: now on cylinder 2; Stayed: still on cylinder 5; Gone") {
		t.Errorf("%v: %s", sum, words)
	}
	if Foretell(a, split[:1]) != nil {
		t.Error("a move that cannot be made is foretold")
	}
}

// A technician who does what the card says, on an engine with one hidden fault
// that always shows, comes to a verdict on it or to the last gate before one,
// whatever the layout: the plan never leads into a corner.
func TestFollowingThePlan(t *testing.T) {
	for _, c := range []struct{ pattern, fault string }{
		{"four-across", "coil.cracked@C3"}, {"four-across", "plug.cracked@P2"}, {"three-across", "coil.cracked@C2"},
		{"v6-across", "coil.cracked@C2"}, {"v8-leads", "lead.leaking@L6"}, {"v8-leads", "coil.cracked@C7"},
		{"six-pairs", "coil.cracked@CB"}, {"six-pairs", "lead.open@L4"}, {"six-pairs", "plug.worn-gap@P6"},
		{"six-distributor", "lead.leaking@L5"}, {"six-distributor", "plug.carbon-fouled@P3"}, {"six-distributor", "cap.tracked@DA:1-5"},
		{"flat-four", "plug.worn-gap@P3"}, {"single-magneto", "plug.carbon-fouled@P1"}, {"single-magneto", "stop-wire.shorted@engine"},
		{"single-remote", "lead.leaking@L1"}, {"six-distributor", "lead-order.exchanged@engine:2-4"}, {"four-across", "air.leak@engine"},
		{"twin-pairs", "coil.cracked@CA"}, {"v12-along", "coil.cracked@C9"},
		{"four-across", "injector.clogged@cyl-4"}, {"v8-leads", "compression.valve@cyl-3"}, {"six-pairs", "trigger.wire@coil-C"},
	} {
		t.Run(c.pattern+" "+c.fault, func(t *testing.T) {
			s := beginOn(t, c.pattern)
			e := s.j.Vehicle.Engine
			var hidden fault.Hypothesis
			for _, h := range fault.Enumerate(e, fault.Complaint{}) {
				if h.Key() == c.fault && hidden.Prior == 0 {
					hidden = h
				}
			}
			if hidden.Prior == 0 {
				t.Fatalf("no such fault")
			}
			var told []string
			for range 24 {
				a := diagnose.Assess(s.j)
				p := For(s.j, a)
				told = append(told, p.Next.Title)
				if p.Verdict != nil {
					if a.Suspects[0].Unit != hidden.Mode.Unit || hidden.Tag != "" && a.Suspects[0].Tag != hidden.Tag {
						t.Errorf("the verdict is on %s after %s", p.Verdict.Unit, strings.Join(told, " → "))
					}
					return
				}
				s.add(answer(t, a, p.Next, hidden))
			}
			a := diagnose.Assess(s.j)
			t.Errorf("no verdict; %s leads at %v, gates %+v, after %s", a.Suspects[0].Name(), a.Suspects[0].P, gate.Of(a, a.Suspects[0]), strings.Join(told, " → "))
		})
	}
}

// answer is what an honest technician records for a card, with a hidden fault.
func answer(t *testing.T, a *diagnose.Assessment, c Card, h fault.Hypothesis) evidence.Entry {
	t.Helper()
	affected := h.Affected(a.Now)
	counts := make([]int, a.Engine.Cylinders)
	for _, cyl := range affected.List() {
		counts[cyl-1] = 150
	}
	switch {
	case len(c.Parts) > 0:
		return evidence.Entry{Body: &evidence.Move{Parts: c.Parts, Cleared: true}}
	case c.Step.ID == ReadCodes:
		codes := &evidence.Codes{Read: []trouble.Reading{}}
		for _, cyl := range affected.List() {
			codes.Read = append(codes.Read, trouble.Reading{Code: trouble.MisfireOn(cyl), State: trouble.Stored})
		}
		return evidence.Entry{Body: codes}
	case c.Step.ID == ReadTrims:
		lean := 3.0
		if h.Mode.Unit == engine.AirLeak || h.Mode.Unit == engine.FuelSupply {
			lean = 18
		}
		trims := &evidence.Trims{}
		for b := 1; b <= a.Engine.Banks(); b++ {
			trims.Banks = append(trims.Banks, trouble.Trim{Bank: b, Long: lean})
		}
		return evidence.Entry{Body: trims}
	case c.Step.ID == CountMisfires, c.Step.ID == RunAfterMove && a.Engine.Scanned():
		return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Counters{Revolutions: 3500, Counts: counts, Fresh: true}}
	case c.Step.ID == FindCylinder, c.Step.ID == RunAfterMove:
		return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Watch{Cylinders: append([]engine.Cylinder{}, affected.List()...)}}
	case len(c.Look) > 0:
		look := &evidence.Look{}
		for _, item := range c.Look {
			item.Finding = found1(item, h, a.Now)
			look.Items = append(look.Items, item)
		}
		return evidence.Entry{Body: look}
	case c.Test != "":
		// The answer that the fault most often has.
		var said evidence.Entry
		most := -1.0
		for i := range a.JointHypotheses {
			w := &a.JointHypotheses[i]
			if w.Key() != h.Key() || w.Faults[0].CuredAfter >= 0 || w.Faults[0].Hypothesis.Affected(a.Now) != affected {
				continue
			}
			for _, o := range c.Outcomes {
				if o.Record.Check() != nil {
					if p := a.Answer(*o.Record.Check())(w); p > most {
						most, said = p, o.Record
					}
				}
			}
		}
		return said
	}
	t.Fatalf("no answer to %s", c.Step.ID)
	return evidence.Entry{}
}

func found1(item evidence.Seen, h fault.Hypothesis, _ part.Positions) evidence.Finding {
	rows := evidence.FindingsOn(engine.Connector)
	if item.Tag != "" {
		rows = evidence.FindingsOn(item.Tag.Kind())
	}
	abnormal := map[fault.ModeID]evidence.Finding{fault.PlugWornGap: evidence.PlugWorn, fault.PlugCracked: evidence.PlugCracked, fault.PlugCarbonFouled: evidence.PlugSoot,
		fault.LeadLeaking: evidence.LeadBurnt, fault.CapTracked: evidence.CapTracked}
	if f, ok := abnormal[h.Mode.ID]; ok && item.Tag != "" && item.Tag == h.Tag {
		return f
	}
	return rows[0].Finding
}

// The outcomes of every card are a whole: their chances sum to 1, and knowing the
// answer never tells less than nothing.
func TestOutcomesSumToOne(t *testing.T) {
	for _, s := range []*story{begin(t, 2), begin(t, 4).code(2), begin(t, 6).code(3).counts(0, 0, 44, 1, 0, 2),
		begin(t, 4).code(2).counts(0, 140, 1, 0).swapCoil(), begin(t, 5).code(5).counts(0, 1, 0, 0, 140).swapCoil().counts(0, 3, 0, 0, 0)} {
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

// Where practitioners disagree is shown beside steps that exist.
func TestPracticeNamesSteps(t *testing.T) {
	for _, q := range practice.Questions {
		if len(q.Schools) < 2 || q.Here == "" || q.Source == "" {
			t.Errorf("question %+v", q)
		}
		for _, id := range q.Steps {
			if Find(id).Minutes == 0 || len(practice.For(id)) == 0 {
				t.Errorf("%q names no step: %s", q.Ask, id)
			}
		}
	}
}

func BenchmarkPlan(b *testing.B) {
	for _, pattern := range []string{"four-across", "v8-leads", "v12-along", "six-distributor"} {
		for _, entries := range []int{1, 10, 50, 200} {
			p, _ := engine.FindPattern(pattern)
			s := begin(&testing.T{}, 4)
			s.j.Vehicle.Engine = p.Engine()
			counts := make([]int, s.j.Vehicle.Engine.Cylinders)
			for i := range entries {
				counts[1] = 120 + i%40
				s.counts(slices.Clone(counts)...)
			}
			a := diagnose.Assess(s.j)
			b.Run(fmt.Sprintf("cylinders=%d/%s/entries=%d", a.Engine.Cylinders, pattern, entries), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					For(s.j, a)
				}
			})
		}
	}
}
