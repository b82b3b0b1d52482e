package plan

import (
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/trouble"
)

// A job whose engine runs clean comes to an end: following the plan leads to a verdict or to
// an unresolved end. No coil is named, because none was seen to misfire. A job ends unresolved
// only while no unit that can be named is more probable.
func TestEveryCleanJobEnds(t *testing.T) {
	for _, pattern := range []string{"four-across", "v6-across", "six-pairs", "single-magneto"} {
		s := beginOn(t, pattern)
		e := s.j.Vehicle.Engine
		clean := func() evidence.Entry {
			if !e.Scanned() {
				return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Watch{Cylinders: []engine.Cylinder{}}}
			}
			return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Counters{Revolutions: 3500, Counts: make([]int, e.Cylinders), Fresh: true}}
		}
		ended := false
		for range mostSteps {
			p := s.plan()
			if p.Verdict != nil {
				a := diagnose.Assess(s.j)
				for _, it := range a.Suspects {
					if it.Key() == p.Verdict.Unit && it.Tag != "" && it.Tag.Kind() == engine.Coil {
						t.Errorf("%s: %s is named, and it never misfired", pattern, it.Name())
					}
				}
				ended = true
				break
			}
			if p.Next.Step.ID == EndUnresolved {
				a := diagnose.Assess(s.j)
				for _, it := range a.Suspects {
					if it.Real() && it.P >= lastResort(a, it) && gate.AllMet(gate.Of(a, it)) && it.P > none(a) {
						t.Errorf("%s: ended unresolved, with %s at %.2f", pattern, it.Name(), it.P)
					}
				}
				ended = true
				break
			}
			switch c := p.Next; {
			case len(c.Parts) > 0:
				s.add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: c.Parts}}).add(clean())
			case c.Step.ID == ReadCodes:
				s.add(evidence.Entry{Body: &evidence.Codes{}})
			case c.Step.ID == ReadTrims:
				s.add(evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Short: 1, Long: -2}}}})
			case len(c.Look) > 0 || c.Test != "":
				s.add(c.Outcomes[0].Record) // all is well
			default:
				s.add(clean())
			}
		}
		if !ended {
			t.Errorf("%s: %d steps on, it asks for %s", pattern, mostSteps, s.plan().Next.Title)
		}
	}
}

// mostSteps is how many steps a job that runs clean may take to its end.
const mostSteps = 45

// none is the probability that nothing is wrong any more.
func none(a *diagnose.Assessment) float64 {
	for _, s := range a.Suspects {
		if s.Unit == fault.NoFault {
			return s.P
		}
	}
	return 0
}

// As a last resort a cheap unit is fitted at a probability of one third; a cylinder head needs
// more. The limit follows from two costs in the tables: fitting the wrong unit, and ending the job
// unresolved (arithmetic).
func TestUntestablePartIsFittedByItsCost(t *testing.T) {
	a := diagnose.Assess(begin(t, 4).j)
	for key, least := range map[string]float64{"plug P2": 0.335, "coil C2": 0.37, "driver cyl-2": 0.505, "compression cyl-2": 0.625} {
		s := suspect(t, begin(t, 4), key)
		for p, want := range map[float64]bool{least - 0.02: false, least + 0.02: true} {
			s.P = p
			if got := Default.worthFitting(a, s); got != want {
				t.Errorf("%s at %.2f: fitted is %v", key, p, got)
			}
		}
	}
}
