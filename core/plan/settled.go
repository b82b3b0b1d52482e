package plan

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// settled lists the units of signed verdicts that have been put right while a misfire was
// still seen in a run after that, or counts that may be strays in two. They are done with:
// what is left is another fault, or was the fault from the beginning.
func settled(a *diagnose.Assessment) map[string]bool {
	units := map[string]bool{}
	strays := map[string]bool{}
	var waiting []string // signed, and not yet put right
	var proving []string // put right, and not yet run
	for _, m := range a.Moments {
		e := m.Entry
		if e.Verdict() != nil {
			waiting = append(waiting, e.Verdict().Unit)
		}
		right := func(unit string) bool { return repaired(a, m, unit) }
		for _, unit := range waiting {
			if right(unit) {
				proving = append(proving, unit)
			}
		}
		waiting = slices.DeleteFunc(waiting, right)
		if misfired(e) {
			for _, unit := range proving {
				units[unit] = strays[unit] || !slight(e)
				strays[unit] = true
			}
			proving = slices.DeleteFunc(proving, func(unit string) bool { return units[unit] })
		}
	}
	return units
}

// repaired reports whether a unit is put right at a moment: by a repair at its place, or because
// the part is out of the engine.
func repaired(a *diagnose.Assessment, m evidence.Moment, unit string) bool {
	return m.Entry.Fit() != nil && m.Entry.Fit().Unit == unit || slices.ContainsFunc(a.Suspects, func(s diagnose.Suspect) bool {
		return s.Key() == unit && (s.Tag != "" && m.At.Where(s.Tag) == engine.Bench || s.IsSet() && allOff(a, m, s))
	})
}

// allOff reports whether all parts of a set have been removed: those that the last verdict on the set names, or without a
// verdict those of the suspect.
func allOff(a *diagnose.Assessment, m evidence.Moment, s diagnose.Suspect) bool {
	parts := s.With
	for _, earlier := range a.Moments {
		v := earlier.Entry.Verdict()
		if v == nil || v.Unit != s.Key() {
			continue
		}
		parts = nil
		for _, words := range v.With {
			if tag, err := part.TagIn(a.Engine, words); err == nil {
				parts = append(parts, tag)
			}
		}
	}
	return len(parts) > 0 && !slices.ContainsFunc(parts, func(t part.Tag) bool { return m.At.Where(t) != engine.Bench })
}

// RepairedAt returns the number of the entry that repaired the unit of the last verdict on it, or
// 0 if it is not repaired yet.
func RepairedAt(a *diagnose.Assessment, unit string) int {
	at, signed := 0, false
	for _, m := range a.Moments {
		if v := m.Entry.Verdict(); v != nil && v.Unit == unit {
			signed, at = true, 0
		}
		if signed && at == 0 && repaired(a, m, unit) {
			at = m.Entry.Seq
		}
	}
	return at
}

// misfired reports whether a run has shown a misfire that is no stray.
func misfired(e evidence.Entry) bool { return e.ShowsMisfire() }

// slight reports whether what a run has counted may be strays: fewer than one in two hundred and
// fifty on every cylinder (C; judgement).
func slight(e evidence.Entry) bool {
	return e.Counters() != nil && slices.Max(e.Counters().Counts)*500 < e.Counters().Revolutions
}

// leading is the likeliest unit that is still to be put right.
func leading(a *diagnose.Assessment, done map[string]bool) int {
	return max(0, slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Real() && !done[s.Key()] }))
}

// Refuted lists the units of signed verdicts that were put right while the misfire stayed.
func Refuted(a *diagnose.Assessment) map[string]bool { return settled(a) }
