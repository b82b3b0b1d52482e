package scope

import (
	"cmp"
	"glenmist/core/engine"
	"maps"
	"math"
	"slices"
)

// idleShare is the largest ratio of an idle event's voltage to that of a working event. There
// is little charge at the end of the exhaust stroke (C; judgement).
const idleShare = 0.6

// pairWindow is the number of neighbouring events used to tell idle from working events. A few
// missed events change the alternation.
const pairWindow = 9

// pair marks the idle events of a wasted-spark pair. Each coil fires every revolution. Of two
// consecutive events on a plug, the one with much lower voltage is idle. Unclear events follow
// the alternation of their neighbours. If all are alike, the idle events were too low to
// detect or none fired normally: all count.
func (a *Assigned) pair() {
	of := map[engine.Cylinder][]int{}
	for i, s := range a.Shots {
		if s.Cylinder > 0 {
			of[s.Cylinder] = append(of[s.Cylinder], i)
		}
	}
	for _, shots := range of {
		turns := make([]int, len(shots)) // revolutions, from neighbouring intervals
		apart := make([]float64, max(0, len(shots)-1))
		for k := range apart {
			apart[k] = a.Shots[shots[k+1]].At - a.Shots[shots[k]].At
		}
		for k := range apart {
			near := median(apart[max(0, k-pairWindow/2):min(len(apart), k+pairWindow/2+1)])
			turns[k+1] = turns[k] + max(1, int(math.Round(apart[k]/near)))
		}
		for k, i := range shots {
			var kV [2][]float64 // events of the same phase as this one, and of the other
			for o := max(0, k-pairWindow/2); o < min(len(shots), k+pairWindow/2+1); o++ {
				other := (turns[o] - turns[k]) & 1
				kV[other] = append(kV[other], a.Shots[shots[o]].Firing)
			}
			mine := a.Shots[i].Firing
			least, most := mine, mine // of its neighbours
			if k > 0 {
				least, most = a.Shots[shots[k-1]].Firing, a.Shots[shots[k-1]].Firing
			}
			if k+1 < len(shots) {
				next := a.Shots[shots[k+1]].Firing
				if k == 0 {
					least, most = next, next
				}
				least, most = min(least, next), max(most, next)
			}
			switch {
			case mine < idleShare*least: // far below both neighbours
				a.Shots[i].Waste = true
			case idleShare*mine > most: // far above both neighbours
			default:
				a.Shots[i].Waste = len(kV[1]) > 0 && median(kV[0]) < idleShare*median(kV[1])
			}
		}
	}
}

// cycles numbers the cycles if each cylinder has its own channel. It uses the working events
// of the cylinder with the most events.
func (a *Assigned) cycles() {
	of := map[engine.Cylinder][]float64{}
	for _, s := range a.Shots {
		if !s.Waste {
			of[s.Cylinder] = append(of[s.Cylinder], s.At)
		}
	}
	clocks := slices.SortedFunc(maps.Values(of), func(x, y []float64) int {
		return cmp.Or(cmp.Compare(len(x), len(y)), cmp.Compare(x[0], y[0]))
	})
	if len(clocks) == 0 {
		return
	}
	clock := clocks[len(clocks)/2]
	a.Cycles = len(clock)
	for i := range a.Shots {
		k, _ := slices.BinarySearch(clock, a.Shots[i].At+1e-9)
		a.Shots[i].Cycle = max(0, k-1)
	}
}

// Detection of a snap: all voltages rise together for some cycles (C; judgement: the charge is
// about twice as dense, so kilovolts rise by half or more).
const (
	snapRise   = 1.3
	snapCycles = 2
)

// finish sorts the events by time and marks those of a snap.
func (a *Assigned) finish() {
	slices.SortStableFunc(a.Shots, func(x, y Shot) int { return cmp.Compare(x.At, y.At) })
	if len(a.Shots) == 0 {
		return
	}
	for _, s := range a.Shots {
		if a.First = s.Cylinder; a.First > 0 {
			break
		}
	}
	of := make([][]float64, a.Cycles)
	for _, s := range a.Shots {
		if !s.Waste && s.Cylinder > 0 && s.Cycle < len(of) {
			of[s.Cycle] = append(of[s.Cycle], s.Firing)
		}
	}
	var usual, steady []float64
	for _, kV := range of {
		usual = append(usual, median(kV))
		if len(kV) > 0 {
			steady = append(steady, median(kV))
		}
	}
	slices.Sort(steady)
	level := snapRise * median(steady[:(len(steady)+1)/2])
	snap := make([]bool, a.Cycles)
	for from := 0; from < len(usual); {
		to := from
		for to < len(usual) && usual[to] > level {
			to++
		}
		for k := from; k < to && to-from >= snapCycles; k++ {
			snap[k] = true
		}
		from = max(to, from+1)
	}
	is := func(c int) bool { return c >= 0 && c < len(snap) && snap[c] }
	overrun := overrunCycles(of, usual, snap)
	for i := range a.Shots {
		c := a.Shots[i].Cycle
		a.Shots[i].Snap = is(c)
		a.Shots[i].Between = !is(c) && (is(c-1) || is(c+1) || c >= 0 && c < len(overrun) && overrun[c])
	}
}

// Overrun: with closed throttle there is little charge, so that all cylinders need less (C; judgement: by a quarter or more).
const (
	overrunFall  = 0.75
	overrunLeast = 2 // cylinders: with fewer, a weak cylinder could be taken for it
)

// overrunCycles marks the cycles in which all cylinders need much less than usual. They are no steady running.
func overrunCycles(of [][]float64, usual []float64, snap []bool) []bool {
	var steady []float64
	for k, kV := range usual {
		if !snap[k] && kV > 0 {
			steady = append(steady, kV)
		}
	}
	level := overrunFall * median(steady)
	out := make([]bool, len(usual))
	for k, kV := range usual {
		out[k] = len(of[k]) >= overrunLeast && kV < level
	}
	return out
}

func median(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	v = slices.Sorted(slices.Values(v))
	return v[len(v)/2]
}
