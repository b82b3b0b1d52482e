package simulator

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// wornAlike is the colour and wear that all plugs of a set share.
type wornAlike struct {
	drawn            bool
	rounded          float64 // how often the edges of a sound plug are rounded
	soot, ash, white float64 // how often a sound plug shows these
	wells            float64 // how often there is oil at the hex
}

// set returns the common wear of this engine's plugs, drawn on first use.
func (b *Engine) set() wornAlike {
	if b.worn.drawn {
		return b.worn
	}
	s := wornAlike{true, 0.12, 0.03, 0.06, 0.02, 0.04}
	switch u := b.rng.Float64(); {
	case u < 0.12:
		s.rounded = 0.75
	case u < 0.17:
		s.soot = 0.7
	case u < 0.21:
		s.ash = 0.5
	case u < 0.24:
		s.white = 0.4
	case u < 0.26:
		s.wells = 0.6
	}
	b.worn = s
	return s
}

// ReadPlug returns a full plug reading from the state of the plug, its boot and its cylinder.
// Signs are sometimes missed, and sometimes seen where absent.
func (b *Engine) ReadPlug(t part.Tag, at part.Positions, when evidence.Condition) plug.Look {
	see := func(chance float64) bool { return b.rng.Float64() < chance }
	s, set := b.parts[t], b.set()
	l := plug.Look{Nose: plug.Grey, Deposit: plug.Clean, Wet: plug.Dry, Edges: plug.Sharp, Strap: plug.Straight, Insulator: plug.Whole, High: plug.Dry, Hold: plug.Tight, Lettering: plug.Right}
	if see(0.55) {
		l.Nose = plug.Tan
	} else if see(0.25) {
		l.Nose = plug.Pale
	}
	l.GapMM = math.Round(100*s.gapMM*math.Exp(0.02*b.rng.NormFloat64())) / 100 // between two gauge wires

	switch {
	case s.edge > 1.14 && see(0.85), see(set.rounded):
		l.Edges = plug.Rounded
		if s.gapMM > 1.8 && see(0.4) {
			l.Edges = plug.Eaten
		}
	case s.wrong && see(0.06), see(0.004):
		l.Edges = plug.Bruised
	}
	switch {
	case s.gapMM < 0.2 && see(0.8):
		l.Strap = plug.Closed
	case s.gapMM < 0.4 && see(0.6), see(0.008):
		l.Strap = plug.Bent
	}
	if s.wrong && see(0.7) || see(0.01) {
		l.Lettering = plug.Wrong
	}
	if s.vent > 0 && see(0.8) || see(0.01) {
		l.Hold = plug.Loose
	}
	switch {
	case s.crackKV < sound && see(0.65):
		l.Insulator = plug.Cracked
		if see(0.45) {
			l.Insulator = plug.Tracked
		}
	case see(0.006):
		l.Insulator = plug.Cracked
	}
	b.deposits(&l, s, set, at.Feeds(t), at, when)
	return l
}

// deposits adds the deposits from fouling, misfires, mixture and oil, and the liquid in the
// well.
func (b *Engine) deposits(l *plug.Look, s partState, set wornAlike, feeds []engine.Cylinder, at part.Positions, when evidence.Condition) {
	b.fouling(l, s, set)
	if b.see(0.02) {
		l.Wet = plug.Oil
	}
	wet := b.see(set.wells)
	if len(feeds) > 0 {
		c := feeds[0]
		b.combustion(l, c, at, when)
		wet = wet || b.leaks(engine.Well, c) && b.see(0.7)
		for _, k := range []engine.Kind{engine.Boot, engine.Lead} {
			if on := at.Serving(k, c); on != "" && b.parts[on].leakKV < sound && b.see(0.3) {
				l.Insulator = plug.Tracked
			}
		}
	}
	if wet {
		l.High = plug.Oil
		if b.see(0.3) {
			l.High = plug.Water
		}
	}
}

func sooty(l *plug.Look) { l.Nose, l.Deposit = plug.Black, plug.Soot }

// fouling adds the deposits of a fouled plug, or those of its set.
func (b *Engine) fouling(l *plug.Look, s partState, set wornAlike) {
	switch {
	case s.deposit == evidence.PlugOil && b.see(0.85):
		l.Wet = plug.Oil
		if b.see(0.7) {
			l.Nose = plug.Black
		}
		if b.see(0.3) {
			l.Deposit = plug.Ash
		}
	case s.deposit == evidence.PlugFuel && b.see(0.85):
		l.Wet = plug.Fuel
		if b.see(0.3) {
			sooty(l)
		}
	case s.shuntMOhm < sound && b.see(0.85), b.see(set.soot):
		sooty(l)
	case b.see(set.ash):
		l.Deposit = plug.Ash
	case b.see(set.white):
		l.Nose = plug.White
	}
}

// combustion adds what misfires, mixture and low compression of its cylinder leave on a plug.
func (b *Engine) combustion(l *plug.Look, c engine.Cylinder, at part.Positions, when evidence.Condition) {
	in := conditions[when]
	lean := b.lean(c, in)
	unlit := b.path(c, at, in).misfires(1, b.World.Scatter)
	fuel := 1 - min(1, 2*max(0, lean)) // a plug without fuel is not wet
	switch {
	case b.see(0.8 * unlit * fuel):
		l.Wet = plug.Fuel
	case b.see(0.35 * unlit):
		sooty(l)
	case b.see(0.5 * min(1, max(0, lean))):
		l.Nose = plug.White
	case lean < -0.2 && b.see(0.5):
		sooty(l)
	}
	if b.squeeze(c) < 0.6 && b.see(0.3) {
		l.Wet = plug.Oil
	}
}
