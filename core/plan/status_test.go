package plan

import (
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
)

// Whatever says something of the faults makes a job one that is traced: figures and sparks as well.
func TestStatusOfFirstEntry(t *testing.T) {
	j := jobtest.AnyTime(4)
	for name, c := range map[string]struct {
		body evidence.Body
		want string
	}{
		"readings": {&evidence.Readings{Measure: evidence.KVSteady, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{14}}}}, "tracing"},
		"sparks": {&evidence.Sparks{Tester: "opened-plug", GapMM: 7, From: engine.Boot, AirKPa: 100, AirCelsius: 20,
			Each: []evidence.Sparked{{Place: "cyl-2", Seen: evidence.Weak}}}, "tracing"},
		"a look":  {&evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugWorn}}}, "tracing"},
		"nothing": {nil, "new"},
	} {
		of := j
		if c.body != nil {
			of = jobtest.With(t, j, evidence.Entry{Body: c.body})
		}
		if got := StatusOf(of, diagnose.Assess(of)); got.State != c.want {
			t.Errorf("%s: %+v, want %s", name, got, c.want)
		}
	}
}
