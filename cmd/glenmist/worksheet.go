package main

import (
	"errors"
	"fmt"
	"io"

	"github.com/spf13/cobra"

	"glenmist/core/report"
	"glenmist/core/worksheet"
)

func worksheetCommand() *cobra.Command {
	cmd := &cobra.Command{Use: "worksheet FILE", Short: "Print the worksheet of a case file with a signed verdict", Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			j, err := read(cmd, args[0])
			if err != nil {
				return err
			}
			c := worksheet.Case{Job: j}
			sheet, ok := worksheet.Of(c)
			if !ok {
				return errors.New("expected a case file with a signed verdict on a part or place, or with planned work; got a job that is still being traced")
			}
			w := report.OfWorksheet(c, sheet)
			if asJSON, _ := cmd.Flags().GetBool("json"); asJSON {
				return writeJSON(cmd.OutOrStdout(), w)
			}
			printWorksheet(cmd.OutOrStdout(), w)
			return nil
		}}
	cmd.Flags().Bool("json", false, "print JSON, and nothing else, on standard output")
	return cmd
}

func printWorksheet(w io.Writer, s report.Worksheet) {
	fmt.Fprintf(w, "Job %s: %s, about %.0f min\n", s.Job, s.Unit, s.Minutes)
	for _, p := range s.Parts {
		fmt.Fprintf(w, "Part: %s, %s %s\n", p.Kind, p.Place, p.Number)
	}
	for _, step := range s.Steps {
		box := "[ ]"
		if step.Done {
			box = "[x]"
		}
		fmt.Fprintf(w, "%s %s\n", box, step.Do)
		if f := step.Figure; f != nil {
			fmt.Fprintf(w, "      %s: %.4g %s (%.4g to %.4g)", f.Name, f.Value, f.Unit, f.Low, f.High)
			for _, a := range f.Also {
				fmt.Fprintf(w, ", %g %s", a.Value, a.Unit)
			}
			fmt.Fprintf(w, "; %s\n", f.Source)
		}
		for _, caution := range step.Cautions {
			fmt.Fprintf(w, "      Care: %s\n", caution)
		}
	}
}
