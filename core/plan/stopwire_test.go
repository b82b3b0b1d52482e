package plan

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
)

// A gate that is met names the test that has met it, and one that is open names the test that is left.
func TestGateNamesTheTestThatWasMade(t *testing.T) {
	for name, c := range map[string]struct {
		entries []evidence.Entry
		met     bool
		says    string
	}{
		"none made":         {nil, false, "spark with the stop wire off"},
		"sparks without":    {[]evidence.Entry{check1("stop-wire-off", "sparks")}, true, "spark with the stop wire off"},
		"no better":         {[]evidence.Entry{check1("stop-wire-off", "still-none")}, false, "engine run with the stop wire off"},
		"clean on the road": {[]evidence.Entry{check1("stop-wire-off", "still-none"), check1("stop-wire-run", "clean")}, true, "engine run with the stop wire off"},
	} {
		s := beginOn(t, "single-magneto").watch(1)
		for _, e := range c.entries {
			s.add(e)
		}
		a := diagnose.Assess(s.j)
		for _, suspect := range a.Suspects {
			if suspect.Unit != engine.StopWire {
				continue
			}
			g := gate.Of(a, suspect)[0]
			if g.Met != c.met || !strings.Contains(g.Needs, c.says) {
				t.Errorf("%s: met %v, %q", name, g.Met, g.Needs)
			}
		}
	}
}

func check1(test evidence.TestID, result evidence.ResultID) evidence.Entry {
	return evidence.Entry{Body: &evidence.Check{Test: test, Place: engine.Whole, Result: result}}
}
