// Command trial tries whether anything is lost or blocked: it kills server and database
// while writers are acknowledged, stalls clients, sends bombs, lets people edit at once,
// and fills the disk. All of it runs on loopback, bounded in number and time, and ends with
// a table. It exits with 1 when something failed.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"os/signal"
	"syscall"
	"text/tabwriter"
	"time"
)

// options states how much is tried.
type options struct {
	bin    string // the program to try
	kills  int    // of server and database, in turn
	edits  int    // rounds of two people at once
	stalls int    // clients that stop
	bombs  int    // of each kind
	share  int    // of the size of a bomb, in per cent
	disk   bool   // fill a small disk; only root can mount one
}

// outcome is a line of the table.
type outcome struct {
	name, did, found string
	ok               bool
}

func main() {
	o := options{}
	flag.StringVar(&o.bin, "bin", "bin/glenmist", "the program to try")
	flag.IntVar(&o.kills, "kills", 20, "kills of server and database, in turn")
	flag.IntVar(&o.edits, "edits", 60, "rounds of two people who edit at once")
	flag.IntVar(&o.stalls, "stalls", 20, "clients that stop half-way")
	flag.IntVar(&o.bombs, "bombs", 4, "bombs of each kind")
	flag.IntVar(&o.share, "share", 100, "size of the bombs, in per cent")
	flag.BoolVar(&o.disk, "disk", os.Geteuid() == 0, "fill a small disk as well; only root can mount one")
	limit := flag.Duration("limit", 20*time.Minute, "time for all of it")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	ctx, cancel := context.WithTimeout(ctx, *limit)
	defer cancel()
	all, err := try(ctx, o, os.Stderr)
	printTable(os.Stdout, all)
	if err != nil {
		fmt.Fprintln(os.Stderr, "trial:", err)
		os.Exit(1)
	}
	for _, l := range all {
		if !l.ok {
			os.Exit(1)
		}
	}
}

// try runs all trials, one after the other. An error is of the trial itself.
func try(ctx context.Context, o options, log io.Writer) (all []outcome, err error) {
	for _, trial := range []struct {
		name string
		run  func(context.Context, options, *place) (outcome, error)
		off  bool
	}{
		{"kills", kills, o.kills == 0},
		{"stalled clients", stalls, o.stalls == 0},
		{"bombs", bombs, o.bombs == 0},
		{"editors at once", editors, o.edits == 0},
		{"full disk", fullDisk, !o.disk},
	} {
		if trial.off {
			all = append(all, outcome{trial.name, "left out", "", true})
			continue
		}
		began := time.Now()
		l, err := inPlace(ctx, o, trial.name == "full disk", func(p *place) (outcome, error) { return trial.run(ctx, o, p) })
		if errors.Is(err, syscall.EPERM) {
			l, err = outcome{did: "left out: a small disk cannot be mounted here", ok: true}, nil
		}
		if err != nil {
			return all, fmt.Errorf("%s: %w", trial.name, err)
		}
		l.name = trial.name
		fmt.Fprintf(log, "%s: %.0f s\n", l.name, time.Since(began).Seconds())
		all = append(all, l)
	}
	return all, nil
}

func printTable(w io.Writer, all []outcome) {
	table := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(table, "trial\tdone\tfound\tverdict")
	for _, l := range all {
		verdict := "passed"
		if !l.ok {
			verdict = "FAILED"
		}
		fmt.Fprintf(table, "%s\t%s\t%s\t%s\n", l.name, l.did, l.found, verdict)
	}
	_ = table.Flush()
}
