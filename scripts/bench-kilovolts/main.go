// Command bench-kilovolts measures the reading of captures on the simulated engine, and writes
// kilovolts.json and kilovolts.md into a folder.
package main

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"errors"
	"flag"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/scope"
	"glenmist/core/trouble"
	"glenmist/sim/simulator"
	"glenmist/sim/standin"
)

// level is what was read at one level of noise.
type level struct {
	DB       float64 `json:"db"`
	Captures int     `json:"captures"`
	Found    float64 `json:"events_found_share"`
	False    float64 `json:"events_false_share"`
	FiringPC float64 `json:"firing_error_percent"`
	BurnMS   float64 `json:"burn_error_ms"`
	LineKV   float64 `json:"line_error_kv"`
	Slope    float64 `json:"slope_error_kv_per_ms"`
	RingPC   float64 `json:"ring_error_percent"`
	DwellMS  float64 `json:"dwell_error_ms"`
	Side     float64 `json:"side_right_share"`
	Part     float64 `json:"part_right_share"`
}

type report struct {
	Seed       uint64           `json:"seed"`
	N          int              `json:"n"`
	Commit     string           `json:"commit"`
	Found      float64          `json:"events_found_share"`
	False      float64          `json:"events_false_share"`
	Side       float64          `json:"side_right_share"`
	Part       float64          `json:"part_right_share"`
	ImportTime float64          `json:"import_time_ratio"`
	ImportMB   float64          `json:"import_peak_mb"`
	Levels     []level          `json:"levels"`
	ByMode     map[string]share `json:"by_mode"`
}

// share is how often side and unit were told, of a mode.
type share struct {
	Captures int     `json:"captures"`
	Side     float64 `json:"side_right_share"`
	Part     float64 `json:"part_right_share"`
}

const (
	headlineDB = 40   // the level whose figures stand at the top: a plain scope in a workshop
	usualKV    = 9.0  // against which the levels of noise are told
	foundFrom  = 2.5  // kV: a true event below that is no event that a technician misses
	within     = 3e-4 // seconds
	rate       = 250_000.0
)

var levels = []float64{60, headlineDB, 30, 20}

func main() {
	seed := flag.Uint64("seed", 1, "seed of all draws")
	n := flag.Int("n", 600, "captures at each level of noise")
	out := flag.String("out", "docs", "folder for kilovolts.json and kilovolts.md")
	mb := flag.Int("mb", 200, "size of the file that is read for speed and memory, at most 200")
	commit := flag.String("commit", "", "what was measured")
	flag.Parse()
	if *n < 1 || *n > 100_000 || *mb < 1 || *mb > 200 {
		fmt.Fprintln(os.Stderr, "bench-kilovolts: expected -n from 1 to 100 000 and -mb from 1 to 200")
		os.Exit(2)
	}
	r := measure(*seed, *n)
	r.Commit = *commit
	var err error
	r.ImportTime, r.ImportMB, err = imported(*mb<<20 - endlessBlock)
	if err == nil {
		err = write(*out, r)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench-kilovolts:", err)
		os.Exit(1)
	}
	fmt.Printf("events found %.4f, false %.4f; side right %.3f, part right %.3f; import %.2f of a bare read, %.0f MB\n", r.Found, r.False, r.Side, r.Part, r.ImportTime, r.ImportMB)
}

// result is what one capture came to.
type result struct {
	mode               string
	truths, hit, found int
	matched            int
	// How far off each number was, in the units of level.
	firing, burn, line, slope, ring, dwell []float64
	side, part, judged                     bool
}

func measure(seed uint64, n int) report {
	r := report{Seed: seed, N: n, ByMode: map[string]share{}}
	for k, dB := range levels {
		results := make([]result, n)
		var wg sync.WaitGroup
		next := make(chan int)
		for range runtime.NumCPU() {
			wg.Go(func() {
				for i := range next {
					results[i] = one(rand.New(rand.NewPCG(seed+uint64(k)*1000, uint64(i))), dB) //nolint:gosec // published seeds, nothing secret
				}
			})
		}
		for i := range n {
			next <- i
		}
		close(next)
		wg.Wait()
		l := level{DB: dB, Captures: n}
		var truths, hits, found, matched, judged int
		var off result
		for _, x := range results {
			truths, hits, found, matched = truths+x.truths, hits+x.hit, found+x.found, matched+x.matched
			off.firing, off.burn, off.line = append(off.firing, x.firing...), append(off.burn, x.burn...), append(off.line, x.line...)
			off.slope, off.ring, off.dwell = append(off.slope, x.slope...), append(off.ring, x.ring...), append(off.dwell, x.dwell...)
			if !x.judged {
				continue
			}
			judged++
			l.Side += one01(x.side)
			l.Part += one01(x.part)
			if dB == headlineDB {
				s := r.ByMode[x.mode]
				s.Captures, s.Side, s.Part = s.Captures+1, s.Side+one01(x.side), s.Part+one01(x.part)
				r.ByMode[x.mode] = s
			}
		}
		l.Found, l.False = float64(hits)/float64(max(1, truths)), float64(found-matched)/float64(max(1, found))
		l.FiringPC, l.BurnMS, l.LineKV = middle(off.firing), middle(off.burn), middle(off.line)
		l.Slope, l.RingPC, l.DwellMS = middle(off.slope), middle(off.ring), middle(off.dwell)
		l.Side, l.Part = l.Side/float64(max(1, judged)), l.Part/float64(max(1, judged))
		r.Levels = append(r.Levels, l)
		if dB == headlineDB {
			r.Found, r.False, r.Side, r.Part = l.Found, l.False, l.Side, l.Part
		}
	}
	for m, s := range r.ByMode {
		r.ByMode[m] = share{s.Captures, s.Side / float64(s.Captures), s.Part / float64(s.Captures)}
	}
	return r
}

func one01(b bool) float64 {
	if b {
		return 1
	}
	return 0
}

func middle(v []float64) float64 {
	if len(v) == 0 {
		return 0
	}
	slices.Sort(v)
	return v[len(v)/2]
}

// one hides a fault that troubles one cylinder, records it at idle and on snap, reads both, and
// asks the reasoning, which knows the cylinder by its code.
func one(rng *rand.Rand, dB float64) result {
	e := engine.Shelf[rng.IntN(len(engine.Shelf))].Engine().Derive()
	home := part.Home(e)
	var all []fault.Hypothesis
	sum := 0.0
	for _, h := range fault.Enumerate(e, fault.Complaint{}) {
		if h.Mode.Unit != fault.Else && h.Mode.Unit != fault.NoFault && h.Affected(home).Len() == 1 {
			all = append(all, h)
			sum += h.Prior
		}
	}
	hidden, u := all[0], rng.Float64()*sum
	for _, h := range all {
		if u -= h.Prior; u < 0 {
			hidden = h
			break
		}
	}
	b := simulator.New(e, rng, hidden)
	res := result{mode: string(hidden.Mode.ID)}
	noise := usualKV * math.Pow(10, -dB/20)
	sums := read(&res, b, home, e, noise)
	sick := hidden.Affected(home).First()
	j := job.Job{Number: "bench", Vehicle: job.Vehicle{Engine: e}}
	add := func(entry evidence.Entry) { // what does not fit says nothing
		entry.Done, entry.By = time.Unix(int64(len(j.Ledger)+1), 0), "bench"
		if longer, err := j.Ledger.Add(e, entry); err == nil {
			j.Ledger = longer
		}
	}
	if e.Scanned() {
		add(evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: trouble.MisfireOn(sick), State: trouble.Stored}}}})
	} else {
		add(evidence.Entry{Body: &evidence.Watch{Cylinders: []engine.Cylinder{sick}}})
	}
	for _, set := range []evidence.Readings{scope.Readings(sums), scope.Rises(sums)} {
		if len(set.Each) > 0 {
			add(evidence.Entry{Body: &set, Condition: evidence.Idle})
		}
	}
	a := diagnose.Assess(j)
	res.judged = true
	res.side = a.Inside() > 0.5 == fault.Inside(hidden.Mode.Unit)
	res.part = a.Suspects[0].Unit == hidden.Mode.Unit
	return res
}

// read records idle and a snap behind it, reads both, and adds up what was found against what
// was there.
func read(res *result, b *simulator.Engine, at part.Positions, e engine.Engine, noise float64) []scope.Summary {
	r := simulator.Recording{When: evidence.Idle, RPM: 750, Cycles: 8, Rate: rate, NoiseKV: noise}
	c := b.Capture(at, r)
	r.When, r.RPM = evidence.Snap, 1500
	c = c.Then(b.Capture(at, r), rate)
	t := standin.Trace(c, rate)
	a := t.Assign(e, 0)
	used := make([]bool, len(a.Shots))
	for _, d := range c.Drawn {
		k := slices.IndexFunc(a.Shots, func(s scope.Shot) bool {
			return math.Abs(s.At-d.At) < within && (a.By != scope.ByChannel || s.Cylinder == d.Cylinder)
		})
		if k >= 0 && !used[k] {
			used[k] = true
			res.match(a.Shots[k], d)
		}
		if d.Firing > foundFrom {
			res.truths++
			res.hit += int(one01(k >= 0))
		}
	}
	res.found += len(a.Shots)
	return t.Summaries(e, a)
}

// endlessBlock is more than what comes at once, and more than the file may be too long by.
const endlessBlock = 64 << 10

// endless writes a capture as CSV until a size is reached.
type endless struct {
	size, sent int
	line       int
	rest       []byte
}

func (r *endless) Read(p []byte) (int, error) {
	if len(r.rest) == 0 {
		if r.sent >= r.size {
			return 0, io.EOF
		}
		r.rest = r.rest[:0]
		for len(r.rest) < endlessBlock/2 {
			kV := 0.02 * float64(r.line%7)
			if r.line%10_000 < 4 {
				kV = 9.1
			}
			r.rest = strconv.AppendFloat(r.rest, float64(r.line)*4e-6, 'f', 6, 64)
			r.rest = strconv.AppendFloat(append(r.rest, ','), kV, 'f', 4, 64)
			r.rest = append(r.rest, '\n')
			r.line++
		}
	}
	n := copy(p, r.rest)
	r.rest = r.rest[n:]
	r.sent += n
	return n, nil
}

// imported reads a file of a size, and the same with a bare reader of fields; the peak is that
// of the whole process's heap while it reads.
func imported(size int) (ratio, peakMB float64, err error) {
	head := "time,a\n"
	runtime.GC()
	peak := uint64(0)
	begin := time.Now()
	_, err = scope.ReadCSV(io.MultiReader(strings.NewReader(head), &endless{size: size}), scope.Options{Progress: func(n int64) error {
		var m runtime.MemStats
		if n>>24 != (n-1<<20)>>24 {
			runtime.ReadMemStats(&m)
			peak = max(peak, m.HeapInuse)
		}
		return nil
	}})
	ours := time.Since(begin)
	if err != nil {
		return 0, 0, err
	}
	begin = time.Now()
	c := csv.NewReader(bufio.NewReader(&endless{size: size}))
	c.ReuseRecord = true
	for {
		if _, err := c.Read(); errors.Is(err, io.EOF) {
			break
		}
	}
	return float64(ours) / float64(time.Since(begin)), float64(peak) / (1 << 20), nil
}

func write(dir string, r report) error {
	data, err := json.MarshalIndent(r, "", "  ")
	if err != nil {
		return err
	}
	var b bytes.Buffer
	fmt.Fprintf(&b, "# Captures of kilovolts, measured\n\nWritten by `make bench-kilovolts SEED=%d N=%d`, commit %s. The simulated engine (`sim/simulator`, on `sim/coil`) records eight cycles at idle and eight of a snap of the throttle, one behind the other, at 250 000 samples a second; the reader (`core/scope`) knows nothing of it. One hidden fault that troubles one cylinder, drawn from the prior over the patterns of the shelf; the reasoning is given the cylinder and the kilovolts, and nothing else.\n\n", r.Seed, r.N, r.Commit)
	fmt.Fprintf(&b, "Events count as there from %.1f kV on. Side is inside the chamber (plug, compression, mixture) or outside it; part is the unit that leads the suspects.\n\n| noise, dB under a usual peak | captures | events found | missed | false | side right | part right |\n|---|---|---|---|---|---|---|\n", foundFrom)
	for _, l := range r.Levels {
		fmt.Fprintf(&b, "| %.0f | %d | %.2f %% | %.2f %% | %.2f %% | %.1f %% | %.1f %% |\n", l.DB, l.Captures, 100*l.Found, 100*(1-l.Found), 100*l.False, 100*l.Side, 100*l.Part)
	}
	fmt.Fprintf(&b, "\nHow far off each number is, at the median of all events that were found (0 where noise leaves nothing to measure):\n\n| noise, dB | firing | burn | spark line | slope | ringing | dwell |\n|---|---|---|---|---|---|---|\n")
	for _, l := range r.Levels {
		fmt.Fprintf(&b, "| %.0f | %.1f %% | %.2f ms | %.2f kV | %.2f kV/ms | %.1f %% of its frequency | %.2f ms |\n", l.DB, l.FiringPC, l.BurnMS, l.LineKV, l.Slope, l.RingPC, l.DwellMS)
	}
	fmt.Fprintf(&b, "\nReading a file of 200 MB takes %.2f of the time of a bare read of its fields with `encoding/csv`; the heap stood at %.0f MB at most.\n\n## By mode, at %d dB\n\n| | captures | side right | part right |\n|---|---|---|---|\n", r.ImportTime, r.ImportMB, headlineDB)
	var modes []string
	for m := range r.ByMode {
		modes = append(modes, m)
	}
	slices.Sort(modes)
	for _, m := range modes {
		s := r.ByMode[m]
		fmt.Fprintf(&b, "| %s | %d | %.0f %% | %.0f %% |\n", m, s.Captures, 100*s.Side, 100*s.Part)
	}
	if err := os.MkdirAll(dir, 0o755); err != nil { //nolint:gosec // a folder of documents
		return err
	}
	if err := os.WriteFile(filepath.Join(dir, "kilovolts.json"), append(data, '\n'), 0o644); err != nil { //nolint:gosec // a document
		return err
	}
	return os.WriteFile(filepath.Join(dir, "kilovolts.md"), b.Bytes(), 0o644) //nolint:gosec // a document
}

// match notes how far a shot that was read lies from the one that was drawn.
func (res *result) match(s scope.Shot, d simulator.Drawn) {
	res.matched++
	if d.Firing <= foundFrom {
		return
	}
	res.firing = append(res.firing, 100*math.Abs(s.Firing/d.Firing-1))
	if d.BurnMS > 0.2 && !s.Open {
		res.burn = append(res.burn, math.Abs(s.Burn-d.BurnMS))
		if d.Line > 0 {
			res.line, res.slope = append(res.line, math.Abs(s.Line-d.Line)), append(res.slope, math.Abs(s.Slope-d.Slope))
		}
	}
	if s.RingHz > 0 {
		res.ring = append(res.ring, 100*math.Abs(s.RingHz/d.Hz-1))
	}
	if s.Dwell > 0 {
		res.dwell = append(res.dwell, math.Abs(s.Dwell-d.DwellMS))
	}
}
