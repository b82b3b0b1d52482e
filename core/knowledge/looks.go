package knowledge

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// RowID names the row of a look.
func (l LookRow) RowID() string { return "look:" + string(l.On) + "/" + string(l.Bearing) }

// Bearing is how an item that is looked at stands to the fault.
type Bearing string

// The bearings of an item.
const (
	WornGap      Bearing = "the plug is worn"
	CrackedPlug  Bearing = "the plug is cracked"
	SootyPlug    Bearing = "the plug is fouled with soot"
	WetPlug      Bearing = "the plug is wet with fuel"
	OilyPlug     Bearing = "the plug is fouled with oil"
	ClosedGap    Bearing = "the plug's gap is closed"
	WrongPlug    Bearing = "the plug is a wrong one"
	LoosePlug    Bearing = "the plug is loose"
	SparkLost    Bearing = "its cylinder lost the spark for another reason"
	FuelLost     Bearing = "its cylinder lost the fuel"
	FuelTooMuch  Bearing = "its cylinder has too much fuel"
	SqueezeLost  Bearing = "its cylinder lost compression"
	Bystander    Bearing = "nothing wrong with it or its cylinder"
	BootTracks   Bearing = "the boot is tracked"
	BootGone     Bearing = "the boot is torn or swollen"
	SpringBad    Bearing = "the boot's spring makes no contact"
	WellIsWet    Bearing = "its well holds oil or water"
	NotHome      Bearing = "coil, boot or lead was not home"
	OverTracked  Bearing = "its plug is cracked or tracked"
	ConnectorBad Bearing = "the connector makes poor contact"
	CoilAtFault  Bearing = "the coil is cracked or tracked"
	LeadOpen     Bearing = "the lead is open inside"
	LeadLeaks    Bearing = "the lead leaks"
	CapTracked   Bearing = "the cap is tracked"
	TowerBurnt   Bearing = "a tower of the cap is burnt"
	RotorAtFault Bearing = "the rotor leaks"
	CoilLeadBad  Bearing = "the coil lead is at fault"
)

// LookRow states how often each finding is seen on an item of one bearing. The
// figures of a row sum to 1.
type LookRow struct {
	On      engine.Kind
	Bearing Bearing
	// Chance of each finding of that kind, in the order of evidence.Findings.
	Chance []float64
	Source string
}

// Looks is what is believed about looks. All rows are common practice (C) put
// into figures by judgement: a look shows a fault more often than not, and a
// sound look is weak evidence of a sound part.
var Looks = []LookRow{
	//                       normal worn crack soot fuel oil closed wrong loose
	{engine.Plug, WornGap, []float64{.10, .73, .01, .06, .06, .02, .005, .01, .005}, "C: wide gap is seen and gauged"},
	{engine.Plug, CrackedPlug, []float64{.20, .06, .61, .04, .06, .01, .005, .01, .005}, "C: a hairline crack is easily missed"},
	{engine.Plug, SootyPlug, []float64{.09, .04, .01, .76, .05, .03, .01, .005, .005}, "C: soot bridges the nose"},
	{engine.Plug, WetPlug, []float64{.12, .03, .01, .10, .70, .02, .005, .01, .005}, "C: it dries while one looks"},
	{engine.Plug, OilyPlug, []float64{.08, .04, .01, .10, .02, .73, .005, .01, .005}, "C"},
	{engine.Plug, ClosedGap, []float64{.10, .01, .01, .05, .10, .01, .70, .015, .005}, "C: seen, if one looks along the strap"},
	{engine.Plug, WrongPlug, []float64{.15, .10, .02, .12, .03, .02, .02, .53, .01}, "C: its lettering beside the list"},
	{engine.Plug, LoosePlug, []float64{.15, .05, .01, .05, .03, .02, .005, .005, .68}, "C: felt when it is undone"},
	{engine.Plug, SparkLost, []float64{.38, .09, .01, .14, .34, .02, .005, .01, .005}, "C: wet or sooty as the effect, not the cause"},
	{engine.Plug, FuelLost, []float64{.78, .12, .01, .03, .02, .02, .005, .01, .005}, "C: clean and dry, there is nothing to burn"},
	{engine.Plug, FuelTooMuch, []float64{.16, .07, .01, .40, .33, .01, .005, .01, .005}, "C: black or wet"},
	{engine.Plug, SqueezeLost, []float64{.44, .10, .01, .12, .14, .17, .005, .01, .005}, "C: oil past rings or guides at times"},
	{engine.Plug, Bystander, []float64{.785, .125, .005, .03, .005, .03, .005, .01, .005}, "C: sets wear alike"},

	//                       sound tracked torn not-home spring wet
	{engine.Boot, BootTracks, []float64{.21, .60, .15, .003, .007, .03}, "C: the track inside is seen with a lamp"},
	{engine.Boot, BootGone, []float64{.17, .18, .56, .003, .007, .08}, "C: a tear is tracked before long"},
	{engine.Boot, SpringBad, []float64{.28, .05, .015, .005, .63, .02}, "C: one has to look up into it"},
	{engine.Boot, WellIsWet, []float64{.15, .035, .05, .003, .007, .755}, "C: it comes out with the boot"},
	{engine.Boot, NotHome, []float64{.24, .04, .014, .68, .006, .02}, "C: seen when the coil is lifted, if one looks"},
	{engine.Boot, OverTracked, []float64{.60, .33, .04, .003, .007, .02}, "C: the boot carries the other half of the track"},
	{engine.Boot, Bystander, []float64{.931, .03, .012, .002, .005, .02}, "C: aged boots are common, tracked ones are not"},

	//                             clean  loose  corroded
	{engine.Connector, ConnectorBad, []float64{0.30, 0.38, 0.32}, "C: a loose pin is not always seen"},
	{engine.Connector, Bystander, []float64{0.95, 0.03, 0.02}, "C: brittle latches are common"},

	//                       sound cracked
	{engine.Coil, CoilAtFault, []float64{0.55, 0.45}, "C: half of the tracks are inside"},
	{engine.Coil, Bystander, []float64{0.98, 0.02}, "C"},

	//                       sound burnt not-home wet
	{engine.Lead, LeadOpen, []float64{.735, .24, .005, .02}, "C: a break inside is not seen"},
	{engine.Lead, LeadLeaks, []float64{.265, .71, .005, .02}, "C: seen in the dark or with a lamp"},
	{engine.Lead, WellIsWet, []float64{.20, .045, .005, .75}, "C"},
	{engine.Lead, NotHome, []float64{.27, .04, .67, .02}, "C: felt when it is pushed"},
	{engine.Lead, OverTracked, []float64{.845, .13, .005, .02}, "C: its boot carries the other half of the track"},
	{engine.Lead, Bystander, []float64{.948, .03, .002, .02}, "C"},

	//                     sound tracked corroded
	{engine.Cap, CapTracked, []float64{0.21, 0.73, 0.06}, "C: a fine track needs a lamp"},
	{engine.Cap, TowerBurnt, []float64{0.26, 0.04, 0.70}, "C"},
	{engine.Cap, Bystander, []float64{0.92, 0.03, 0.05}, "C: some burning is wear"},

	{engine.Rotor, RotorAtFault, []float64{0.30, 0.70}, "C: a burn-through hides under the tip"},
	{engine.Rotor, Bystander, []float64{0.95, 0.05}, "C"},

	{engine.CoilLead, CoilLeadBad, []float64{0.40, 0.60}, "C"},
	{engine.CoilLead, Bystander, []float64{0.96, 0.04}, "C"},
}

// LookKey names a cell of the looks: a finding on a kind of item that has a bearing.
type LookKey struct {
	On      engine.Kind
	Bearing Bearing
	Finding evidence.Finding
}

// Look is the chance of a finding on a kind of item that has a bearing.
func (b *Beliefs) Look(on engine.Kind, bearing Bearing, f evidence.Finding) float64 {
	return b.Looks[LookKey{on, bearing, f}]
}

// LookChances is Looks by its keys.
var LookChances = func() map[LookKey]float64 {
	m := map[LookKey]float64{}
	for _, row := range Looks {
		for i, words := range evidence.FindingsOn(row.On) {
			m[LookKey{row.On, row.Bearing, words.Finding}] = row.Chance[i]
		}
	}
	return m
}()

// atFault says which bearing a part has that is itself at fault, by the mode.
var AtFault = map[string]Bearing{
	"plug.worn-gap": WornGap, "plug.cracked": CrackedPlug, "plug.carbon-fouled": SootyPlug, "plug.fuel-fouled": WetPlug,
	"plug.oil-fouled": OilyPlug, "plug.closed-gap": ClosedGap, "plug.wrong": WrongPlug, "plug.loose": LoosePlug,
	"boot.tracked": BootTracks, "boot.swollen": BootGone, "boot.torn": BootGone, "boot.spring": SpringBad,
	"coil.cracked": CoilAtFault, "lead.open": LeadOpen, "lead.high-resistance": LeadOpen, "lead.leaking": LeadLeaks,
	"cap.tracked": CapTracked, "cap.tower-burnt": TowerBurnt, "rotor.leaking": RotorAtFault, "rotor.worn": RotorAtFault,
	"coil-lead.open": CoilLeadBad, "coil-lead.leaking": CoilLeadBad,
}

var Robbed = map[fault.Robs]Bearing{fault.Spark: SparkLost, fault.Fuel: FuelLost, fault.Squeeze: SqueezeLost}

// leaveTrace is how many misfires leave a trace on a plug: what its cylinder does to it shows as
// far as it misfires (C: one that misses now and then burns itself clean again; judgement).
const LeaveTrace = 1

// effects are the bearings of a plug that is only the victim.
var Effects = map[Bearing]int{SparkLost: LeaveTrace, FuelLost: LeaveTrace, SqueezeLost: LeaveTrace}
