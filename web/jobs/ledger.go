package jobs

import (
	"fmt"
	"slices"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/job"
	"glenmist/store"
)

// LedgerLine is an entry in words, with its actions.
type LedgerLine struct {
	Entry     evidence.Entry
	Words     string
	Decode    string
	Withdrawn *evidence.Entry
	Can       bool   // can be withdrawn
	Aside     string // why it is not weighed
	Last      bool   // the newest that can be withdrawn: it has a key
	Href      string
	// ImportedBy is who took the entry in from a file, "" if it was recorded here.
	ImportedBy string
}

// LedgerLines lists the ledger, the newest entry first.
func LedgerLines(j job.Job, a *diagnose.Assessment, at string) []LedgerLine {
	gone := j.Ledger.Withdrawn()
	said := map[int]string{}
	for _, d := range a.Decodes {
		if d.Outcome != diagnose.Waiting {
			said[d.Move] = string(d.Outcome)
		}
	}
	aside := map[int]string{}
	for i, m := range a.Moments {
		aside[m.Entry.Seq] = explain.Aside(a.SetAside(i))
	}
	var lines []LedgerLine
	keyed := false
	for _, e := range slices.Backward(j.Ledger) {
		line := LedgerLine{Entry: e, Words: e.Words(), Decode: said[e.Seq], Aside: aside[e.Seq], Can: e.Withdraw() == nil,
			Href: fmt.Sprintf("%s/withdraw?entry=%d", at, e.Seq)}
		if by, ok := gone[e.Seq]; ok {
			line.Withdrawn, line.Can, line.Decode = &by, false, ""
		}
		line.Last = line.Can && !keyed
		keyed = keyed || line.Last
		lines = append(lines, line)
	}
	return lines
}

// MarkImported names who took in the entries that came from a file.
func MarkImported(lines []LedgerLine, rec store.Record) {
	for i := range lines {
		if lines[i].Entry.Seq <= rec.ImportedEntries {
			lines[i].ImportedBy = rec.ImportedBy
		}
	}
}

// Shown lists the visible entries of the ledger, the newest first.
func (p Page) Shown() []LedgerLine {
	return p.Ledger[:folded(len(p.Ledger), newest, p.Whole == "ledger")]
}

// Older returns the number of folded entries.
func (p Page) Older() int { return len(p.Ledger) - len(p.Shown()) }

// ledgerGroup is the entries of one day and phase, the newest first.
type ledgerGroup struct {
	Day   string
	Phase course.Phase
	Lines []LedgerLine
	Open  bool
}

// phaseOf returns the phase to which a kind of entry belongs.
func (s *Pages) phaseOf(k evidence.Kind) course.Phase {
	for _, v := range s.views {
		if v.Kind == k && len(v.Phases) > 0 {
			return v.Phases[0]
		}
	}
	return course.Trace
}

// ledgerGroups folds the ledger by day and phase. Groups are open until enough entries are shown.
func (s *Pages) ledgerGroups(lines []LedgerLine) (all []ledgerGroup) {
	shown := 0
	for _, l := range lines {
		day, phase := l.Entry.Done.Local().Format("2 Jan"), s.phaseOf(l.Entry.Kind())
		if n := len(all) - 1; n < 0 || all[n].Day != day || all[n].Phase != phase {
			all = append(all, ledgerGroup{Day: day, Phase: phase, Open: shown < openEntries})
		}
		last := &all[len(all)-1]
		last.Lines = append(last.Lines, l)
		shown++
	}
	return all
}

// openEntries is the number of entries from which older groups are folded.
const openEntries = 8
