// Package fault is the catalogue of faults. Each mode has a repair unit, a behaviour when
// parts are moved or handled, and a prior share for each ignition layout.
package fault

import (
	"encoding/json"

	"glenmist/core/engine"
)

// Unit is the kind of item that a repair replaces or puts right: a kind of part or site of
// package engine, or one of the two below.
type Unit = engine.Kind

// The two units that are neither a part nor a site.
const (
	// Else is a fault that is not in the catalogue.
	Else Unit = "something else"
	// NoFault is an engine without a fault at present: the observed misfire was temporary.
	NoFault Unit = "no fault now"
)

// Robs names what a fault takes from the charge in its cylinder.
type Robs string

// The values of [Robs].
const (
	Spark   Robs = "spark"
	Fuel    Robs = "fuel"
	Squeeze Robs = "compression"
	Nothing Robs = ""
)

// Scope states which of the cylinders that depend on the item are affected by the fault.
type Scope string

// The scopes.
const (
	// Fed means all cylinders that depend on the item.
	Fed Scope = ""
	// Towers means the cylinders of one tower of a coil, or of all towers. A weak coil can
	// show at one tower.
	Towers Scope = "towers"
	// Circuit means the cylinders that depend on the item, or all cylinders in series with
	// them.
	Circuit Scope = "circuit"
	// OneTower means one of the cylinders that depend on the item.
	OneTower Scope = "one tower"
	// CapNeighbours means two cylinders whose towers are next to each other in the cap.
	CapNeighbours Scope = "cap neighbours"
	// AnyTwo means any two cylinders.
	AnyTwo Scope = "any two"
	// Beside means two cylinders next to each other in the block.
	Beside Scope = "beside"
)

// Weights holds the prior shares of one mode by layout, in the order of [engine.Ignitions].
type Weights [6]float64

// MarshalJSON writes the shares that are not 0 by the name of the layout.
func (w Weights) MarshalJSON() ([]byte, error) {
	named := map[engine.Ignition]float64{}
	for i, layout := range engine.Ignitions() {
		if w[i] > 0 {
			named[layout] = w[i]
		}
	}
	return json.Marshal(named)
}

// Mode is one way in which an item can fail.
type Mode struct {
	// ID is a stable identifier that other programs may use.
	ID   ModeID `json:"id"`
	Unit Unit   `json:"unit"`
	// Words is the mode as a technician says it.
	Words string `json:"words"`
	// Prior is the share of misfire jobs with this cause before any evidence, for each layout.
	// On an engine that has all items of its layout the shares sum to 1.
	Prior Weights `json:"prior"`
	Scope Scope   `json:"reach,omitzero"`
	// CuredByTouch is the probability, 0 to 1, that handling the item cures the fault at least
	// temporarily.
	CuredByTouch float64 `json:"cured_by_touch"`
	Robs         Robs    `json:"robs"`
	// Source states where the figures come from.
	Source string `json:"source"`
}

// Catalogue lists every mode. The shares are judgements of common practice (C) and come from
// no survey. Wear parts of the ignition come first, then fuel, then the cylinder, and the
// control side is rare. Columns: coil on plug, coil near plug, wasted spark, distributor,
// magneto, single coil.
var Catalogue = []Mode{
	{CoilPrimaryOpen, engine.Coil, "coil primary open, or opens when warm", Weights{.023, .019, .011, .004, .013, .008}, Fed, 0, Spark, "C: a broken wire or joint; judgement"},
	{CoilPrimaryShorted, engine.Coil, "turns of the coil primary shorted", Weights{.02, .017, .009, .003, .011, .007}, Fed, 0, Spark, "C: overheated by long dwell; judgement"},
	{CoilSecondaryOpen, engine.Coil, "coil secondary open", Weights{.034, .028, .016, .006, .019, .013}, Towers, 0, Spark, "C: the spark jumps the break until the coil dies; judgement"},
	{CoilSecondaryShorted, engine.Coil, "turns of the coil secondary shorted", Weights{.042, .035, .02, .007, .024, .016}, Fed, 0, Spark, "C: insulation between turns; judgement"},
	{CoilWeakHot, engine.Coil, "coil weak when hot", Weights{.057, .047, .027, .01, .032, .021}, Fed, 0, Spark, "C: fails warmed through, tests good cold; judgement"},
	{CoilWeakLoad, engine.Coil, "coil weak when much is asked", Weights{.042, .035, .02, .007, .024, .016}, Fed, 0, Spark, "C: good at idle, misfires under load; judgement"},
	{CoilCracked, engine.Coil, "coil case cracked or tracked", Weights{.065, .054, .031, .011, .037, .024}, Towers, 0, Spark, "C: the commonest end of a coil on a plug; judgement"},
	{CoilLeadOpen, engine.CoilLead, "coil lead open or not home", Weights{0, 0, 0, .022, 0, 0}, Fed, 0.3, Spark, "C; judgement"},
	{CoilLeadLeaking, engine.CoilLead, "coil lead burnt or chafed", Weights{0, 0, 0, .016, 0, 0}, Fed, 0.05, Spark, "C; judgement"},
	{RotorLeaking, engine.Rotor, "rotor burnt through", Weights{0, 0, 0, .03, 0, 0}, Fed, 0, Spark, "C; judgement"},
	{RotorWorn, engine.Rotor, "rotor tip eaten away", Weights{0, 0, 0, .018, 0, 0}, Fed, 0, Spark, "C: a gap in series for all; judgement"},
	{CapTracked, engine.Cap, "cap tracked between two towers", Weights{0, 0, 0, .056, 0, 0}, CapNeighbours, 0.05, Spark, "C: neighbours in firing order are neighbours in the cap; judgement"},
	{CapTowerBurnt, engine.Cap, "a tower of the cap burnt or corroded", Weights{0, 0, 0, .037, 0, 0}, OneTower, 0.05, Spark, "C; judgement"},
	{LeadOpen, engine.Lead, "lead open", Weights{0, .038, .065, .05, 0, .051}, Circuit, 0.05, Spark, "C: an open lead can starve both of a pair; judgement"},
	{LeadHighResistance, engine.Lead, "lead of high resistance", Weights{0, .026, .044, .034, 0, .034}, Circuit, 0.05, Spark, "C: a burnt core, a corroded end; in series with both of a pair; judgement"},
	{LeadLeaking, engine.Lead, "lead burnt, chafed or tracked", Weights{0, .064, .094, .094, 0, .075}, Fed, 0.05, Spark, "C; judgement"},
	{BootTracked, engine.Boot, "boot tracked", Weights{.033, 0, 0, 0, .024, 0}, Fed, 0.05, Spark, "C: boots age with heat; judgement"},
	{BootSwollen, engine.Boot, "boot swollen by oil", Weights{.017, 0, 0, 0, .012, 0}, Fed, 0.05, Spark, "C: oil from the cover above; judgement"},
	{BootTorn, engine.Boot, "boot torn", Weights{.018, 0, 0, 0, .013, 0}, Fed, 0.05, Spark, "C: pulled hot or by the edge; judgement"},
	{BootSpring, engine.Boot, "spring of the boot burnt, corroded or missing", Weights{.015, 0, 0, 0, .011, 0}, Fed, 0.2, Spark, "C: a gap in series; judgement"},
	{PlugWornGap, engine.Plug, "plug worn, gap wide", Weights{.125, .124, .124, .101, .111, .108}, Circuit, 0, Spark, "C: wear part; judgement"},
	{PlugCracked, engine.Plug, "plug insulator cracked or tracked", Weights{.054, .054, .048, .037, .028, .038}, Fed, 0, Spark, "C: dropped or over-torqued; judgement"},
	{PlugCarbonFouled, engine.Plug, "plug fouled with soot", Weights{.019, .019, .019, .022, .073, .044}, Fed, 0, Spark, "C: short trips, rich mixture; judgement"},
	{PlugFuelFouled, engine.Plug, "plug wet with fuel", Weights{.01, .01, .01, .012, .039, .023}, Fed, 0.15, Spark, "C: flooded; it dries when it is out; judgement"},
	{PlugOilFouled, engine.Plug, "plug fouled with oil", Weights{.012, .012, .012, .014, .046, .028}, Fed, 0, Spark, "C: oil past guides, rings, or in the mixture; judgement"},
	{PlugClosedGap, engine.Plug, "plug gap closed or bridged", Weights{.009, .009, .009, .011, .035, .021}, Fed, 0, Spark, "C: a drop, or a bead of deposit; judgement"},
	{PlugWrong, engine.Plug, "wrong or fake plug", Weights{.012, .012, .012, .012, .014, .014}, Fed, 0, Spark, "C: heat range, gap or a copy that fails early; judgement"},
	{PlugLoose, engine.Plug, "plug loose in its thread", Weights{.01, .01, .01, .01, .014, .014}, Fed, 0.9, Squeeze, "C: never torqued; refitting cures it; judgement"},
	{ConnectorLoose, engine.Connector, "coil connector loose or not latched", Weights{.032, .033, .02, .01, 0, .025}, Fed, 0.7, Spark, "C: unplugging cures it for a while; judgement"},
	{ConnectorCorroded, engine.Connector, "coil connector corroded or a pin bent", Weights{.029, .03, .018, .009, 0, .02}, Fed, 0.45, Spark, "C; judgement"},
	{ModulePoorContact, engine.Module, "contacts to the ignition module burnt or corroded", Weights{0, 0, .03, 0, 0, 0}, Fed, 0.4, Spark, "C: blade contacts with an insulating boot; judgement"},
	{SeatNotHome, engine.Seat, "coil, boot or lead not pushed home", Weights{.029, .03, .038, .037, .041, .04}, Fed, 0.8, Spark, "C: after recent work; refitting cures most; judgement"},
	{FeedLow, engine.Feed, "feed to the coil open or of high resistance", Weights{.01, .01, .01, .01, 0, .015}, Fed, 0.05, Spark, "C: fuse, relay, splice; judgement"},
	{GroundPoor, engine.Ground, "ground of the coil poor", Weights{.007, .007, .006, .004, 0, .006}, Fed, 0.1, Spark, "C: left off after work, corroded; judgement"},
	{TriggerWire, engine.Trigger, "trigger wire open or shorted", Weights{.008, .008, .009, .007, 0, .02}, Fed, 0.05, Spark, "C: chafed; far rarer than the coil; judgement"},
	{DriverDead, engine.Driver, "driver of the coil fails", Weights{.006, .006, .012, .012, 0, .02}, Fed, 0, Spark, "C: often killed by a shorted coil; judgement"},
	{PickupWeak, engine.Pickup, "pickup or crank signal weak", Weights{0, 0, 0, .019, 0, .04}, Fed, 0.05, Spark, "C; judgement"},
	{TimingOff, engine.Timing, "base timing off", Weights{0, 0, 0, .019, 0, 0}, Fed, 0, Spark, "C: moved with the distributor; judgement"},
	{TimingKey, engine.Timing, "flywheel key sheared or bent", Weights{0, 0, 0, 0, .039, 0}, Fed, 0, Spark, "C: a blade that struck; judgement"},
	{LeadOrderExchanged, engine.LeadOrder, "two leads exchanged", Weights{0, 0, .019, .037, 0, 0}, AnyTwo, 0, Spark, "C: exactly those two, often with a backfire; judgement"},
	{StopWireShorted, engine.StopWire, "stop wire shorts the coil", Weights{0, 0, 0, 0, .051, .016}, Fed, 0.1, Spark, "C: chafed on a fin; isolate it first; judgement"},
	{StopWireSwitch, engine.StopWire, "stop, seat or tilt switch shorts the coil", Weights{0, 0, 0, 0, .037, .013}, Fed, 0.1, Spark, "C; judgement"},
	{AirGapWide, engine.AirGap, "air gap to the flywheel wide or uneven", Weights{0, 0, 0, 0, .039, 0}, Fed, 0.2, Spark, "C; judgement"},
	{WellOil, engine.Well, "oil in the plug well", Weights{.02, .014, .01, .006, 0, 0}, Fed, 0.1, Spark, "C: the seal of the cover above leaks; judgement"},
	{WellWater, engine.Well, "water in the plug well", Weights{.012, .014, .012, .008, 0, 0}, Fed, 0.35, Spark, "C: after a wash or through a cowl; blown out it dries; judgement"},
	{InjectorElectrical, engine.Injector, "injector winding, connector or wire", Weights{.03, .031, .031, .008, .008, .008}, Fed, 0.05, Fuel, "C: next after ignition; judgement"},
	{InjectorClogged, engine.Injector, "injector clogged or stuck shut", Weights{.032, .032, .032, .008, .009, .008}, Fed, 0, Fuel, "C; judgement"},
	{InjectorLeaking, engine.Injector, "injector leaks or stays open", Weights{.014, .014, .014, .004, .004, .004}, Fed, 0, Fuel, "C: rich, wet and black; judgement"},
	{CompressionValve, engine.Compression, "a valve burnt, bent or held open", Weights{.029, .03, .03, .03, .043, .042}, Fed, 0, Squeeze, "C; judgement"},
	{CompressionRings, engine.Compression, "rings or piston worn or broken", Weights{.018, .018, .018, .018, .028, .028}, Fed, 0, Squeeze, "C; judgement"},
	{CompressionGasket, engine.Compression, "head gasket between two neighbours", Weights{.01, .01, .01, .01, 0, 0}, Beside, 0, Squeeze, "C; judgement"},
	{AirLeak, engine.AirLeak, "unmetered air", Weights{.029, .03, .03, .03, .02, .02}, Fed, 0.02, Fuel, "C: gaskets and hoses; judgement"},
	{FuelLow, engine.FuelSupply, "fuel pressure or supply low", Weights{.01, .01, .01, .03, .041, .06}, Fed, 0, Fuel, "C; judgement"},
	{SomethingElse, Else, "something that is not in this list", Weights{.029, .03, .03, .03, .03, .03}, Fed, 0, Nothing, "C: room for what nobody thought of; judgement"},
	{NoFaultNow, NoFault, "no fault at present, or one that comes and goes", Weights{.029, .03, .03, .03, .03, .03}, Fed, 0, Nothing, "C: a share of complaints never shows in the shop; judgement"},
}

// Fractions of a mode's share (C; judgement).
const (
	// ElseWholeEngine is the fraction of "something else" that affects the whole engine.
	ElseWholeEngine = 0.5
	// SharedAir is the fraction of air leaks that affect a bank or the whole engine, not one
	// cylinder's runner.
	SharedAir = 0.7
	// OneTowerOnly is the probability that a weak coil with several towers shows at one tower
	// only.
	OneTowerOnly = 0.2
)

// StarvesBoth is, by mode, the probability that an open or a gap in one branch affects all
// cylinders in series. One current flows through the whole circuit. A gap in a lead therefore
// adds the same kilovolts to both sparks. A resistance weakens both sparks, and the one that
// is harder to light shows it. A worn plug needs most on its own compression stroke, and
// little when it fires into the exhaust (C; judgement).
var StarvesBoth = map[ModeID]float64{LeadOpen: 0.85, LeadHighResistance: 0.65, PlugWornGap: 0.03}
