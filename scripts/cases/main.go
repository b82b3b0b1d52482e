// Command cases runs the reasoning on the case files of docs/formats/cases and prints what holds. Each case says
// what a master technician would conclude and do next; the cases were written from the trade, not from the
// model's tables.
package main

import (
	"bytes"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/go-json-experiment/json"

	"glenmist/core/casefile"
	"glenmist/core/report"
)

// Expect is what a case should give.
type Expect struct {
	File  string `json:"file"`
	Class int    `json:"class"`
	// Says is what a master technician would conclude and do, and Source where that comes from.
	Says   string `json:"says"`
	Source string `json:"source"`
	// Lead lists the parts or places of which one should lead the suspects: "plug", or "plug P2".
	Lead []string `json:"lead,omitzero"`
	// AtMost bounds the probability of parts or places, AtLeast likewise from below.
	AtMost  map[string]float64 `json:"at_most,omitzero"`
	AtLeast map[string]float64 `json:"at_least,omitzero"`
	// Next lists the steps of which one should come next, NotNext those that must not.
	Next    []string `json:"next,omitzero"`
	NotNext []string `json:"not_next,omitzero"`
	// Target, if any, is part of the target of the next step; NotTarget must not be.
	Target    string `json:"target,omitzero"`
	NotTarget string `json:"not_target,omitzero"`
	// MinutesAtMost bounds the minutes of the next step, covers included.
	MinutesAtMost float64 `json:"minutes_at_most,omitzero"`
	// Forbidden is true if running the engine must be forbidden.
	Forbidden bool `json:"forbidden,omitzero"`
	// NoVerdict is true if no verdict may be offered.
	NoVerdict bool `json:"no_verdict,omitzero"`
	// OtherAtMost bounds the chance of the outcome "something else" of the next step.
	OtherAtMost float64 `json:"other_at_most,omitzero"`
	// Caution must be part of a caution of the next step.
	Caution string `json:"caution,omitzero"`
	// Open states why the case does not hold yet; "" for a case that holds.
	Open string `json:"open,omitzero"`
}

// Result is one case with what it gave.
type Result struct {
	Expect
	// Missed lists what did not come out as expected.
	Missed []string
}

// Run runs the cases of a folder in the order of its expect.json.
func Run(folder string) ([]Result, error) {
	data, err := os.ReadFile(filepath.Join(folder, "expect.json"))
	if err != nil {
		return nil, err
	}
	var all []Expect
	if err := json.Unmarshal(data, &all, json.RejectUnknownMembers(true)); err != nil {
		return nil, fmt.Errorf("expect.json: %w", err)
	}
	var results []Result
	for _, x := range all {
		file, err := os.ReadFile(filepath.Join(folder, x.File))
		if err != nil {
			return nil, err
		}
		j, err := casefile.Read(bytes.NewReader(file))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", x.File, err)
		}
		results = append(results, Result{x, x.missed(report.Of(j))})
	}
	return results, nil
}

// missed lists what of a report is not as expected.
func (x Expect) missed(r report.Report) (missed []string) {
	say := func(format string, args ...any) { missed = append(missed, fmt.Sprintf(format, args...)) }
	if lead := name(r.Suspects[0]); len(x.Lead) > 0 && !slices.ContainsFunc(x.Lead, func(want string) bool { return is(r.Suspects[0], want) }) {
		say("%s leads with %.0f %%", lead, 100*r.Suspects[0].P)
	}
	for unit, most := range x.AtMost {
		if p := highest(r, unit); p > most {
			say("%s has %.0f %%, at most %.0f", unit, 100*p, 100*most)
		}
	}
	for unit, least := range x.AtLeast {
		if p := highest(r, unit); p < least {
			say("%s has %.0f %%, at least %.0f", unit, 100*p, 100*least)
		}
	}
	if len(x.Next) > 0 && !slices.Contains(x.Next, r.Next.Step) {
		say("next is %s on %s", r.Next.Step, r.Next.Target)
	}
	if slices.Contains(x.NotNext, r.Next.Step) {
		say("next is %s on %s", r.Next.Step, r.Next.Target)
	}
	if !strings.Contains(r.Next.Target, x.Target) || x.NotTarget != "" && strings.Contains(r.Next.Target, x.NotTarget) {
		say("next is %s on %s", r.Next.Step, r.Next.Target)
	}
	if x.MinutesAtMost > 0 && r.Next.Minutes > x.MinutesAtMost {
		say("next takes %g minutes", r.Next.Minutes)
	}
	if x.Forbidden != (len(r.Forbidden) > 0) {
		say("%d steps are forbidden", len(r.Forbidden))
	}
	if x.NoVerdict && r.Verdict != nil {
		say("a verdict on %s at %.0f %%", r.Verdict.Unit, 100*r.Verdict.P)
	}
	for _, o := range r.Next.Outcomes {
		if x.OtherAtMost > 0 && o.Outcome == "other" && o.P > x.OtherAtMost {
			say("something else has %.0f %%", 100*o.P)
		}
	}
	if x.Caution != "" && !slices.ContainsFunc(r.Next.Cautions, func(c string) bool { return strings.Contains(c, x.Caution) }) {
		say("no caution of %q", x.Caution)
	}
	return missed
}

// name is a suspect by its part with its tag or place.
func name(s report.Suspect) string {
	if s.Tag != "" {
		return s.Part + " " + s.Tag
	}
	return s.Part + " " + s.Place
}

// is reports whether a suspect is a part or place: by its kind, or by its name.
func is(s report.Suspect, want string) bool { return s.Part == want || name(s) == want }

// highest is the largest probability of the suspects of a kind or name.
func highest(r report.Report, want string) (p float64) {
	for _, s := range r.Suspects {
		if is(s, want) {
			p = max(p, s.P)
		}
	}
	return p
}

func main() {
	folder := flag.String("in", "docs/formats/cases", "folder of the cases")
	flag.Parse()
	results, err := Run(*folder)
	if err != nil {
		fmt.Fprintln(os.Stderr, "cases:", err)
		os.Exit(1)
	}
	hold := 0
	for _, r := range results {
		state := "holds"
		switch {
		case len(r.Missed) > 0 && r.Open != "":
			state = "open"
		case len(r.Missed) > 0:
			state = "MISSED"
		default:
			hold++
		}
		fmt.Printf("%2d  %-34s %-7s %s\n", r.Class, r.File, state, strings.Join(r.Missed, "; "))
	}
	fmt.Printf("%d of %d hold\n", hold, len(results))
}
