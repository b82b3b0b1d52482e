package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"glenmist/archive"
	"glenmist/core/casefile"
	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/report"
	"glenmist/core/unit"
	"glenmist/spool"
	"glenmist/store"
	"glenmist/web"
)

// read reads a case file; "-" is standard input.
func read(cmd *cobra.Command, name string) (job.Job, error) {
	in := cmd.InOrStdin()
	if name != "-" {
		f, err := os.Open(name)
		if err != nil {
			return job.Job{}, err
		}
		defer func() { _ = f.Close() }()
		in = f
	}
	j, err := casefile.Read(in)
	if fields, ok := errors.AsType[invalid.Errors](err); ok {
		lines := []string{name + " is not a case file that can be used"}
		for _, e := range fields {
			lines = append(lines, e.Error())
		}
		err = errors.New(strings.Join(lines, "\n  "))
	}
	return j, err
}

func writeJSON(w io.Writer, v any) error {
	if err := json.MarshalWrite(w, v, jsontext.WithIndent("  "), json.Deterministic(true)); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

func diagnoseCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "diagnose FILE", Short: "Say what a case file's evidence points at, and what to do next", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			j, err := read(cmd, args[0])
			if err != nil {
				return err
			}
			r := report.Of(j)
			if asJSON, _ := cmd.Flags().GetBool("json"); asJSON {
				return writeJSON(cmd.OutOrStdout(), r)
			}
			printReport(cmd.OutOrStdout(), r)
			return nil
		}}
	cmd.Flags().Bool("json", false, "print JSON, and nothing else, on standard output")
	return cmd
}

func printReport(w io.Writer, r report.Report) {
	fmt.Fprintf(w, "Job %s\n\nSuspects\n", r.Job)
	for i, s := range r.Suspects {
		if i == 6 {
			break
		}
		name := s.Tag
		if name == "" {
			name = s.Place
		}
		fmt.Fprintf(w, "  %6s  %-16s %-8s %s\n", unit.Percent(s.P), s.Part, name, s.Fault)
		for k, reason := range s.Reasons {
			if i > 2 || k == 3 {
				break
			}
			fmt.Fprintf(w, "          %+.1f  %s (entry %d)\n", reason.LogOdds, reason.Text, reason.Entry)
		}
	}
	fmt.Fprintf(w, "\nNext: %s, %s, about %.0f min\n  %s\n", r.Next.Step, r.Next.Target, r.Next.Minutes, r.Next.Why)
	for _, o := range r.Next.Outcomes {
		fmt.Fprintf(w, "  %6s  %-16s %s\n", unit.Percent(o.P), o.Outcome, o.Means)
	}
	for _, g := range r.Gates {
		met := "not yet"
		if g.Met {
			met = "met"
		}
		fmt.Fprintf(w, "Gate on %s, %s: %s\n", g.Target, met, g.Needs)
	}
	if r.Verdict != nil {
		fmt.Fprintf(w, "Verdict: %s at %s\n", r.Verdict.Unit, unit.Percent(r.Verdict.P))
	}
}

func exportCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "export JOB", Short: "Write a job's case file to standard output, or with --all those of all jobs into a folder",
		Args: func(cmd *cobra.Command, args []string) error {
			if cmd.Flags().Changed("all") {
				return cobra.NoArgs(cmd, args)
			}
			return cobra.ExactArgs(1)(cmd, args)
		},
		RunE: withStore(func(cmd *cobra.Command, args []string, s *store.Store) error {
			if cmd.Flags().Changed("all") {
				dir, _ := cmd.Flags().GetString("all")
				if err := s.Note(cmd.Context(), store.JobExported, "all jobs", "into a folder, by command"); err != nil {
					return err
				}
				return exportEvery(cmd, s, dir)
			}
			rec, err := s.Job(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			if err := s.Note(cmd.Context(), store.JobExported, args[0], "by command"); err != nil {
				return err
			}
			if all, _ := cmd.Flags().GetBool("zip"); all {
				return archive.Write(cmd.Context(), s, rec, cmd.OutOrStdout())
			}
			if rec.Job.Worksheet, err = s.Marks(cmd.Context(), args[0]); err != nil {
				return err
			}
			return casefile.Write(cmd.OutOrStdout(), rec.Job)
		})}
	cmd.Flags().Bool("zip", false, "as a zip, with its photos and captures")
	cmd.Flags().String("all", "", "a folder for the case files of all jobs, one file each")
	return cmd
}

// maxUnpacked is what an archive holds unpacked at most, in bytes.
const maxUnpacked = 8 << 30

// importZip imports a file that is a zip; zipped is false for any other.
func importZip(cmd *cobra.Command, name string, s *store.Store, renumber bool) (number string, zipped bool, err error) {
	f, err := os.Open(name)
	if err != nil {
		return "", false, nil //nolint:nilerr // reading it as a case file says so
	}
	defer func() { _ = f.Close() }()
	about, err := f.Stat()
	if err != nil || !archive.Is(f) {
		return "", false, err
	}
	a, err := archive.Read(cmd.Context(), f, about.Size(), spool.New(maxUnpacked), nil)
	if err != nil {
		return "", true, err
	}
	defer a.Close()
	if renumber {
		a.Job.Number = ""
	}
	number, err = a.Keep(cmd.Context(), s, "")
	return number, true, err
}

func importCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "import FILE", Short: "Add a case file's job to the database", Args: cobra.ExactArgs(1),
		RunE: withStore(func(cmd *cobra.Command, args []string, s *store.Store) error {
			renumber, _ := cmd.Flags().GetBool("renumber")
			number, zipped, err := importZip(cmd, args[0], s, renumber)
			if !zipped {
				var j job.Job
				if j, err = read(cmd, args[0]); err != nil {
					return err
				}
				if renumber {
					j.Number = ""
				}
				number, err = s.Open(cmd.Context(), j)
			}
			if err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), number)
			return nil
		})}
	cmd.Flags().Bool("renumber", false, "give it a new job number")
	return cmd
}

func faultsCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "faults", Short: "List the faults that Glenmist reasons about", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if asJSON, _ := cmd.Flags().GetBool("json"); asJSON {
				return writeJSON(cmd.OutOrStdout(), fault.Catalogue)
			}
			out := cmd.OutOrStdout()
			fmt.Fprintf(out, "%-24s", "share in per cent on")
			for _, layout := range engine.Ignitions() {
				fmt.Fprintf(out, " %14s", layout)
			}
			fmt.Fprintln(out)
			for _, m := range fault.Catalogue {
				fmt.Fprintf(out, "%-24s", m.ID)
				for _, share := range m.Prior {
					fmt.Fprintf(out, " %14.0f", 100*share)
				}
				fmt.Fprintf(out, "  %s\n", m.Words)
			}
			return nil
		}}
	cmd.Flags().Bool("json", false, "print JSON, and nothing else, on standard output")
	return cmd
}

func stepsCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "steps", Short: "List the steps that Glenmist proposes", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if asJSON, _ := cmd.Flags().GetBool("json"); asJSON {
				return writeJSON(cmd.OutOrStdout(), plan.Steps)
			}
			for _, s := range plan.Steps {
				fmt.Fprintf(cmd.OutOrStdout(), "%-24s %3.0f min  %s\n", s.ID, s.Minutes, s.Words)
			}
			return nil
		}}
	cmd.Flags().Bool("json", false, "print JSON, and nothing else, on standard output")
	return cmd
}

func versionCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "version", Short: "Say which version this is", Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if licences, _ := cmd.Flags().GetBool("licences"); licences {
				fmt.Fprint(cmd.OutOrStdout(), web.Licences())
				return nil
			}
			fmt.Fprintf(cmd.OutOrStdout(), "glenmist %s\n", version)
			return nil
		}}
	cmd.Flags().Bool("licences", false, "print the notices of all third-party work in this binary")
	return cmd
}
