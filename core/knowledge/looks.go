package knowledge

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/unit"
)

// Bearing is the relation of an inspected item to the fault.
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

// LookRow is the probability of each finding on an item of one bearing.
type LookRow struct {
	On       engine.Kind
	Bearing  Bearing
	Findings Findings
	Source   string
}

// RowID returns the row id.
func (l LookRow) RowID() string { return "look:" + string(l.On) + "/" + string(l.Bearing) }

// lookKey identifies one probability of the looks.
type lookKey struct {
	on      engine.Kind
	bearing Bearing
	finding evidence.Finding
}

var lookTable = Register(TableOf[LookRow, map[lookKey]float64]{
	Title: "Looks", In: OfLooks, Ships: Looks,
	Describe: func(r *LookRow) Row {
		short := func(f evidence.Finding) string { return findingWords(r.On, f).Short }
		words := func(f evidence.Finding) string { return findingWords(r.On, f).Words }
		return Row{ID: r.RowID(), Of: unit.Capital(string(r.On)) + ", when " + string(r.Bearing), Says: r.Findings.says(short, 0), Source: r.Source, Figures: r.Findings.figures(words)}
	},
	Copy: func(r *LookRow) { copyChances(&r.Findings) },
	Index: func(rows []LookRow) map[lookKey]float64 {
		m := map[lookKey]float64{}
		for _, row := range rows {
			for _, f := range row.Findings {
				m[lookKey{row.On, row.Bearing, f.Of}] = f.P
			}
		}
		return m
	},
})

func findingWords(on engine.Kind, f evidence.Finding) evidence.FindingWords {
	for _, row := range evidence.FindingsOn(on) {
		if row.Finding == f {
			return row
		}
	}
	return evidence.FindingWords{}
}

// Look returns the probability of a finding on a kind of item with a bearing.
func (b *Beliefs) Look(on engine.Kind, bearing Bearing, f evidence.Finding) float64 {
	return lookTable.Of(b)[lookKey{on, bearing, f}]
}

// Looks lists the findings of looks (common practice C; figures by judgement). A look usually
// shows a fault. A normal finding is weak evidence of a sound part.
var Looks = []LookRow{
	{engine.Plug, WornGap,
		Findings{{evidence.PlugNormal, 0.1}, {evidence.PlugWorn, 0.73}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.06},
			{evidence.PlugFuel, 0.06}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: wide gap is seen and gauged"},
	{engine.Plug, CrackedPlug,
		Findings{{evidence.PlugNormal, 0.2}, {evidence.PlugWorn, 0.06}, {evidence.PlugCracked, 0.61}, {evidence.PlugSoot, 0.04},
			{evidence.PlugFuel, 0.06}, {evidence.PlugOil, 0.01}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: a hairline crack is easily missed"},
	{engine.Plug, SootyPlug,
		Findings{{evidence.PlugNormal, 0.09}, {evidence.PlugWorn, 0.04}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.76},
			{evidence.PlugFuel, 0.05}, {evidence.PlugOil, 0.03}, {evidence.PlugClosed, 0.01}, {evidence.PlugWrong, 0.005},
			{evidence.PlugLoose, 0.005}}, "C: soot bridges the nose"},
	{engine.Plug, WetPlug,
		Findings{{evidence.PlugNormal, 0.12}, {evidence.PlugWorn, 0.03}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.1},
			{evidence.PlugFuel, 0.7}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: it dries while one looks"},
	{engine.Plug, OilyPlug,
		Findings{{evidence.PlugNormal, 0.08}, {evidence.PlugWorn, 0.04}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.1},
			{evidence.PlugFuel, 0.02}, {evidence.PlugOil, 0.73}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C"},
	{engine.Plug, ClosedGap,
		Findings{{evidence.PlugNormal, 0.1}, {evidence.PlugWorn, 0.01}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.05},
			{evidence.PlugFuel, 0.1}, {evidence.PlugOil, 0.01}, {evidence.PlugClosed, 0.7}, {evidence.PlugWrong, 0.015},
			{evidence.PlugLoose, 0.005}}, "C: seen, if one looks along the strap"},
	{engine.Plug, WrongPlug,
		Findings{{evidence.PlugNormal, 0.15}, {evidence.PlugWorn, 0.1}, {evidence.PlugCracked, 0.02}, {evidence.PlugSoot, 0.12},
			{evidence.PlugFuel, 0.03}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.02}, {evidence.PlugWrong, 0.53},
			{evidence.PlugLoose, 0.01}}, "C: its lettering beside the list"},
	{engine.Plug, LoosePlug,
		Findings{{evidence.PlugNormal, 0.15}, {evidence.PlugWorn, 0.05}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.05},
			{evidence.PlugFuel, 0.03}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.005},
			{evidence.PlugLoose, 0.68}}, "C: felt when it is undone"},
	{engine.Plug, SparkLost,
		Findings{{evidence.PlugNormal, 0.38}, {evidence.PlugWorn, 0.09}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.14},
			{evidence.PlugFuel, 0.34}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: wet or sooty as the effect, not the cause"},
	{engine.Plug, FuelLost,
		Findings{{evidence.PlugNormal, 0.78}, {evidence.PlugWorn, 0.12}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.03},
			{evidence.PlugFuel, 0.02}, {evidence.PlugOil, 0.02}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: clean and dry, there is nothing to burn"},
	{engine.Plug, FuelTooMuch,
		Findings{{evidence.PlugNormal, 0.16}, {evidence.PlugWorn, 0.07}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.4},
			{evidence.PlugFuel, 0.33}, {evidence.PlugOil, 0.01}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: black or wet"},
	{engine.Plug, SqueezeLost,
		Findings{{evidence.PlugNormal, 0.44}, {evidence.PlugWorn, 0.1}, {evidence.PlugCracked, 0.01}, {evidence.PlugSoot, 0.12},
			{evidence.PlugFuel, 0.14}, {evidence.PlugOil, 0.17}, {evidence.PlugClosed, 0.005}, {evidence.PlugWrong, 0.01},
			{evidence.PlugLoose, 0.005}}, "C: oil past rings or guides at times"},
	{engine.Plug, Bystander,
		Findings{{evidence.PlugNormal, 0.785}, {evidence.PlugWorn, 0.125}, {evidence.PlugCracked, 0.005},
			{evidence.PlugSoot, 0.03}, {evidence.PlugFuel, 0.005}, {evidence.PlugOil, 0.03}, {evidence.PlugClosed, 0.005},
			{evidence.PlugWrong, 0.01}, {evidence.PlugLoose, 0.005}}, "C: sets wear alike"},

	{engine.Boot, BootTracks,
		Findings{{evidence.BootSound, 0.21}, {evidence.BootTracked, 0.6}, {evidence.BootTorn, 0.15},
			{evidence.BootNotHome, 0.003}, {evidence.BootSpring, 0.007}, {evidence.BootWet, 0.03}},
		"C: the track inside is seen with a lamp"},
	{engine.Boot, BootGone,
		Findings{{evidence.BootSound, 0.17}, {evidence.BootTracked, 0.18}, {evidence.BootTorn, 0.56},
			{evidence.BootNotHome, 0.003}, {evidence.BootSpring, 0.007}, {evidence.BootWet, 0.08}},
		"C: a tear is tracked before long"},
	{engine.Boot, SpringBad,
		Findings{{evidence.BootSound, 0.28}, {evidence.BootTracked, 0.05}, {evidence.BootTorn, 0.015},
			{evidence.BootNotHome, 0.005}, {evidence.BootSpring, 0.63}, {evidence.BootWet, 0.02}},
		"C: one has to look up into it"},
	{engine.Boot, WellIsWet,
		Findings{{evidence.BootSound, 0.15}, {evidence.BootTracked, 0.035}, {evidence.BootTorn, 0.05},
			{evidence.BootNotHome, 0.003}, {evidence.BootSpring, 0.007}, {evidence.BootWet, 0.755}},
		"C: it comes out with the boot"},
	{engine.Boot, NotHome,
		Findings{{evidence.BootSound, 0.24}, {evidence.BootTracked, 0.04}, {evidence.BootTorn, 0.014},
			{evidence.BootNotHome, 0.68}, {evidence.BootSpring, 0.006}, {evidence.BootWet, 0.02}},
		"C: seen when the coil is lifted, if one looks"},
	{engine.Boot, OverTracked,
		Findings{{evidence.BootSound, 0.6}, {evidence.BootTracked, 0.33}, {evidence.BootTorn, 0.04},
			{evidence.BootNotHome, 0.003}, {evidence.BootSpring, 0.007}, {evidence.BootWet, 0.02}},
		"C: the boot carries the other half of the track"},
	{engine.Boot, Bystander,
		Findings{{evidence.BootSound, 0.931}, {evidence.BootTracked, 0.03}, {evidence.BootTorn, 0.012},
			{evidence.BootNotHome, 0.002}, {evidence.BootSpring, 0.005}, {evidence.BootWet, 0.02}},
		"C: aged boots are common, tracked ones are not"},

	{engine.Connector, ConnectorBad,
		Findings{{evidence.ConnectorSound, 0.3}, {evidence.ConnectorLoose, 0.38}, {evidence.ConnectorBad, 0.32}},
		"C: a loose pin is not always seen"},
	{engine.Connector, Bystander,
		Findings{{evidence.ConnectorSound, 0.95}, {evidence.ConnectorLoose, 0.03}, {evidence.ConnectorBad, 0.02}},
		"C: brittle latches are common"},

	{engine.Coil, CoilAtFault,
		Findings{{evidence.CoilSound, 0.55}, {evidence.CoilCracked, 0.45}}, "C: half of the tracks are inside"},
	{engine.Coil, Bystander,
		Findings{{evidence.CoilSound, 0.98}, {evidence.CoilCracked, 0.02}}, "C"},

	{engine.Lead, LeadOpen,
		Findings{{evidence.LeadSound, 0.735}, {evidence.LeadBurnt, 0.24}, {evidence.LeadNotHome, 0.005},
			{evidence.LeadWet, 0.02}}, "C: a break inside is not seen"},
	{engine.Lead, LeadLeaks,
		Findings{{evidence.LeadSound, 0.265}, {evidence.LeadBurnt, 0.71}, {evidence.LeadNotHome, 0.005},
			{evidence.LeadWet, 0.02}}, "C: seen in the dark or with a lamp"},
	{engine.Lead, WellIsWet,
		Findings{{evidence.LeadSound, 0.2}, {evidence.LeadBurnt, 0.045}, {evidence.LeadNotHome, 0.005}, {evidence.LeadWet, 0.75}},
		"C"},
	{engine.Lead, NotHome,
		Findings{{evidence.LeadSound, 0.27}, {evidence.LeadBurnt, 0.04}, {evidence.LeadNotHome, 0.67}, {evidence.LeadWet, 0.02}},
		"C: felt when it is pushed"},
	{engine.Lead, OverTracked,
		Findings{{evidence.LeadSound, 0.845}, {evidence.LeadBurnt, 0.13}, {evidence.LeadNotHome, 0.005},
			{evidence.LeadWet, 0.02}}, "C: its boot carries the other half of the track"},
	{engine.Lead, Bystander,
		Findings{{evidence.LeadSound, 0.948}, {evidence.LeadBurnt, 0.03}, {evidence.LeadNotHome, 0.002},
			{evidence.LeadWet, 0.02}}, "C"},

	{engine.Cap, CapTracked,
		Findings{{evidence.CapSound, 0.21}, {evidence.CapTracked, 0.73}, {evidence.CapCorroded, 0.06}},
		"C: a fine track needs a lamp"},
	{engine.Cap, TowerBurnt,
		Findings{{evidence.CapSound, 0.26}, {evidence.CapTracked, 0.04}, {evidence.CapCorroded, 0.7}}, "C"},
	{engine.Cap, Bystander,
		Findings{{evidence.CapSound, 0.92}, {evidence.CapTracked, 0.03}, {evidence.CapCorroded, 0.05}},
		"C: some burning is wear"},

	{engine.Rotor, RotorAtFault,
		Findings{{evidence.RotorSound, 0.3}, {evidence.RotorBurnt, 0.7}}, "C: a burn-through hides under the tip"},
	{engine.Rotor, Bystander,
		Findings{{evidence.RotorSound, 0.95}, {evidence.RotorBurnt, 0.05}}, "C"},

	{engine.CoilLead, CoilLeadBad,
		Findings{{evidence.CoilLeadSound, 0.4}, {evidence.CoilLeadBurnt, 0.6}}, "C"},
	{engine.CoilLead, Bystander,
		Findings{{evidence.CoilLeadSound, 0.96}, {evidence.CoilLeadBurnt, 0.04}}, "C"},
}

// AtFault maps a mode to the bearing of the faulty part.
var AtFault = map[fault.ModeID]Bearing{
	fault.PlugWornGap: WornGap, fault.PlugCracked: CrackedPlug, fault.PlugCarbonFouled: SootyPlug, fault.PlugFuelFouled: WetPlug,
	fault.PlugOilFouled: OilyPlug, fault.PlugClosedGap: ClosedGap, fault.PlugWrong: WrongPlug, fault.PlugLoose: LoosePlug,
	fault.BootTracked: BootTracks, fault.BootSwollen: BootGone, fault.BootTorn: BootGone, fault.BootSpring: SpringBad,
	fault.CoilCracked: CoilAtFault, fault.LeadOpen: LeadOpen, fault.LeadHighResistance: LeadOpen, fault.LeadLeaking: LeadLeaks,
	fault.CapTracked: CapTracked, fault.CapTowerBurnt: TowerBurnt, fault.RotorLeaking: RotorAtFault, fault.RotorWorn: RotorAtFault,
	fault.CoilLeadOpen: CoilLeadBad, fault.CoilLeadLeaking: CoilLeadBad,
}

// Robbed maps what a cylinder lacks to the bearing of its plug.
var Robbed = map[fault.Robs]Bearing{fault.Spark: SparkLost, fault.Fuel: FuelLost, fault.Squeeze: SqueezeLost}

// LeaveTrace is the number of firing events that the look of a plug observes, as in
// [WatchedIn]. A plug with rare misfires burns clean again (C; judgement).
const LeaveTrace = 1

// Effects lists the bearings of a plug that is only affected by another fault.
var Effects = map[Bearing]int{SparkLost: LeaveTrace, FuelLost: LeaveTrace, SqueezeLost: LeaveTrace}
