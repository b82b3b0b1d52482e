package job

import (
	"slices"
	"strings"

	"glenmist/core/engine"
)

// MaxTerms bounds the text by which a job is found, in bytes.
const MaxTerms = 20_000

// Terms are what a job is found by.
type Terms struct {
	// Text holds number, vehicle, complaint, and the words of the ledger with codes, tags, part numbers, notes and people. A long
	// ledger is cut at [MaxTerms]; the newest entries come first.
	Text string
	// Layout is the ignition; Kind the kind of part of the signed verdict, "" without one.
	Layout engine.Ignition
	Kind   string
	// Codes lists the trouble codes that were read, People who opened the job or recorded something.
	Codes, People []string
}

// Terms returns what the job is found by.
func (j Job) Terms() Terms {
	t := Terms{Layout: j.Vehicle.Engine.Ignition, People: []string{j.By}}
	words := []string{j.Number, j.Vehicle.Fleet, j.Vehicle.What, j.Complaint, j.By}
	if e, ok := j.Signed(); ok {
		t.Kind = kindOf(e.Verdict().Unit)
	}
	for _, e := range slices.Backward(j.Ledger.InOrder()) {
		words = append(words, e.Words(), e.Note, e.By)
		if !slices.Contains(t.People, e.By) {
			t.People = append(t.People, e.By)
		}
		codes := e.Codes()
		if codes == nil {
			continue
		}
		for _, read := range codes.Read {
			if code := read.Code.String(); !slices.Contains(t.Codes, code) {
				t.Codes = append(t.Codes, code)
			}
		}
	}
	t.Text = cutAt(strings.Join(slices.DeleteFunc(words, func(w string) bool { return w == "" }), " · "), MaxTerms)
	return t
}

// kindOf is the kind of part of a repair unit, such as "trigger wire" of "trigger wire cyl-2".
func kindOf(unit string) string {
	if i := strings.LastIndexByte(unit, ' '); i > 0 && !strings.HasPrefix(unit, "set of ") {
		return unit[:i]
	}
	return unit
}

// cutAt cuts a text to some bytes, between two letters.
func cutAt(text string, most int) string {
	if len(text) <= most {
		return text
	}
	return strings.ToValidUTF8(text[:most], "")
}
