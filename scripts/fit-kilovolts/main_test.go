package main

import (
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/knowledge"
)

// Of captures that show plain shapes, the fit counts each where it belongs, in the row of their fault.
func TestFitCountsShapes(t *testing.T) {
	p, _ := engine.FindPattern("v8-leads")
	a := diagnose.Assess(job.Job{Number: "fit", Vehicle: job.Vehicle{Engine: p.Engine()}})
	capture := func(figures ...float64) diagnose.Deviation {
		set := evidence.Readings{Measure: evidence.KVWave}
		for _, c := range a.Engine.All() {
			v := float64(c) / 10
			set.Each = append(set.Each, evidence.Reading{Place: engine.At(c), Figures: []float64{9 + v, 7.8 + v, 10.4 + v, 1.4, 1.2, -0.1, 100, 8}})
		}
		set.Each[1].Figures = figures
		return a.Deviations(set)[1]
	}
	wide, sound, short := capture(15, 13, 17, 1, 1.7, -0.1, 100, 8), capture(9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8), capture(6, 5, 7, 0.9, 1.1, 0, 100, 1)
	var all []sample
	for range 30 {
		all = append(all, sample{fault.PlugWornGap, wide}, sample{fault.CoilPrimaryShorted, short}, sample{"", sound})
	}
	for range 10 {
		all = append(all, sample{fault.PlugWornGap, sound})
	}
	trade := knowledge.TradeOf(evidence.KVWave)
	counts := fit(trade, all)
	for _, c := range []struct {
		mode fault.ModeID
		of   knowledge.WaveID
		want float64
	}{
		{fault.PlugWornGap, knowledge.WaveWideGap, 30}, {fault.PlugWornGap, knowledge.WaveInLine, 10},
		{fault.CoilPrimaryShorted, knowledge.WaveNoRinging, 30}, {"", knowledge.WaveInLine, 30},
	} {
		got := counts[rowOf(trade.Modes, c.mode)][slices.Index(trade.Of, string(c.of))]
		if got < c.want-3 || got > c.want+3 {
			t.Errorf("%q shows %s in %.1f captures, want about %.0f", c.mode, c.of, got, c.want)
		}
	}
}

// A capture depends on its seed alone, and a fault that no layout has on one cylinder gives none.
func TestOneCapture(t *testing.T) {
	density := func() (all []float64) {
		for _, row := range knowledge.TradeOf(evidence.KVWave).Rows {
			all = append(all, one(rand.New(rand.NewPCG(3, 4)), fault.PlugWornGap)[evidence.KVWave][0].Density(row))
		}
		return all
	}
	if a, b := density(), density(); !slices.Equal(a, b) {
		t.Errorf("%v and %v", a, b)
	}
	if got := one(rand.New(rand.NewPCG(3, 4)), fault.NoFaultNow); len(got) > 0 {
		t.Errorf("%v", got)
	}
}
