package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/knowledge"
	"glenmist/core/meter"
)

// deviation is how far a reading lies from the expected value, in logarithms. n is the number
// of figures compared, ref the standard deviation of the expectation; ok is false if nothing
// can be compared.
func (a *Assessment) deviation(m evidence.Moment, measure evidence.Measure, i int) (x deviations, n int, ref float64, ok bool) {
	set := m.Entry.Readings()
	c := comparison{a: a, set: set, measure: measure, i: i, one: set.Each[i]}
	switch measure.ID {
	case evidence.FeedDrop, evidence.GroundDrop:
		lost, known := set.Compared(c.one)
		return deviations{lost}, 1, 0, known
	case evidence.WireOhms, evidence.SpringOhms:
		ohms, _ := set.Compared(c.one)
		return deviations{math.Log((ohms + knowledge.WireOhm) / (2 * knowledge.WireOhm))}, 1, 0, true
	case evidence.CompressionWet:
		wet, _ := set.Compared(c.one)
		dry, _, ok := a.dry(m, c.one.Place)
		return deviations{logRatio(wet, dry)}, 1, 0, ok
	case evidence.AirGapLegs:
		gap, _ := set.Compared(c.one)
		to, ref := knowledge.Range{Low: 0.15, High: 0.5}.Middle() // C: by maker
		if set.Maker != nil {
			to, ref = knowledge.Range(*set.Maker).Middle()
			if gap < set.Maker.Low { // too narrow is out as well
				return deviations{-logRatio(gap, to)}, 1, ref, true
			}
		}
		return deviations{logRatio(gap, to)}, 1, ref, true
	case evidence.BaseTiming:
		if set.Maker == nil {
			return deviations{}, 0, 0, false
		}
		return deviations{c.one.Figures[0] - (set.Maker.Low+set.Maker.High)/2}, 1, (set.Maker.High - set.Maker.Low) / 4, true
	case evidence.FuelBar:
		return c.fuel()
	}
	x, n, ref = c.figures()
	if measure.ID == evidence.KVSteady { // the second figure is how far apart its own extremes are
		if n, x[1] = min(n, 1), 0; n == 1 && len(c.one.Figures) == 3 && c.one.Figures[1] > 0 {
			x[1], n = logRatio(c.one.Figures[2], c.one.Figures[1]), 2
		}
	}
	return x, n, ref, n > 0
}

// comparison is one reading of a set, to be compared with the others and with a range.
type comparison struct {
	a       *Assessment
	set     *evidence.Readings
	measure evidence.Measure
	// i is the index of the reading in its set, one the reading.
	i   int
	one evidence.Reading
	// ranged is true if it is compared with a range alone.
	ranged bool
}

func logRatio(of, to float64) float64 { return math.Log(max(of, 1e-6) / max(to, 1e-6)) }

// fuel compares the lower pressure with the maker's range, or the pressure under load with that at idle.
func (c comparison) fuel() (x deviations, n int, ref float64, ok bool) {
	switch {
	case c.set.Maker != nil:
		to, ref := knowledge.Range(*c.set.Maker).Middle()
		return deviations{logRatio(slices.Min(c.one.Figures), to)}, 1, ref, true
	case len(c.one.Figures) < 2:
		return x, 0, 0, false
	}
	return deviations{logRatio(c.one.Figures[1], c.one.Figures[0])}, 1, 0, true
}

// figures compares the first figures, one or two, with the narrowest expectation: that of the
// siblings, the maker's range or a rule of thumb.
func (c comparison) figures() (x deviations, n int, ref float64) {
	for k := range min(2, len(c.one.Figures)) {
		to, unsure := c.expectation(k)
		if math.IsInf(unsure, 1) || to <= 0 {
			break
		}
		v, _ := c.figure(c.one, k)
		x[k], n, ref = logRatio(v, to), k+1, max(ref, unsure)
	}
	return x, n, ref
}

// expectation is the expected value of figure k with its standard deviation in logarithms,
// +Inf if nothing is expected. A range applies to the first figure only.
func (c comparison) expectation(k int) (to, unsure float64) {
	by, mid := math.Inf(1), 0.0
	if spread, middle, ok := c.a.expected(*c.set, c.measure, c.one); ok && k == 0 {
		by, mid = spread, middle
		if c.measure.Length && c.one.Millimetres > 0 {
			mid /= c.one.Millimetres / 1000
		}
	}
	unsure = math.Inf(1)
	if others, least := c.siblings(func(r evidence.Reading) (float64, bool) { return c.figure(r, k) }); len(others) >= 2 && !c.ranged {
		to, unsure = usual(others, mid)
		unsure = max(unsure, least)
		if c.measure.Length && c.one.Millimetres == 0 {
			unsure = max(unsure, 0.3) // leads of a set differ in length
		}
	}
	if by < unsure {
		return mid, by
	}
	return to, unsure
}

// figure returns figure k of a reading: the first one converted as [evidence.Readings.True]
// does; of leads with known lengths the value per metre.
func (c comparison) figure(r evidence.Reading, k int) (float64, bool) {
	if r.Over || len(r.Figures) <= k {
		return 0, false
	}
	v := r.Figures[k]
	if k == 0 {
		v, _ = c.set.True(r)
	}
	if c.measure.Length && c.one.Millimetres > 0 && r.Millimetres > 0 {
		v /= r.Millimetres / 1000
	}
	return v, true
}

// siblings lists the values of the other readings of the set, and their least scatter. The
// second plug of a wasted-spark pair fires with reversed polarity, so only those of like
// polarity are taken, unless they are too few.
func (c comparison) siblings(value func(r evidence.Reading) (float64, bool)) (others []float64, least float64) {
	own, _ := c.one.Place.Cylinder()
	var unlike []float64
	for k, r := range c.set.Each {
		v, ok := value(r)
		cylinder, _ := r.Place.Cylinder()
		switch {
		case !ok || k == c.i:
		case c.measure.AtPlace && c.a.Engine.Polarity(cylinder) != c.a.Engine.Polarity(own):
			unlike = append(unlike, v)
		default:
			others = append(others, v)
		}
	}
	if len(others) < 2 && len(unlike) > 0 {
		return append(others, unlike...), knowledge.Backwards
	}
	return others, knowledge.LikeOthers
}

// usual is the expected value from the others of a set, with its standard deviation in logarithms: their median, or
// the geometric mean of two. Two that differ much may be one sound and one abnormal: the median of both and the
// rule's value decides, and without a rule (0) their difference widens the standard deviation.
func usual(others []float64, rule float64) (to, unsure float64) {
	if len(others) != 2 || others[0] <= 0 || others[1] <= 0 {
		return meter.Median(others), knowledge.LikeOthers
	}
	to = math.Sqrt(others[0] * others[1])
	apart := math.Abs(math.Log(others[0] / to))
	if apart > 2*knowledge.LikeOthers && rule > 0 {
		to = meter.Median(append(others, rule))
		apart = min(math.Abs(math.Log(to/others[0])), math.Abs(math.Log(to/others[1])))
	}
	return to, max(apart, knowledge.LikeOthers)
}

// expected is the value that the maker's range or a rule of thumb gives for a reading.
func (a *Assessment) expected(set evidence.Readings, m evidence.Measure, one evidence.Reading) (spread, mid float64, ok bool) {
	if set.Maker != nil {
		mid, spread = knowledge.Range(*set.Maker).Middle()
		return spread + 0.02, mid, true
	}
	if own, ok := a.Beliefs.Thumb(m.ID); ok {
		mid, spread = own.Middle()
		return 1.5 * spread, mid, true
	}
	rule, known := meter.RuleOf(m.Item, set.Make)
	if !known || m.Length && one.Millimetres == 0 {
		return 0, 0, false
	}
	r := rule.For(one.Millimetres / 1000)
	mid, spread = knowledge.Range{Low: r.Low, High: r.High}.Middle()
	return spread * 1.5, mid, true // a rule is no range: one in five lies outside
}

// dry is the newest dry compression of a place up to a moment, and 1 + that moment.
func (a *Assessment) dry(until evidence.Moment, place engine.Place) (bar float64, at int, ok bool) {
	for i, m := range a.Moments {
		if r := m.Entry.Readings(); r != nil && r.Measure == evidence.CompressionDry {
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
