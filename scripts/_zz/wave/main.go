package main

import (
	"fmt"
	"math/rand/v2"

	"glenmist/core/bench"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
)

func main() {
	p, _ := engine.FindPattern("six-distributor")
	e := p.Engine().Derive()
	for seed := range uint64(20) {
		var hidden fault.Hypothesis
		for _, h := range fault.Enumerate(e, fault.Complaint{}) {
			if h.Mode.ID == "lead.leaking" && h.Tag == "L4" {
				hidden = h
			}
		}
		b := bench.New(e, rand.New(rand.NewPCG(6, seed)), hidden)
		r := bench.Recording{When: evidence.Idle, RPM: 750, Cycles: 8, Rate: 250000, NoiseKV: 0.03}
		w := b.Capture(part.Home(e), r)
		r.When, r.RPM, r.Cycles = evidence.Snap, 1500, 4
		w = w.Then(b.Capture(part.Home(e), r), 250000)
		t := &scope.Trace{Rate: 250000}
		for i, n := range w.Names {
			t.Channels = append(t.Channels, scope.Channel{Name: n, Samples: w.Channels[i]})
		}
		sums := t.Summaries(e, t.Assign(e, 0))
		a := diagnose.Assess(job.Job{Number: "x", Vehicle: job.Vehicle{Engine: e}})
		fmt.Println(seed, a.Shapes(scope.Readings(sums), scope.Rises(sums))[3], sums[3].Words())
	}
}
