package main

import (
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"strconv"

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
	dB, _ := strconv.ParseFloat(os.Args[1], 64)
	xs := map[string]*[7][]float64{}
	shapes := map[string]map[string]int{}
	for i := range 400 {
		rng := rand.New(rand.NewPCG(777, uint64(i)))
		e := engine.Shelf[rng.IntN(len(engine.Shelf))].Engine().Derive()
		home := part.Home(e)
		var all []fault.Hypothesis
		sum := 0.0
		for _, h := range fault.Enumerate(e, fault.Complaint{}) {
			if h.Mode.Unit != fault.Else && h.Mode.Unit != fault.NoFault && h.Afflicted(home).Len() == 1 {
				all = append(all, h)
				sum += h.Prior
			}
		}
		hidden, u := all[0], rng.Float64()*sum
		for _, h := range all {
			if u -= h.Prior; u < 0 {
				hidden = h
				break
			}
		}
		b := bench.New(e, rng, hidden)
		noise := 9 * math.Pow(10, -dB/20)
		r := bench.Recording{When: evidence.Idle, RPM: 750, Cycles: 8, Rate: 250000, NoiseKV: noise}
		c := b.Capture(home, r)
		r.When, r.RPM = evidence.Snap, 1500
		c = c.Then(b.Capture(home, r), 250000)
		t := &scope.Trace{Rate: 250000}
		for i, v := range c.Channels {
			t.Channels = append(t.Channels, scope.Channel{Name: c.Names[i], Samples: v})
		}
		a := t.Assign(e, 0)
		set := scope.Readings(t.Summaries(e, a))
		as := diagnose.Assess(job.Job{Number: "x", Vehicle: job.Vehicle{Engine: e}})
		sh := as.Shapes(set)
		for k, one := range set.Each {
			name := "sound"
			cyl, _ := one.Place.Cylinder()
			if hidden.Afflicted(home).Has(cyl) {
				name = hidden.Mode.ID
			}
			if xs[name] == nil {
				xs[name] = &[7][]float64{}
				shapes[name] = map[string]int{}
			}
			x, n, lost := as.ZZ(set, k)
			if len(os.Args) > 2 && name == os.Args[2] && (name != "sound" && x[1] > 1 || name == "sound" && x[2] > 2.5) {
				dump(fmt.Sprint(name, e.Ignition, e.Cylinders, hidden.Mode.ID, x), a, cyl)
			}
			for j := range n {
				if lost&(1<<j) == 0 {
					xs[name][j] = append(xs[name][j], x[j])
				}
			}
			shapes[name][sh[k].Words]++
		}
	}
	var names []string
	for n := range xs {
		names = append(names, n)
	}
	slices.Sort(names)
	for _, n := range names {
		fmt.Printf("%-24s", n)
		for j := range 7 {
			v := xs[n][j]
			slices.Sort(v)
			if len(v) == 0 {
				fmt.Printf(" | -")
				continue
			}
			fmt.Printf(" | %5.2f %5.2f %5.2f", v[len(v)/10], v[len(v)/2], v[len(v)*9/10])
		}
		fmt.Println()
		fmt.Println("      ", shapes[n])
	}
}
