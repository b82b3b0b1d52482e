package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/ohm"
	"glenmist/core/sibling"
)

// What a reading is held against (C; judgement).
const (
	likeOthers = 0.03 // what siblings that agree leave open, as a share
	coilGives  = 25.0 // kV: the least that a healthy coil has to give (rule of thumb 25 to 40)
	wireOhm    = 0.3  // what a short wire or spring reads, with the meter
)

// deviation is how far a reading lies from what is expected of it.
func (a *Assessment) deviation(m evidence.Moment, measure evidence.Measure, i int) (x deviations, n int, ref float64, ok bool) {
	set, one := m.Entry.Readings, m.Entry.Readings.Each[i]
	mine, known := set.Compared(one)
	log := func(of, to float64) float64 { return math.Log(max(of, 1e-6) / max(to, 1e-6)) }
	switch measure.ID {
	case evidence.FeedDrop, evidence.GroundDrop:
		return deviations{mine}, 1, 0, known
	case evidence.WireOhms, evidence.SpringOhms:
		return deviations{math.Log((mine + wireOhm) / (2 * wireOhm))}, 1, 0, true
	case evidence.CompressionWet:
		dry, _, ok := a.dry(m, one.Place)
		return deviations{log(mine, dry)}, 1, 0, ok
	case evidence.AirGapLegs:
		to, ref := Range{0.15, 0.5}.middle() // C: by maker
		if set.Maker != nil {
			to, ref = Range(*set.Maker).middle()
		}
		return deviations{log(mine, to)}, 1, ref, true
	case evidence.FuelBar:
		if set.Maker != nil {
			to, ref := Range(*set.Maker).middle()
			return deviations{log(slices.Min(one.Figures), to)}, 1, ref, true
		}
		if len(one.Figures) < 2 {
			return x, 0, 0, false
		}
		return deviations{log(one.Figures[1], one.Figures[0])}, 1, 0, true
	}
	c, _ := one.Place.Cylinder()
	unlike := func(r evidence.Reading) bool { // the other plug of a pair is fired backwards
		o, _ := r.Place.Cylinder()
		return measure.AtPlace && a.Engine.Polarity(o) != a.Engine.Polarity(c)
	}
	if measure.ID == evidence.KVSnap { // the rise counts
		var others []float64
		for o, r := range set.Each {
			if rise, ok := set.Compared(r); ok && o != i && !unlike(r) {
				others = append(others, rise)
			}
		}
		usual := sibling.Median(others)
		// A peak that has come to what a coil has to give cannot show how much more was asked for.
		if !known || len(others) < 2 || one.Figures[1] >= coilGives && mine < usual {
			return x, 0, 0, false
		}
		return deviations{log(mine, usual)}, 1, likeOthers, true
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
