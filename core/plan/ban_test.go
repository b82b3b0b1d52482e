package plan

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// No finding that forbids turning the engine lets a step through that runs or cranks it: not as the next step,
// an alternative, a meanwhile or a what-if, by the plan or in the usual order, before or after the repair. A
// new plug does not lift a ban; the entry that states what was done does.
func TestFindingsForbidRunningSteps(t *testing.T) {
	danger := func(h evidence.Hazard, tag part.Tag) evidence.Entry {
		return evidence.Entry{Body: &evidence.Danger{Of: h, Tag: tag}}
	}
	hammered := jobtest.Look(evidence.Seen{Tag: "P2", Finding: evidence.PlugWrong, Plug: plug.Look{Edges: plug.Bruised}})
	reach := evidence.Entry{Body: &evidence.Beside{Tag: "P2", Listed: "new", Old: part.PlugDesign{ReachMM: 26.5}, New: part.PlugDesign{ReachMM: 19}}}
	begun := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 1, 212, 0, 2))
	repaired := signedCoil(t)
	repaired = jobtest.With(t, repaired, renewed(repaired, engine.Coil))
	proven := jobtest.With(t, repaired, jobtest.Counts(18_750, 0, 0, 0, 0))
	for name, c := range map[string]struct {
		on   job.Job
		find evidence.Entry
		over evidence.Danger
	}{
		"hammered tip, read on the board": {begun, hammered, evidence.Danger{Of: evidence.HammeredTip, Tag: "P2"}},
		"hammered tip":                    {begun, danger(evidence.HammeredTip, "P2"), evidence.Danger{Of: evidence.HammeredTip, Tag: "P2"}},
		"wrong reach, held beside":        {begun, reach, evidence.Danger{Of: evidence.WrongReach, Tag: "P2"}},
		"piece missing":                   {begun, danger(evidence.PieceMissing, "P2"), evidence.Danger{Of: evidence.PieceMissing, Tag: "P2"}},
		"blown out":                       {begun, danger(evidence.BlownOut, "P3"), evidence.Danger{Of: evidence.BlownOut, Tag: "P3"}},
		"fuel leaks":                      {begun, danger(evidence.FuelLeak, ""), evidence.Danger{Of: evidence.FuelLeak}},
		"hot catalyst":                    {begun, danger(evidence.HotCatalyst, ""), evidence.Danger{Of: evidence.HotCatalyst}},
		"after the repair":                {repaired, danger(evidence.FuelLeak, ""), evidence.Danger{Of: evidence.FuelLeak}},
		"after the proof":                 {proven, danger(evidence.FuelLeak, ""), evidence.Danger{Of: evidence.FuelLeak}},
		"before anything":                 {jobtest.New(4), danger(evidence.FuelLeak, ""), evidence.Danger{Of: evidence.FuelLeak}},
	} {
		for _, school := range []job.School{job.Planned, job.UsualOrder} {
			j := jobtest.With(t, c.on, c.find)
			j.School = school
			a := diagnose.Assess(j)
			p := For(j, a)
			if p.Next.Step.ID != StopEngine || p.Next.Ban == nil || p.Next.Do == "" || !strings.HasPrefix(p.Next.Title, "Do not start the engine") {
				t.Errorf("%s: next is %s, %q", name, p.Next.Step.ID, p.Next.Title)
			}
			for _, alt := range p.Alternatives {
				if alt.Card.Turns() {
					t.Errorf("%s: alternative %s", name, alt.Card.Step.ID)
				}
			}
			for _, m := range p.While {
				if m.Card.Turns() {
					t.Errorf("%s: meanwhile %s", name, m.Card.Step.ID)
				}
			}
			for _, s := range p.Steps() {
				if s.Turns() {
					t.Errorf("%s: what if %s", name, s.Step.ID)
				}
			}
			if state := StatusOf(j, a).State; state != "stopped" {
				t.Errorf("%s: status %s", name, state)
			}
			if forbidden := ForbiddenSteps(a); len(forbidden) < 20 || forbidden[0].Because == "" {
				t.Errorf("%s: forbidden %v", name, forbidden)
			}
			if c.over.Tag != "" { // a new plug alone does not lift it
				now := j.Ledger.Positions(j.Vehicle.Engine)
				in, _ := now.Free(engine.Plug, c.over.Tag.Home())
				fresh := jobtest.With(t, j, evidence.Entry{Body: &evidence.Renewal{Parts: []evidence.Renewed{{Place: c.over.Tag.Home(), Out: c.over.Tag, In: in, Fate: evidence.Scrapped}}}})
				if For(fresh, diagnose.Assess(fresh)).Next.Step.ID != StopEngine {
					t.Errorf("%s: a new plug has lifted it", name)
				}
			}
			over := c.over
			over.Over, over.Done = true, "looked into, and put right"
			lifted := jobtest.With(t, j, evidence.Entry{Body: &over})
			if next := For(lifted, diagnose.Assess(lifted)).Next; next.Step.ID == StopEngine || ForbiddenSteps(diagnose.Assess(lifted)) != nil {
				t.Errorf("%s: still %s after what lifts it", name, next.Step.ID)
			}
		}
	}
}

// The caution of a blade is for small engines alone.
func TestCautionsFitTheEngine(t *testing.T) {
	for pattern, want := range map[string]bool{"four-across": false, "single-magneto": true} {
		j := jobtest.With(t, jobtest.Shelf(t, pattern), jobtest.Watch(1))
		found := false
		for _, c := range Candidates(diagnose.Assess(j)) {
			found = found || strings.Contains(strings.Join(c.Step.Cautions, " "), "blade")
		}
		if found != want {
			t.Errorf("%s: a caution of a blade: %v", pattern, found)
		}
	}
}

// Other dangers stay when one is over, and the repair by the worksheet goes on with the engine off.
func TestOneDangerIsOverAndAnotherStays(t *testing.T) {
	j := signedCoil(t)
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Danger{Of: evidence.FuelLeak}}, evidence.Entry{Body: &evidence.Danger{Of: evidence.BlownOut, Tag: "P1"}})
	a := diagnose.Assess(j)
	if p := For(j, a); !p.Next.Worksheet || strings.Contains(p.Next.Do, "Run it") || !strings.Contains(p.Next.Why, "Find the leak") {
		t.Errorf("%+v", p.Next)
	}
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Danger{Of: evidence.FuelLeak, Over: true, Done: "new seal"}})
	if b := ForbiddenSteps(diagnose.Assess(j)); len(b) == 0 || !strings.Contains(b[0].Because, "blown loose") || strings.Contains(b[0].Because, "fuel") {
		t.Errorf("%v", b)
	}
	for name, d := range map[string]evidence.Danger{
		"of nothing":         {Of: "cold feet"},
		"a coil":             {Of: evidence.HammeredTip, Tag: "C1"},
		"no plug":            {Of: evidence.HammeredTip},
		"fuel from a plug":   {Of: evidence.FuelLeak, Tag: "P1"},
		"over, but how":      {Of: evidence.FuelLeak, Over: true},
		"done, but not over": {Of: evidence.FuelLeak, Done: "new seal"},
		"another engine":     {Of: evidence.BlownOut, Tag: "P9"},
	} {
		if _, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{By: "x", Done: jobtest.Clock(30), Body: &d}); err == nil {
			t.Errorf("%s is taken", name)
		}
	}
}

// What is signed below the probability of a verdict is a trial repair, and is called so; above it, it is not.
func TestTrialRepairBelowAVerdict(t *testing.T) {
	for p, trial := range map[float64]bool{0.74: true, 0.949: true, 0.96: false} {
		a := diagnose.Assess(signedCoil(t))
		s := a.Suspects[0]
		s.P = p
		v := verdict(a, s)
		words, card := v.Sentence(), sign(v)
		if v.Trial != trial || strings.HasPrefix(words, "trial repair") != trial || strings.HasPrefix(card.Title, "Trial repair") != trial || strings.Contains(card.Do, "is at fault") == trial {
			t.Errorf("at %g: %s; %s; %s", p, words, card.Title, card.Do)
		}
	}
}
