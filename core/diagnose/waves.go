package diagnose

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/meter"
	"glenmist/core/part"
)

// waveFigures is how many figures of a capture's reading are weighed: firing kilovolts, how far
// apart the lowest and the highest are, sparks missed, burn time, spark line, its slope, ringing.
const waveFigures = 7

// Wave is one shape that a cylinder's events can have in a capture, against its siblings of like
// polarity: logarithms of ratios, but of sparks missed (of their share over one in fifty) and of
// the slope (the difference a millisecond over the siblings' line).
type Wave struct {
	Words  string
	Answer evidence.ResultID
	// Silent is the share of those with no event at all in the whole capture.
	Silent  float64
	Figures [waveFigures]NormalComponent
	// Rises is how often its kilovolts then rise on a snap as those of the others, more or less.
	Rises  [3]float64
	Source string
}

// Waves lists the shapes (C; judgement). The first is what a sound one shows.
var Waves = []Wave{
	//                                firing      spread       missed       burn          line         slope        rings
	{"in line with the others", "in-line", .0002, [waveFigures]NormalComponent{{0, .12}, {.3, .14}, {0, .3}, {0, .15}, {0, .1}, {0, .15}, {0, .25}}, [3]float64{.92, .04, .04}, "C: cylinders within some 3 kV"},
	{"a wide gap", "high", .002, [waveFigures]NormalComponent{{.5, .25}, {.35, .3}, {.3, .7}, {-.3, .3}, {.35, .25}, {0, .2}, {0, .3}}, [3]float64{.40, .55, .05}, "C: asks for more at every spark and burns shorter, at a higher line"},
	{"resistance in series", "high", .002, [waveFigures]NormalComponent{{.4, .35}, {.4, .35}, {.3, .7}, {-.4, .4}, {.3, .35}, {-2, 2}, {-.2, .4}}, [3]float64{.40, .55, .05}, "C: the spark line falls steeply"},
	{"a gap in series", "high", .002, [waveFigures]NormalComponent{{.5, .35}, {.45, .35}, {.6, 1}, {-.25, .35}, {.1, .2}, {-.05, .25}, {0, .35}}, [3]float64{.40, .55, .05}, "C: an open lead is a second gap"},
	{"a lean or turbulent charge", "high", .002, [waveFigures]NormalComponent{{.28, .2}, {.4, .3}, {.2, .6}, {-.3, .35}, {.05, .15}, {.15, .25}, {0, .3}}, [3]float64{.80, .15, .05}, "C: the line rises or is ragged, and is short"},
	{"a shunt across the gap", "low", .002, [waveFigures]NormalComponent{{-.5, .4}, {.4, .3}, {.5, 1}, {-.4, .7}, {-.1, .2}, {0, .3}, {-.2, .35}}, [3]float64{.50, .05, .45}, "C: what is fouled leaks before it fires, and takes of the energy"},
	{"a small gap", "low", .002, [waveFigures]NormalComponent{{-.7, .35}, {.3, .3}, {.1, .5}, {.2, .25}, {-.25, .15}, {0, .2}, {0, .3}}, [3]float64{.80, .10, .10}, "C: one low, steady, long burn"},
	{"little charge", "low", .002, [waveFigures]NormalComponent{{-.45, .25}, {.3, .16}, {.1, .4}, {.08, .18}, {-.03, .1}, {0, .15}, {0, .25}}, [3]float64{.35, .03, .62}, "C: little charge needs little"},
	{"flashes over to ground", "low", .002, [waveFigures]NormalComponent{{-.4, .4}, {.5, .3}, {.2, .6}, {.3, .25}, {-.35, .15}, {.05, .2}, {0, .3}}, [3]float64{.35, .05, .60}, "C: it caps the peak, with a longer, flatter line"},
	{"jumps from event to event", "jumping", .002, [waveFigures]NormalComponent{{-.1, .3}, {1.15, .45}, {.3, .8}, {.05, .25}, {-.1, .18}, {0, .2}, {0, .3}}, [3]float64{.35, .05, .60}, "C: a path that should not be there"},
	{"little energy", "low", .02, [waveFigures]NormalComponent{{-.1, .4}, {.35, .35}, {1, 1.4}, {-1, .6}, {-.1, .2}, {.8, 2}, {-.1, .4}}, [3]float64{.45, .05, .50}, "C: the line is short, and rises: little energy is left"},
	{"as high as the coil gives, and no arc", "high", .002, [waveFigures]NormalComponent{{.9, .4}, {.3, .4}, {3.2, 1}, {-.9, .6}, {.2, .5}, {0, 1}, {0, .6}}, [3]float64{.45, .05, .50}, "C: an open circuit or a gap too wide"},
	{"little, and no arc", "low", .10, [waveFigures]NormalComponent{{-.3, .5}, {.4, .4}, {3.2, 1}, {-1, 1}, {-.1, .4}, {.8, 2}, {-.1, .6}}, [3]float64{.50, .05, .45}, "C: what is needed is more than there is"},
	{"hardly any ringing", "low", .02, [waveFigures]NormalComponent{{-.4, .5}, {.3, .3}, {1, 1.4}, {-.6, .7}, {0, .25}, {0, .4}, {-1.3, .5}}, [3]float64{.45, .05, .50}, "C: no ringing: shorted turns"},
	{"sparks missing", "jumping", .35, [waveFigures]NormalComponent{{-.05, .3}, {.3, .3}, {2.6, 1.2}, {-.1, .3}, {0, .15}, {0, .2}, {-.1, .4}}, [3]float64{.85, .08, .07}, "C: no primary current, no event at all"},
}

// shapes is how many there are.
const shapes = 15

// WaveChance is how often modes show each shape, in the order of Waves.
type WaveChance struct {
	Modes  []string
	Chance [shapes]float64
	Source string
}

// WaveChances lists them (C; judgement, in line with the answers of the test of kilovolts). The
// last row is any other fault, and none.
var WaveChances = []WaveChance{
	//                                    line  wide  res   gap   lean  shunt small thin  flash jumps weak  open  noarc ring  miss
	{[]string{"plug.worn-gap"}, [shapes]float64{.16, .58, .02, .05, .03, .005, .005, .005, .01, .03, .01, .07, .01, .005, .01}, "C: one high, steady"},
	{[]string{"plug.closed-gap"}, [shapes]float64{.12, .01, .005, .005, .005, .05, .61, .10, .05, .02, .005, .005, .005, .005, .005}, "C: one low, steady"},
	{[]string{"plug.wrong"}, [shapes]float64{.31, .29, .02, .02, .01, .18, .05, .01, .01, .03, .02, .02, .02, .005, .005}, "C: a copy burns away, one too cold fouls"},
	{[]string{"plug.loose"}, [shapes]float64{.36, .01, .01, .01, .03, .02, .04, .44, .03, .02, .01, .005, .005, .005, .005}, "C: less charge"},
	{[]string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, [shapes]float64{.14, .01, .01, .01, .01, .36, .04, .03, .03, .06, .12, .01, .14, .01, .02}, "C: one low, steady"},
	{[]string{"plug.cracked"}, [shapes]float64{.20, .01, .01, .01, .01, .05, .02, .04, .35, .26, .01, .005, .01, .005, .01}, "C: it leaks inside its own shell"},
	{[]string{"lead.high-resistance"}, [shapes]float64{.14, .05, .41, .15, .01, .01, .01, .01, .02, .08, .02, .06, .01, .005, .015}, "C: resistance in series"},
	{[]string{"lead.open"}, [shapes]float64{.10, .04, .26, .22, .01, .01, .005, .005, .02, .10, .02, .18, .015, .005, .01}, "C: a second gap, or an open circuit"},
	{[]string{"coil-lead.open", "boot.spring", "rotor.worn", "cap.tower-burnt"}, [shapes]float64{.13, .06, .08, .44, .01, .01, .01, .01, .02, .10, .02, .08, .01, .005, .015}, "C: a gap in series"},
	{[]string{"boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well", "seat"}, [shapes]float64{.21, .01, .01, .03, .01, .02, .02, .04, .33, .28, .01, .005, .01, .005, .01}, "C: a path that should not be there"},
	{[]string{"coil.cracked"}, [shapes]float64{.25, .01, .01, .01, .01, .02, .02, .03, .32, .24, .04, .005, .02, .005, .01}, "C: tracked inside or over its case"},
	{[]string{"coil.primary-shorted", "coil.secondary-shorted"}, [shapes]float64{.14, .01, .01, .01, .01, .02, .01, .01, .01, .03, .10, .01, .07, .55, .01}, "C: no ringing"},
	{[]string{"coil.secondary-open"}, [shapes]float64{.17, .02, .03, .06, .01, .02, .01, .01, .02, .08, .25, .02, .25, .02, .03}, "C: it jumps inside, and little is left"},
	{[]string{"coil.weak-hot", "coil.weak-load"}, [shapes]float64{.42, .01, .01, .01, .01, .02, .01, .01, .01, .03, .34, .01, .08, .01, .02}, "C: enough at idle, and little to spare"},
	{[]string{"feed", "ground", "air-gap", "module"}, [shapes]float64{.32, .01, .01, .01, .01, .02, .01, .01, .01, .03, .24, .01, .07, .01, .23}, "C: fewer volts, or none"},
	{[]string{"coil.primary-open", "connector", "trigger", "driver", "pickup", "stop-wire"}, [shapes]float64{.36, .005, .005, .01, .005, .005, .005, .005, .005, .02, .01, .005, .02, .005, .535}, "C: no primary current, no event"},
	{[]string{"compression"}, [shapes]float64{.19, .01, .005, .005, .01, .02, .04, .63, .03, .02, .01, .005, .01, .005, .01}, "C: little charge needs little"},
	{[]string{"injector.leaking"}, [shapes]float64{.61, .01, .005, .01, .02, .05, .03, .16, .03, .04, .01, .005, .01, .005, .005}, "C: rich needs less"},
	{[]string{"injector", "air", "fuel"}, [shapes]float64{.42, .07, .01, .03, .37, .01, .01, .01, .01, .03, .01, .005, .005, .005, .005}, "C: lean needs more"},
	{nil, [shapes]float64{.90, .012, .008, .010, .014, .01, .008, .008, .008, .010, .004, .002, .002, .002, .002}, "C: secondary side good in this condition"},
}

// waveChances is the chance of each shape for a mode; "" is any other fault, and none.
func waveChances(mode string) []float64 {
	for i := range WaveChances {
		if row := &WaveChances[i]; row.Modes == nil || mode != "" && matches(row.Modes, mode) {
			return row.Chance[:]
		}
	}
	return nil
}

// missedLeast is the share of sparks missed that is not told from none.
const missedLeast = 0.02

// twoApart is how far two siblings may differ, as a share, that are all there is to compare with (C;
// judgement).
const twoApart = 0.3

// wave is how far the figures of one cylinder lie from those of its siblings of like polarity:
// the first n, without those in lost.
func (a *Assessment) wave(set evidence.Readings, i int) (x deviations, n int, lost uint8) {
	mine := set.Each[i]
	c, _ := mine.Place.Cylinder()
	// usual is what the siblings have of a figure; ok is false where fewer than two have it.
	usual := func(k int) (float64, bool) {
		var others []float64
		for o, r := range set.Each {
			at, _ := r.Place.Cylinder()
			if o != i && len(r.Figures) > k && r.Figures[0] > 0 && (k < 3 || k > 5 || r.Figures[3] > 0) && a.Engine.Polarity(at) == a.Engine.Polarity(c) {
				others = append(others, r.Figures[k])
			}
		}
		if len(others) == 2 && math.Abs(others[0]-others[1]) > twoApart*math.Max(math.Abs(others[0]), math.Abs(others[1])) && k != 5 {
			return 0, false // either may be the odd one
		}
		return meter.Median(others), len(others) >= 2
	}
	ratio := func(of, to, and float64) float64 { return math.Log((of + and) / (to + and)) }
	lose := func(k int) { lost |= 1 << k }
	f := mine.Figures
	fires := f[0] > 0
	switch to, ok := usual(0); {
	case !fires:
		lose(0)
	case ok:
		x[0] = ratio(f[0], to, 0)
	default:
		lose(0) // one capture has no other scale: an adapter gives relative values
	}
	if fires && len(f) > 2 && f[1] > 0 {
		x[1] = math.Log(f[2] / f[1])
	} else {
		lose(1)
	}
	n = 2
	for k, of := range []int{6, 3, 4, 5, 7} { // sparks fired, burn, line, slope, ringing
		if len(f) <= of {
			lose(2 + k)
			continue
		}
		n = 3 + k
		to, ok := usual(of)
		line, _ := usual(4)
		switch {
		case of == 6:
			x[2] = math.Log((1 - f[6]/100 + missedLeast) / missedLeast)
		case !ok || of <= 5 && f[3] == 0: // with no arc there is no line
			lose(2 + k)
		case of == 3:
			x[3] = ratio(f[3], to, 0.05)
		case of == 4:
			x[4] = ratio(f[4], to, 0.05)
		case of == 5:
			x[5] = (f[5] - to) / max(line, 0.3)
		default:
			x[6] = ratio(f[7], to, 1)
		}
	}
	if lost == 1<<n-1 {
		n = 0
	}
	return x, n, lost
}

// silent says that a cylinder had no event in a capture in which others had theirs.
func silent(one evidence.Reading) bool { return len(one.Figures) > 0 && one.Figures[0] == 0 }

// Shape is what the events of one cylinder look like, with how likely that is, of a cylinder of
// which nothing else is known.
type Shape struct {
	Cylinder engine.Cylinder
	Words    string
	Answer   evidence.ResultID
	P        float64
	Odd      bool
}

// riseWords say how the kilovolts of a snap stand out, by the answers of their measure.
var riseWords = map[evidence.ResultID]string{"more": "rises far more than the others on snap", "less": "hardly rises on snap"}

// Shapes names the likeliest shape of each cylinder of a capture's readings; with it how it
// rises on a snap, where that is out of line too.
func (a *Assessment) Shapes(set, rises evidence.Readings) []Shape {
	snap, _ := evidence.FindMeasure(evidence.KVSnap)
	var all []Shape
	for i, one := range set.Each {
		num := number{measure: evidence.KVWave, ref: likeOthers, least: one.AtLeast}
		num.x, num.n, num.lost = a.wave(set, i)
		num.known, num.over = num.n > 0, silent(one)
		of := num.weighed(a.Beliefs)
		var rose []float64 // how well each answer of a snap fits
		if r := slices.IndexFunc(rises.Each, func(r evidence.Reading) bool { return r.Place == one.Place }); r >= 0 {
			n := number{measure: evidence.KVSnap}
			n.x, n.n, n.ref, n.known = a.deviation(evidence.Moment{Entry: evidence.Entry{Readings: &rises}}, snap, r)
			rose = n.weighed(a.Beliefs)
		}
		best, sum := 0, 0.0
		for k := range of {
			of[k] *= waveChances("")[k]
			if rose != nil {
				fits := 0.0
				for r, p := range Waves[k].Rises {
					fits += p * rose[r]
				}
				of[k] *= fits
			}
			sum += of[k]
			if of[k] > of[best] {
				best = k
			}
		}
		c, _ := one.Place.Cylinder()
		shape := Shape{c, Waves[best].Words, Waves[best].Answer, of[best] / sum, best > 0}
		if rose != nil { // with it how it rose, where that is clear
			sum, most := 0.0, 0
			for r, p := range Waves[best].Rises {
				rose[r] *= p
				sum += rose[r]
				if rose[r] > rose[most] {
					most = r
				}
			}
			words := riseWords[numberRows[evidence.KVSnap][most].Answer]
			switch {
			case words == "":
			case shape.Odd:
				shape.Words += ", and " + words
			default:
				shape.Words, shape.P, shape.Odd = words, rose[most]/sum, true
			}
		}
		all = append(all, shape)
	}
	return all
}

// waveSentence says what stands out in a capture's readings.
func (a *Assessment) waveSentence(set evidence.Readings) string {
	var odd []string
	for _, shape := range a.Shapes(set, evidence.Readings{}) {
		if shape.Odd {
			odd = append(odd, fmt.Sprintf("cylinder %d: %s", shape.Cylinder, shape.Words))
		}
	}
	words := "capture of kilovolts"
	if set.Capture > 0 {
		words = fmt.Sprintf("capture %d", set.Capture)
	}
	if len(odd) == 0 {
		return words + ": when steady all in line with each other"
	}
	return words + ": " + strings.Join(odd, "; ")
}

// Changed says what became of what was odd in one capture by another, when parts were moved
// between the two: where from and to says which cylinder each part served before and after.
func Changed(before, after []Shape, moved []Passage) []string {
	odd := func(of []Shape, c engine.Cylinder) *Shape {
		for i := range of {
			if of[i].Cylinder == c && of[i].Odd {
				return &of[i]
			}
		}
		return nil
	}
	var all []string
	for _, was := range before {
		if !was.Odd {
			continue
		}
		still := odd(after, was.Cylinder)
		var went []string
		to := engine.Cylinder(0)
		for _, p := range moved {
			if p.From == was.Cylinder && p.To != 0 && odd(after, p.To) != nil && odd(before, p.To) == nil {
				went, to = append(went, p.Tag.Words()), p.To
			}
		}
		switch {
		case still == nil && len(went) > 0:
			all = append(all, fmt.Sprintf("what cylinder %d showed is on cylinder %d now: it went with %s", was.Cylinder, to, strings.Join(went, " and ")))
		case still != nil && len(moved) > 0:
			all = append(all, fmt.Sprintf("cylinder %d is odd as before (%s): it stayed", was.Cylinder, still.Words))
		case still != nil:
			all = append(all, fmt.Sprintf("cylinder %d is odd as before (%s)", was.Cylinder, still.Words))
		default:
			all = append(all, fmt.Sprintf("cylinder %d is in line now: it showed “%s”", was.Cylinder, was.Words))
		}
	}
	for _, is := range after {
		if is.Odd && odd(before, is.Cylinder) == nil && !slices.ContainsFunc(moved, func(p Passage) bool { return p.To == is.Cylinder && odd(before, p.From) != nil }) {
			all = append(all, fmt.Sprintf("cylinder %d is odd now (%s), and was in line", is.Cylinder, is.Words))
		}
	}
	return all
}

// Passage is a part that served one cylinder and then another; 0 is none.
type Passage struct {
	Tag      part.Tag
	From, To engine.Cylinder
}

// Passages lists the parts that serve other single cylinders at one time than at another.
func Passages(before, after part.Positions) []Passage {
	one := func(at part.Positions, t part.Tag) engine.Cylinder {
		if of := at.Feeds(t); len(of) == 1 {
			return of[0]
		}
		return 0
	}
	var all []Passage
	for _, p := range append(before.All(), after.All()...) {
		from, to := one(before, p.Tag), one(after, p.Tag)
		if from != to && !slices.ContainsFunc(all, func(q Passage) bool { return q.Tag == p.Tag }) {
			all = append(all, Passage{p.Tag, from, to})
		}
	}
	return all
}
