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
	"glenmist/core/plan"
)

var update = flag.Bool("update", false, "write the examples in docs/formats anew")

// The demo holds a job in each of the states, and the examples in docs/formats
// are three of its jobs as the program writes them.
func TestStatesAndExamples(t *testing.T) {
	jobs, err := Jobs(time.Date(2026, 11, 23, 9, 30, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	states := map[string]int{}
	for i, j := range jobs {
		if err := j.Validate(); err != nil {
			t.Errorf("%s: %v", j.Vehicle.Fleet, err)
		}
		states[plan.StatusOf(j, diagnose.Assess(j)).State] = i
	}
	for _, state := range []string{"new", "tracing", "waiting", "followed", "stayed", "gone", "signed"} {
		if _, ok := states[state]; !ok {
			t.Errorf("no demo job is %s", state)
		}
	}
	for _, name := range []string{"followed", "stayed", "gone"} {
		var got bytes.Buffer
		if err := casefile.Write(&got, jobs[states[name]]); err != nil {
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
