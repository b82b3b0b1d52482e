package fault

import "glenmist/core/engine"

// Inside says that a unit sits in the chamber, or decides what comes into it: kilovolts tell it
// from all that lies outside.
func Inside(u Unit) bool {
	switch u {
	case engine.Plug, engine.Compression, engine.Injector, engine.AirLeak, engine.FuelSupply:
		return true
	}
	return false
}
