package web

import (
	"io/fs"
	"strings"
	"testing"
)

// A template is read like code: no line over 120 bytes, indented by two spaces, no trailing space.
func TestTemplatesAreLaidOut(t *testing.T) {
	all := 0
	for _, room := range templates {
		files, err := fs.Glob(room, "*.html")
		if err != nil {
			t.Fatal(err)
		}
		for _, name := range files {
			data, err := fs.ReadFile(room, name)
			if err != nil {
				t.Fatal(err)
			}
			all++
			for i, line := range strings.Split(string(data), "\n") {
				indent := len(line) - len(strings.TrimLeft(line, " \t"))
				if n := len(line); n > 120 || strings.TrimRight(line, " \t") != line || strings.Contains(line, "\t") || indent%2 != 0 {
					t.Errorf("%s:%d: %d columns, indented by %d: %.60s", name, i+1, n, indent, strings.TrimSpace(line))
				}
			}
		}
	}
	if all < 25 {
		t.Fatalf("%d templates", all)
	}
}
