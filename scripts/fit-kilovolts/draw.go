package main

import (
	"math"
	"math/rand/v2"
	"runtime"
	"sync"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
)

// sample is one cylinder of a capture with its fault, "" for a sound engine.
type sample struct {
	mode fault.ModeID
	diagnose.Deviation
}

// samples are those of each measure.
type samples map[evidence.MeasureID][]sample

// modes lists the modes that have a unit; "" stands for a sound engine.
func modes() []fault.ModeID {
	all := []fault.ModeID{""}
	for _, m := range fault.Catalogue {
		if m.Unit != fault.Else && m.Unit != fault.NoFault {
			all = append(all, m.ID)
		}
	}
	return all
}

// draw records n captures of each mode.
func draw(seed uint64, n int) samples {
	all := modes()
	found := make([]samples, len(all)*n)
	var wg sync.WaitGroup
	tasks := make(chan int)
	for range runtime.NumCPU() {
		wg.Go(func() {
			for k := range tasks {
				found[k] = one(rand.New(rand.NewPCG(seed, uint64(k))), all[k/n]) //nolint:gosec // published seeds, nothing secret
			}
		})
	}
	for k := range found {
		tasks <- k
	}
	close(tasks)
	wg.Wait()
	joined := samples{}
	for _, s := range found {
		for m, of := range s {
			joined[m] = append(joined[m], of...)
		}
	}
	return joined
}

// tries is how often an engine is drawn for a mode that few layouts have.
const tries = 60

// one records one capture in a tuning world and compares the cylinder with the fault, or all of a sound engine. It is empty if
// no engine that was drawn has the mode on one cylinder alone.
func one(rng *rand.Rand, mode fault.ModeID) samples {
	for range tries {
		e := engine.Shelf[rng.IntN(len(engine.Shelf))].Engine().Derive()
		home := part.Home(e)
		var hidden []fault.Hypothesis
		if mode != "" {
			var all []fault.Hypothesis
			for _, h := range fault.Enumerate(e, fault.Complaint{}) {
				if h.Mode.ID == mode && h.Affected(home).Len() == 1 {
					all = append(all, h)
				}
			}
			if len(all) == 0 {
				continue
			}
			hidden = []fault.Hypothesis{all[rng.IntN(len(all))]}
		}
		setup := simulator.TuningScope(rng, e, 9*math.Pow(10, -(35+20*rng.Float64())/20)) // 35 to 55 dB under 9 kV
		b := simulator.In(simulator.Tuning(rng), e, rng, hidden...)
		t := standin.Trace(b.IdleAndSnap(home, setup), setup.Rate)
		sums := t.Summaries(e, t.Assign(e, 0))
		a := diagnose.Assess(job.Job{Number: "fit", Vehicle: job.Vehicle{Engine: e}})
		of := samples{}
		for _, set := range []evidence.Readings{scope.Readings(sums), scope.Rises(sums)} {
			for i, d := range a.Deviations(set) {
				if at, _ := set.Each[i].Place.Cylinder(); mode == "" || at == hidden[0].Affected(home).First() {
					of[set.Measure] = append(of[set.Measure], sample{mode, d})
				}
			}
		}
		return of
	}
	return nil
}
