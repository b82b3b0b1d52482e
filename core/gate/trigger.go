package gate

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// running maps a test made while cranking to the same test with the engine running, which also
// finds intermittent faults.
var running = map[evidence.TestID]evidence.TestID{evidence.TriggerPulse: evidence.TriggerWatch, evidence.StopWireOff: evidence.StopWireRun}

// triggerGates lists the gates of the trigger wire, the driver and the pickup. Each is tested
// while cranking first, and during the misfire if that shows nothing.
func triggerGates(a *diagnose.Assessment, s diagnose.Suspect) []Gate {
	made := func(id evidence.TestID, place engine.Place) bool {
		t, _ := evidence.FindTest(id)
		return Tested(a, t, place)
	}
	watched := func(want evidence.ResultID) bool { return answeredAt(a, evidence.TriggerWatch, s.Place, want) }
	gate := func(met bool, test evidence.TestID, needs string) Gate {
		return Gate{Target: s.Key(), Met: met, Needs: needs, Test: test}
	}
	overlaid := answeredAt(a, evidence.Overlay, s.Place, "trigger")
	direct := s.Unit == engine.Trigger && (overlaid || abnormalAt(a, evidence.WireTest, s.Place) || watched("wire"))
	gates := []Gate{{Target: s.Key(), Met: direct || ignitionCleared(a, s.Place), Needs: fmt.Sprintf("%s proven by a move", sparkParts(a, s.Place)), Follows: true}}
	if s.Unit == engine.Pickup {
		g := gate(abnormalAt(a, evidence.CrankSignal, s.Place) || Answered(a, evidence.TriggerWatch, "signal"), evidence.CrankSignal, "a signal that is weak or drops out while cranking, or at the misfire itself")
		if !g.Met && made(evidence.CrankSignal, engine.Whole) {
			g.Test = evidence.TriggerWatch
		}
		return append(gates, g)
	}
	if crank, _ := evidence.FindTest(evidence.CrankSignal); s.Unit == engine.Driver && s.Place == engine.Whole && TestPlace(a, crank, 1) != "" {
		gates = append(gates, gate(Tested(a, crank, s.Place), evidence.CrankSignal, "the crank or pickup signal proven: without it no driver fires"))
	}
	pulse := gate(direct || abnormalAt(a, evidence.TriggerPulse, s.Place) || abnormalAt(a, evidence.TriggerWatch, s.Place), evidence.TriggerPulse, "feed and ground proven, and the trigger absent while cranking, or at the misfire itself")
	if made(evidence.TriggerPulse, s.Place) {
		pulse.Test = running[evidence.TriggerPulse]
	}
	wire := made(evidence.WireTest, s.Place)
	if s.Unit == engine.Trigger {
		last := gate(overlaid || abnormalAt(a, evidence.WireTest, s.Place) || watched("wire") && wire, evidence.WireTest,
			"a fault of the wire measured end to end, or its far end alive at the misfire; else a clean run with an overlay wire")
		if wire {
			last.Test, last.Again = evidence.Overlay, evidence.WireTest
		}
		return append(gates, pulse, last)
	}
	return append(gates, pulse,
		gate(watched("unit") || abnormalAt(a, evidence.TriggerPulse, s.Place), evidence.TriggerWatch, "the control unit's own end seen dead at the misfire, where the trigger was there while cranking"),
		gate(wire || made(evidence.Overlay, s.Place) && !overlaid, evidence.WireTest,
			"the wire proven from end to end, or by another laid over it: the driver is the dearest, and the last to be blamed"))
}

// Answered reports whether a test has one of the given results anywhere.
func Answered(a *diagnose.Assessment, id evidence.TestID, want evidence.ResultID) bool {
	return slices.ContainsFunc(a.Checks, func(c diagnose.Checked) bool { return c.Check.Test == id && c.Check.Result == want })
}
