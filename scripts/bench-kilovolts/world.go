package main

import (
	"math"
	"math/rand/v2"
	"runtime"
	"slices"
	"sync"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/core/trouble"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
)

// figures are what was measured on some captures. Shares are from 0 to 1.
type figures struct {
	Captures int     `json:"captures"`
	Found    float64 `json:"events_found_share"`
	False    float64 `json:"events_false_share"`
	// Cylinder is the share of the events that were found whose cylinder is right.
	Cylinder float64 `json:"cylinder_right_share"`
	// FiringPC is the median error of the firing voltage in percent, FiringP90 its 90th percentile.
	FiringPC  float64 `json:"firing_error_percent"`
	FiringP90 float64 `json:"firing_error_percent_p90"`
	BurnMS    float64 `json:"burn_error_ms"`
	LineKV    float64 `json:"line_error_kv"`
	Slope     float64 `json:"slope_error_kv_per_ms"`
	RingPC    float64 `json:"ring_error_percent"`
	DwellMS   float64 `json:"dwell_error_ms"`
	Side      float64 `json:"side_right_share"`
	Part      float64 `json:"part_right_share"`
	// Confident is the share of the suspects with 80 % or more that are right; Said is their number.
	Confident float64 `json:"confident_right_share"`
	Said      int     `json:"confident_statements"`
	// InLine is the share of the captures in which the faulty cylinder is called in line with the others.
	InLine float64 `json:"faulty_called_in_line_share"`
}

// world is what was measured in one kind of world, at [headlineDB].
type world struct {
	Name string `json:"name"`
	figures
	// Sound is the share of sound engines without a false alarm.
	Sound    float64             `json:"sound_right_share"`
	Levels   []level             `json:"levels"`
	ByMode   map[string]*figures `json:"by_mode"`
	ByLayout map[string]*figures `json:"by_layout"`
}

// level is what was measured at one level of noise.
type level struct {
	DB float64 `json:"db"`
	figures
}

const (
	headlineDB = 40   // the level whose figures stand at the top: a plain scope in a workshop
	usualKV    = 9.0  // the levels of noise are relative to it
	foundFrom  = 2.5  // kV: a weaker true event does not count as missed
	within     = 3e-4 // seconds
	rate       = 250_000.0
	confident  = 0.8
)

var levels = []float64{60, headlineDB, 30, 20}

// result is what one capture gave.
type result struct {
	mode, layout                       string
	truths, hit, found, matched, right int
	// The errors of each figure, in the units of figures.
	firing, burn, line, slope, ring, dwell []float64
	side, part, said, inLine               bool
}

// measure records captures in one kind of world and reads them.
func measure(seed uint64, n int, outer bool) *world {
	w := &world{Name: "own", ByMode: map[string]*figures{}, ByLayout: map[string]*figures{}}
	if outer {
		w.Name = "outer"
	}
	for k, dB := range levels {
		all := parallel(n, func(i int) result {
			return one(rand.New(rand.NewPCG(seed+uint64(k)*1000, uint64(i))), dB, outer, false) //nolint:gosec // published seeds, nothing secret
		})
		w.Levels = append(w.Levels, level{dB, sum(all)})
		if dB != headlineDB {
			continue
		}
		w.figures = sum(all)
		for by, into := range map[*map[string]*figures]func(result) string{&w.ByMode: func(r result) string { return r.mode }, &w.ByLayout: func(r result) string { return r.layout }} {
			groups := map[string][]result{}
			for _, r := range all {
				groups[into(r)] = append(groups[into(r)], r)
			}
			for name, of := range groups {
				f := sum(of)
				(*by)[name] = &f
			}
		}
	}
	sound := parallel(n, func(i int) result {
		return one(rand.New(rand.NewPCG(seed+7777, uint64(i))), headlineDB, outer, true) //nolint:gosec // likewise
	})
	for _, r := range sound {
		w.Sound += one01(r.inLine) / float64(n)
	}
	return w
}

// parallel runs a function for 0 to n−1 on all processors.
func parallel(n int, of func(i int) result) []result {
	results := make([]result, n)
	var wg sync.WaitGroup
	next := make(chan int)
	for range runtime.NumCPU() {
		wg.Go(func() {
			for i := range next {
				results[i] = of(i)
			}
		})
	}
	for i := range n {
		next <- i
	}
	close(next)
	wg.Wait()
	return results
}

// sum adds up results.
func sum(all []result) figures {
	f := figures{Captures: len(all)}
	n := float64(len(all))
	var truths, hits, found, matched, right int
	var off result
	for _, x := range all {
		truths, hits, found, matched, right = truths+x.truths, hits+x.hit, found+x.found, matched+x.matched, right+x.right
		off.firing, off.burn, off.line = append(off.firing, x.firing...), append(off.burn, x.burn...), append(off.line, x.line...)
		off.slope, off.ring, off.dwell = append(off.slope, x.slope...), append(off.ring, x.ring...), append(off.dwell, x.dwell...)
		f.Side += one01(x.side) / n
		f.Part += one01(x.part) / n
		f.InLine += one01(x.inLine) / n
		if x.said {
			f.Said++
			f.Confident += one01(x.part)
		}
	}
	f.Confident /= float64(max(1, f.Said))
	f.Found, f.False = float64(hits)/float64(max(1, truths)), float64(found-matched)/float64(max(1, found))
	f.Cylinder = float64(right) / float64(max(1, matched))
	f.FiringPC, f.FiringP90 = quantile(off.firing, 0.5), quantile(off.firing, 0.9)
	f.BurnMS, f.LineKV = quantile(off.burn, 0.5), quantile(off.line, 0.5)
	f.Slope, f.RingPC, f.DwellMS = quantile(off.slope, 0.5), quantile(off.ring, 0.5), quantile(off.dwell, 0.5)
	return f
}

func one01(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func quantile(v []float64, q float64) float64 {
	if len(v) == 0 {
		return 0
	}
	slices.Sort(v)
	return v[int(q*float64(len(v)-1))]
}

// one hides a fault that affects one cylinder, or none, records the engine at idle and on a snap, reads both, and asks the
// reasoning, which knows the cylinder by its code.
func one(rng *rand.Rand, dB float64, outer, sound bool) result {
	pattern := engine.Shelf[rng.IntN(len(engine.Shelf))]
	e := pattern.Engine().Derive()
	home := part.Home(e)
	hidden := hide(rng, e)
	noise := usualKV * math.Pow(10, -dB/20)
	setup, of := simulator.PlainScope(rate, noise), simulator.Middle
	if outer {
		setup, of = simulator.OuterScope(rng, e, noise), simulator.Outer(rng)
	}
	var b *simulator.Engine
	if sound {
		b = simulator.In(of, e, rng)
	} else {
		b = simulator.In(of, e, rng, hidden)
	}
	res := result{mode: string(hidden.Mode.ID), layout: pattern.ID}
	sums := read(&res, b, home, e, setup)
	faulty := hidden.Affected(home).First()
	set, rises := scope.Readings(sums), scope.Rises(sums)
	j := job.Job{Number: "bench", Vehicle: job.Vehicle{Engine: e}}
	shapes := diagnose.Assess(j).Shapes(set, rises)
	if sound {
		res.inLine = !slices.ContainsFunc(shapes, func(s diagnose.Shape) bool { return s.Abnormal })
		return res
	}
	res.inLine = slices.ContainsFunc(shapes, func(s diagnose.Shape) bool { return s.Cylinder == faulty && !s.Abnormal })
	add := func(entry evidence.Entry) { // what does not fit says nothing
		entry.Done, entry.By = time.Unix(int64(len(j.Ledger)+1), 0), "bench"
		if longer, err := j.Ledger.Add(e, entry); err == nil {
			j.Ledger = longer
		}
	}
	if e.Scanned() {
		add(evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(faulty), State: trouble.Stored}}}})
	} else {
		add(evidence.Entry{Body: &evidence.Watch{Cylinders: []engine.Cylinder{faulty}}})
	}
	for _, of := range []evidence.Readings{set, rises} {
		if len(of.Each) > 0 {
			add(evidence.Entry{Body: &of, Condition: evidence.Idle})
		}
	}
	a := diagnose.Assess(j)
	res.side = a.Inside() > 0.5 == fault.Inside(hidden.Mode.Unit)
	res.part = a.Suspects[0].Unit == hidden.Mode.Unit
	res.said = a.Suspects[0].P >= confident
	return res
}

// hide draws a fault with a unit that affects one cylinder, by prior share.
func hide(rng *rand.Rand, e engine.Engine) fault.Hypothesis {
	home := part.Home(e)
	var all []fault.Hypothesis
	sum := 0.0
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.Unit != fault.Else && h.Mode.Unit != fault.NoFault && h.Affected(home).Len() == 1 {
			all = append(all, h)
			sum += h.Prior
		}
	}
	u := rng.Float64() * sum
	for _, h := range all {
		if u -= h.Prior; u < 0 {
			return h
		}
	}
	return all[0]
}

// read records idle and a snap behind it, reads both, and compares what was found with what was there.
func read(res *result, b *simulator.Engine, at part.Positions, e engine.Engine, setup simulator.Scope) []scope.Summary {
	c := b.IdleAndSnap(at, setup)
	t := standin.Trace(c, setup.Rate)
	a := t.Assign(e, 0)
	sums := t.Summaries(e, a)
	// An event of no cylinder is not taken for a spark: it counts as missed if it was one, and never as false.
	a.Shots = slices.DeleteFunc(a.Shots, func(s scope.Shot) bool { return s.Cylinder == 0 })
	used := make([]bool, len(a.Shots))
	shown := channelsOf(setup, e)
	for _, d := range c.Drawn {
		if !shown.Has(d.Cylinder) {
			continue // no clamp on it
		}
		near := func(s scope.Shot) bool { return math.Abs(s.At-d.At) < within }
		k := slices.IndexFunc(a.Shots, func(s scope.Shot) bool { return near(s) && s.Cylinder == d.Cylinder })
		if k < 0 && a.By != scope.ByChannel {
			k = slices.IndexFunc(a.Shots, near)
		}
		if k >= 0 && !used[k] {
			used[k] = true
			res.match(a.Shots[k], d)
		}
		if d.Firing > foundFrom {
			res.truths++
			res.hit += int(one01(k >= 0))
		}
	}
	res.found += len(a.Shots)
	return sums
}

// channelsOf is the set of cylinders with a clamp.
func channelsOf(s simulator.Scope, e engine.Engine) (all engine.Set) {
	for _, set := range s.Shown(e) {
		all |= set
	}
	return all
}

// match notes how far an event that was read is from the one that was drawn.
func (res *result) match(s scope.Shot, d simulator.Drawn) {
	res.matched++
	res.right += int(one01(s.Cylinder == d.Cylinder))
	if d.Firing <= foundFrom {
		return
	}
	res.firing = append(res.firing, 100*math.Abs(s.Firing/d.Firing-1))
	if d.BurnMS > 0.2 && !s.Open {
		res.burn = append(res.burn, math.Abs(s.Burn-d.BurnMS))
		if d.Line > 0 {
			res.line, res.slope = append(res.line, math.Abs(s.Line-d.Line)), append(res.slope, math.Abs(s.Slope-d.Slope))
		}
	}
	if s.RingHz > 0 {
		res.ring = append(res.ring, 100*math.Abs(s.RingHz/d.Hz-1))
	}
	if s.Dwell > 0 {
		res.dwell = append(res.dwell, math.Abs(s.Dwell-d.DwellMS))
	}
}
