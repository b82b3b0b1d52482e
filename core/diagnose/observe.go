package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// trouble says which cylinders a world afflicts at one moment: bit c for
// cylinder c. Zero is an engine that runs clean.
type afflicted uint16

func only(c engine.Cylinder) afflicted { return 1 << c }

func everyCylinder(e engine.Engine) afflicted { return 1<<(e.Cylinders+1) - 2 }

func (a afflicted) has(c engine.Cylinder) bool { return a&only(c) != 0 }

// perRate holds one figure for each rate of the grid.
type perRate [rates]float64

// showing is the chance that a fault shows at all in a run, by how the run's
// condition fits the one in which the vehicle fails (C; judgement). A clean run
// in the wrong condition counts for little.
func showing(failsWhen, run evidence.Condition) float64 {
	switch {
	case failsWhen == evidence.AnyCondition:
		return 0.90
	case run == failsWhen:
		return 0.93
	case run == evidence.AnyCondition:
		return 0.85
	default:
		return 0.60
	}
}

// counted is the log probability of a run's counters for each rate.
func counted(c evidence.Counters, sick afflicted, shows float64) (out perRate) {
	n := c.Revolutions / 2
	for i, k := range c.Counts {
		stray := logStray(k, n)
		for r := range out {
			if sick.has(engine.Cylinder(i + 1)) {
				out[r] += logMix(shows, logBetaBinomial(k, n, hit[r]), 1-shows, stray)
			} else {
				out[r] += stray
			}
		}
	}
	return out
}

// What is followed without numbers: half of the misfires at one in two hundred
// are noticed, hardly any are seen where there are none (C; judgement).
const (
	noticedHalf  = 0.005
	noticedMost  = 0.92
	noticedWrong = 0.03
)

// watched is the log probability of a misfire followed without numbers.
func watched(w evidence.Watch, e engine.Engine, sick afflicted, shows float64) (out perRate) {
	var seen afflicted
	for _, c := range w.Cylinders {
		seen |= only(c)
	}
	for _, c := range e.All() {
		for r := range out {
			p := noticedWrong
			if sick.has(c) {
				p += (noticedMost - noticedWrong) * shows * hit[r] / (hit[r] + noticedHalf)
			}
			if !seen.has(c) {
				p = 1 - p
			}
			out[r] += math.Log(p)
		}
	}
	return out
}

// What a control unit makes of misfires (C; judgement, on the emissions
// threshold of 13 CCR 1968.2(e)(3), from memory: not below 1 %). A cylinder that
// misfires one time in a hundred has its code set half of the time.
const (
	codeHalf     = 0.01
	codeMost     = 0.96
	codeStray    = 0.01 // a code on a cylinder that does not misfire
	codeHistory  = 0.10 // a code left by a misfire that has gone
	randomStray  = 0.03 // P0300 with no misfire at all
	randomOne    = 0.15 // P0300 beside the code of one cylinder
	randomAll    = 0.80 // P0300 when all cylinders misfire
	codeRunAgain = 0.70 // that the drive after clearing was long enough to set it
)

// codesKnown is what is known of a misfire code at one moment.
type codesKnown struct {
	random bool
	set    afflicted
	// cleared says that the codes were cleared before the run that this speaks
	// of: then a code that is absent counts, but a short drive may not set one.
	cleared bool
	// open says that absence counts for nothing, since the unit was not read in
	// full since the last move or still held older codes.
	open bool
}

// coded is the log probability of the codes that were found.
func coded(k codesKnown, e engine.Engine, sick afflicted, history bool) (out perRate) {
	again := 1.0
	if k.cleared {
		again = codeRunAgain
	}
	add := func(r int, p float64, set bool) {
		if set {
			out[r] += math.Log(p)
		} else if !k.open {
			out[r] += math.Log1p(-p)
		}
	}
	for r := range out {
		seen := codeMost * hit[r] / (hit[r] + codeHalf) * again
		for _, c := range e.All() {
			p := codeStray
			switch {
			case sick.has(c):
				p += (1 - codeStray) * seen
			case sick == 0 && history && !k.cleared:
				p = codeHistory
			}
			add(r, p, k.set.has(c))
		}
		p := randomStray
		switch {
		case sick == everyCylinder(e):
			p += (randomAll - randomStray) * seen
		case sick != 0:
			p += (randomOne - randomStray) * seen
		}
		add(r, p, k.random)
	}
	return out
}
