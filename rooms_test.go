// Package glenmist holds no code: this test keeps the house in order.
package glenmist

import (
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// rooms lists the packages from the bottom up: a package imports only those that stand before it. The
// simulator stands behind the core, so no package of the core can import it.
var rooms = []string{
	"core", "core/invalid", "core/unit", "core/spark", "core/engine", "core/enginetest", "core/renew", "core/meter", "core/trouble", "core/obd", "core/scan", "core/part", "core/plug", "core/calc", "core/evidence", "core/live", "core/readings", "core/scope", "core/pattern", "core/job", "core/jobtest",
	"core/fault", "core/practice", "core/learn", "core/forbid", "core/infer", "core/proof", "core/knowledge", "core/diagnose", "core/explain", "core/gate", "core/plan", "core/worksheet", "core/catalogue", "core/course", "core/score", "core/intake", "core/shop", "core/report", "core/casefile",
	"bus",
	"sim/coil", "sim/drive", "sim/simulator", "sim/standin", "sim/vehicle", "sim/finite", "sim/trial",
	"link", "spool", "photo", "people",
	"store", "store/cluster", "backup", "archive", "store/demo",
	"web/page", "web/draw", "web/jobs", "web/capture", "web/plugs", "web/repair", "web/proof", "web/live", "web/vehicle", "web/workshop", "web/exchange", "web/finding", "web/staff", "web/webtest", "web",
	"cmd/glenmist", "e2e/rig", "e2e/shots", "e2e", "scripts/notices", "scripts/bench-diagnosis", "scripts/bench-kilovolts", "scripts/fit-kilovolts", "scripts/bench-size", "scripts/bench-proof", "scripts/cases", "scripts/trial", "scripts/mutants",
}

// outside is what the core has no business with.
var outside = []string{"net", "net/http", "database/sql", "html/template", "os", "os/exec", "math/rand", "math/rand/v2", "log/slog",
	"gorm.io/gorm", "github.com/jackc/pgx/v5", "github.com/go-chi/chi/v5", "github.com/spf13/cobra"}

// ruler is all that the simulated engine may know: never what is measured on it. The rules
// of thumb come with what a reading is of.
var ruler = []string{"core/engine", "core/part", "core/plug", "core/evidence", "core/fault", "sim/coil", "core/meter", "core/spark", "core/trouble", "core/unit", "core/invalid"}

type listed struct {
	ImportPath string
	Imports    []string
	Deps       []string
}

// readAll opens every Go file and go.mod, so that the test's cached result does not outlive a change:
// "go list" reads them in another process, which the cache does not see.
func readAll(t *testing.T) {
	t.Helper()
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if d != nil && d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git") {
			return fs.SkipDir
		}
		if err != nil || d.IsDir() || filepath.Ext(path) != ".go" && d.Name() != "go.mod" {
			return err
		}
		_, err = os.ReadFile(path)
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

func TestImportsRunOneWay(t *testing.T) {
	readAll(t)
	out, err := exec.CommandContext(t.Context(), "go", "list", "-json=ImportPath,Imports,Deps", "./...").Output()
	if err != nil {
		t.Fatal(err)
	}
	rank := func(path string) int { return slices.Index(rooms, strings.TrimPrefix(path, "glenmist/")) }
	seen := 0
	for d := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p listed
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			t.Fatal(err)
		}
		if p.ImportPath == "glenmist" {
			continue
		}
		seen++
		mine := rank(p.ImportPath)
		if mine < 0 {
			t.Errorf("%s is in no list of rooms: say where it belongs", p.ImportPath)
		}
		for _, i := range p.Imports {
			if strings.HasPrefix(i, "glenmist/") && rank(i) >= mine {
				t.Errorf("%s imports %s, against the direction of the house", p.ImportPath, i)
			}
		}
		if p.ImportPath == "glenmist/sim/simulator" {
			for _, i := range p.Deps {
				if room, ours := strings.CutPrefix(i, "glenmist/"); ours && !slices.Contains(ruler, room) {
					t.Errorf("sim/simulator depends on %s: the ruler knows nothing of it", room)
				}
			}
		}
		if p.ImportPath == "glenmist/core/scope" && slices.Contains(p.Deps, "glenmist/sim/simulator") {
			t.Error("core/scope depends on the simulated engine, on which it is to be measured")
		}
		if !strings.HasPrefix(p.ImportPath, "glenmist/core") {
			continue
		}
		for _, i := range p.Imports {
			if slices.Contains(outside, i) {
				t.Errorf("%s imports %s: the core knows nothing of it", p.ImportPath, i)
			}
		}
		for _, i := range p.Deps {
			if strings.HasPrefix(i, "glenmist/") && !strings.HasPrefix(i, "glenmist/core") {
				t.Errorf("%s depends on %s, outside the core", p.ImportPath, i)
			}
		}
	}
	if seen < 15 {
		t.Errorf("only %d packages were looked at", seen)
	}
}

// The simulator and the reasoning share the names of faults, their prior shares, the minutes of work and the laws of
// physics, and no other figure. Every name in the list exists in the core, so that a rename cannot empty the check.
func TestSimulatorSharesNoFigures(t *testing.T) {
	theirs := []string{"glenmist/core/diagnose", "glenmist/core/knowledge", "glenmist/core/infer", "glenmist/core/gate", "glenmist/core/plan", "glenmist/core/explain", "glenmist/core/proof"}
	own := []string{"CuredByTouch", "BrokenByTouch", "fault.Handlings", "fault.Causes", "fault.Shifts", "fault.Ages", "fault.TwoFaults", "fault.AllMisfire", "fault.NewPartFaulty", "knowledge.Coincident", "diagnose.Handled", "knowledge.Mistaken", "knowledge.Stray", "knowledge.Burst", "knowledge.Code", "knowledge.Noticed"}
	core := ""
	if err := filepath.WalkDir("core", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".go" || strings.HasSuffix(path, "_test.go") {
			return err
		}
		data, err := os.ReadFile(path)
		core += string(data)
		return err
	}); err != nil {
		t.Fatal(err)
	}
	for _, name := range own {
		_, base, found := strings.Cut(name, ".")
		if !found {
			base = name
		}
		if !regexp.MustCompile(`(?m)(^(func( \([^)]*\))?|type|var|const) |^\t)` + base).MatchString(core) {
			t.Errorf("the core declares no %s", name)
		}
	}
	seen := 0
	err := filepath.WalkDir("sim", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || filepath.Ext(path) != ".go" || strings.HasSuffix(path, "_test.go") {
			return err
		}
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		seen++
		text := string(data)
		for _, name := range own {
			if strings.Contains(text, name) {
				t.Errorf("%s uses %s, which is a figure of the reasoning", path, name)
			}
		}
		if dir := filepath.Dir(path); dir != "sim/simulator" && dir != "sim/coil" {
			return nil
		}
		for _, room := range theirs {
			if strings.Contains(text, `"`+room+`"`) {
				t.Errorf("%s imports %s", path, room)
			}
		}
		return nil
	})
	if err != nil || seen < 10 {
		t.Errorf("%d files looked at: %v", seen, err)
	}
}
