package plan

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/unit"
)

// Shop is what a workshop sets for itself: its money and its tools.
type Shop struct {
	// HourlyRate is what an hour of work costs, in the shop's money; by it the price
	// of parts becomes minutes.
	HourlyRate float64
	// WrongVerdict is what a wrong verdict costs beside work and parts, in minutes:
	// the second visit, the trust: half a working day (judgement).
	WrongVerdict float64
	// Missing lists the tools that are not at hand, as [Step.Tools] names them.
	Missing []string
}

// Default is a shop that has every tool (judgement).
var Default = Shop{HourlyRate: 60, WrongVerdict: 240}

// Repair states what it takes to put a unit right: minutes with nothing in the way,
// and the price of what is renewed, in the shop's money.
type Repair struct {
	Unit    fault.Unit
	Minutes float64
	Price   float64
	Source  string
}

// Repairs are the minutes and prices of repairs (C; judgement), for an hourly rate of 60. A workshop can
// put its own in their place.
var Repairs = []Repair{
	{engine.Coil, 10, 60, "C; judgement"},
	{engine.CoilLead, 6, 15, "C; judgement"},
	{engine.Rotor, 8, 15, "C; judgement"},
	{engine.Cap, 15, 30, "C; judgement"},
	{engine.Lead, 6, 20, "C; judgement"},
	{engine.Boot, 10, 10, "C; judgement"},
	{engine.Plug, 12, 12, "C; judgement"},
	{engine.Connector, 15, 10, "C; judgement"},
	{engine.Module, 15, 10, "C: contacts cleaned or renewed; judgement"},
	{engine.Seat, 5, 0, "C: pushed home; judgement"},
	{engine.Well, 15, 15, "C: blown out, the seal above renewed; judgement"},
	{engine.Feed, 40, 10, "C: fuse, relay or splice; judgement"},
	{engine.Ground, 25, 5, "C; judgement"},
	{engine.Trigger, 45, 10, "C: a wire repaired; judgement"},
	{engine.Driver, 60, 250, "C: module or control unit; judgement"},
	{engine.Pickup, 45, 50, "C; judgement"},
	{engine.Timing, 20, 0, "C; judgement"},
	{engine.LeadOrder, 5, 0, "C; judgement"},
	{engine.StopWire, 15, 10, "C; judgement"},
	{engine.AirGap, 12, 0, "C; judgement"},
	{engine.Injector, 45, 90, "C; judgement"},
	{engine.Compression, 360, 300, "C: head off; judgement"},
	{engine.AirLeak, 40, 20, "C; judgement"},
	{engine.FuelSupply, 60, 120, "C; judgement"},
	{engine.Plugs, 40, 60, "C; judgement"},
	{engine.Leads, 30, 90, "C; judgement"},
	{engine.Boots, 40, 50, "C; judgement"},
	{engine.SetOfCoils, 40, 240, "C; judgement"},
	{fault.Else, 300, 0, "C: sent on, looked for anew by others: a day; judgement"},
	{fault.NoFault, 5, 0, "C: ended with a recheck; judgement"},
}

// ProofRun is the minutes of the run that shows whether a repair holds (C; judgement).
const ProofRun = 12

// RowID names the row.
func (r Repair) RowID() string { return "repair:" + string(r.Unit) }

// repairTable looks up the rows by unit.
var repairTable = knowledge.Register(knowledge.TableOf[Repair, map[fault.Unit]Repair]{
	Title: "Repairs, with prices in the shop's money", In: knowledge.OfWork, Ships: Repairs,
	Describe: func(r *Repair) knowledge.Row {
		return knowledge.Row{ID: r.RowID(), Of: unit.Capital(string(r.Unit)), Says: fmt.Sprintf("%g min, new parts %g", r.Minutes, r.Price), Source: r.Source,
			Figures: []knowledge.Figure{{Words: "Minutes", At: &r.Minutes, Least: 0.5, Most: knowledge.MaxOwnMinutes}, {Words: "Price of new parts", At: &r.Price, Least: 0, Most: knowledge.MaxOwnPrice}}}
	},
	Index: func(rows []Repair) map[fault.Unit]Repair {
		m := map[fault.Unit]Repair{}
		for _, r := range rows {
			m[r.Unit] = r
		}
		return m
	},
})

// RepairOf is the row of a unit, with a workshop's own figures where it has them.
func RepairOf(b *knowledge.Beliefs, u fault.Unit) Repair {
	return repairTable.Of(b)[u]
}

// InVain is the cost, in minutes, of repairing a unit that was not at fault.
func (s Shop) InVain(b *knowledge.Beliefs, u fault.Unit, access float64) float64 {
	r := RepairOf(b, u)
	return r.Minutes + access + ProofRun + r.Price/s.HourlyRate*60 + s.WrongVerdict
}

// has reports whether the shop has what a step takes.
func (s Shop) has(step Step) bool {
	for _, tool := range step.Tools {
		for _, none := range s.Missing {
			if tool == none {
				return false
			}
		}
	}
	return true
}
