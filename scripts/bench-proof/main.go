// Command bench-proof measures the test of a repair on simulated drives of known truth, and writes proof.json
// and proof.md into a folder.
package main

import (
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
	"sync"

	"glenmist/core/proof"
	"glenmist/sim/drive"
)

// The rates before the repair, and the lengths of bursts relative to what the test assumes.
var (
	rates  = []float64{0.005, 0.02, 0.1}
	bursts = []float64{0.1, 0.5, 1, 2}
	actual = []float64{0, 0.1, 0.5, 1}
	// chances are those that one exposure failed before the repair.
	chances = []float64{0.05, 0.2, 0.5, 0.8}
)

const (
	step = 50        // events between two looks at the counters
	most = 1_000_000 // events after which a drive is given up
	// mostExposures are the exposures after which it is given up.
	mostExposures = 20_000
)

// row is one case: many drives of one truth.
type row struct {
	Rate, Burst, Actual      float64
	Proven, NotFixed, NotYet float64
	Length                   float64 // mean number of events
	FixedProven, FixedLength float64
}

type errorRates struct {
	Proven   float64 `json:"false_proven"`
	NotFixed float64 `json:"false_not_fixed"`
}

type report struct {
	Seed   uint64     `json:"seed"`
	N      int        `json:"n"`
	Commit string     `json:"commit"`
	Stated errorRates `json:"stated"`
	// Worst holds the highest shares over all cases whose bursts are as long as the test assumes, or shorter.
	Worst errorRates `json:"worst"`
	// Beyond holds them for bursts of twice that length.
	Beyond errorRates `json:"twice_the_burst"`
	// LengthRatio is the mean length of the sequential test relative to the fixed-length test of the same
	// errors, over a full repair and none, at the assumed bursts.
	LengthRatio float64 `json:"length_ratio_fixed"`
	// Exposures holds the highest shares of the test by exposures.
	Exposures errorRates `json:"exposures"`
	rows      []row
	exposed   []row
}

func main() {
	seed := flag.Uint64("seed", 1, "seed")
	n := flag.Int("n", 10_000, "drives a case")
	out := flag.String("out", "docs", "folder for proof.json and proof.md")
	commit := flag.String("commit", "dev", "commit that is measured")
	flag.Parse()
	if err := run(*seed, *n, *out, *commit); err != nil {
		fmt.Fprintln(os.Stderr, "bench-proof:", err)
		os.Exit(1)
	}
}

func run(seed uint64, n int, out, commit string) error {
	if n < 1 {
		return fmt.Errorf("n: expected at least 1, got %d", n)
	}
	rep := measure(seed, n)
	rep.Commit = commit
	data, err := json.MarshalIndent(rep, "", "  ")
	if err != nil {
		return err
	}
	if err := os.WriteFile(filepath.Join(out, "proof.json"), append(data, '\n'), 0o644); err != nil {
		return err
	}
	f, err := os.Create(filepath.Join(out, "proof.md"))
	if err != nil {
		return err
	}
	return errors.Join(write(f, rep), f.Close())
}

// measure runs all cases. Each has random numbers of its own, so that the figures do not depend on the
// number of processors.
func measure(seed uint64, n int) report {
	usual := proof.Usual(rates[0])
	rep := report{Seed: seed, N: n, Stated: errorRates{usual.FalseProven, usual.FalseNotFixed}}
	for _, rate := range rates {
		for _, b := range bursts {
			for _, a := range actual {
				rep.rows = append(rep.rows, row{Rate: rate, Burst: max(1, b*usual.Burst), Actual: a})
			}
		}
	}
	for _, chance := range chances {
		for _, a := range actual {
			rep.exposed = append(rep.exposed, row{Rate: chance, Actual: a})
		}
	}
	todo := make(chan int)
	var wg sync.WaitGroup
	for range runtime.NumCPU() {
		wg.Go(func() {
			for i := range todo {
				r := rand.New(rand.NewPCG(seed, uint64(i))) //nolint:gosec // simulated drives, nothing secret
				if k := i - len(rep.rows); k >= 0 {
					rep.exposed[k].expose(r, n)
					continue
				}
				rep.rows[i].drive(r, n)
			}
		})
	}
	for i := range len(rep.rows) + len(rep.exposed) {
		todo <- i
	}
	close(todo)
	wg.Wait()
	for _, c := range rep.exposed {
		switch {
		case c.Actual == 1:
			rep.Exposures.Proven = math.Max(rep.Exposures.Proven, c.Proven)
		case c.Actual <= usual.Ratio:
			rep.Exposures.NotFixed = math.Max(rep.Exposures.NotFixed, c.NotFixed)
		}
	}
	var sequential, fixed float64
	for _, c := range rep.rows {
		worst := &rep.Worst
		if c.Burst > usual.Burst {
			worst = &rep.Beyond
		}
		switch {
		case c.Actual == 1:
			worst.Proven = math.Max(worst.Proven, c.Proven)
		case c.Actual <= usual.Ratio:
			worst.NotFixed = math.Max(worst.NotFixed, c.NotFixed)
		}
		if c.Burst == usual.Burst && (c.Actual == 0 || c.Actual == 1) {
			sequential, fixed = sequential+c.Length/c.FixedLength, fixed+1
		}
	}
	rep.LengthRatio = sequential / fixed
	return rep
}

// drive measures one case.
func (c *row) drive(r *rand.Rand, n int) {
	t := proof.Usual(c.Rate)
	e := drive.Engine{Rate: c.Rate * c.Actual, Burst: c.Burst}
	events, limit := t.Fixed()
	c.FixedLength = float64(events)
	for range n {
		s, length := e.Until(r, t, step, most)
		c.Length += float64(length) / float64(n)
		switch s {
		case proof.Proven:
			c.Proven += 1 / float64(n)
		case proof.NotFixed:
			c.NotFixed += 1 / float64(n)
		case proof.NotYet:
			c.NotYet += 1 / float64(n)
		}
		if e.Fixed(r, events, limit) == proof.Proven {
			c.FixedProven += 1 / float64(n)
		}
	}
}

// expose measures one case of the test by exposures. Each fails by itself.
func (c *row) expose(r *rand.Rand, n int) {
	t := proof.UsualExposures(c.Rate)
	e := drive.Independent(c.Rate * c.Actual)
	for range n {
		s, length := e.Until(r, t, 1, mostExposures)
		c.Length += float64(length) / float64(n)
		switch s {
		case proof.Proven:
			c.Proven += 1 / float64(n)
		case proof.NotFixed:
			c.NotFixed += 1 / float64(n)
		case proof.NotYet:
			c.NotYet += 1 / float64(n)
		}
	}
}

func write(w io.Writer, rep report) error {
	usual := proof.Usual(rates[0])
	_, err := fmt.Fprintf(w, `# The proof of a repair, measured

Written by `+"`make bench-proof SEED=%d N=%d`"+`, commit %s.

A simulated cylinder (`+"`sim/drive`"+`) is run after a repair, %d firing events at a time, until the sequential test
(`+"`core/proof`"+`) has decided. The test knows the rate before the repair. It assumes bursts of %g misfires and counts a rate of a
tenth as fixed. Stated errors: %.0f %% false *proven*, %.0f %% false *not fixed*.

- Bursts as long as assumed, or shorter: at worst %.1f %% false *proven*, %.1f %% false *not fixed*.
- Bursts twice as long: at worst %.1f %% and %.1f %%.
- Mean length against the test of a fixed length with the same errors, at the assumed bursts, over a full repair and none: %.2f.

A repair that halves the rate is neither: the columns show how it is called. Rates and bursts are per firing event of one
cylinder.

| rate before | burst | rate after | called proven | not fixed | mean events | fixed length: events | called proven |
|---|---|---|---|---|---|---|---|
`, rep.Seed, rep.N, rep.Commit, step, usual.Burst, 100*rep.Stated.Proven, 100*rep.Stated.NotFixed,
		100*rep.Worst.Proven, 100*rep.Worst.NotFixed, 100*rep.Beyond.Proven, 100*rep.Beyond.NotFixed, rep.LengthRatio)
	for _, c := range rep.rows {
		_, more := fmt.Fprintf(w, "| %g %% | %g | %g %% | %.1f %% | %.1f %% | %.0f | %.0f | %.1f %% |\n", 100*c.Rate, c.Burst, 100*c.Rate*c.Actual,
			100*c.Proven, 100*c.NotFixed, c.Length, c.FixedLength, 100*c.FixedProven)
		err = errors.Join(err, more)
	}
	_, more := fmt.Fprintf(w, `
## By exposures

Where the complaint is counted by exposures (starts in the wet, hills, drives), each fails or not by itself. The test knows the
chance before the repair. At worst %.1f %% false *proven*, %.1f %% false *not fixed*.

| failed before | fails after | called proven | not fixed | mean exposures |
|---|---|---|---|---|
`, 100*rep.Exposures.Proven, 100*rep.Exposures.NotFixed)
	err = errors.Join(err, more)
	for _, c := range rep.exposed {
		_, more := fmt.Fprintf(w, "| %g %% | %g %% | %.1f %% | %.1f %% | %.1f |\n", 100*c.Rate, 100*c.Rate*c.Actual, 100*c.Proven, 100*c.NotFixed, c.Length)
		err = errors.Join(err, more)
	}
	return err
}
