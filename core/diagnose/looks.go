package diagnose

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Bearing is how an item that is looked at stands to the fault.
type Bearing string

// The bearings of an item.
const (
	WornGap      Bearing = "the plug is worn"
	CrackedPlug  Bearing = "the plug is cracked"
	FouledPlug   Bearing = "the plug is fouled"
	SparkLost    Bearing = "its cylinder lost the spark for another reason"
	FuelLost     Bearing = "its cylinder lost the fuel"
	SqueezeLost  Bearing = "its cylinder lost compression"
	Bystander    Bearing = "nothing wrong with it or its cylinder"
	BootAtFault  Bearing = "the boot leaks"
	NotHome      Bearing = "coil, boot or lead was not home"
	OverTracked  Bearing = "its plug is cracked or tracked"
	ConnectorBad Bearing = "the connector makes poor contact"
	CoilAtFault  Bearing = "the coil breaks down"
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
	//                       normal worn  crack  soot  fuel  oil
	{engine.Plug, WornGap, []float64{0.10, 0.74, 0.01, 0.06, 0.07, 0.02}, "C: wide gap is seen and gauged"},
	{engine.Plug, CrackedPlug, []float64{0.20, 0.06, 0.62, 0.04, 0.07, 0.01}, "C: a hairline crack is easily missed"},
	{engine.Plug, FouledPlug, []float64{0.08, 0.05, 0.01, 0.51, 0.20, 0.15}, "C: soot, fuel or oil bridges the nose"},
	{engine.Plug, SparkLost, []float64{0.38, 0.10, 0.01, 0.14, 0.35, 0.02}, "C: wet or sooty as the effect, not the cause"},
	{engine.Plug, FuelLost, []float64{0.80, 0.12, 0.01, 0.03, 0.02, 0.02}, "C: clean and dry, there is nothing to burn"},
	{engine.Plug, SqueezeLost, []float64{0.45, 0.10, 0.01, 0.12, 0.14, 0.18}, "C: oil past rings or guides at times"},
	{engine.Plug, Bystander, []float64{0.80, 0.13, 0.005, 0.03, 0.005, 0.03}, "C: sets wear alike"},

	//                       sound tracked torn  not home
	{engine.Boot, BootAtFault, []float64{0.18, 0.50, 0.30, 0.02}, "C: the track inside is seen with a lamp"},
	{engine.Boot, NotHome, []float64{0.20, 0.05, 0.02, 0.73}, "C: seen when the coil is lifted, if one looks"},
	{engine.Boot, OverTracked, []float64{0.62, 0.33, 0.03, 0.02}, "C: the boot carries the other half of the track"},
	{engine.Boot, Bystander, []float64{0.94, 0.02, 0.03, 0.01}, "C: aged boots are common, tracked ones are not"},

	//                             clean  loose  corroded
	{engine.Connector, ConnectorBad, []float64{0.30, 0.38, 0.32}, "C: a loose pin is not always seen"},
	{engine.Connector, Bystander, []float64{0.95, 0.03, 0.02}, "C: brittle latches are common"},

	//                       sound cracked
	{engine.Coil, CoilAtFault, []float64{0.72, 0.28}, "C: most coils fail inside"},
	{engine.Coil, Bystander, []float64{0.98, 0.02}, "C"},

	//                       sound burnt not home
	{engine.Lead, LeadOpen, []float64{0.72, 0.23, 0.05}, "C: a break inside is not seen"},
	{engine.Lead, LeadLeaks, []float64{0.25, 0.70, 0.05}, "C: seen in the dark or with a lamp"},
	{engine.Lead, NotHome, []float64{0.25, 0.05, 0.70}, "C: felt when it is pushed"},
	{engine.Lead, OverTracked, []float64{0.65, 0.33, 0.02}, "C: its boot carries the other half of the track"},
	{engine.Lead, Bystander, []float64{0.95, 0.03, 0.02}, "C"},

	//                     sound tracked corroded
	{engine.Cap, CapTracked, []float64{0.20, 0.70, 0.10}, "C: a fine track needs a lamp"},
	{engine.Cap, TowerBurnt, []float64{0.22, 0.08, 0.70}, "C"},
	{engine.Cap, Bystander, []float64{0.93, 0.02, 0.05}, "C: some burning is wear"},

	{engine.Rotor, RotorAtFault, []float64{0.30, 0.70}, "C: a burn-through hides under the tip"},
	{engine.Rotor, Bystander, []float64{0.95, 0.05}, "C"},

	{engine.CoilLead, CoilLeadBad, []float64{0.40, 0.60}, "C"},
	{engine.CoilLead, Bystander, []float64{0.96, 0.04}, "C"},
}

type lookKey struct {
	on      engine.Kind
	bearing Bearing
	finding evidence.Finding
}

// chances is Looks by its keys.
var chances = func() map[lookKey]float64 {
	m := map[lookKey]float64{}
	for _, row := range Looks {
		for i, words := range evidence.FindingsOn(row.On) {
			m[lookKey{row.On, row.Bearing, words.Finding}] = row.Chance[i]
		}
	}
	return m
}()

// atFault says which bearing a part has that is itself at fault, by the mode.
var atFault = map[string]Bearing{
	"plug.worn-gap": WornGap, "plug.cracked": CrackedPlug, "plug.fouled": FouledPlug,
	"boot.leaking": BootAtFault, "coil.breakdown": CoilAtFault, "lead.open": LeadOpen, "lead.leaking": LeadLeaks,
	"cap.tracked": CapTracked, "cap.tower-burnt": TowerBurnt, "rotor.leaking": RotorAtFault, "coil-lead.open": CoilLeadBad,
}

var robbed = map[fault.Robs]Bearing{fault.Spark: SparkLost, fault.Fuel: FuelLost, fault.Squeeze: SqueezeLost}

// bearing says how one item stands to the fault of a world. ran lists where the
// parts sat in the runs with the fault present, up to the look.
func bearing(item evidence.Seen, h *fault.Hypothesis, at part.Positions, ran []part.Positions, cured bool) Bearing {
	if item.Tag == "" {
		if h.Mode.Unit == engine.Connector && h.Place == item.Place && !cured {
			return ConnectorBad
		}
		return Bystander
	}
	if h.Tag == item.Tag {
		return atFault[h.Mode.ID]
	}
	own := engine.SetOf(at.Feeds(item.Tag)...)
	switch item.Tag.Kind() {
	case engine.Boot, engine.Lead:
		switch {
		case h.Mode.Unit == engine.Seat && h.Afflicted(at)&own != 0 && !cured:
			return NotHome
		case h.Mode.ID == "plug.cracked" && engine.SetOf(at.Feeds(h.Tag)...)&own != 0:
			return OverTracked
		}
	case engine.Plug:
		b, known := robbed[h.Mode.Robs]
		if !known {
			return Bystander
		}
		for _, then := range ran {
			if h.Afflicted(then)&engine.SetOf(then.Feeds(item.Tag)...) != 0 {
				return b
			}
		}
	}
	return Bystander
}

// effects are the bearings of a plug that is only the victim: they show as far as its
// cylinder misfires (C; judgement: five misfires one after the other leave a trace).
var effects = map[Bearing]int{SparkLost: 5, FuelLost: 5, SqueezeLost: 5}

// looked is what a finding says of a fault to which the item stands so; odd is how
// often it shows there.
func looked(item evidence.Seen, b Bearing) (k asked, odd float64) {
	on := engine.Connector
	if item.Tag != "" {
		on = item.Tag.Kind()
	}
	normal := evidence.FindingsOn(on)[0].Finding
	return asked{odds: chances[lookKey{on, b, item.Finding}], sound: chances[lookKey{on, Bystander, item.Finding}], events: effects[b], seen: 1},
		1 - chances[lookKey{on, b, normal}]
}
