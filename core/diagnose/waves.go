package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/knowledge"
	"glenmist/core/meter"
)

// wave is how far the figures of one cylinder are from those of its siblings: n figures, of which those in lost are unknown.
// ref is the standard deviation of what they are compared with, in logarithms.
func (a *Assessment) wave(set evidence.Readings, i int) (x deviations, n int, lost uint8, ref float64) {
	f := set.Each[i].Figures
	lose := func(k int) { lost |= 1 << k }
	ref = knowledge.LikeOthers
	if to, unsure, ok := a.siblingFigure(set, i, 0); ok && f[0] > 0 {
		x[0], ref = math.Log(f[0]/to), unsure
	} else if mid, unsure, ok := a.alone(f[0]); ok {
		x[0], ref = math.Log(f[0]/mid), unsure
	} else {
		lose(0)
	}
	if f[0] > 0 && len(f) > 2 && f[1] > 0 {
		x[1] = math.Log(f[2] / f[1])
	} else {
		lose(1)
	}
	n = 2
	for k, of := range []int{6, 3, 4, 5, 7} { // sparks fired, burn time, spark line, slope, ringing
		if len(f) <= of {
			lose(2 + k)
			continue
		}
		n = 3 + k
		if of == 6 {
			x[2] = math.Log((1 - f[6]/100 + knowledge.MissedLeast) / knowledge.MissedLeast)
			continue
		}
		to, _, ok := a.siblingFigure(set, i, of)
		if !ok || of <= 5 && f[3] == 0 { // without a spark there is no spark line
			lose(2 + k)
			continue
		}
		switch of {
		case 5:
			line, _, _ := a.siblingFigure(set, i, 4)
			x[5] = (f[5] - to) / max(line, 0.3)
		case 7:
			x[6] = math.Log((f[7] + 1) / (to + 1))
		default:
			x[of] = math.Log((max(0, f[of]) + 0.05) / (max(0, to) + 0.05))
		}
	}
	if lost == 1<<n-1 {
		n = 0
	}
	return x, n, lost, ref
}

// snap returns the deviations of reading i from its siblings on a snap: rise of the kilovolts, burn time and missed sparks, as
// logarithms of ratios. The rise is unknown if the peak is at the coil's limit.
func (a *Assessment) snap(set evidence.Readings, i int) (x deviations, n int, lost uint8, ref float64) {
	measure, _ := evidence.FindMeasure(set.Measure)
	c := comparison{a: a, set: &set, measure: measure, i: i, one: set.Each[i]}
	f := c.one.Figures
	mine, known := set.Compared(c.one)
	others, least := c.siblings(set.Compared)
	to, unsure := usual(others, 0)
	if x[0], ref = logRatio(mine, to), max(least, unsure); !known || len(others) < 2 || f[1] >= knowledge.CoilGives && mine < to {
		lost, x[0], ref = 1, 0, knowledge.LikeOthers
	}
	n = 1
	if len(f) < 4 {
		return x, n, lost, ref
	}
	n = 3
	burns, _ := c.siblings(func(r evidence.Reading) (float64, bool) {
		if len(r.Figures) < 3 || r.Figures[2] == 0 {
			return 0, false
		}
		return r.Figures[2], true
	})
	if f[2] > 0 && len(burns) >= 2 {
		x[1] = math.Log((f[2] + 0.05) / (meter.Median(burns) + 0.05))
	} else {
		lost |= 1 << 1
	}
	x[2] = math.Log((1 - f[3]/100 + knowledge.MissedLeast) / knowledge.MissedLeast)
	return x, n, lost, ref
}

// waveNumber compares reading i of a capture with its siblings.
func (a *Assessment) waveNumber(set evidence.Readings, i int) number {
	n := number{measure: evidence.KVWave, least: set.Each[i].AtLeast, over: silent(set.Each[i])}
	n.x, n.n, n.lost, n.ref = a.wave(set, i)
	n.known = n.n > 0
	return n
}

// snapNumber compares reading i of a snap with its siblings.
func (a *Assessment) snapNumber(set evidence.Readings, i int) number {
	n := number{measure: set.Measure, least: set.Each[i].AtLeast}
	n.x, n.n, n.lost, n.ref = a.snap(set, i)
	n.known = n.lost != 1<<n.n-1
	n.over = len(set.Each[i].Figures) > 1 && set.Each[i].Figures[1] == 0
	return n
}

// alone compares the kilovolts of a cylinder without siblings with the rule of thumb for the physical need. Kilovolts that no
// plug needs come from an adapter, which has a scale of its own.
func (a *Assessment) alone(kV float64) (mid, unsure float64, ok bool) {
	thumb, ok := a.Beliefs.Thumb(evidence.KVSteady)
	if !ok || kV < thumb.Low/knowledge.BeyondThumb || kV > thumb.High*knowledge.BeyondThumb {
		return 0, 0, false
	}
	mid, spread := thumb.Middle()
	return mid, 1.5 * spread, true
}

// siblingFigure is the median of figure k of the siblings of reading i, and the standard deviation of the expectation in
// logarithms. Siblings have like polarity. If fewer than two of them have the figure, those of the other polarity count too:
// plugs that fire backwards need up to a third more, so that the comparison is less certain. ok is false if there are fewer
// than two in all, or if two differ so much that either may be abnormal.
func (a *Assessment) siblingFigure(set evidence.Readings, i, k int) (median, unsure float64, ok bool) {
	c, _ := set.Each[i].Place.Cylinder()
	var like, others []float64
	for o, r := range set.Each {
		at, _ := r.Place.Cylinder()
		burns := k < 3 || k > 5 || len(r.Figures) > 3 && r.Figures[3] > 0
		if o == i || len(r.Figures) <= k || r.Figures[0] <= 0 || !burns {
			continue
		}
		others = append(others, r.Figures[k])
		if a.Engine.Polarity(at) == a.Engine.Polarity(c) {
			like = append(like, r.Figures[k])
		}
	}
	unsure = knowledge.LikeOthers
	if len(like) < 2 && len(others) > len(like) {
		like, unsure = others, knowledge.Backwards
	}
	if len(like) == 2 && k != 5 && math.Abs(like[0]-like[1]) > knowledge.TwoApart*math.Max(math.Abs(like[0]), math.Abs(like[1])) {
		return 0, 0, false
	}
	return meter.Median(like), unsure, len(like) >= 2
}

// silent reports whether a cylinder had no event in a capture in which others had theirs.
func silent(one evidence.Reading) bool { return len(one.Figures) > 0 && one.Figures[0] == 0 }

// Shape is what the events of one cylinder look like, with how likely that is, of a cylinder of
// which nothing else is known.
type Shape struct {
	Cylinder engine.Cylinder
	Words    string
	Answer   evidence.ResultID
	P        float64
	Abnormal bool
	// Alike says which faults the shape cannot tell apart, and what does.
	Alike string
}

// riseWords states how the kilovolts of a snap stand out, by the answers of their measure.
var riseWords = map[evidence.ResultID]string{"more": "rises far more than the others on snap", "less": "hardly rises on snap",
	evidence.FailsOnSnap: "misses or burns short on snap"}

// usualShapes returns the prior probability of each shape of one cylinder. It is sound with probability
// [knowledge.MostlySound]; otherwise it has each fault by its prior share.
func (a *Assessment) usualShapes() []float64 {
	sound := a.Beliefs.WaveChances("")
	faulty, sum := make([]float64, len(sound)), 0.0
	layout := slices.Index(engine.Ignitions(), a.Engine.Ignition)
	for _, m := range fault.Catalogue {
		share := m.Prior[layout]
		for k, p := range a.Beliefs.Answers(evidence.KVWave, m.ID) {
			faulty[k] += share * p
		}
		sum += share
	}
	usual := make([]float64, len(sound))
	for k := range usual {
		usual[k] = knowledge.MostlySound*sound[k] + (1-knowledge.MostlySound)*faulty[k]/sum
	}
	return usual
}

// Shapes names the likeliest shape of each cylinder of a capture's readings; with it how it
// rises on a snap, where that is out of line too.
func (a *Assessment) Shapes(set, rises evidence.Readings) []Shape {
	shapes, usual := a.Beliefs.Shapes(), a.usualShapes()
	var all []Shape
	for i, one := range set.Each {
		of := a.waveNumber(set, i).weighed(a.Beliefs)
		var rose []float64 // how well each answer of a snap fits
		if r := slices.IndexFunc(rises.Each, func(r evidence.Reading) bool { return r.Place == one.Place }); r >= 0 {
			rose = a.snapNumber(rises, r).weighed(a.Beliefs)
		}
		best, sum := 0, 0.0
		for k := range of {
			of[k] *= usual[k]
			if rose != nil {
				fits := 0.0
				for r, row := range a.Beliefs.Numbers(rises.Measure) {
					fits += shapes[k].Rises.At(row.Answer) * rose[r]
				}
				of[k] *= fits
			}
			sum += of[k]
			if of[k] > of[best] {
				best = k
			}
		}
		c, _ := one.Place.Cylinder()
		shape := Shape{c, shapes[best].Words, shapes[best].Answer, of[best] / sum, best > 0, knowledge.AlikeOf(shapes[best].ID)}
		if rose != nil { // with it how it rose, where that is clear
			sum, most := 0.0, 0
			for r, row := range a.Beliefs.Numbers(rises.Measure) {
				rose[r] *= shapes[best].Rises.At(row.Answer)
				sum += rose[r]
				if rose[r] > rose[most] {
					most = r
				}
			}
			words := riseWords[a.Beliefs.Numbers(rises.Measure)[most].Answer]
			switch {
			case words == "":
			case shape.Abnormal:
				shape.Words += ", and " + words
			default:
				shape.Words, shape.P, shape.Abnormal = words, rose[most]/sum, true
			}
		}
		all = append(all, shape)
	}
	return all
}
