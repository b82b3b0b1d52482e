package jobs

import (
	"net/url"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/plan"
)

// viewFor returns the address, relative to the job, of the work view that records a step, with
// its fields filled in.
func viewFor(e engine.Engine, c plan.Card) string {
	switch c.Step.ID {
	case plan.FixAndProve:
		switch {
		case c.Finished:
			return "finding"
		case c.Worksheet:
			return "worksheet"
		}
		return RunHref(e, c)
	case plan.ReadCodes:
		return "codes"
	case plan.ReadTrims:
		return "trims"
	case plan.CountMisfires, plan.RunAfterMove:
		return "counters"
	case plan.SignVerdict:
		return "verdict"
	case plan.EndUnresolved:
		return "closing"
	case plan.StopEngine:
		return "danger"
	case plan.FindCylinder:
		return "watch"
	}
	switch {
	case c.Test == evidence.Spark:
		return "spark?" + url.Values{"on": {string(c.Place)}}.Encode()
	case c.Test == evidence.CompressionTest && e.Cylinders == 1: // a hump of the starter's current has nothing to be compared with
		return "meter?" + url.Values{"measure": {string(evidence.CompressionDry)}}.Encode()
	case measured[c.Test] != "":
		return "meter?" + url.Values{"measure": {string(measured[c.Test])}}.Encode()
	case c.Test != "":
		q := url.Values{"test": {string(c.Test)}, "place": {string(c.Place)}}
		return "check?" + q.Encode()
	case len(c.Parts) > 0:
		q := url.Values{"tag": {string(c.Parts[0].Tag)}, "to": {string(c.Parts[0].To)}}
		if c.Step.ID == plan.PutBack {
			q = url.Values{"tag": {string(c.Parts[1].Tag)}, "to": {string(c.Parts[1].To)}}
		}
		if c.Second.Place != "" {
			last := c.Parts[len(c.Parts)-2]
			q.Set("tag2", string(last.Tag))
			q.Set("to2", string(last.To))
		}
		return "move?" + q.Encode()
	case len(c.Look) > 0:
		q := url.Values{}
		for _, item := range c.Look {
			q.Set(lookField(item.Kind()), lookValue(item))
		}
		return "look?" + q.Encode()
	}
	return "counters"
}

// RunHref returns the address, relative to the job, of the view that records a run of the proof: with counts,
// or by the circumstance that the proof counts.
func RunHref(e engine.Engine, c plan.Card) string {
	if p := c.Proof; p != nil && p.Of != "" && p.Of != evidence.AnyRun {
		when, _ := p.Of.In()
		q := url.Values{"of": {string(p.Of)}, "condition": {string(when)}}
		if p.Place != "" {
			q.Set("place", string(p.Place))
		}
		return "watch?" + q.Encode()
	}
	if !e.Scanned() || c.Proof != nil && c.Proof.Of != "" {
		return "watch"
	}
	return "counters"
}

// measured maps a test to its measure, for tests whose answer follows from figures.
var measured = map[evidence.TestID]evidence.MeasureID{
	evidence.CoilResistance: evidence.CoilSecondary, evidence.LeadResistance: evidence.LeadOhms, evidence.WireTest: evidence.WireOhms, evidence.AirGapCheck: evidence.AirGapLegs, evidence.TimingLamp: evidence.BaseTiming,
	evidence.CompressionTest: evidence.StarterCurrent, evidence.LeakDown: evidence.LeakDownLoss, evidence.FuelPressure: evidence.FuelBar, evidence.Kilovolts: evidence.KVSteady,
}
