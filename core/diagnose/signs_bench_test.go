package diagnose

import (
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
	"glenmist/core/plug"
)

// What a board of plugs costs an assessment: eight plugs in one look, against eight looks of the
// plain kind.
func BenchmarkBoard(b *testing.B) {
	j := jobtest.New(8)
	e := j.Vehicle.Engine.Derive()
	read, plain := &evidence.Look{Ran: evidence.RanDriven}, &evidence.Look{}
	for c := 1; c <= 8; c++ {
		tag := j.Ledger.Positions(e).Serving(engine.Plug, engine.Cylinder(c))
		read.Items = append(read.Items, read.Read(tag, plug.Sound.Over(plug.Look{GapMM: 0.9})))
		plain.Items = append(plain.Items, evidence.Seen{Tag: tag, Finding: evidence.PlugNormal})
	}
	for name, l := range map[string]*evidence.Look{"read": read, "plain": plain} {
		of := jobtest.With(b, j, jobtest.Counts(3000, 0, 1, 240, 0, 0, 0, 1, 0), evidence.Entry{Body: l})
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				Assess(of)
			}
		})
	}
}
