package evidence

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// Ledger is the entries of one job. Add to it with [Ledger.Add]; one that comes
// from outside is checked with [Ledger.Validate].
type Ledger []Entry

// Next is the number the next entry will carry.
func (l Ledger) Next() int {
	next := 1
	for _, e := range l {
		next = max(next, e.Seq+1)
	}
	return next
}

// Get finds an entry by its number.
func (l Ledger) Get(seq int) (Entry, bool) {
	i := slices.IndexFunc(l, func(e Entry) bool { return e.Seq == seq })
	if i < 0 {
		return Entry{}, false
	}
	return l[i], true
}

// Withdrawn says which entries have been taken back, and by which entry.
func (l Ledger) Withdrawn() map[int]Entry {
	gone := map[int]Entry{}
	for _, e := range l {
		if e.Withdraw != nil {
			gone[e.Withdraw.Entry] = e
		}
	}
	return gone
}

// Add checks an entry against the engine and all that stands before it, gives
// it the next number, and returns the longer ledger. On an error nothing is
// added and the error names the fields.
func (l Ledger) Add(eng engine.Engine, e Entry) (Ledger, error) {
	e.Seq = l.Next()
	var bad invalid.Errors
	if len(l) >= MaxEntries {
		bad.Add("", fmt.Sprintf("at most %d entries in a job", MaxEntries), "one more")
		return l, bad
	}
	bad.Under("", e.check(eng, l))
	if len(bad) > 0 {
		return l, bad
	}
	longer := append(slices.Clone(l), e)
	if _, err := longer.replay(eng); err != nil {
		if e.Withdraw != nil {
			return l, invalid.Errors{{
				Field:    "withdraw.entry",
				Expected: fmt.Sprintf("an entry that no later one builds on: withdraw entry %d first", err.seq),
				Got:      fmt.Sprintf("entry %d", e.Withdraw.Entry),
			}}
		}
		if err.seq != e.Seq { // an entry of an earlier time, under one that builds on what was before
			return l, invalid.Errors{{Field: "done", Expected: fmt.Sprintf("a time after entry %d, which builds on how things stood then", err.seq), Got: e.Done.Format("2 Jan 15:04")}}
		}
		// The entry that failed is this one; its own path is what the form knows.
		return l, err.under
	}
	return longer, nil
}

// Validate checks a whole ledger that comes from outside, entry by entry.
func (l Ledger) Validate(eng engine.Engine) error {
	var bad invalid.Errors
	if len(l) > MaxEntries {
		bad.Add("", fmt.Sprintf("at most %d entries", MaxEntries), fmt.Sprint(len(l)))
		return bad
	}
	for i, e := range l {
		path := fmt.Sprintf("[%d]", i)
		if e.Seq != i+1 {
			bad.Add(path+".seq", fmt.Sprintf("%d, counting from 1", i+1), fmt.Sprint(e.Seq))
		}
		bad.Under(path, e.check(eng, l[:i]))
	}
	if len(bad) > 0 {
		return bad
	}
	if _, err := l.replay(eng); err != nil {
		bad.Under(fmt.Sprintf("[%d]", err.seq-1), err.under)
	}
	return bad.Err()
}

// check looks at one entry alone and at the entries before it that it names.
// Whether a move is possible depends on all moves and is for replay to say.
func (e Entry) check(eng engine.Engine, before Ledger) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("by", e.By, "the name of who did it", MaxName, false))
	bad.Under("", invalid.Text("note", e.Note, "a note", MaxText, true))
	if e.Done.IsZero() {
		bad.Add("done", "the time it was done", "none")
	}
	if !e.Condition.Known() {
		bad.Add("condition", "idle, load, hot, cold, wet, snap or none", invalid.Quote(string(e.Condition)))
	}
	if !e.Certainty.Known() {
		bad.Add("certainty", "think-so, heard or none for sure", invalid.Quote(string(e.Certainty)))
	}
	switch e.Kind() {
	case KindCodes:
		bad.Under("codes", e.Codes.check(eng))
	case KindCounters:
		bad.Under("counters", e.Counters.check(eng))
	case KindWatch:
		bad.Under("watch", e.Watch.check(eng))
	case KindMove:
		if len(e.Move.Parts) > MaxMoved {
			bad.Add("move.parts", "each part named once in a move", fmt.Sprintf("%d parts", len(e.Move.Parts)))
		}
	case KindLook:
		bad.Under("look", e.Look.check(eng))
	case KindVerdict:
		bad.Under("verdict", e.Verdict.check(before))
	case KindWithdraw:
		bad.Under("withdraw", e.Withdraw.check(before))
	case KindTrims:
		if len(e.Trims.Banks) == 0 {
			bad.Add("trims.banks", "the trims of at least one bank", "none")
		}
		bad.Under("trims.banks", trouble.CheckTrims(e.Trims.Banks, eng.Banks()))
	case KindCheck:
		bad.Under("check", e.Check.check(eng))
	case KindCovers:
		if len(e.Covers.Off)+len(e.Covers.On) == 0 {
			bad.Add("covers.off", "at least one cover that came off or went on", "none")
		}
	case KindFit:
		bad.Under("fit", e.Fit.check(eng))
	case KindReadings:
		bad.Under("readings", e.Readings.check(eng))
	case KindSparks:
		bad.Under("sparks", e.Sparks.check(eng))
	case KindBeside:
		bad.Under("beside", e.Beside.check(eng))
	default:
		bad.Add("", "exactly one of codes, counters, watch, move, look, verdict, withdraw, trims, check, covers, fit, readings, sparks, beside", "none or several")
	}
	return bad.Err()
}

func (f Fit) check(eng engine.Engine) error {
	var bad invalid.Errors
	there := slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return !i.Part && UnitKey(i.Kind, i.Place) == f.Unit })
	if !there {
		bad.Add("unit", "a place that can be put right, such as connector cyl-1; a part that is renewed is a move", invalid.Quote(f.Unit))
	}
	return bad.Err()
}

func (c Codes) check(eng engine.Engine) error {
	var bad invalid.Errors
	if !eng.Scanned() && len(c.Read) > 0 {
		bad.Add("read", "no codes: this engine has no control unit that sets any", fmt.Sprint(len(c.Read)))
		return bad
	}
	if c.Frame != nil {
		bad.Under("frame", c.Frame.Check(eng.Banks()))
	}
	if len(c.Read) > MaxCodes {
		bad.Add("read", fmt.Sprintf("at most %d codes in one read", MaxCodes), fmt.Sprint(len(c.Read)))
		return bad
	}
	for i, r := range c.Read {
		if n, ok := r.Code.MisfireCylinder(); ok && int(n) > eng.Cylinders {
			bad.Add(fmt.Sprintf("read[%d].code", i), fmt.Sprintf("a code for this engine's cylinders, 1 to %d", eng.Cylinders),
				fmt.Sprintf("%s, which names cylinder %d", r.Code, n))
		}
		if kind, feeds, ok := r.Code.Circuit(eng); ok && feeds == 0 {
			expected := fmt.Sprintf("a code for this engine's cylinders, 1 to %d", eng.Cylinders)
			if kind == engine.Coil {
				last := eng.Coils()[len(eng.Coils())-1].Letter
				expected = fmt.Sprintf("a code for this engine's coils, A to %s", last)
			}
			words, _ := r.Code.Meaning()
			bad.Add(fmt.Sprintf("read[%d].code", i), expected, fmt.Sprintf("%s, which names %s", r.Code, words))
		}
		bad.Under("", invalid.Text(fmt.Sprintf("read[%d].text", i), r.Text, "what the scan tool printed", MaxName*2, true))
		if !slices.Contains(trouble.States, r.State) {
			bad.Add(fmt.Sprintf("read[%d].state", i), "stored, pending or permanent", invalid.Quote(string(r.State)))
		}
	}
	return bad.Err()
}

func (c Counters) check(eng engine.Engine) error {
	var bad invalid.Errors
	revs := unit.Revolutions(c.Revolutions)
	if revs < 2 || revs > unit.MaxRevolutions {
		bad.Add("revolutions", fmt.Sprintf("2 to %s revolutions", unit.Thousands(int(unit.MaxRevolutions))), fmt.Sprint(c.Revolutions))
	}
	if len(c.Counts) != eng.Cylinders {
		bad.Add("counts", fmt.Sprintf("%d counts, one a cylinder", eng.Cylinders), fmt.Sprint(len(c.Counts)))
		return bad
	}
	for i, n := range c.Counts {
		if n < 0 || n > revs.Opportunities() {
			bad.Add(fmt.Sprintf("counts[%d]", i),
				fmt.Sprintf("0 to %s: a cylinder is due to fire once in two revolutions", unit.Thousands(revs.Opportunities())),
				unit.Thousands(n))
		}
	}
	return bad.Err()
}

func (w Watch) check(eng engine.Engine) error {
	var bad invalid.Errors
	seen := map[engine.Cylinder]bool{}
	for i, c := range w.Cylinders {
		if c < 1 || int(c) > eng.Cylinders || seen[c] {
			bad.Add(fmt.Sprintf("cylinders[%d]", i), fmt.Sprintf("a cylinder of this engine, 1 to %d, once", eng.Cylinders), fmt.Sprint(c))
			break
		}
		seen[c] = true
	}
	return bad.Err()
}

func (l Look) check(eng engine.Engine) error {
	var bad invalid.Errors
	if len(l.Items) == 0 || len(l.Items) > 40 {
		bad.Add("items", "at least one finding on a part or a connector", fmt.Sprint(len(l.Items)))
		return bad
	}
	for i, item := range l.Items {
		path := fmt.Sprintf("items[%d]", i)
		kind := engine.Connector
		if item.Tag != "" {
			if _, err := part.ParseTag(eng, string(item.Tag)); err != nil {
				bad.Under(path+".tag", err)
				continue
			}
			kind = item.Tag.Kind()
		} else if !has(eng, engine.Connector, item.Place) {
			bad.Add(path+".place", "the place of a coil connector of this engine", invalid.Quote(string(item.Place)))
			continue
		}
		if item.Tag != "" && item.Place != "" {
			bad.Add(path+".place", "a tag (of a part) or a place (of a connector), not both", string(item.Place))
		}
		if _, err := ParseFinding(kind, string(item.Finding)); err != nil {
			bad.Under(path+".finding", err)
		}
		bad.Under(path, l.checkPlug(item))
	}
	if !l.Ran.known() {
		bad.Add("ran", "driven, idled, cold, cranked or none", invalid.Quote(string(l.Ran)))
	}
	if l.Gap != nil {
		bad.Under("gap", engine.CheckRange(l.Gap.Low, l.Gap.High, plug.MostGapMM))
	}
	return bad.Err()
}

func (v Verdict) check(before Ledger) error {
	var bad invalid.Errors
	if len(v.Evidence) > MaxEntries {
		bad.Add("evidence", fmt.Sprintf("at most %d entries", MaxEntries), fmt.Sprint(len(v.Evidence)))
	} else {
		for i, n := range v.Evidence {
			if _, ok := before.Get(n); !ok || i > 0 && slices.Contains(v.Evidence[:i], n) {
				bad.Add(fmt.Sprintf("evidence[%d]", i), "the number of an earlier entry, once", fmt.Sprint(n))
			}
		}
	}
	if e, ok := before.Get(v.Revises); v.Revises != 0 && (!ok || e.Verdict == nil) {
		bad.Add("revises", "the number of an earlier verdict", fmt.Sprint(v.Revises))
	}
	bad.Under("", invalid.Text("unit", v.Unit, "the part or place that is judged at fault", MaxName, false))
	if !(v.P >= 0 && v.P <= 1) {
		bad.Add("p", "a probability from 0 to 1", fmt.Sprint(v.P))
	}
	bad.Under("", invalid.Text("cause", v.Cause, "what lies behind it", MaxText, true))
	for i, also := range v.Also {
		if i >= MaxUnits {
			bad.Add("also", fmt.Sprintf("at most %d lines", MaxUnits), fmt.Sprint(len(v.Also)))
			break
		}
		bad.Under("", invalid.Text(fmt.Sprintf("also[%d]", i), also, "what is put right with it", MaxText, false))
	}
	for name, list := range map[string][]string{"with": v.With, "cleared": v.Cleared} {
		if len(list) > MaxUnits {
			bad.Add(name, fmt.Sprintf("at most %d units", MaxUnits), fmt.Sprint(len(list)))
			continue
		}
		for i, unit := range list {
			bad.Under("", invalid.Text(fmt.Sprintf("%s[%d]", name, i), unit, "a unit by its name", MaxName, false))
		}
	}
	return bad.Err()
}

func (w Withdraw) check(before Ledger) error {
	var bad invalid.Errors
	bad.Under("", invalid.Text("reason", w.Reason, "why it is withdrawn, in a few words", MaxText, false))
	target, ok := before.Get(w.Entry)
	switch {
	case !ok:
		bad.Add("entry", "the number of an earlier entry of this job", fmt.Sprint(w.Entry))
	case target.Withdraw != nil:
		bad.Add("entry", "an entry that is not itself a withdrawal: enter it anew instead", fmt.Sprint(w.Entry))
	default:
		if _, gone := before.Withdrawn()[w.Entry]; gone {
			bad.Add("entry", "an entry that still counts", fmt.Sprintf("%d, withdrawn already", w.Entry))
		}
	}
	return bad.Err()
}

func has(eng engine.Engine, k engine.Kind, at engine.Place) bool {
	return slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return i.Kind == k && i.Place == at })
}
