package demo

import (
	"bytes"
	"flag"
	"os"
	"path/filepath"
	"testing"
	"time"

	"glenmist/core/casefile"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/plan"
)

var update = flag.Bool("update", false, "write the examples in docs/formats anew")

// The demo holds a job in each of the states and on each layout, and the examples in docs/formats
// are some of its jobs as the program writes them.
func TestStatesAndExamples(t *testing.T) {
	jobs, err := Jobs(time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	states, fleet := map[string]int{}, map[string]int{}
	layouts := map[engine.Ignition]int{}
	for i, j := range jobs {
		if err := j.Validate(); err != nil {
			t.Errorf("%s: %v", j.Vehicle.Fleet, err)
		}
		states[plan.StatusOf(j, diagnose.Assess(j)).State]++
		layouts[j.Vehicle.Engine.Ignition]++
		fleet[j.Vehicle.Fleet] = i
	}
	for _, state := range []string{"new", "tracing", "waiting", "followed", "stayed", "gone", "signed"} {
		if states[state] == 0 {
			t.Errorf("no demo job is %s", state)
		}
	}
	for _, layout := range engine.Ignitions() {
		if layouts[layout] == 0 {
			t.Errorf("no demo job has %s", layout)
		}
	}
	for name, of := range map[string]string{"followed": "P-04", "stayed": "P-11", "gone": "R-02",
		"wasted-spark": "B-07", "magneto": "G-01", "single-coil": "M-01", "readings": "F-05", "no-spark": "T-03"} {
		var got bytes.Buffer
		if err := casefile.Write(&got, jobs[fleet[of]]); err != nil {
			t.Fatal(err)
		}
		path := filepath.Join("..", "..", "docs", "formats", "examples", name+".json")
		if *update {
			if err := os.WriteFile(path, got.Bytes(), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		want, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(got.Bytes(), want) {
			t.Errorf("%s is not what the program writes; -update writes it anew", path)
		}
	}
}
