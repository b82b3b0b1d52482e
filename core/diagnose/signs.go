package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Bearings of a plug that show only when it is read in full: what sits on it has marked it.
const (
	UnderTrack Bearing = "its boot or lead is tracked"
	UnderWet   Bearing = "its well holds oil or water"
	// Misses is what any plug that is itself at fault shows beside its fault.
	Misses Bearing = "the plug is at fault and misses"
)

// SignRow states how often each sign of an aspect is seen on a plug of one bearing; an aspect
// without a row looks as on a sound plug of the set. The figures of a row sum to 1.
type SignRow struct {
	Bearing Bearing
	Aspect  string
	// Chance of each sign, in the order of plug.Aspects.
	Chance []float64
	Source string
}

// SetRow is one way in which a whole set of sound plugs can look: sets wear and colour alike.
type SetRow struct {
	Words string
	// Share of the sets that look so.
	Share float64
	// Gap is the mean log ratio of their gaps to what is expected.
	Gap    float64
	Signs  []SignRow
	Source string
}

// SoundSigns are the signs of a sound plug of an ordinary set (C; judgement).
var SoundSigns = []SignRow{
	//                          tan  grey pale white black
	{Bystander, "nose", []float64{.45, .34, .13, .02, .06}, "C: tan to light grey; merely pale can be healthy"},
	//                             none  soot ash glaze blisters bridged
	{Bystander, "deposit", []float64{.875, .04, .06, .018, .004, .003}, "C"},
	//                         dry   fuel  oil  water
	{Bystander, "wet", []float64{.963, .005, .03, .002}, "C: a trace of oil on an old engine"},
	//                           sharp rounded eaten bruised
	{Bystander, "edges", []float64{.855, .125, .014, .006}, "C: sets wear alike"},
	{Bystander, "strap", []float64{.986, .010, .004}, "C"},
	//                         fine  thick missing
	{Bystander, "tip", []float64{.495, .495, .01}, "C"},
	//                                whole cracked tracked
	{Bystander, "insulator", []float64{.991, .005, .004}, "C"},
	{Bystander, "ring", []float64{.6, .4}, "C: a corona stain is harmless, and says nothing"},
	//                          dry  oil  water
	{Bystander, "high", []float64{.93, .05, .02}, "C: a trace from the valve cover is common"},
	//                            crushed taper uncrushed
	{Bystander, "gasket", []float64{.69, .30, .01}, "C"},
	{Bystander, "hold", []float64{.985, .015}, "C"},
	{Bystander, "lettering", []float64{.985, .015}, "C: a sound plug of another make"},
}

// Sets are the ways in which a set of sound plugs looks (C; judgement). What is alike on all of
// them is not the plug.
var Sets = []SetRow{
	{"as usual", 0.70, 0.03, nil, "C"},
	{"worn together", 0.14, 0.25, []SignRow{{Bystander, "edges", []float64{.28, .64, .07, .01}, ""}}, "C: a set wears alike"},
	{"hot together: mixture, timing or heat range", 0.04, 0.05, []SignRow{
		{Bystander, "nose", []float64{.12, .18, .38, .30, .02}, ""}, {Bystander, "deposit", []float64{.82, .01, .04, .08, .04, .01}, ""}}, "C"},
	{"sooty together: short trips, mixture, heat range", 0.06, 0, []SignRow{
		{Bystander, "nose", []float64{.15, .09, .01, .005, .745}, ""}, {Bystander, "deposit", []float64{.24, .70, .04, .01, .005, .005}, ""}}, "C"},
	{"oily together: a worn engine", 0.04, 0.08, []SignRow{
		{Bystander, "wet", []float64{.60, .01, .38, .01}, ""}, {Bystander, "deposit", []float64{.40, .10, .40, .08, .01, .01}, ""}}, "C"},
	{"wells wet together", 0.02, 0, []SignRow{{Bystander, "high", []float64{.30, .55, .15}, ""}}, "C: valve covers leak all along"},
}

// Signs states what a plug shows by how it stands to the fault (C: the looks of the trade, put
// into figures by judgement; a sign is missed now and then, and seldom seen where it is not).
var Signs = []SignRow{
	{Misses, "nose", []float64{.40, .30, .115, .015, .17}, "C: as where the spark is lost, less so: it misses at times"},
	{Misses, "deposit", []float64{.81, .11, .05, .014, .008, .008}, "C"},
	{Misses, "wet", []float64{.765, .20, .03, .005}, "C: whatever loses the spark leaves it wet"},

	{WornGap, "edges", []float64{.13, .64, .22, .01}, "C: rounded, wide"},

	{CrackedPlug, "insulator", []float64{.32, .38, .30}, "C: a hairline crack is easily missed; half of them track outside"},

	{SootyPlug, "nose", []float64{.09, .05, .01, .005, .845}, "C"},
	{SootyPlug, "deposit", []float64{.12, .80, .02, .02, .01, .03}, "C: soot bridges the nose"},

	{WetPlug, "wet", []float64{.24, .73, .025, .005}, "C: it dries while one looks"},
	{WetPlug, "deposit", []float64{.70, .24, .03, .01, .01, .01}, "C"},
	{WetPlug, "nose", []float64{.28, .20, .06, .01, .45}, "C"},

	{OilyPlug, "wet", []float64{.16, .02, .81, .01}, "C"},
	{OilyPlug, "deposit", []float64{.34, .22, .26, .08, .02, .08}, "C: burnt oil leaves ash"},
	{OilyPlug, "nose", []float64{.18, .12, .04, .01, .65}, "C"},

	{ClosedGap, "strap", []float64{.22, .20, .58}, "C: seen, if one looks along the strap"},
	{ClosedGap, "deposit", []float64{.66, .08, .08, .02, .01, .15}, "C: or bridged"},
	{ClosedGap, "edges", []float64{.76, .10, .02, .12}, "C: what closed it left its mark"},

	{WrongPlug, "lettering", []float64{.35, .65}, "C: its lettering beside the list"},
	{WrongPlug, "tip", []float64{.35, .45, .20}, "C: a copy lacks the fine wire"},
	{WrongPlug, "nose", []float64{.32, .24, .14, .14, .16}, "C: a heat range that is wrong shows either way"},
	{WrongPlug, "edges", []float64{.76, .14, .02, .08}, "C: too long a reach is hammered"},

	{LoosePlug, "hold", []float64{.22, .78}, "C: felt when it is undone"},
	{LoosePlug, "gasket", []float64{.40, .20, .40}, "C: never tight"},
	{LoosePlug, "nose", []float64{.34, .24, .12, .14, .16}, "C: it runs hot without its seat"},

	{SparkLost, "wet", []float64{.58, .385, .03, .005}, "C: the effect, not the cause"},
	{SparkLost, "deposit", []float64{.74, .19, .04, .01, .01, .01}, "C"},
	{SparkLost, "nose", []float64{.34, .25, .10, .01, .30}, "C"},

	{FuelLost, "wet", []float64{.985, .002, .012, .001}, "C: nothing to wet it"},
	{FuelLost, "nose", []float64{.22, .24, .26, .25, .03}, "C: lean runs hot and pale"},
	{FuelLost, "deposit", []float64{.90, .01, .03, .03, .025, .005}, "C"},

	{FuelTooMuch, "wet", []float64{.62, .36, .015, .005}, "C: black or wet"},
	{FuelTooMuch, "deposit", []float64{.44, .52, .02, .01, .005, .005}, "C"},
	{FuelTooMuch, "nose", []float64{.18, .11, .03, .01, .67}, "C"},

	{SqueezeLost, "wet", []float64{.60, .15, .235, .015}, "C: oil past rings or guides at times"},
	{SqueezeLost, "deposit", []float64{.66, .14, .15, .03, .01, .01}, "C"},
	{SqueezeLost, "nose", []float64{.36, .26, .10, .02, .26}, "C"},

	{UnderTrack, "insulator", []float64{.66, .01, .33}, "C: the plug carries the other half of the track"},
	{UnderWet, "high", []float64{.25, .58, .17}, "C: it runs down onto the hex"},
}

// GapRow is how the log ratio of a gap to what is expected lies on a plug of one bearing.
type GapRow struct {
	Bearing Bearing
	Lump
	Source string
}

// Gaps states how gaps lie (C; judgement): growth of 0.1 to 0.15 mm is usual over a life, a
// plug that fails for its gap has half as much again.
var Gaps = []GapRow{
	{Bystander, Lump{0, 0.12}, "C: read with wires"},
	{WornGap, Lump{0.46, 0.20}, "C: half as wide again"},
	{ClosedGap, Lump{-1.1, 0.7}, "C"},
	{WrongPlug, Lump{0.05, 0.35}, "C: as it came, either way"},
}

// What a gap is held against is itself not known to better than this (log ratio; judgement):
// the maker's range, the other plugs, or plugs in general.
const (
	gapByMaker    = 0.08
	gapBySiblings = 0.10
	gapByThumb    = 0.30
	usualGap      = 0.9 // millimetres, within 0.5 to 1.5 (C)
)

// wetAnyway is how wet tips are where that tells nothing: dry, fuel, oil, water (judgement).
var wetAnyway = []float64{.4, .3, .25, .05}

// oiled is how little oil at the tip tells after oil was poured in for a compression test.
const oiled = 0.05

var (
	signRows = func() map[Bearing]map[string][]float64 {
		m := map[Bearing]map[string][]float64{}
		for _, r := range slices.Concat(SoundSigns, Signs) {
			if m[r.Bearing] == nil {
				m[r.Bearing] = map[string][]float64{}
			}
			m[r.Bearing][r.Aspect] = r.Chance
		}
		return m
	}()
	// setRows are, for each of Sets, its signs by aspect.
	setRows = func() []map[string][]float64 {
		all := make([]map[string][]float64, len(Sets))
		for i, s := range Sets {
			all[i] = map[string][]float64{}
			for _, r := range s.Signs {
				all[i][r.Aspect] = r.Chance
			}
		}
		return all
	}()
	gapRows = func() map[Bearing]Lump {
		m := map[Bearing]Lump{}
		for _, g := range Gaps {
			m[g.Bearing] = g.Lump
		}
		return m
	}()
)

// as says of a bearing as which other it looks in all that it has no signs of its own for.
var as = map[Bearing]Bearing{UnderTrack: SparkLost, UnderWet: SparkLost,
	WornGap: Misses, CrackedPlug: Misses, SootyPlug: Misses, WetPlug: Misses, OilyPlug: Misses, ClosedGap: Misses, WrongPlug: Misses, LoosePlug: Misses}

// signs is the chance of each sign of an aspect on a plug that stands so, in a set that looks so.
func signs(set int, b Bearing, aspect string) []float64 {
	if row, ok := signRows[b][aspect]; ok && b != Bystander {
		return row
	}
	if under, ok := as[b]; ok {
		return signs(set, under, aspect)
	}
	if row, ok := setRows[set][aspect]; ok {
		return row
	}
	return signRows[Bystander][aspect]
}

// reading is one plug as it was read in full, with what that is held against.
type reading struct {
	look plug.Look
	// gap is the log ratio of the gap to what is expected, ref how unsure that is; none is
	// that it was not measured.
	gap, ref float64
	measured bool
	// wet is how much a tip wet with fuel tells, oil one wet with oil.
	wet, oil float64
}

// chance is how likely the reading is on a plug that stands so, in a set that looks so.
func (r reading) chance(set int, b Bearing) float64 {
	p := 1.0
	for _, a := range plug.Aspects {
		i := a.Index(r.look.At(a))
		if i < 0 {
			continue
		}
		row := signs(set, b, a.ID)
		of := row[i]
		if a.ID == "wet" { // where it tells nothing, all are as likely to be wet
			told := min(r.wet, r.oil)
			if r.look.Wet == plug.Oil {
				told = r.oil
			}
			of = told*of + (1-told)*wetAnyway[i]
		}
		p *= of
	}
	if r.measured {
		l, ok := gapRows[b]
		if !ok || b == Bystander {
			l = gapRows[Bystander]
			l.Centre += Sets[set].Gap
		}
		s := math.Hypot(l.Spread, r.ref)
		// Anything can be written down wrong once in a while.
		p *= 0.99*math.Exp(-0.5*sq((r.gap-l.Centre)/s))/s + 0.01
	}
	return p
}

// board is the plugs that were read in full in one look.
type board struct {
	of   []evidence.Seen
	read []reading
	// others[i] is how likely each kind of set is by all plugs but the i-th.
	others [][]float64
	// cells are the chances of each plug's reading as they are asked for, how it stands to each
	// fault as that is asked for.
	cells []map[Bearing]*boardCell
	how   map[int][]Bearing
}

// boardCell is how likely a plug's reading is in one bearing: in each kind of set, its logarithm,
// and over the kinds of set by the other plugs.
type boardCell struct {
	each, log []float64
	mean      float64
}

// cell is that of the i-th plug in a bearing.
func (b *board) cell(i int, how Bearing) *boardCell {
	c := b.cells[i][how]
	if c == nil {
		c = &boardCell{each: make([]float64, len(Sets)), log: make([]float64, len(Sets))}
		for s, w := range b.others[i] {
			c.each[s] = b.read[i].chance(s, how)
			c.log[s] = math.Log(c.each[s])
			c.mean += w * c.each[s]
		}
		b.cells[i][how] = c
	}
	return c
}

// boardOf reads the plugs of a moment. The gaps are held against the maker's range, else against
// the others, else against plugs in general.
func (a *Assessment) boardOf(m evidence.Moment) *board {
	look := m.Entry.Look
	if look == nil {
		return nil
	}
	b := &board{}
	var looks []plug.Look
	for _, item := range look.Items {
		if !item.Plug.Empty() {
			b.of, looks = append(b.of, item), append(looks, item.Plug)
		}
	}
	if len(b.of) == 0 {
		return nil
	}
	spec := look.Spec()
	for i, item := range b.of {
		r := reading{look: item.Plug, wet: look.Ran.Wet(), oil: 1, measured: item.Plug.GapMM > 0}
		if a.oiledBefore(m, item) {
			r.oil = oiled
		}
		if r.measured {
			against, ref := usualGap, gapByThumb
			if siblings := plug.Siblings(looks, i); siblings > 0 {
				against, ref = siblings, gapBySiblings
			}
			if middle := spec.Middle(); middle > 0 {
				against, ref = middle, gapByMaker
			}
			r.gap, r.ref = math.Log(item.Plug.GapMM/against), ref
		}
		b.read = append(b.read, r)
	}
	each := make([][]float64, len(b.read))
	for i, r := range b.read {
		each[i] = make([]float64, len(Sets))
		for s := range Sets {
			each[i][s] = r.chance(s, Bystander)
		}
	}
	weigh := func(but int) []float64 {
		w := make([]float64, len(Sets))
		sum := 0.0
		for s := range Sets {
			w[s] = Sets[s].Share
			for i := range each {
				if i != but {
					w[s] *= each[i][s]
				}
			}
			sum += w[s]
		}
		for s := range w {
			w[s] /= sum
		}
		return w
	}
	b.how = map[int][]Bearing{}
	for i := range b.read {
		b.others, b.cells = append(b.others, weigh(i)), append(b.cells, map[Bearing]*boardCell{})
	}
	return b
}

// oiledBefore says that oil was poured into the cylinder of a plug before it was looked at.
func (a *Assessment) oiledBefore(m evidence.Moment, item evidence.Seen) bool {
	feeds := engine.SetOf(m.At.Feeds(item.Tag)...)
	for _, o := range a.Moments {
		if o.Entry.Seq == m.Entry.Seq {
			return false
		}
		if r := o.Entry.Readings; r != nil && r.Measure == evidence.CompressionWet {
			for _, one := range r.Each {
				if at, _ := a.Engine.Feeds(one.Place); at&feeds != 0 {
					return true
				}
			}
		}
	}
	return false
}

// standing is how a plug that is read in full stands to a fault with the parts at some positions.
func standing(item evidence.Seen, h *fault.Hypothesis, at part.Positions, ran []part.Positions, cured bool) Bearing {
	feeds := engine.SetOf(at.Feeds(item.Tag)...)
	switch {
	case h.Tag == item.Tag:
	case slices.Contains(marks, h.Mode.ID) && engine.SetOf(at.Feeds(h.Tag)...)&feeds != 0:
		return UnderTrack
	case h.Mode.Unit == engine.Well && h.Afflicted(at)&feeds != 0 && !cured:
		return UnderWet
	}
	return bearing(evidence.Seen{Tag: item.Tag}, h, at, ran, cured)
}

// marks are the modes of what sits on a plug that leave the other half of a track on it.
var marks = []string{"boot.tracked", "lead.leaking"}

// stands is how the plugs of a board stood to a fault at its moment.
func (a *Assessment) stands(f *Fault, moment int) []Bearing {
	b := a.boards[moment]
	how, known := b.how[f.index]
	if known {
		return how
	}
	at, ran, cured := a.Moments[moment].At, a.ran(moment, f), f.CuredAfter >= 0 && moment > f.CuredAfter
	for _, item := range b.of {
		how = append(how, standing(item, &f.Hypothesis, at, ran, cured))
	}
	b.how[f.index] = how
	return how
}

// plugRead is what a plug that was read in full says of a fault.
func (a *Assessment) plugRead(l flatItem, f *Fault) (row asked, odd float64, ok bool) {
	b := a.boards[l.moment]
	i := slices.IndexFunc(b.of, func(s evidence.Seen) bool { return s.Tag == l.seen.Tag })
	how := a.stands(f, l.moment)[i]
	if how == Bystander {
		return row, 0, false
	}
	row = asked{odds: b.cell(i, how).mean, sound: b.cell(i, Bystander).mean, seen: 1, events: effects[how]}
	return row, 1 - row.sound/(row.odds+row.sound), true
}

// setRead is what the plugs of a board say of a fault together beyond what each says alone:
// where a fault marks several of them, the set cannot have looked so without it as easily.
func (a *Assessment) setRead(l flatItem, f *Fault) (row asked, ok bool) {
	b := a.boards[l.moment]
	how := a.stands(f, l.moment)
	n, shy := 0, 0
	for _, h := range how {
		if h != Bystander {
			n++
			shy = max(shy, effects[h])
		}
	}
	if n < 2 {
		return row, false
	}
	joint, sound := make([]float64, len(Sets)), make([]float64, len(Sets))
	for s, set := range Sets {
		joint[s], sound[s] = math.Log(set.Share), math.Log(set.Share)
		for i := range b.read {
			joint[s] += b.cell(i, how[i]).log[s]
			sound[s] += b.cell(i, Bystander).log[s]
		}
	}
	more := logSum(joint) - logSum(sound)
	for i := range b.of {
		if how[i] != Bystander {
			more -= math.Log(b.cell(i, how[i]).mean / b.cell(i, Bystander).mean)
		}
	}
	return asked{odds: math.Exp(more), sound: 1, seen: 1, events: shy}, true
}

// PlugClass is one way in which a plug can stand to what is wrong, with how likely that is: what
// the key of questions tells apart.
type PlugClass struct {
	Bearing Bearing
	P       float64
}

// PlugClasses says how likely it is, by all that is known now, that a plug stands in each way to
// what is wrong.
func (a *Assessment) PlugClasses(item evidence.Seen) []PlugClass {
	sum := map[Bearing]float64{}
	rest := 1.0
	for i := range a.Faults {
		f := &a.Faults[i]
		if f.P == 0 {
			continue
		}
		if b := standing(item, &f.Hypothesis, a.Now, a.ran(len(a.Moments), f), f.CuredAfter >= 0); b != Bystander {
			sum[b] += f.P
			rest -= f.P
		}
	}
	sum[Bystander] = max(rest, 0.02)
	return classes(sum)
}

// classes brings chances to a sum of 1.
func classes(sum map[Bearing]float64) (all []PlugClass) {
	total := 0.0
	for _, b := range plugBearings {
		total += sum[b]
	}
	for _, b := range plugBearings {
		if sum[b] > 0 {
			all = append(all, PlugClass{b, sum[b] / total})
		}
	}
	return all
}

var plugBearings = []Bearing{Bystander, WornGap, CrackedPlug, SootyPlug, WetPlug, OilyPlug, ClosedGap, WrongPlug, LoosePlug, SparkLost, FuelLost, FuelTooMuch, SqueezeLost, UnderTrack, UnderWet}

// PriorPlugClasses is how plugs stand before anything is known, by the catalogue: what the key is
// measured with. troubled says that the plug is of the cylinder that misfires.
func PriorPlugClasses(e engine.Engine, troubled bool) []PlugClass {
	sum := map[Bearing]float64{Bystander: 0}
	layout := slices.Index(engine.Ignitions(), e.Ignition)
	for _, m := range fault.Catalogue {
		p := m.Prior[layout]
		if p == 0 {
			continue
		}
		b, known := atFault[m.ID]
		switch {
		case known && m.Unit == engine.Plug:
		case slices.Contains(marks, m.ID):
			b = UnderTrack
		case m.Unit == engine.Well:
			b = UnderWet
		case m.ID == "injector.leaking":
			b = FuelTooMuch
		default:
			b = robbed[m.Robs]
		}
		if b == "" {
			b = Bystander
		}
		sum[b] += p
	}
	if !troubled {
		rest := 0.0
		for b := range sum {
			sum[b] /= float64(max(1, e.Cylinders))
			rest += sum[b]
		}
		sum[Bystander] += 1 - rest
	}
	return classes(sum)
}

// What holding a new plug beside an old one says of the old: how often it shows a wrong one, and
// a right one as wrong (C; judgement: the maker's list beside the lettering leaves little open).
const (
	besideShows = 0.85
	besideWrong = 0.015
)

// heldBeside is what the comparison of a plug with a listed one says of a fault.
func heldBeside(item evidence.Seen, f *Fault) (row asked, odd float64, ok bool) {
	if f.Hypothesis.Tag != item.Tag || f.Hypothesis.Mode.ID != "plug.wrong" {
		return row, 0, false
	}
	row = asked{odds: besideShows, sound: besideWrong, seen: 1}
	if item.Plug.Lettering == plug.Right {
		row.odds, row.sound = 1-row.odds, 1-row.sound
	}
	return row, besideShows, true
}

// SignChance is the chance of each sign of an aspect on a plug that stands so, over the ways in
// which a set can look.
func SignChance(b Bearing, aspect string) []float64 {
	a, _ := plug.FindAspect(aspect)
	out := make([]float64, len(a.Signs))
	for s := range Sets {
		for i, p := range signs(s, b, aspect) {
			out[i] += Sets[s].Share * p
		}
	}
	return out
}
