package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// Each operator, condition and statement is changed once, and nothing else of the file.
func TestSitesOf(t *testing.T) {
	dir := t.TempDir()
	const text = `package x

const limit = 3 + 4

func f(a, b int) int {
	if a < b && b > 0 {
		a++
	}
	print(a)
	return a - b
}
`
	if err := os.WriteFile(filepath.Join(dir, "x.go"), []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	sites, err := sitesOf(pkg{Dir: dir, GoFiles: []string{"x.go"}})
	if err != nil {
		t.Fatal(err)
	}
	want := []string{"false && (a < b && b > 0)", "a < b || b", "a <= b", "b >= 0", "a + b", "{\n\t\t\n\t}", "}\n\t\n\treturn"}
	for _, w := range want {
		n := 0
		for _, s := range sites {
			if strings.Contains(s.text, w) {
				n++
			}
		}
		if n != 1 {
			t.Errorf("%d changes with %q", n, w)
		}
	}
	if len(sites) != len(want) {
		t.Errorf("%d changes, want %d", len(sites), len(want))
	}
}

// A package is tested by its own tests and by those of the same tree that import it.
func TestTestedBy(t *testing.T) {
	p := pkg{ImportPath: "glenmist/core/unit"}
	got := testedBy(p, []pkg{
		{ImportPath: "glenmist/core/engine", Imports: []string{"glenmist/core/unit"}, TestGoFiles: []string{"a_test.go"}},
		{ImportPath: "glenmist/core/plan", TestGoFiles: []string{"a_test.go"}},
		{ImportPath: "glenmist/web", Imports: []string{"glenmist/core/unit"}, TestGoFiles: []string{"a_test.go"}},
	})
	if strings.Join(got, " ") != "glenmist/core/unit glenmist/core/engine" {
		t.Error(got)
	}
}
