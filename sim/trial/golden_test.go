package trial_test

import (
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/json"
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"glenmist/core/casefile"
	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/report"
	"glenmist/sim/trial"
)

var (
	update   = flag.Bool("update", false, "write the golden figures anew")
	generate = flag.Bool("generate", false, "generate the jobs of the golden figures anew")
)

const (
	goldenJobs    = "testdata/jobs.jsonl"
	goldenFigures = "testdata/golden.txt"
	generated     = 200
)

// Figures of "diagnose --json", without its sentences, stay as they are: over every example and 200
// generated jobs. -update writes them anew, where a defect was mended.
func TestFiguresStayAsTheyAre(t *testing.T) {
	if *generate {
		if err := os.WriteFile(goldenJobs, generateJobs(t), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	var out strings.Builder
	examples, err := filepath.Glob("../../docs/formats/examples/*.json")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range examples {
		data, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		out.WriteString(figures(t, strings.TrimSuffix(filepath.Base(name), ".json"), data))
	}
	file, err := os.Open(goldenJobs)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = file.Close() }()
	lines := bufio.NewScanner(file)
	lines.Buffer(nil, casefile.MaxBytes)
	n, most := 0, generated
	if testing.Short() {
		most = 40
	}
	for ; n < most && lines.Scan(); n++ {
		out.WriteString(figures(t, fmt.Sprintf("generated-%03d", n+1), lines.Bytes()))
	}
	if err := lines.Err(); err != nil || n != most {
		t.Fatalf("%d generated jobs, %v", n, err)
	}
	if *update {
		if err := os.WriteFile(goldenFigures, []byte(out.String()), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	want, err := os.ReadFile(goldenFigures)
	if err != nil {
		t.Fatal(err)
	}
	got, old := strings.Split(out.String(), "\n"), strings.Split(string(want), "\n")
	if testing.Short() {
		got = got[:len(got)-1] // what follows the last line
		old = old[:min(len(got), len(old))]
	}
	differ := 0
	for i := range max(len(got), len(old)) {
		if i >= len(got) || i >= len(old) || got[i] != old[i] {
			if differ++; differ <= 5 {
				t.Errorf("line %d\nwas %s\nis  %s", i+1, at(old, i), at(got, i))
			}
		}
	}
	if differ > 5 {
		t.Errorf("and %d more", differ-5)
	}
}

func at(lines []string, i int) string {
	if i < len(lines) {
		return lines[i]
	}
	return "nothing"
}

// figures is a line for a case file: a digest of all figures and names of its report, and the
// three likeliest suspects, the next step and the verdict in the open.
func figures(t *testing.T, name string, data []byte) string {
	t.Helper()
	j, err := casefile.Read(bytes.NewReader(data))
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	r := report.Of(j)
	line := name
	for i, s := range r.Suspects {
		if i == 3 {
			break
		}
		line += fmt.Sprintf(" %s%s=%s", s.Fault, s.Tag, figure(s.P))
	}
	line += fmt.Sprintf(" next=%s@%s", r.Next.Step, r.Next.Target)
	if r.Verdict != nil {
		line += fmt.Sprintf(" verdict=%s@%s", strings.ReplaceAll(r.Verdict.Unit, " ", "_"), figure(r.Verdict.P))
	}
	text, err := json.Marshal(r)
	if err != nil {
		t.Fatal(err)
	}
	var v any
	if err := json.Unmarshal(text, &v); err != nil {
		t.Fatal(err)
	}
	stripped, err := json.Marshal(strip(v))
	if err != nil {
		t.Fatal(err)
	}
	return fmt.Sprintf("%s %x\n", line, sha256.Sum256(stripped))[:len(line)+17] + "\n"
}

// figure is a number to six digits: what is left is the same in whatever order it was added up.
func figure(v float64) string { return strconv.FormatFloat(v, 'g', 6, 64) }

// strip takes the sentences out of a report and rounds its figures.
func strip(v any) any {
	switch v := v.(type) {
	case map[string]any:
		for name, value := range v {
			switch name {
			case "text", "why", "means", "needs", "cautions":
				delete(v, name)
			default:
				v[name] = strip(value)
			}
		}
	case []any:
		for i := range v {
			v[i] = strip(v[i])
		}
	case float64:
		return figure(v)
	}
	return v
}

// generateJobs makes jobs on all engines of the shelf, with one hidden fault or two and up to eight
// steps taken at random, a case file a line.
func generateJobs(t *testing.T) []byte {
	t.Helper()
	var out bytes.Buffer
	r := rand.New(rand.NewPCG(20, 26))
	for n := range generated {
		e := engine.Shelf[n%len(engine.Shelf)].Engine().Derive()
		all := fault.Enumerate(e, fault.Complaint{})
		s := trial.Setup{Engine: e, Hidden: []fault.Hypothesis{all[r.IntN(len(all))]}, Wrong: 0.03}
		if n%5 == 4 {
			s.Hidden = append(s.Hidden, all[r.IntN(len(all))])
		}
		j := s.History(n%9, r)
		j.Number = fmt.Sprintf("generated-%03d", n+1)
		j = named(j)
		var file, line bytes.Buffer
		if err := casefile.Write(&file, j); err != nil {
			t.Fatal(err)
		}
		if err := json.Compact(&line, file.Bytes()); err != nil {
			t.Fatal(err)
		}
		out.Write(append(line.Bytes(), '\n'))
	}
	return out.Bytes()
}

// named fills in what a case file asks for beside the evidence.
func named(j job.Job) job.Job {
	if j.Vehicle.Fleet == "" {
		j.Vehicle.Fleet, j.Vehicle.What = "G-1", "generated"
	}
	if j.Complaint == "" {
		j.Complaint = "generated"
	}
	if j.By == "" {
		j.By = "generator"
	}
	return j
}
