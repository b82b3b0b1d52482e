// Command bench-kilovolts measures the reading of captures on the simulated engine, and writes
// kilovolts.json and kilovolts.md into a folder.
package main

import (
	"flag"
	"fmt"
	"os"
)

// report is what kilovolts.json holds.
type report struct {
	Seed       uint64  `json:"seed"`
	N          int     `json:"n"`
	Commit     string  `json:"commit"`
	Own        *world  `json:"own"`
	Outer      *world  `json:"outer"`
	ImportTime float64 `json:"import_time_ratio"`
	ImportMB   float64 `json:"import_peak_mb"`
}

func main() {
	seed := flag.Uint64("seed", 1, "seed of all draws")
	n := flag.Int("n", 600, "captures at each level of noise in each kind of world")
	out := flag.String("out", "docs", "folder for kilovolts.json and kilovolts.md")
	mb := flag.Int("mb", 200, "size of the file that is read for speed and memory, at most 200")
	commit := flag.String("commit", "", "what was measured")
	flag.Parse()
	if *n < 1 || *n > 100_000 || *mb < 1 || *mb > 200 {
		fmt.Fprintln(os.Stderr, "bench-kilovolts: expected -n from 1 to 100 000 and -mb from 1 to 200")
		os.Exit(2)
	}
	r := report{Seed: *seed, N: *n, Commit: *commit, Own: measure(*seed, *n, false), Outer: measure(*seed, *n, true)}
	var err error
	r.ImportTime, r.ImportMB, err = imported(*mb<<20 - endlessBlock)
	if err == nil {
		err = write(*out, r)
	}
	if err != nil {
		fmt.Fprintln(os.Stderr, "bench-kilovolts:", err)
		os.Exit(1)
	}
	for _, w := range []*world{r.Own, r.Outer} {
		fmt.Printf("%s: events found %.2f %%, false %.2f %%, cylinder right %.2f %%; firing off by %.1f %%, nine of ten within %.1f %%; side %.1f %%, part %.1f %%, confident right %.1f %%, sound right %.1f %%\n",
			w.Name, 100*w.Found, 100*w.False, 100*w.Cylinder, w.FiringPC, w.FiringP90, 100*w.Side, 100*w.Part, 100*w.Confident, 100*w.Sound)
	}
	fmt.Printf("import %.2f of a bare read, %.0f MB\n", r.ImportTime, r.ImportMB)
}
