// Package enginetest makes engines of every kind for the tests of other rooms.
package enginetest

import (
	"fmt"

	"glenmist/core/engine"
)

// Random is a valid engine drawn with intn, which gives a number from 0 up to its
// argument: any arrangement, number of cylinders, layout and firing order.
func Random(intn func(int) int) engine.Engine {
	for {
		if e := draw(intn); e.Validate() == nil {
			return e
		}
	}
}

func pick[T any](intn func(int) int, of ...T) T { return of[intn(len(of))] }

func draw(intn func(int) int) engine.Engine {
	e := engine.Engine{Arrangement: pick(intn, engine.Single, engine.Inline, engine.Inline, engine.V, engine.Flat),
		Mounting: pick(intn, engine.Lengthways, engine.Crossways), Ignition: pick(intn, engine.Ignitions()...),
		CountFrom: pick(intn, engine.BeltEnd, engine.BeltEnd, engine.FlywheelEnd), Fuel: pick(intn, engine.Injected, engine.Injected, engine.Carburettor),
		Wires: pick(intn, 0, 2, 3, 4), Uneven: intn(8) == 0}
	e.Cylinders = pick(intn, engine.Counts(e.Arrangement)...)
	e.BeltEnd = pick(intn, e.Mounting.Ends()...)
	if e.Banks() == 2 {
		e.Numbering = pick(intn, engine.Along, engine.Alternating)
		e.BankOne = pick(intn, e.Mounting.Flanks()...)
	}
	e.FiringOrder = engine.UsualOrder(e.Arrangement, e.Cylinders, e.Numbering)
	if intn(2) == 0 {
		for i := len(e.FiringOrder) - 1; i > 0; i-- {
			j := intn(i + 1)
			e.FiringOrder[i], e.FiringOrder[j] = e.FiringOrder[j], e.FiringOrder[i]
		}
	}
	switch e.Ignition {
	case engine.Distributor:
		e.Rotor = pick(intn, engine.Clockwise, engine.Anticlockwise, "")
	case engine.WastedSpark:
		e.Module = intn(2) == 0
	}
	if intn(3) == 0 {
		coils := e.Coils()
		for _, c := range coils {
			e.CoilOrder = append(e.CoilOrder, pick(intn, c.Cylinders...))
		}
		for i := len(e.CoilOrder) - 1; i > 0; i-- {
			j := intn(i + 1)
			e.CoilOrder[i], e.CoilOrder[j] = e.CoilOrder[j], e.CoilOrder[i]
		}
	}
	for i := range intn(4) {
		c := engine.Cover{Name: fmt.Sprintf("cover %d", i+1), Off: float64(intn(40)), On: float64(intn(40)),
			Hides: []engine.Place{engine.At(engine.Cylinder(1 + intn(e.Cylinders)))}}
		if i > 0 && intn(2) == 0 {
			c.Over = []string{fmt.Sprintf("cover %d", 1+intn(i))}
		}
		e.Covers = append(e.Covers, c)
	}
	return e
}
