package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/knowledge"
	"glenmist/core/meter"
)

// deviation is how far a reading lies from the expected value, in logarithms.
func (a *Assessment) deviation(m evidence.Moment, measure evidence.Measure, i int) (x deviations, n int, ref float64, ok bool) {
	set, one := m.Entry.Readings(), m.Entry.Readings().Each[i]
	mine, known := set.Compared(one)
	log := func(of, to float64) float64 { return math.Log(max(of, 1e-6) / max(to, 1e-6)) }
	switch measure.ID {
	case evidence.FeedDrop, evidence.GroundDrop:
		return deviations{mine}, 1, 0, known
	case evidence.WireOhms, evidence.SpringOhms:
		return deviations{math.Log((mine + knowledge.WireOhm) / (2 * knowledge.WireOhm))}, 1, 0, true
	case evidence.CompressionWet:
		dry, _, ok := a.dry(m, one.Place)
		return deviations{log(mine, dry)}, 1, 0, ok
	case evidence.AirGapLegs:
		to, ref := knowledge.Range{Low: 0.15, High: 0.5}.Middle() // C: by maker
		if set.Maker != nil {
			to, ref = knowledge.Range(*set.Maker).Middle()
		}
		return deviations{log(mine, to)}, 1, ref, true
	case evidence.FuelBar:
		if set.Maker != nil {
			to, ref := knowledge.Range(*set.Maker).Middle()
			return deviations{log(slices.Min(one.Figures), to)}, 1, ref, true
		}
		if len(one.Figures) < 2 {
			return x, 0, 0, false
		}
		return deviations{log(one.Figures[1], one.Figures[0])}, 1, 0, true
	}
	c, _ := one.Place.Cylinder()
	// siblings are the others of the set with a known figure. The second plug of a wasted-spark pair fires with
	// reversed polarity, so only those of like polarity are taken, unless they are too few.
	siblings := func(value func(r evidence.Reading) (float64, bool)) (others []float64, least float64) {
		var unlike []float64
		for k, r := range set.Each {
			v, ok := value(r)
			o, _ := r.Place.Cylinder()
			switch {
			case !ok || k == i:
			case measure.AtPlace && a.Engine.Polarity(o) != a.Engine.Polarity(c):
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
	if measure.ID == evidence.KVSnap { // the rise counts
		others, least := siblings(set.Compared)
		to, unsure := usual(others, 0)
		// A peak at the coil's limit does not show how much more was needed.
		if !known || len(others) < 2 || one.Figures[1] >= knowledge.CoilGives && mine < to {
			return x, 0, 0, false
		}
		return deviations{log(mine, to)}, 1, max(least, unsure), true
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
		others, least := siblings(func(r evidence.Reading) (float64, bool) { return value(r, k) })
		by, mid, ruled := a.expected(*set, measure, one)
		if ruled = ruled && k == 0; !ruled {
			by, mid = math.Inf(1), 0
		} else if measure.Length && one.Millimetres > 0 {
			mid /= one.Millimetres / 1000
		}
		to, unsure := 0.0, math.Inf(1)
		if len(others) >= 2 {
			to, unsure = usual(others, mid)
			unsure = max(unsure, least)
			if measure.Length && one.Millimetres == 0 {
				unsure = max(unsure, 0.3) // leads of a set differ in length
			}
		}
		if by < unsure {
			to, unsure = mid, by
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
