package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/ohm"
	"glenmist/core/part"
	"glenmist/core/sibling"
)

// Lump is a normal distribution of one figure of a reading: of the logarithm of its ratio to
// what is expected, or of the figure itself.
type Lump struct{ Centre, Spread float64 }

// NumberRow is how the figures of a measure lie when the test that they belong to has one
// answer. A figure so speaks for every answer as far as it fits it, and no threshold parts
// them: what is believed of the answers themselves stands in the rows of the tests.
type NumberRow struct {
	Measure evidence.MeasureID
	Answer  evidence.ResultID
	// Over is the share of readings over range, Figures what the others show.
	Over    float64
	Figures []Lump
	Source  string
}

// NumberRows lists them (C; judgement). The first row of a measure is what a sound one shows.
var NumberRows = []NumberRow{
	{evidence.CoilPrimary, "in-line", 0.002, []Lump{{0, 0.05}}, "C: like coils lie within some per cent"},
	{evidence.CoilPrimary, "open", 0.80, []Lump{{1.8, 1.2}}, "C: no figure, or some times too high"},
	{evidence.CoilPrimary, "low", 0.001, []Lump{{-0.5, 0.33}}, "C: shorted turns leave a share of it"},
	{evidence.CoilSecondary, "in-line", 0.002, []Lump{{0, 0.06}}, "C"},
	{evidence.CoilSecondary, "open", 0.65, []Lump{{2.0, 1.2}}, "C"},
	{evidence.CoilSecondary, "low", 0.001, []Lump{{-0.5, 0.33}}, "C"},
	{evidence.PrimaryRamp, "in-line", 0, []Lump{{0, 0.06}, {0, 0.08}}, "C"},
	{evidence.PrimaryRamp, "open", 0, []Lump{{-1.5, 1.2}, {-0.8, 0.8}}, "C: little current, or none"},
	{evidence.PrimaryRamp, "low", 0, []Lump{{0.15, 0.25}, {0.55, 0.35}}, "C: shorted turns begin with a jump"},
	{evidence.LeadOhms, "in-line", 0.002, []Lump{{0, 0.12}}, "C: by length and kind"},
	{evidence.LeadOhms, "open", 0.50, []Lump{{1.7, 1.1}}, "C"},
	{evidence.CoilLeadOhms, "in-line", 0.002, []Lump{{0, 0.12}}, "C"},
	{evidence.CoilLeadOhms, "open", 0.50, []Lump{{1.7, 1.1}}, "C"},
	{evidence.PlugOhms, "in-line", 0.005, []Lump{{0, 0.15}}, "C"},
	{evidence.PlugOhms, "other", 0.10, []Lump{{0, 1.2}}, "C: another resistor, or none"},
	{evidence.SpringOhms, "sound", 0.003, []Lump{{0, 0.6}}, "C: near zero"},
	{evidence.SpringOhms, "bad", 0.65, []Lump{{3, 1.5}}, "C"},
	{evidence.FeedDrop, "there", 0, []Lump{{0.2, 0.2}}, "C: some tenths of a volt are lost in any feed"},
	{evidence.FeedDrop, "feed", 0, []Lump{{3.5, 2.5}}, "C"},
	{evidence.GroundDrop, "there", 0, []Lump{{0.07, 0.08}}, "C: a tenth of a volt is much for a ground"},
	{evidence.GroundDrop, "ground", 0, []Lump{{2, 1.5}}, "C"},
	{evidence.WireOhms, "sound", 0.002, []Lump{{0, 0.6}}, "C: below one ohm"},
	{evidence.WireOhms, "bad", 0.75, []Lump{{3, 1.5}}, "C"},
	{evidence.AirGapLegs, "right", 0, []Lump{{0, 0.22}}, "C: within the maker’s range"},
	{evidence.AirGapLegs, "wide", 0, []Lump{{0.9, 0.4}}, "C"},
	{evidence.StarterCurrent, "in-line", 0, []Lump{{0, 0.05}}, "C: humps alike"},
	{evidence.StarterCurrent, "low", 0, []Lump{{-0.6, 0.3}}, "C"},
	{evidence.CompressionDry, "in-line", 0, []Lump{{0, 0.05}}, "C: cylinders within a tenth or so"},
	{evidence.CompressionDry, "low", 0, []Lump{{-0.7, 0.35}}, "C"},
	{evidence.CompressionWet, "stays", 0, []Lump{{0.04, 0.05}}, "C: oil takes up some room"},
	{evidence.CompressionWet, "rises", 0, []Lump{{0.28, 0.13}}, "C: it seals the rings for a while"},
	{evidence.LeakDownLoss, "tight", 0, []Lump{{0, 0.35}}, "C"},
	{evidence.LeakDownLoss, "valve", 0, []Lump{{1.6, 0.5}}, "C"},
	{evidence.LeakDownLoss, "rings", 0, []Lump{{1.4, 0.5}}, "C"},
	{evidence.LeakDownLoss, "gasket", 0, []Lump{{1.6, 0.5}}, "C"},
	{evidence.InjectorOhms, "in-line", 0.002, []Lump{{0, 0.03}}, "C"},
	{evidence.InjectorOhms, "odd", 0.40, []Lump{{0, 0.7}}, "C: open, or shorted turns"},
	{evidence.KVSteady, "in-line", 0, []Lump{{0, 0.12}, {0.4, 0.2}}, "C: cylinders within some 3 kV, and each a third about its own"},
	{evidence.KVSteady, "high", 0, []Lump{{0.5, 0.25}, {0.45, 0.3}}, "C: one high, steady"},
	{evidence.KVSteady, "low", 0, []Lump{{-0.6, 0.3}, {0.45, 0.3}}, "C: one low, steady"},
	{evidence.KVSteady, "jumping", 0, []Lump{{-0.05, 0.4}, {1.3, 0.5}}, "C: jumps from event to event"},
	{evidence.KVSnap, "alike", 0, []Lump{{0, 0.15}}, "C: all rise alike"},
	{evidence.KVSnap, "more", 0, []Lump{{0.45, 0.25}}, "C: rises far more than the others"},
	{evidence.KVSnap, "less", 0, []Lump{{-0.55, 0.3}}, "C: does not rise"},
	{evidence.FuelBar, "in-range", 0, []Lump{{0, 0.05}}, "C: the regulator holds it"},
	{evidence.FuelBar, "low", 0, []Lump{{-0.6, 0.35}}, "C"},
}

// OwnRows are what is believed of measures that belong to no test with a plain answer, in
// the order of their number rows (C; judgement). A mode named in none shows as a sound one.
var OwnRows = []struct {
	Measure evidence.MeasureID
	Modes   []string
	Chance  []float64
	Source  string
}{
	{evidence.PlugOhms, []string{"plug.wrong"}, []float64{0.70, 0.30}, "C"},
	{evidence.PlugOhms, nil, []float64{0.96, 0.04}, "C"},
	{evidence.SpringOhms, []string{"boot.spring"}, []float64{0.20, 0.80}, "C: contact comes and goes"},
	{evidence.SpringOhms, nil, []float64{0.97, 0.03}, "C"},
	{evidence.KVSnap, []string{"plug.worn-gap", "lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor.worn"}, []float64{0.40, 0.55, 0.05}, "C: a wide gap or resistance asks for far more under load"},
	{evidence.KVSnap, []string{"compression"}, []float64{0.35, 0.03, 0.62}, "C: little charge, little rise"},
	{evidence.KVSnap, []string{"plug.cracked", "boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well", "seat"}, []float64{0.35, 0.05, 0.60}, "C: insulation gives way first"},
	{evidence.KVSnap, []string{"coil.weak-load", "coil.weak-hot", "coil.cracked"}, []float64{0.45, 0.05, 0.50}, "C: the coil has no more to give"},
	{evidence.KVSnap, nil, []float64{0.92, 0.04, 0.04}, "C"},
	{evidence.CompressionWet, []string{"compression.rings"}, []float64{0.15, 0.85}, "C"},
	{evidence.CompressionWet, []string{"compression"}, []float64{0.92, 0.08}, "C"},
	{evidence.CompressionWet, nil, []float64{0.92, 0.08}, "C"},
}

// kvModes are what kilovolts have anything to say of: all that has a row in their test.
var kvModes = []string{"plug", "lead", "coil-lead", "boot", "rotor", "cap", "well", "seat", "coil", "connector", "module", "feed", "ground", "trigger", "driver", "pickup", "stop-wire", "air-gap", "compression", "injector", "air", "fuel"}

// showsIn lists the modes that the figures of a measure show: of a fault of another kind
// they are those of a sound one, whatever the whole test would say.
var showsIn = map[evidence.MeasureID][]string{
	evidence.CoilPrimary:    {"coil.primary-open", "coil.primary-shorted"},
	evidence.CoilSecondary:  {"coil.secondary-open", "coil.secondary-shorted", "coil.weak-load"},
	evidence.PrimaryRamp:    {"coil.primary-open", "coil.primary-shorted"},
	evidence.LeadOhms:       {"lead"},
	evidence.CoilLeadOhms:   {"coil-lead.open"},
	evidence.PlugOhms:       {"plug.wrong"},
	evidence.SpringOhms:     {"boot.spring"},
	evidence.FeedDrop:       {"feed"},
	evidence.GroundDrop:     {"ground"},
	evidence.WireOhms:       {"trigger", "connector"},
	evidence.AirGapLegs:     {"air-gap"},
	evidence.StarterCurrent: {"compression", "plug.loose"},
	evidence.CompressionDry: {"compression", "plug.loose"},
	evidence.CompressionWet: {"compression"},
	evidence.LeakDownLoss:   {"compression"},
	evidence.InjectorOhms:   {"injector.electrical"},
	evidence.FuelBar:        {"fuel"},
	evidence.KVSteady:       kvModes,
	evidence.KVSnap:         {"plug", "lead", "coil-lead", "boot", "rotor", "cap", "well", "seat", "coil", "compression"},
}

// Figures of the reasoning about numbers (C; judgement).
const (
	jumpsIfBad   = 0.35  // of what is broken: the figure jumps when it is bent
	jumpsIfSound = 0.005 // a probe that slipped
	restsSound   = 0.6   // of those that jump: between the jumps it reads as a sound one
	heardThere   = 0.85  // air is heard where it goes
	unloadedSees = 0.25  // how often a drop that is there shows without a load
	misread      = 0.25  // of the false alarms of a plain answer, those that a written figure leaves
	likeOthers   = 0.03  // what siblings that agree leave open, as a share
	coilGives    = 25.0  // kV: the least that a healthy coil has to give (rule of thumb 25 to 40)
	wireOhm      = 0.3   // what a short wire or spring reads, with the meter
)

// number is one reading, held against what is expected of it: comparable, so that it can be
// a key.
type number struct {
	measure evidence.MeasureID
	tag     part.Tag
	// x are the deviations of up to two figures, ref how unsure what is expected is; known
	// says that there is anything to hold it against.
	x     [2]float64
	n     int
	ref   float64
	known bool
	over  bool
	jumps bool
	blunt bool // read in a way that proves little
	// dry is the moment, and one, of the dry compression that a wet one is held against.
	dry   int
	heard evidence.ResultID
}

// numbers holds each reading of a moment against what is expected: by its siblings in the
// set, the maker's range or a rule of thumb, whichever is the tightest.
func (a *Assessment) numbers(m evidence.Moment) []number {
	r := m.Entry.Readings
	measure, _ := evidence.FindMeasure(r.Measure)
	if ok, _ := measure.Sense(a.Engine); !ok {
		return nil
	}
	var out []number
	for i, one := range r.Each {
		n := number{measure: r.Measure, tag: one.Tag, over: one.Over, jumps: one.Jumps, blunt: r.Unloaded, heard: one.Heard}
		if !one.Over {
			n.x, n.n, n.ref, n.known = a.deviation(m, measure, i)
			if measure.ID == evidence.CompressionWet && n.known {
				_, n.dry, _ = a.dry(m, one.Place)
			}
		}
		out = append(out, n)
	}
	return out
}

// deviation is how far a reading lies from what is expected of it.
func (a *Assessment) deviation(m evidence.Moment, measure evidence.Measure, i int) (x [2]float64, n int, ref float64, ok bool) {
	set, one := m.Entry.Readings, m.Entry.Readings.Each[i]
	mine, _ := set.True(one)
	log := func(of, to float64) float64 { return math.Log(max(of, 1e-6) / max(to, 1e-6)) }
	switch measure.ID {
	case evidence.FeedDrop:
		if len(one.Figures) < 2 {
			return x, 0, 0, false
		}
		return [2]float64{max(0, one.Figures[0]-one.Figures[1])}, 1, 0, true
	case evidence.GroundDrop:
		return [2]float64{mine}, 1, 0, true
	case evidence.WireOhms, evidence.SpringOhms:
		return [2]float64{math.Log((mine + wireOhm) / (2 * wireOhm))}, 1, 0, true
	case evidence.CompressionWet:
		dry, _, ok := a.dry(m, one.Place)
		return [2]float64{log(mine, dry)}, 1, 0, ok
	case evidence.AirGapLegs:
		to, ref := Range{0.15, 0.5}.middle() // C: by maker
		if set.Maker != nil {
			to, ref = Range(*set.Maker).middle()
		}
		return [2]float64{log(slices.Max(one.Figures), to)}, 1, ref, true
	case evidence.FuelBar:
		if set.Maker != nil {
			to, ref := Range(*set.Maker).middle()
			return [2]float64{log(slices.Min(one.Figures), to)}, 1, ref, true
		}
		if len(one.Figures) < 2 {
			return x, 0, 0, false
		}
		return [2]float64{log(one.Figures[1], one.Figures[0])}, 1, 0, true
	}
	c, _ := one.Place.Cylinder()
	unlike := func(r evidence.Reading) bool { // the other plug of a pair is fired backwards
		o, _ := r.Place.Cylinder()
		return measure.AtPlace && a.Engine.Polarity(o) != a.Engine.Polarity(c)
	}
	if measure.ID == evidence.KVSnap { // the rise counts
		rise := func(r evidence.Reading) float64 { return log(r.Figures[len(r.Figures)-1], r.Figures[0]) }
		var others []float64
		for o, r := range set.Each {
			if o != i && len(r.Figures) == 2 && !unlike(r) {
				others = append(others, rise(r))
			}
		}
		if len(one.Figures) < 2 || len(others) < 2 {
			return x, 0, 0, false
		}
		// A peak that has come to what a coil has to give cannot show how much more was asked for.
		if one.Figures[1] >= coilGives && rise(one) < sibling.Median(others) {
			return x, 0, 0, false
		}
		return [2]float64{rise(one) - sibling.Median(others)}, 1, likeOthers, true
	}
	value := func(r evidence.Reading, k int) (float64, bool) {
		if r.Over || len(r.Figures) <= k {
			return 0, false
		}
		v := r.Figures[k]
		if k == 0 {
			v, _ = set.True(r)
		}
		if measure.Length && one.Millimetres > 0 && r.Millimetres > 0 {
			v /= r.Millimetres / 1000
		}
		return v, true
	}
	for k := range min(2, len(one.Figures)) {
		var others []float64
		for o, r := range set.Each {
			if v, ok := value(r, k); ok && o != i && !unlike(r) {
				others = append(others, v)
			}
		}
		to, unsure := 0.0, math.Inf(1)
		if len(others) >= 2 {
			to, unsure = sibling.Median(others), likeOthers
			if measure.Length && one.Millimetres == 0 {
				unsure = 0.3 // leads of a set differ in length
			}
		}
		if by, mid, ok := a.expected(*set, measure, one); ok && k == 0 && by < unsure {
			to, unsure = mid, by
			if measure.Length && one.Millimetres > 0 {
				to /= one.Millimetres / 1000
			}
		}
		if math.IsInf(unsure, 1) || to <= 0 {
			break
		}
		v, _ := value(one, k)
		x[k], n, ref = log(v, to), k+1, max(ref, unsure)
	}
	if measure.ID == evidence.KVSteady { // the second figure is how far apart its own extremes are
		if n, x[1] = min(n, 1), 0; n == 1 && len(one.Figures) == 3 && one.Figures[1] > 0 {
			x[1], n = log(one.Figures[2], one.Figures[1]), 2
		}
	}
	return x, n, ref, n > 0
}

// Range is a range of figures above 0.
type Range evidence.Range

// middle is its geometric middle and how wide it is, as a standard deviation of logarithms.
func (r Range) middle() (mid, spread float64) {
	low := max(r.Low, r.High/100, 1e-6)
	return math.Sqrt(low * max(r.High, low)), math.Log(max(r.High, low)/low) / 4
}

// expected is what the maker's range or a rule of thumb expects of a reading.
func (a *Assessment) expected(set evidence.Readings, m evidence.Measure, one evidence.Reading) (spread, mid float64, ok bool) {
	if set.Maker != nil {
		mid, spread = Range(*set.Maker).middle()
		return spread + 0.02, mid, true
	}
	if m.ID == evidence.KVSteady {
		mid, spread = Range{5, 15}.middle() // C: firing kV at warm idle
		return 1.5 * spread, mid, true
	}
	rule, known := ohm.RuleOf(m.Item, set.Make)
	if !known || m.Length && one.Millimetres == 0 {
		return 0, 0, false
	}
	r := rule.For(one.Millimetres / 1000)
	mid, spread = Range{r.Low, r.High}.middle()
	return spread * 1.5, mid, true // a rule is no range: one in five lies outside
}

// without is the reading where some other moment that it is held against does not count.
func (n number) without(kept keep) number {
	if n.dry > 0 && !kept(n.dry-1) {
		n.x, n.n, n.ref, n.known, n.dry = [2]float64{}, 0, 0, false, 0
	}
	return n
}

// dry is the newest dry compression of a place up to a moment, and which moment that is, and
// one.
func (a *Assessment) dry(until evidence.Moment, place engine.Place) (bar float64, at int, ok bool) {
	for i, m := range a.Moments {
		if r := m.Entry.Readings; r != nil && r.Measure == evidence.CompressionDry {
			for _, one := range r.Each {
				if one.Place == place && len(one.Figures) > 0 && one.Figures[0] > 0 {
					bar, at, ok = one.Figures[0], i+1, true
				}
			}
		}
		if m.Entry.Seq == until.Entry.Seq {
			break
		}
	}
	return bar, at, ok
}

// density is how likely a reading is if the test has the answer of a row.
func (row *NumberRow) density(n number) float64 {
	d := 1.0
	switch {
	case n.over:
		d = row.Over
	case !n.known:
	default:
		d = 1 - row.Over
		for k := range min(n.n, len(row.Figures)) {
			l := row.Figures[k]
			s := math.Hypot(l.Spread, n.ref)
			d *= math.Exp(-0.5*sq((n.x[k]-l.Centre)/s)) / s
		}
	}
	return d
}

func sq(x float64) float64 { return x * x }

// numberRows is NumberRows by measure; the first of each is what a sound one shows.
var numberRows = func() map[evidence.MeasureID][]*NumberRow {
	m := map[evidence.MeasureID][]*NumberRow{}
	for i := range NumberRows {
		m[NumberRows[i].Measure] = append(m[NumberRows[i].Measure], &NumberRows[i])
	}
	return m
}()

// answers is the chance of each answer of a measure's number rows for a mode; "" is a sound
// one.
func (b *Beliefs) answers(id evidence.MeasureID, mode string) []float64 {
	if mode != "" && !matches(showsIn[id], mode) {
		mode = ""
	}
	for _, own := range OwnRows {
		if own.Measure == id && (own.Modes == nil || mode != "" && matches(own.Modes, mode)) {
			return own.Chance
		}
	}
	m, _ := evidence.FindMeasure(id)
	row := b.checks[m.Test][mode]
	if row == nil {
		row = b.checks[m.Test][""]
	}
	t, _ := evidence.FindTest(m.Test)
	chance := make([]float64, len(numberRows[id]))
	rest := 1.0
	for i, number := range numberRows[id] {
		for k, r := range t.Results {
			if r.ID == number.Answer {
				chance[i] = row.Chance[k]
			}
		}
		if mode == "" && i > 0 {
			chance[i] *= misread
		}
		rest -= chance[i]
	}
	chance[0] += rest // an answer that the figures cannot give looks sound in them
	return chance
}

// weighed is the likelihood of each answer for a reading, in the order of its rows. What no
// row foresees has a floor: a reading can be anything once in a while.
func (n number) weighed() []float64 {
	rows := numberRows[n.measure]
	of := make([]float64, len(rows))
	for i, row := range rows {
		d := row.density(n)
		switch { // a jump is a break, whatever the figure between
		case n.jumps && i > 0:
			d = jumpsIfBad * (restsSound*rows[0].density(n) + (1-restsSound)*d)
		case n.jumps:
			d *= jumpsIfSound
		}
		if n.heard != "" && i > 0 {
			if row.Answer == n.heard {
				d *= heardThere
			} else {
				d *= (1 - heardThere) / 2
			}
		}
		if n.heard != "" && i == 0 {
			d *= 1.0 / 30 // of a tight one nothing is heard, or the usual rings
		}
		of[i] = d
	}
	floor := 1e-4 * slices.Max(of)
	if floor == 0 {
		floor = 1e-12
	}
	for i := range of {
		of[i] += floor
	}
	return of
}

// mostlySound is how often a part that is measured is sound (C; judgement): a gate opens by
// what is clear, and not by what is a little out of line.
const mostlySound = 0.9

// answer is the answer that a reading speaks for most, of a part of which nothing else is
// known.
func (n number) answer() evidence.ResultID {
	of := n.weighed()
	best := 0
	for i := range of {
		if i == 0 {
			of[i] *= mostlySound
		} else {
			of[i] *= (1 - mostlySound) / float64(len(of)-1)
		}
		if of[i] > of[best] {
			best = i
		}
	}
	return numberRows[n.measure][best].Answer
}

// read is what a reading says of a fault with the parts where they sat.
func (a *Assessment) read(l flatItem, when evidence.Condition, h *fault.Hypothesis, at part.Positions) (k asked, odd float64, ok bool) {
	id := l.number.measure
	if !matches(showsIn[id], h.Mode.ID) {
		return k, 0, false
	}
	if l.number.tag != "" {
		if h.Tag != l.number.tag {
			return k, 0, false
		}
	} else if feeds, _ := a.Engine.Feeds(l.check.Place); h.Afflicted(at)&feeds == 0 {
		return k, 0, false
	}
	mine, sound := a.Beliefs.answers(id, h.Mode.ID), a.Beliefs.answers(id, "")
	for i, d := range l.number.weighed() {
		k.odds += mine[i] * d
		k.sound += sound[i] * d
	}
	k.seen = 1
	switch { // what is watched from event to event shows a slight fault seldom
	case l.number.blunt:
		k.seen = unloadedSees
	case id == evidence.KVSteady && !matches(everyEvent[evidence.Kilovolts], h.Mode.ID):
		k.events, k.seen = watchedIn[evidence.Kilovolts], a.seenIn(when)
	}
	return k, 1 - mine[0], true
}

// whole lists the measures that answer all of their test; the others a part of it.
func whole(id evidence.MeasureID) bool {
	return !slices.Contains([]evidence.MeasureID{evidence.FeedDrop, evidence.GroundDrop, evidence.InjectorOhms, evidence.PrimaryRamp, evidence.CoilPrimary, evidence.PlugOhms, evidence.SpringOhms, evidence.CompressionWet, evidence.KVSnap}, id)
}
