package main

import (
	"os"
	"time"

	"glenmist/core/casefile"
	"glenmist/core/engine"
	"glenmist/core/evidence"
)

func main() {
	f, _ := os.Open("docs/formats/examples/readings.json")
	j, err := casefile.Read(f)
	if err != nil {
		panic(err)
	}
	j.Number = "demo-18"
	j.Ledger = j.Ledger[:1]
	wave := evidence.Readings{Measure: evidence.KVWave, Capture: 1}
	rise := evidence.Readings{Measure: evidence.KVSnap, Capture: 1}
	for _, c := range j.Vehicle.Engine.All() {
		v := float64(c) / 10
		f := []float64{8.8 + v, 7.5 + v, 10.1 + v, 1.4, 1.2, -0.12, 100, 7}
		snap := []float64{8.8 + v, 16.4 + v}
		if c == 4 {
			f = []float64{7.9, 3.1, 11.8, 1.55, 1.04, -0.1, 100, 6}
			snap = []float64{7.9, 10.6}
		}
		wave.Each = append(wave.Each, evidence.Reading{Place: engine.At(c), Figures: f})
		rise.Each = append(rise.Each, evidence.Reading{Place: engine.At(c), Figures: snap, AtLeast: c == 6})
	}
	for i, set := range []*evidence.Readings{&wave, &rise} {
		l, err := j.Ledger.Add(j.Vehicle.Engine, evidence.Entry{Done: j.Ledger[0].Done.Add(time.Duration(9+i) * time.Minute), By: j.By, Condition: evidence.Idle, Readings: set})
		if err != nil {
			panic(err)
		}
		j.Ledger = l
	}
	out, _ := os.Create("docs/formats/examples/captured.json")
	if err := casefile.Write(out, j); err != nil {
		panic(err)
	}
}
