package main

import (
	"fmt"
	"glenmist/core/scope"
	"glenmist/core/engine"
)

func dump(name string, a scope.Assigned, c engine.Cylinder) {
	fmt.Println(name, a.By, a.Sure, a.Cycles)
	for _, s := range a.Shots {
		if s.Cylinder == c {
			fmt.Printf("   %.4f cyc %d kv %.2f burn %.2f line %.2f open %v rings %d snap %v waste %v\n", s.At, s.Cycle, s.Firing, s.Burn, s.Line, s.Open, s.Rings, s.Snap, s.Waste)
		}
	}
}
