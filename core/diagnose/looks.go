package diagnose

import (
	"math"

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
	NotHome      Bearing = "coil or boot was not home"
	OverTracked  Bearing = "its plug is cracked or tracked"
	ConnectorBad Bearing = "the connector makes poor contact"
)

// LookRow states how often each finding is seen on an item of one bearing. The
// figures of a row sum to 1.
type LookRow struct {
	On      part.Kind
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
	{part.Plug, WornGap, []float64{0.10, 0.74, 0.01, 0.06, 0.07, 0.02}, "C: wide gap is seen and gauged"},
	{part.Plug, CrackedPlug, []float64{0.20, 0.06, 0.62, 0.04, 0.07, 0.01}, "C: a hairline crack is easily missed"},
	{part.Plug, FouledPlug, []float64{0.08, 0.05, 0.01, 0.51, 0.20, 0.15}, "C: soot, fuel or oil bridges the nose"},
	{part.Plug, SparkLost, []float64{0.38, 0.10, 0.01, 0.14, 0.35, 0.02}, "C: wet or sooty as the effect, not the cause"},
	{part.Plug, FuelLost, []float64{0.80, 0.12, 0.01, 0.03, 0.02, 0.02}, "C: clean and dry, there is nothing to burn"},
	{part.Plug, SqueezeLost, []float64{0.45, 0.10, 0.01, 0.12, 0.14, 0.18}, "C: oil past rings or guides at times"},
	{part.Plug, Bystander, []float64{0.80, 0.13, 0.005, 0.03, 0.005, 0.03}, "C: sets wear alike"},

	//                       sound tracked torn  not home
	{part.Boot, BootAtFault, []float64{0.18, 0.50, 0.30, 0.02}, "C: the track inside is seen with a lamp"},
	{part.Boot, NotHome, []float64{0.20, 0.05, 0.02, 0.73}, "C: seen when the coil is lifted, if one looks"},
	{part.Boot, OverTracked, []float64{0.62, 0.33, 0.03, 0.02}, "C: the boot carries the other half of the track"},
	{part.Boot, Bystander, []float64{0.94, 0.02, 0.03, 0.01}, "C: aged boots are common, tracked ones are not"},

	//                            clean  loose  corroded
	{evidence.Connector, ConnectorBad, []float64{0.30, 0.38, 0.32}, "C: a loose pin is not always seen"},
	{evidence.Connector, Bystander, []float64{0.95, 0.03, 0.02}, "C: brittle latches are common"},
}

type lookKey struct {
	on      part.Kind
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

// plugModes says which bearing a plug has that is itself at fault.
var plugModes = map[string]Bearing{
	"plug.worn-gap": WornGap, "plug.cracked": CrackedPlug, "plug.fouled": FouledPlug,
}

var robbed = map[fault.Robs]Bearing{fault.Spark: SparkLost, fault.Fuel: FuelLost, fault.Squeeze: SqueezeLost}

// bearing says how one item stands to the fault of a world. ran lists the
// moments in which the engine ran with the fault present, up to the look.
func bearing(item evidence.Seen, w World, at part.Positions, ran []part.Positions, cured bool) Bearing {
	h := w.Hypothesis
	if item.Tag == "" {
		if h.Mode.Unit == fault.Connector && h.Place == item.Place && !cured {
			return ConnectorBad
		}
		return Bystander
	}
	if item.Tag.Kind() == part.Boot {
		c := at.Where(item.Tag)
		here, _ := h.Afflicted(at)
		switch {
		case h.Tag == item.Tag:
			return BootAtFault
		case h.Mode.Unit == fault.Seat && here == c && !cured:
			return NotHome
		case h.Mode.ID == "plug.cracked" && at.Where(h.Tag) == c:
			return OverTracked
		}
		return Bystander
	}
	if h.Tag == item.Tag {
		return plugModes[h.Mode.ID]
	}
	b, known := robbed[h.Mode.Robs]
	if !known {
		return Bystander
	}
	for _, then := range ran {
		if c, _ := h.Afflicted(then); c != 0 && then.Where(item.Tag) == c {
			return b
		}
	}
	return Bystander
}

// looked is the log probability of one finding.
func looked(item evidence.Seen, b Bearing) float64 {
	on := evidence.Connector
	if item.Tag != "" {
		on = item.Tag.Kind()
	}
	return math.Log(chances[lookKey{on, b, item.Finding}])
}
