package repair

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/core/worksheet"
	"glenmist/web/jobs"
)

// Summary is the repair as the finding tells it. It is empty for a job without a worksheet.
type Summary struct {
	// Done lists what was renewed, put right and measured.
	Done []string
	// Held states what the fix is worth, "" before a run.
	Held string
	// Planned is the estimate, Billed what is done so far.
	Planned, Billed string
	// Photos are the numbers of photos of what came off.
	Photos []int
}

// Of makes the summary of a job's repair.
func Of(it jobs.Loaded, c worksheet.Case) (s Summary) {
	sheet, ok := worksheet.Of(c)
	if !ok {
		return s
	}
	for _, e := range c.Job.Ledger.InOrder() {
		switch {
		case e.Renewal() != nil:
			for _, one := range e.Renewal().Parts {
				words := unit.Capital(one.Out.Words()) + " was renewed"
				if one.Number != "" {
					words += ": " + one.Number
				}
				s.Done = append(s.Done, fmt.Sprintf("%s, at %s on %s. The old one is %s.", words, c.Job.Distance, e.Done.Local().Format("2 January 2006"), one.Fate.Words()))
			}
		case e.Fit() != nil:
			s.Done = append(s.Done, unit.Capital(evidence.UnitWords(e.Fit().Unit))+" was put right.")
		}
	}
	for _, step := range sheet.Steps {
		if step.State.Measured != "" && step.Ask != nil {
			words := fmt.Sprintf("%s: %s", step.Title, step.State.Measured)
			if step.State.Says != "" {
				words += ", " + step.State.Says
			}
			s.Done = append(s.Done, words+".")
		}
		if step.State.Skipped {
			s.Done = append(s.Done, fmt.Sprintf("Not done: %s. %s.", step.Title, unit.Capital(step.State.Reason)))
		}
	}
	for _, item := range sheet.Off {
		if item.Lost {
			s.Done = append(s.Done, "Lost or replaced: "+item.Words+".")
		}
		if item.Photo > 0 {
			s.Photos = append(s.Photos, item.Photo)
		}
	}
	s.Held = held(it)
	lines := costLines(sheet)
	last := lines[len(lines)-1]
	s.Planned = fmt.Sprintf("Estimate: %s of work, parts %s, together %s.", lines[0].Planned, lines[1].Planned, last.Planned)
	if sheet.Cost.DoneTotal() > 0 {
		s.Billed = fmt.Sprintf("Done so far: %s of work, parts %s, together %s.", lines[0].Done, lines[1].Done, last.Done)
	}
	return s
}

// held states what a fix is worth.
func held(it jobs.Loaded) string {
	signed, ok := it.Record.Job.Signed()
	if plan.StatusOf(it.Record.Job, it.Assessment()).State == "proven" {
		return "The repair is proven by clean running."
	}
	if !ok || !plan.RanClean(it.Assessment(), signed) {
		return ""
	}
	if plan.Attribution(it.Assessment(), signed) == plan.Several {
		return "The engine has run clean since. Several parts were renewed at once, so it is not known which of them it was."
	}
	return "The engine has run clean since the repair. That is not yet a proof."
}

// Renewed reports whether the part of a verdict has been put right.
func Renewed(it jobs.Loaded) bool {
	signed, ok := it.Record.Job.Signed()
	return ok && plan.RepairedAt(it.Assessment(), signed.Verdict().Unit) > 0 || ok && slices.ContainsFunc(it.Record.Job.Ledger.InOrder(), func(e evidence.Entry) bool { return e.Renewal() != nil })
}

// Stays reports whether a part of a verdict, in words such as "boot B3", is still in the engine.
func Stays(it jobs.Loaded, words string) bool {
	return slices.ContainsFunc(it.Assessment().Now.All(), func(p part.Placed) bool { return p.Tag.Words() == words && p.At != engine.Bench })
}
