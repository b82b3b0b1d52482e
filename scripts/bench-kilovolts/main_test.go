package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
)

// The same seed measures the same; what is found is nearly all at little noise, and the files
// hold what others rely on.
func TestMeasureAndWrite(t *testing.T) {
	r := measure(7, 6)
	if !testing.Short() && !reflect.DeepEqual(r, measure(7, 6)) {
		t.Error("the same seed measures something else")
	}
	for _, l := range r.Levels {
		if l.Captures != 6 || l.Found < 0.8 || l.False > 0.1 || l.Side < 0 || l.Side > 1 || l.Part > 1 || l.FiringPC > 10 {
			t.Errorf("%+v", l)
		}
	}
	var err error
	if r.ImportTime, r.ImportMB, err = imported(2 << 20); err != nil || !(r.ImportTime > 0) {
		t.Errorf("import %v, %v MB, %v", r.ImportTime, r.ImportMB, err)
	}
	if _, _, err := imported(201 << 20); err == nil {
		t.Error("201 MB are read")
	}
	dir := t.TempDir()
	if err := write(dir, r); err != nil {
		t.Fatal(err)
	}
	data, err := os.ReadFile(filepath.Join(dir, "kilovolts.json"))
	if err != nil {
		t.Fatal(err)
	}
	var got map[string]any
	if err := json.Unmarshal(data, &got); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"events_found_share", "events_false_share", "side_right_share", "part_right_share", "import_time_ratio", "import_peak_mb", "seed", "n", "commit"} {
		if got[name] == nil {
			t.Errorf("no %s", name)
		}
	}
	text, err := os.ReadFile(filepath.Join(dir, "kilovolts.md"))
	if err != nil || strings.Count(string(text), "\n| ") < 5+len(r.ByMode) {
		t.Errorf("%v\n%s", err, text)
	}
}
