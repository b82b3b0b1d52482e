package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// The short form of the trial: a few of each kind, against the program as it is built.
func TestNothingLostNothingBlocked(t *testing.T) {
	bin := filepath.Join(t.TempDir(), "glenmist")
	build := exec.Command("go", "build", "-o", bin, "glenmist/cmd/glenmist")
	build.Stderr = os.Stderr
	if err := build.Run(); err != nil {
		t.Fatal(err)
	}
	var log strings.Builder
	all, err := try(t.Context(), options{bin: bin, kills: 4, edits: 5, stalls: 18, bombs: 2, share: 10, disk: os.Geteuid() == 0}, &log)
	if err != nil {
		t.Fatalf("%v\n%s", err, log.String())
	}
	for _, l := range all {
		if !l.ok {
			t.Errorf("%s (%s): %s", l.name, l.did, l.found)
		}
	}
	var table strings.Builder
	printTable(&table, all)
	t.Log("\n" + table.String() + log.String())
}
