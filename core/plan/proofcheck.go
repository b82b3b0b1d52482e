package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/proof"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// ProofItem is one line of the checklist of a proof.
type ProofItem struct {
	// ID is a stable word: saved, readiness, cleared, run, codes, permanent, recheck.
	ID    string
	Words string
	Done  bool
	// Entry is the number of the entry that did it, 0 for none. Missing states what is left to do.
	Entry   int
	Missing string
}

// ProofChecklist lists what belongs to the proof of a repair at entry number at, in the order of the work:
// before the run, the run, and after it. Lines about codes need a control unit.
func ProofChecklist(j job.Job, a *diagnose.Assessment, at int) (all []ProofItem) {
	add := func(id, words, missing string, entry int) {
		item := ProofItem{ID: id, Words: words, Done: entry > 0, Entry: entry, Missing: missing}
		if item.Done {
			item.Missing = ""
		}
		all = append(all, item)
	}
	saved, ready, cleared := before(a, at)
	if a.Engine.Scanned() {
		add("saved", "Codes read and saved", "read and record them before they are cleared", saved)
		add("readiness", "Readiness of the monitors noted", "note it when the codes are read", ready)
		add("cleared", "Codes cleared, counters at zero", "clear them before the run", cleared)
	}
	run, p := 0, Proof{}
	if at > 0 {
		if p = ProofOf(a, at); p.State == proof.Proven {
			if last, ok := lastRun(a); ok {
				run = last.Seq
			}
		}
	}
	add("run", "Run clean "+inCondition(a), "long enough to prove it", run)
	if a.Engine.Scanned() {
		read, open, permanent := codesSince(a, at)
		if len(open) > 0 {
			add("codes", "No code after the run", fmt.Sprintf("%s is back", words(open)), 0)
		} else {
			add("codes", "No code after the run", "read the codes after the run", read)
		}
		if seen := PermanentCodes(a); len(seen) > 0 {
			gone := read
			if len(permanent) > 0 {
				gone = 0
			}
			list := make([]string, len(seen))
			for i, c := range seen {
				list[i] = c.Code
			}
			add("permanent", "Permanent code gone by itself: "+unit.List(list), "it goes after drives in which its monitor has passed", gone)
		}
	}
	if due, ok := j.Ledger.DueRecheck(); ok {
		add("recheck", "Recheck on "+due.Due.Words(), "still to be made", 0)
	}
	return all
}

// before returns the numbers of the entries that saved the codes, noted the readiness, and cleared the codes
// after a repair. Codes are saved by a read that is older than their clearing.
func before(a *diagnose.Assessment, at int) (saved, ready, cleared int) {
	after, read, noted := false, 0, 0
	for _, m := range a.Moments {
		e := m.Entry
		after = after || e.Seq == at
		if e.Codes() != nil && cleared == 0 {
			read = e.Seq
			if e.Codes().Readiness != nil {
				noted = e.Seq
			}
		}
		wiped, _ := e.ClearedAfter()
		if c := e.Clearing(); c != nil && c.Codes {
			wiped = true
		}
		if wiped && after && cleared == 0 && at > 0 {
			cleared = e.Seq
		}
	}
	return read, noted, cleared
}

// PermanentCode is a permanent code that was read in a job, and what has become of it.
type PermanentCode struct {
	Code string `json:"code"`
	// Entry is the first read that shows it. Gone is the last read if that shows it no more, null otherwise.
	Entry int  `json:"entry"`
	Gone  *int `json:"gone"`
	// Becomes states what happens with it.
	Becomes string `json:"becomes"`
}

// PermanentCodes lists the permanent codes of a job that bear on a misfire, in the order in which they were
// read.
func PermanentCodes(a *diagnose.Assessment) (all []PermanentCode) {
	var last *evidence.Entry
	at := map[trouble.Code]int{}
	for _, m := range a.Moments {
		if m.Entry.Codes() == nil {
			continue
		}
		last = &m.Entry
		for _, c := range m.Entry.Codes().Permanent() {
			if _, seen := at[c]; !seen {
				at[c] = len(all)
				all = append(all, PermanentCode{Code: c.String(), Entry: m.Entry.Seq, Becomes: "It cannot be cleared. The control unit erases it by itself, after drives in which its monitor has passed."})
			}
		}
	}
	for c, i := range at {
		if !slices.Contains(last.Codes().Permanent(), c) {
			all[i].Gone, all[i].Becomes = &last.Seq, "The control unit has erased it."
		}
	}
	return all
}

// History lists the runs whose counts could stand as history: their counters did not stand at zero, and
// they have not been set aside.
func History(a *diagnose.Assessment) (all []evidence.Entry) {
	for i, m := range a.Moments {
		if c := m.Entry.Counters(); c != nil && !c.Fresh && a.SetAside(i) != diagnose.History {
			all = append(all, m.Entry)
		}
	}
	return all
}
