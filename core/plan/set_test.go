package plan

import (
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
)

// A set of worn plugs is signed once two of them were seen so, names all that go with it and clears none of them, and is
// repaired when all of them are out.
func TestSetIsSignedAndRenewed(t *testing.T) {
	s := begin(t, 4).code(1).counts(210, 60, 260, 12).counts(190, 70, 240, 20)
	s.j.Signs, s.j.FailsWhen = []evidence.Sign{evidence.LongSince}, evidence.Load
	a := diagnose.Assess(s.j)
	if i := slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Unit == engine.Plugs }); i < 0 || gate.AllMet(gate.Of(a, a.Suspects[i])) {
		t.Fatal("a set is condemned without a look")
	}
	s.add(evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Tag: "P1", Finding: evidence.PlugWorn}, {Tag: "P2", Finding: evidence.PlugWorn}, {Tag: "P3", Finding: evidence.PlugWorn}, {Tag: "P4", Finding: evidence.PlugWorn}}}})
	a = diagnose.Assess(s.j)
	p := For(s.j, a)
	if p.Verdict == nil || p.Verdict.Unit != "set of plugs engine" || len(p.Verdict.With) != 4 || p.Verdict.Cause == "" {
		t.Fatalf("verdict %+v, lead %s at %.2f, next %s", p.Verdict, p.Lead.Name(), p.Lead.P, p.Next.Title)
	}
	for _, cleared := range p.Verdict.Cleared {
		if strings.HasPrefix(cleared, "plug P") {
			t.Errorf("%s is cleared, and renewed with its set", cleared)
		}
	}
	signed, err := p.Sign()
	if err != nil {
		t.Fatal(err)
	}
	s.add(signed)
	renew := &evidence.Renewal{Cleared: true}
	at := part.Home(s.j.Vehicle.Engine)
	for _, place := range []engine.Place{"cyl-1", "cyl-2", "cyl-3"} {
		in, _ := at.Free(engine.Plug, place)
		renew.Parts = append(renew.Parts, evidence.Renewed{Place: place, Out: at.Off(engine.Plug, place), In: in, Fate: evidence.Scrapped})
	}
	s.add(evidence.Entry{Body: renew})
	if RepairedAt(diagnose.Assess(s.j), "set of plugs engine") != 0 {
		t.Error("three of four are no set")
	}
	in, _ := at.Free(engine.Plug, "cyl-4")
	s.add(evidence.Entry{Body: &evidence.Renewal{Cleared: true, Parts: []evidence.Renewed{{Place: "cyl-4", Out: "P4", In: in, Fate: evidence.Scrapped}}}})
	if RepairedAt(diagnose.Assess(s.j), "set of plugs engine") == 0 {
		t.Error("all four are new, and the set counts as not repaired")
	}
}

// After a jolt the connector comes before any exchange, and a look at the plug before a test once the coil has stayed
// (common practice).
func TestWhatIsDoneFirst(t *testing.T) {
	jolt := begin(t, 4).code(2).counts(0, 140, 1, 0)
	jolt.j.Signs = []evidence.Sign{evidence.AfterJolt}
	if next := For(jolt.j, diagnose.Assess(jolt.j)).Next; next.Step.ID != LookConnector && next.Step.ID != TestWiggle {
		t.Errorf("after a jolt: %s", next.Title)
	}
	for _, p := range Precedences {
		if p.Source == "" || p.When == "" || p.First == "" || p.Before == "" || p.Why == "" || strings.HasSuffix(p.Why, ".") {
			t.Errorf("%+v is not stated", p)
		}
	}
}
