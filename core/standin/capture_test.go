package standin

import (
	"bytes"
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/job"
	"glenmist/core/scope"
)

// What the stand-in scope records is read back as any other file: every event of every
// cylinder, and kilovolts that the law asks for at warm idle (8.0 kV for 1.0 mm; values of the
// trade), a burn of 0.8 to 2 ms (C) or a little more.
func TestCaptureIsRead(t *testing.T) {
	p, _ := engine.FindPattern("four-across")
	j := begin(t, "A", 0, 140, 1, 0, 130, 0)
	j.Vehicle = job.Vehicle{Fleet: "T-2", What: "van", Engine: p.Engine()}
	j.Ledger = nil
	var file bytes.Buffer
	if err := standin.Capture(j, &file); err != nil {
		t.Fatal(err)
	}
	trace, err := scope.Read(bytes.NewReader(file.Bytes()), scope.Options{})
	if err != nil {
		t.Fatal(err)
	}
	a := scope.Assign(j.Vehicle.Engine, trace.Events(0), trace.Syncs(1), 0)
	sound := 0
	for _, s := range a.Summaries() {
		if s.Events >= 9 && math.Abs(s.Usual/8.4-1) < 0.25 && s.Burn > 0.8 && s.Burn < 2.6 && s.Rings > 2 {
			sound++
		} else {
			t.Log(s.Words())
		}
	}
	if sound < 3 { // one may hold the hidden fault
		t.Errorf("%d of 4 cylinders read as sound: %+v", sound, a.Summaries())
	}
}
