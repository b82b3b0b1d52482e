package diagnose

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
)

// Incomparable returns the cylinders of a capture whose kilovolts cannot be compared: fewer than two others
// have events, or two differ so much that either may be abnormal.
func (a *Assessment) Incomparable(set evidence.Readings) (few engine.Set) {
	for i, one := range set.Each {
		c, _ := one.Place.Cylinder()
		if _, _, ok := a.siblingFigure(set, i, 0); !ok {
			few |= engine.SetOf(c)
		}
	}
	return few
}
