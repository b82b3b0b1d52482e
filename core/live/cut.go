package live

import (
	"glenmist/core/engine"
)

// A control unit can cut the injector of a cylinder that hardly fires, to save the catalyst, until the engine is stopped. It then
// stops counting the misfires of that cylinder, although it does not fire. A cylinder that misfired in most events of a window and
// then in none of the next two is taken to be cut (C; judgement).
const (
	cutWindow = 100.0 // events of a cylinder
	cutFrom   = 0.4   // share of a window's events that misfire
	cutAfter  = 2     // windows without any
)

// cuts watches for injectors that are cut.
type cuts struct {
	cylinders engine.Set
	events    float64 // in the window that is open
	window    []int   // misfires of each cylinder in it
	bad       []bool  // the cylinder misfired in most events of a window
	none      []int   // windows without a misfire since then
	started   float64
}

func newCuts(cylinders int) cuts {
	return cuts{window: make([]int, cylinders), bad: make([]bool, cylinders), none: make([]int, cylinders)}
}

// take goes on with some revolutions and the misfires in them. It returns the revolutions that count: none while a cylinder is
// cut, and less than none when that is found, since the windows without a misfire were counted.
func (c *cuts) take(s Sample, revolutions float64, rise []int) float64 {
	was := c.cylinders
	c.watch(s, revolutions, rise)
	switch {
	case c.cylinders == 0:
		return revolutions
	case was == 0:
		return revolutions - 2*cutAfter*cutWindow
	}
	return 0
}

func (c *cuts) watch(s Sample, revolutions float64, rise []int) {
	if !s.Runs() || s.Started < c.started {
		*c = newCuts(len(c.window))
	}
	c.started = s.Started
	if rise == nil {
		return
	}
	c.events += revolutions / 2
	for i, n := range rise {
		c.window[i] += n
		if n > 0 {
			c.cylinders &^= engine.SetOf(engine.Cylinder(i + 1)) // it is counted again
		}
	}
	if c.events < cutWindow {
		return
	}
	for i, n := range c.window {
		switch {
		case float64(n) >= cutFrom*c.events:
			c.bad[i], c.none[i] = true, 0
		case n > 0:
			c.bad[i] = false
		case c.bad[i]:
			if c.none[i]++; c.none[i] >= cutAfter {
				c.cylinders |= engine.SetOf(engine.Cylinder(i + 1))
			}
		}
	}
	c.events = 0
	clear(c.window)
}
