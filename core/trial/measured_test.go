package trial

import (
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"glenmist/core/bench"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
)

// Where kilovolts are asked for a capture is taken: all cylinders, steady and on a snap. The wide
// gap stands out on its own cylinder, and where the capture was turned by a place on the next one.
func TestKilovoltsTakeACapture(t *testing.T) {
	p, _ := engine.FindPattern("v8-distributor")
	e := p.Engine().Derive()
	var worn fault.Hypothesis
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.ID == "plug.worn-gap" && h.Tag == "P3" {
			worn = h
		}
	}
	a := diagnose.Assess(job.Job{Vehicle: job.Vehicle{Engine: e}})
	for _, turned := range []bool{false, true} {
		b := bench.New(e, rand.New(rand.NewPCG(5, 8)), worn)
		entries := captured(b, e, a, func() bool { return turned })
		if len(entries) != 2 || entries[0].Readings.Measure != evidence.KVWave || entries[1].Readings.Measure != evidence.KVSnap || len(entries[0].Readings.Each) != 8 {
			t.Fatalf("%+v", entries)
		}
		each := entries[0].Readings.Each
		highest := slices.MaxFunc(each, func(x, y evidence.Reading) int { return int(1000 * (x.Figures[0] - y.Figures[0])) })
		at := slices.Index(e.FiringOrder, 3)
		if turned {
			at = (at + 1) % 8
		}
		if want := engine.At(e.FiringOrder[at]); highest.Place != want {
			t.Errorf("turned %v: %s stands out, want %s: %+v", turned, highest.Place, want, each)
		}
		var ledger evidence.Ledger
		for i, entry := range entries {
			entry.By, entry.Done = "x", time.Unix(int64(i+1), 0)
			longer, err := ledger.Add(e, entry)
			if err != nil {
				t.Fatal(err)
			}
			ledger = longer
		}
	}
}
