package fault

import "glenmist/core/engine"

// Inside reports whether a unit is in the combustion chamber or controls what enters it.
// Kilovolts distinguish these units from all others.
func Inside(u Unit) bool {
	switch u {
	case engine.Plug, engine.Compression, engine.Injector, engine.AirLeak, engine.FuelSupply:
		return true
	}
	return false
}
