package main

import (
	"encoding/json"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"
)

// The same seed measures the same, nearly all events are found at little noise, and the files hold what others rely on.
func TestMeasureAndWrite(t *testing.T) {
	r := report{Seed: 7, N: 6, Own: measure(7, 6, false), Outer: measure(7, 6, true)}
	if !testing.Short() && !reflect.DeepEqual(r.Outer, measure(7, 6, true)) {
		t.Error("the same seed measures something else")
	}
	for _, w := range []*world{r.Own, r.Outer} {
		for _, l := range w.Levels {
			if l.Captures != 6 || l.DB >= 40 && (l.Found < 0.8 || l.False > 0.1) || l.Side < 0 || l.Side > 1 || l.Part > 1 {
				t.Errorf("%s: %+v", w.Name, l)
			}
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
	for _, name := range []string{"seed", "n", "commit", "import_time_ratio", "import_peak_mb"} {
		if got[name] == nil {
			t.Errorf("no %s", name)
		}
	}
	for _, of := range []string{"own", "outer"} {
		w, _ := got[of].(map[string]any)
		for _, name := range []string{"events_found_share", "events_false_share", "cylinder_right_share", "firing_error_percent",
			"firing_error_percent_p90", "side_right_share", "part_right_share", "confident_right_share", "sound_right_share"} {
			if w[name] == nil {
				t.Errorf("%s: no %s", of, name)
			}
		}
	}
	text, err := os.ReadFile(filepath.Join(dir, "kilovolts.md"))
	if err != nil || strings.Count(string(text), "\n| ") < 20+len(r.Own.ByMode)+len(r.Outer.ByMode) {
		t.Errorf("%v\n%s", err, text)
	}
}
