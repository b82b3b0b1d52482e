package diagnose

import (
	"cmp"
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
)

// modes sums the probability of each mode, the likeliest first.
func modes(a *Assessment) (ids []string, p map[string]float64) {
	p = map[string]float64{}
	for _, f := range a.Faults {
		id := string(f.Hypothesis.Mode.ID)
		if p[id] == 0 {
			ids = append(ids, id)
		}
		p[id] += f.P
	}
	slices.SortFunc(ids, func(x, y string) int { return cmp.Compare(p[y], p[x]) })
	return ids, p
}

// Facts of the trade (C): what one plain finding, beside a steady misfire of cylinder 2,
// points at before all else, and what it leaves behind.
func TestWhatEachFindingPointsAt(t *testing.T) {
	check := func(test evidence.TestID, place engine.Place, result evidence.ResultID) evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: test, Place: place, Result: result}}
	}
	seen := func(tag string, f evidence.Finding) evidence.Entry {
		return evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Tag: tagOf(tag), Finding: f}}}}
	}
	for name, c := range map[string]struct {
		pattern string
		entry   evidence.Entry
		first   string // an id or the first part of one
		behind  string // which was likelier before
	}{
		"feed low under load":        {"four-across", check(evidence.TriggerPulse, "cyl-2", "feed"), "feed.low", "trigger.wire"},
		"ground drops":               {"four-across", check(evidence.TriggerPulse, "cyl-2", "ground"), "ground.poor", "feed.low"},
		"trigger comes and goes":     {"four-across", check(evidence.TriggerPulse, "cyl-2", "intermittent"), "trigger.wire", "coil.cracked"},
		"wire bad":                   {"four-across", check(evidence.WireTest, "cyl-2", "bad"), "trigger.wire", "driver.dead"},
		"wiggle changes it":          {"four-across", check(evidence.Wiggle, "cyl-2", "changes"), "connector", "plug.worn-gap"},
		"air at the crankcase":       {"four-across", check(evidence.LeakDown, "cyl-2", "rings"), "compression.rings", "compression.valve"},
		"air at the exhaust":         {"four-across", check(evidence.LeakDown, "cyl-2", "valve"), "compression.valve", "plug.worn-gap"},
		"oil or water in the well":   {"four-across", seen("B2", evidence.BootWet), "well", "boot.tracked"},
		"spring burnt":               {"four-across", seen("B2", evidence.BootSpring), "boot.spring", "boot.tracked"},
		"boot torn":                  {"four-across", seen("B2", evidence.BootTorn), "boot", "coil.cracked"},
		"plug was loose":             {"four-across", seen("P2", evidence.PlugLoose), "plug.loose", "plug.worn-gap"},
		"gap closed":                 {"four-across", seen("P2", evidence.PlugClosed), "plug.closed-gap", "plug.worn-gap"},
		"a copy":                     {"four-across", seen("P2", evidence.PlugWrong), "plug.wrong", "plug.cracked"},
		"oil on the nose":            {"single-magneto", seen("P1", evidence.PlugOil), "plug.oil-fouled", "plug.carbon-fouled"},
		"ohms far too low":           {"v8-leads", check(evidence.CoilResistance, "cyl-2", "low"), "coil.secondary-shorted", "coil.weak-hot"},
		"ohms open":                  {"v8-leads", check(evidence.CoilResistance, "cyl-2", "open"), "coil", "coil.weak-hot"},
		"lead open":                  {"v8-leads", check(evidence.LeadResistance, "cyl-2", "open"), "lead", "coil.cracked"},
		"steady and high":            {"four-across", check(evidence.Kilovolts, "cyl-2", "high"), "plug.worn-gap", "coil.cracked"},
		"steady and low":             {"four-across", check(evidence.Kilovolts, "cyl-2", "low"), "compression", "plug.worn-gap"},
		"followed the injector":      {"four-across", check(evidence.InjectorExchange, "cyl-2", "followed"), "injector", "plug.worn-gap"},
		"sparks with stop wire off":  {"single-magneto", check(evidence.StopWireOff, "engine", "sparks"), "stop-wire", "coil.cracked"},
		"weak signal while cranking": {"single-remote", check(evidence.CrankSignal, "engine", "weak"), "pickup.weak", "trigger.wire"},
	} {
		p, ok := engine.FindPattern(c.pattern)
		if !ok {
			t.Fatal(c.pattern)
		}
		j := job.Job{Vehicle: job.Vehicle{Engine: p.Engine()}}
		counts := make([]int, p.Engine().Cylinders)
		counts[min(1, len(counts)-1)] = 260
		j.Ledger = evidence.Ledger{{Seq: 1, Body: &evidence.Counters{Revolutions: 3000, Counts: counts, Fresh: true}}}
		if !p.Engine().Scanned() {
			j.Ledger[0] = evidence.Entry{Seq: 1, Body: &evidence.Watch{Cylinders: []engine.Cylinder{1}}}
		}
		_, before := modes(Assess(j))
		c.entry.Seq = 2
		j.Ledger = append(j.Ledger, c.entry)
		ids, after := modes(Assess(j))
		if ids[0] != c.first && !strings.HasPrefix(ids[0], c.first+".") {
			t.Errorf("%s points at %s (%.2f), then %s (%.2f), not at %s", name, ids[0], after[ids[0]], ids[1], after[ids[1]], c.first)
		}
		// Its own family gains on what lies behind.
		gain := 0.0
		for id, q := range after {
			if id == c.first || strings.HasPrefix(id, c.first+".") {
				gain = max(gain, q/before[id])
			}
		}
		if gain <= after[c.behind]/before[c.behind] {
			t.Errorf("%s raises %s no more than %s", name, c.first, c.behind)
		}
	}
}

// How sure a witness is weakens what was said, in that order.
func TestCertaintyWeakens(t *testing.T) {
	p := func(c evidence.Certainty) float64 {
		e := evidence.Entry{Certainty: c, Body: &evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugCracked}}}}
		j := jobtest.With(t, jobtest.AnyTime(4), e)
		return p(t, Assess(j), "plug P2")
	}
	if sure, think, heard := p(evidence.Sure), p(evidence.ThinkSo), p(evidence.Heard); !(sure > think && think > heard && heard > 0.1) {
		t.Errorf("a crack seen %v, thought %v, heard of %v", sure, think, heard)
	}
}

// What was put right at its place is right, but for a few in a hundred; what is wrong
// elsewhere stays.
func TestRepairAtAPlace(t *testing.T) {
	loose := evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{{Place: "cyl-2", Finding: evidence.ConnectorLoose}}}}
	fit := evidence.Entry{Body: &evidence.Fit{Unit: "connector cyl-2", Cleared: true}}
	a := Assess(jobtest.With(t, jobtest.AnyTime(4), loose, fit))
	there, cured := 0.0, 0.0
	for _, f := range a.Faults {
		if f.Hypothesis.Mode.Unit == engine.Connector && f.Hypothesis.Place == "cyl-2" {
			if there += f.P; f.CuredAfter >= 0 {
				cured += f.P
			}
		}
	}
	if there < 0.1 || cured < 0.95*there {
		t.Errorf("of %v only %v is cured", there, cured)
	}
}

func tagOf(s string) part.Tag { return part.Tag(s) }
