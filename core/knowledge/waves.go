package knowledge

import (
	"glenmist/core/evidence"
)

// waveFigures is how many figures of a capture's reading are weighed: firing kilovolts, how far
// apart the lowest and the highest are, sparks missed, burn time, spark line, its slope, ringing.
const WaveFigures = 7

// Wave is one shape that a cylinder's events can have in a capture, against its siblings of like
// polarity: logarithms of ratios, but of sparks missed (of their share over one in fifty) and of
// the slope (the difference a millisecond over the siblings' line).
type Wave struct {
	Words  string
	Answer evidence.ResultID
	// Silent is the share of those with no event at all in the whole capture.
	Silent  float64
	Figures [WaveFigures]NormalComponent
	// Rises is how often its kilovolts then rise on a snap as those of the others, more or less.
	Rises  [3]float64
	Source string
}

// Waves lists the shapes (C; judgement). The first is what a sound one shows.
var Waves = []Wave{
	//                                firing      spread       missed       burn          line         slope        rings
	{"in line with the others", "in-line", .0002, [WaveFigures]NormalComponent{{0, .12}, {.3, .14}, {0, .3}, {0, .15}, {0, .1}, {0, .15}, {0, .25}}, [3]float64{.92, .04, .04}, "C: cylinders within some 3 kV"},
	{"a wide gap", "high", .002, [WaveFigures]NormalComponent{{.5, .25}, {.35, .3}, {.3, .7}, {-.3, .3}, {.35, .25}, {0, .2}, {0, .3}}, [3]float64{.40, .55, .05}, "C: asks for more at every spark and burns shorter, at a higher line"},
	{"resistance in series", "high", .002, [WaveFigures]NormalComponent{{.4, .35}, {.4, .35}, {.3, .7}, {-.4, .4}, {.3, .35}, {-2, 2}, {-.2, .4}}, [3]float64{.40, .55, .05}, "C: the spark line falls steeply"},
	{"a gap in series", "high", .002, [WaveFigures]NormalComponent{{.5, .35}, {.45, .35}, {.6, 1}, {-.25, .35}, {.1, .2}, {-.05, .25}, {0, .35}}, [3]float64{.40, .55, .05}, "C: an open lead is a second gap"},
	{"a lean or turbulent charge", "high", .002, [WaveFigures]NormalComponent{{.28, .2}, {.4, .3}, {.2, .6}, {-.3, .35}, {.05, .15}, {.15, .25}, {0, .3}}, [3]float64{.80, .15, .05}, "C: the line rises or is ragged, and is short"},
	{"a shunt across the gap", "low", .002, [WaveFigures]NormalComponent{{-.5, .4}, {.4, .3}, {.5, 1}, {-.4, .7}, {-.1, .2}, {0, .3}, {-.2, .35}}, [3]float64{.50, .05, .45}, "C: what is fouled leaks before it fires, and takes of the energy"},
	{"a small gap", "low", .002, [WaveFigures]NormalComponent{{-.7, .35}, {.3, .3}, {.1, .5}, {.2, .25}, {-.25, .15}, {0, .2}, {0, .3}}, [3]float64{.80, .10, .10}, "C: one low, steady, long burn"},
	{"little charge", "low", .002, [WaveFigures]NormalComponent{{-.45, .25}, {.3, .16}, {.1, .4}, {.08, .18}, {-.03, .1}, {0, .15}, {0, .25}}, [3]float64{.35, .03, .62}, "C: little charge needs little"},
	{"flashes over to ground", "low", .002, [WaveFigures]NormalComponent{{-.4, .4}, {.5, .3}, {.2, .6}, {.3, .25}, {-.35, .15}, {.05, .2}, {0, .3}}, [3]float64{.35, .05, .60}, "C: it caps the peak, with a longer, flatter line"},
	{"jumps from event to event", "jumping", .002, [WaveFigures]NormalComponent{{-.1, .3}, {1.15, .45}, {.3, .8}, {.05, .25}, {-.1, .18}, {0, .2}, {0, .3}}, [3]float64{.35, .05, .60}, "C: a path that should not be there"},
	{"little energy", "low", .02, [WaveFigures]NormalComponent{{-.1, .4}, {.35, .35}, {1, 1.4}, {-1, .6}, {-.1, .2}, {.8, 2}, {-.1, .4}}, [3]float64{.45, .05, .50}, "C: the line is short, and rises: little energy is left"},
	{"as high as the coil gives, and no arc", "high", .002, [WaveFigures]NormalComponent{{.9, .4}, {.3, .4}, {3.2, 1}, {-.9, .6}, {.2, .5}, {0, 1}, {0, .6}}, [3]float64{.45, .05, .50}, "C: an open circuit or a gap too wide"},
	{"little, and no arc", "low", .10, [WaveFigures]NormalComponent{{-.3, .5}, {.4, .4}, {3.2, 1}, {-1, 1}, {-.1, .4}, {.8, 2}, {-.1, .6}}, [3]float64{.50, .05, .45}, "C: what is needed is more than there is"},
	{"hardly any ringing", "low", .02, [WaveFigures]NormalComponent{{-.4, .5}, {.3, .3}, {1, 1.4}, {-.6, .7}, {0, .25}, {0, .4}, {-1.3, .5}}, [3]float64{.45, .05, .50}, "C: no ringing: shorted turns"},
	{"sparks missing", "jumping", .35, [WaveFigures]NormalComponent{{-.05, .3}, {.3, .3}, {2.6, 1.2}, {-.1, .3}, {0, .15}, {0, .2}, {-.1, .4}}, [3]float64{.85, .08, .07}, "C: no primary current, no event at all"},
}

// shapes is how many there are.
const NumShapes = 15

// WaveChance is how often modes show each shape, in the order of Waves.
type WaveChance struct {
	Modes  []string
	Chance [NumShapes]float64
	Source string
}

// WaveChances lists them (C; judgement, in line with the answers of the test of kilovolts). The
// last row is any other fault, and none.
var WaveChances = []WaveChance{
	//                                    line  wide  res   gap   lean  shunt small thin  flash jumps weak  open  noarc ring  miss
	{[]string{"plug.worn-gap"}, [NumShapes]float64{.16, .58, .02, .05, .03, .005, .005, .005, .01, .03, .01, .07, .01, .005, .01}, "C: one high, steady"},
	{[]string{"plug.closed-gap"}, [NumShapes]float64{.12, .01, .005, .005, .005, .05, .61, .10, .05, .02, .005, .005, .005, .005, .005}, "C: one low, steady"},
	{[]string{"plug.wrong"}, [NumShapes]float64{.31, .29, .02, .02, .01, .18, .05, .01, .01, .03, .02, .02, .02, .005, .005}, "C: a copy burns away, one too cold fouls"},
	{[]string{"plug.loose"}, [NumShapes]float64{.36, .01, .01, .01, .03, .02, .04, .44, .03, .02, .01, .005, .005, .005, .005}, "C: less charge"},
	{[]string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, [NumShapes]float64{.14, .01, .01, .01, .01, .36, .04, .03, .03, .06, .12, .01, .14, .01, .02}, "C: one low, steady"},
	{[]string{"plug.cracked"}, [NumShapes]float64{.20, .01, .01, .01, .01, .05, .02, .04, .35, .26, .01, .005, .01, .005, .01}, "C: it leaks inside its own shell"},
	{[]string{"lead.high-resistance"}, [NumShapes]float64{.14, .05, .41, .15, .01, .01, .01, .01, .02, .08, .02, .06, .01, .005, .015}, "C: resistance in series"},
	{[]string{"lead.open"}, [NumShapes]float64{.10, .04, .26, .22, .01, .01, .005, .005, .02, .10, .02, .18, .015, .005, .01}, "C: a second gap, or an open circuit"},
	{[]string{"coil-lead.open", "boot.spring", "rotor.worn", "cap.tower-burnt"}, [NumShapes]float64{.13, .06, .08, .44, .01, .01, .01, .01, .02, .10, .02, .08, .01, .005, .015}, "C: a gap in series"},
	{[]string{"boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well", "seat"}, [NumShapes]float64{.21, .01, .01, .03, .01, .02, .02, .04, .33, .28, .01, .005, .01, .005, .01}, "C: a path that should not be there"},
	{[]string{"coil.cracked"}, [NumShapes]float64{.25, .01, .01, .01, .01, .02, .02, .03, .32, .24, .04, .005, .02, .005, .01}, "C: tracked inside or over its case"},
	{[]string{"coil.primary-shorted", "coil.secondary-shorted"}, [NumShapes]float64{.14, .01, .01, .01, .01, .02, .01, .01, .01, .03, .10, .01, .07, .55, .01}, "C: no ringing"},
	{[]string{"coil.secondary-open"}, [NumShapes]float64{.17, .02, .03, .06, .01, .02, .01, .01, .02, .08, .25, .02, .25, .02, .03}, "C: it jumps inside, and little is left"},
	{[]string{"coil.weak-hot", "coil.weak-load"}, [NumShapes]float64{.42, .01, .01, .01, .01, .02, .01, .01, .01, .03, .34, .01, .08, .01, .02}, "C: enough at idle, and little to spare"},
	{[]string{"feed", "ground", "air-gap", "module"}, [NumShapes]float64{.32, .01, .01, .01, .01, .02, .01, .01, .01, .03, .24, .01, .07, .01, .23}, "C: fewer volts, or none"},
	{[]string{"coil.primary-open", "connector", "trigger", "driver", "pickup", "stop-wire"}, [NumShapes]float64{.36, .005, .005, .01, .005, .005, .005, .005, .005, .02, .01, .005, .02, .005, .535}, "C: no primary current, no event"},
	{[]string{"compression"}, [NumShapes]float64{.19, .01, .005, .005, .01, .02, .04, .63, .03, .02, .01, .005, .01, .005, .01}, "C: little charge needs little"},
	{[]string{"injector.leaking"}, [NumShapes]float64{.61, .01, .005, .01, .02, .05, .03, .16, .03, .04, .01, .005, .01, .005, .005}, "C: rich needs less"},
	{[]string{"injector", "air", "fuel"}, [NumShapes]float64{.42, .07, .01, .03, .37, .01, .01, .01, .01, .03, .01, .005, .005, .005, .005}, "C: lean needs more"},
	{nil, [NumShapes]float64{.90, .012, .008, .010, .014, .01, .008, .008, .008, .010, .004, .002, .002, .002, .002}, "C: secondary side good in this condition"},
}

// waveChances is the chance of each shape for a mode; "" is any other fault, and none.
func WaveChancesOf(mode string) []float64 {
	for i := range WaveChances {
		if row := &WaveChances[i]; row.Modes == nil || mode != "" && Matches(row.Modes, mode) {
			return row.Chance[:]
		}
	}
	return nil
}
