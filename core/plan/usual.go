package plan

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// UsualOrder is the usual order of the work (C): scan, look, exchanges, bench tests,
// kilovolts, old plugs, and then beyond the ignition. On small engines the stop wire is
// isolated first.
var UsualOrder = []string{
	ReadCodes, ReadTrims, CountMisfires, FindCylinder, CheckStopWire, CheckStopRun, LookConnector, TestWiggle, CheckRouting, LookCapRotor,
	SwapCoil, SwapLead, SwapBoot, SwapPlug, TrySpare, PutBack,
	TestSpark, TestCoilOhms, TestLeadOhms, TestTrigger, TestWatch, TestWire, TestOverlay, CheckAirGap, ReadKV,
	LookPlugBoot, LookPlugLead, TestCompress, TestInjector, CheckSmoke, CheckFuel, CheckTiming, TestCrank, TestLeakDown, TestExchange,
}

// InOrder is the first step of an order that can be done and has not been answered yet.
func InOrder(order []string, a *diagnose.Assessment, cards []Card) (Card, bool) {
	for _, id := range order {
		for _, c := range cards {
			if c.Step.ID == id && !c.answered(a) {
				return c, true
			}
		}
	}
	return Card{}, false
}

// answered reports whether a run or an exchange has been made that tells what the card
// asks; looks and tests that have been made are no candidates any more.
func (c *Card) answered(a *diagnose.Assessment) bool {
	if len(c.Parts) > 0 && c.Step.ID != PutBack {
		return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
			return m.Entry.Move() != nil && slices.ContainsFunc(m.Entry.Move().Parts, func(r part.Relocation) bool { return r.Tag == c.Parts[0].Tag })
		})
	}
	return (c.Step.ID == CountMisfires || c.Step.ID == FindCylinder) && slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return (m.Entry.Counters() != nil || m.Entry.Watch() != nil) && m.Entry.Condition == c.Condition
	})
}
