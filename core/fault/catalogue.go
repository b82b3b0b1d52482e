// Package fault is the catalogue of what can be wrong: each mode with the
// repair unit it belongs to, how it behaves when parts are moved or touched,
// and how common it is before anything is known, on each ignition layout.
package fault

import (
	"encoding/json"

	"glenmist/core/engine"
)

// Unit is the kind of thing a repair replaces or puts right: a kind of part or of
// site of package engine, or one of the two that are none.
type Unit = engine.Kind

// The two that are no part and no site.
const (
	// Else is a fault that is not in the catalogue.
	Else Unit = "something else"
	// NoFault is an engine that has no fault at present: whatever was seen came
	// and went.
	NoFault Unit = "no fault now"
)

// Robs says what a fault takes away from the charge in its cylinder.
type Robs string

// What a charge can lack.
const (
	Spark   Robs = "spark"
	Fuel    Robs = "fuel"
	Squeeze Robs = "compression"
	Nothing Robs = ""
)

// Reach says which cylinders a fault troubles, of those that depend on the item.
type Reach string

// The reaches.
const (
	// Fed: all that depend on the item.
	Fed Reach = ""
	// Towers: those of one of a coil's towers, or all: a weak coil can show at one.
	Towers Reach = "towers"
	// Circuit: those that depend on it, or all in series with them.
	Circuit Reach = "circuit"
	// OneTower: one of the cylinders that depend on it.
	OneTower Reach = "one tower"
	// CapNeighbours: two whose towers stand beside each other in the cap.
	CapNeighbours Reach = "cap neighbours"
	// AnyTwo: any two cylinders.
	AnyTwo Reach = "any two"
	// Beside: two that stand beside each other in the block.
	Beside Reach = "beside"
)

// Weights are the shares of one mode, by layout, in the order of
// [engine.Ignitions].
type Weights [6]float64

// MarshalJSON writes the shares by the name of the layout, those that are not 0.
func (w Weights) MarshalJSON() ([]byte, error) {
	named := map[engine.Ignition]float64{}
	for i, layout := range engine.Ignitions() {
		if w[i] > 0 {
			named[layout] = w[i]
		}
	}
	return json.Marshal(named)
}

// Mode is one way to fail.
type Mode struct {
	// ID is a stable word that other programs may rely on.
	ID   string `json:"id"`
	Unit Unit   `json:"unit"`
	// Words is the mode as a technician says it.
	Words string `json:"words"`
	// Prior is the share of misfire jobs with this cause, before anything is known,
	// on each layout; on an engine that has all of its items the shares of the
	// catalogue sum to 1.
	Prior Weights `json:"prior"`
	Reach Reach   `json:"reach,omitzero"`
	// CuredByTouch is the chance that handling the item cures it, at least for a
	// while: 0 to 1.
	CuredByTouch float64 `json:"cured_by_touch"`
	Robs         Robs    `json:"robs"`
	// Source says where the figures come from.
	Source string `json:"source"`
}

// The ids of the two that are no fault of the catalogue.
const (
	SomethingElse = "something.else"
	NoFaultNow    = "no-fault.now"
)

// Catalogue lists every mode. The shares are judgements of common practice (C):
// the ignition's wear parts come first, then fuel, then the cylinder itself, and
// the control side seldom. They are starting points that evidence soon outweighs;
// they come from no survey. Columns: coil on plug, coil near plug, wasted spark,
// distributor, magneto, single coil.
var Catalogue = []Mode{
	{"coil.breakdown", engine.Coil, "coil breaks down or is weak", Weights{.30, .25, .14, .05, .17, .11}, Towers, 0, Spark, "C: the commonest single part on coil on plug, the last suspect of its pair on wasted spark; judgement"},
	{"coil-lead.open", engine.CoilLead, "coil lead open, leaking or not home", Weights{0, 0, 0, .04, 0, 0}, Fed, .3, Spark, "C; judgement"},
	{"rotor.leaking", engine.Rotor, "rotor burnt through or worn", Weights{0, 0, 0, .05, 0, 0}, Fed, 0, Spark, "C; judgement"},
	{"cap.tracked", engine.Cap, "cap tracked between two towers", Weights{0, 0, 0, .06, 0, 0}, CapNeighbours, .05, Spark, "C: neighbours in firing order are neighbours in the cap; judgement"},
	{"cap.tower-burnt", engine.Cap, "a tower of the cap burnt or corroded", Weights{0, 0, 0, .04, 0, 0}, OneTower, .05, Spark, "C; judgement"},
	{"lead.open", engine.Lead, "lead open or of high resistance", Weights{0, .07, .12, .09, 0, .09}, Circuit, .05, Spark, "C: an open lead can starve both of a pair; judgement"},
	{"lead.leaking", engine.Lead, "lead burnt, chafed or tracked", Weights{0, .07, .10, .10, 0, .08}, Fed, .05, Spark, "C; judgement"},
	{"boot.leaking", engine.Boot, "boot tracked, torn or swollen", Weights{.09, 0, 0, 0, .06, 0}, Fed, .05, Spark, "C: boots age with oil and heat; judgement"},
	{"plug.worn-gap", engine.Plug, "plug worn, gap wide", Weights{.14, .14, .14, .11, .12, .12}, Circuit, 0, Spark, "C: wear part; judgement"},
	{"plug.cracked", engine.Plug, "plug insulator cracked or tracked", Weights{.06, .06, .05, .04, .03, .04}, Fed, 0, Spark, "C: dropped or over-torqued; judgement"},
	{"plug.fouled", engine.Plug, "plug fouled or gap closed", Weights{.05, .05, .05, .06, .20, .12}, Fed, 0, Spark, "C: short trips, rich mixture, a drop; small engines foul most; judgement"},
	{"connector.poor-contact", engine.Connector, "coil connector loose or corroded", Weights{.07, .07, .04, .02, 0, .05}, Fed, .6, Spark, "C: often cured for a while by unplugging; judgement"},
	{"module.poor-contact", engine.Module, "contacts to the ignition module burnt or corroded", Weights{0, 0, .03, 0, 0, 0}, Fed, .4, Spark, "C: blade contacts with an insulating boot; judgement"},
	{"seat.not-home", engine.Seat, "coil, boot or lead not pushed home", Weights{.03, .03, .04, .04, .04, .04}, Fed, .8, Spark, "C: after recent work; refitting cures most; judgement"},
	{"trigger.missing", engine.Trigger, "trigger wire or driver", Weights{.02, .02, .03, .02, 0, .05}, Fed, .05, Spark, "C: far rarer than the coil; judgement"},
	{"pickup.weak", engine.Pickup, "pickup or crank signal weak", Weights{0, 0, 0, .02, 0, .04}, Fed, .05, Spark, "C; judgement"},
	{"timing.off", engine.Timing, "base timing off, or a sheared key", Weights{0, 0, 0, .02, .04, 0}, Fed, 0, Spark, "C; judgement"},
	{"lead-order.exchanged", engine.LeadOrder, "two leads exchanged", Weights{0, 0, .02, .04, 0, 0}, AnyTwo, 0, Spark, "C: exactly those two, often with a backfire; judgement"},
	{"stop-wire.shorted", engine.StopWire, "stop wire or a switch shorts the coil", Weights{0, 0, 0, 0, .09, .03}, Fed, .1, Spark, "C: isolate it first; judgement"},
	{"air-gap.wide", engine.AirGap, "air gap to the flywheel wide or uneven", Weights{0, 0, 0, 0, .04, 0}, Fed, .2, Spark, "C; judgement"},
	{"injector.not-delivering", engine.Injector, "injector does not deliver", Weights{.08, .08, .08, .02, .02, .02}, Fed, 0, Fuel, "C: next after ignition; judgement"},
	{"compression.low", engine.Compression, "low compression", Weights{.05, .05, .05, .05, .07, .07}, Fed, 0, Squeeze, "C: valves, rings; judgement"},
	{"compression.gasket", engine.Compression, "head gasket between two neighbours", Weights{.01, .01, .01, .01, 0, 0}, Beside, 0, Squeeze, "C; judgement"},
	{"air.leak", engine.AirLeak, "unmetered air", Weights{.03, .03, .03, .03, .02, .02}, Fed, .02, Fuel, "C: gaskets and hoses; judgement"},
	{"fuel.low", engine.FuelSupply, "fuel pressure or supply low", Weights{.01, .01, .01, .03, .04, .06}, Fed, 0, Fuel, "C; judgement"},
	{SomethingElse, Else, "something that is not in this list", Weights{.03, .03, .03, .03, .03, .03}, Fed, 0, Nothing, "C: room for what nobody thought of; judgement"},
	{NoFaultNow, NoFault, "no fault at present, or one that comes and goes", Weights{.03, .03, .03, .03, .03, .03}, Fed, 0, Nothing, "C: a share of complaints never shows in the shop; judgement"},
}

// Shares within a mode (C; judgement).
const (
	// ElseWholeEngine is how much of the share of "something else" belongs to faults
	// that no single cylinder has.
	ElseWholeEngine = 0.5
	// SharedAir is how much of the share of an air leak belongs to a bank or the
	// whole engine, and not to one cylinder's runner.
	SharedAir = 0.7
	// OneTowerOnly is the chance that a weak coil with several towers shows at one
	// of them alone.
	OneTowerOnly = 0.2
	// StarvesBoth is the chance that an open in one branch of a circuit starves all
	// that are in series with it.
	StarvesBoth = 0.5
)
