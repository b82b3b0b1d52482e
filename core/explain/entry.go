// Package explain puts the reasoning in words: what an entry says, what a move showed, why a
// suspect stands where it does, and what does not fit. It adds no figure of its own.
package explain

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// Entry is what an entry says, in one short sentence.
func Entry(e evidence.Entry) string {
	switch {
	case e.Codes != nil:
		if len(e.Codes.Read) == 0 {
			return "no codes"
		}
		words := make([]string, len(e.Codes.Read))
		for i, r := range e.Codes.Read {
			words[i] = r.Code.String() + " " + string(r.State)
			if meaning, weighs := r.Code.Meaning(); !weighs {
				if r.Text != "" {
					meaning += ": “" + r.Text + "”"
				}
				words[i] += " (" + meaning + ", noted)"
			} else if _, misfire := r.Code.MisfireCylinder(); !misfire && r.Code != trouble.RandomMisfire {
				words[i] += " (" + meaning + ")"
			}
		}
		s := strings.Join(words, ", ")
		if e.Codes.Frame != nil {
			s += "; freeze frame " + e.Codes.Frame.Words()
		}
		return s
	case e.Counters != nil:
		return countWords(*e.Counters)
	case e.Watch != nil:
		if len(e.Watch.Cylinders) == 0 {
			return "watched: ran clean"
		}
		return "watched: misfire on " + engine.SetOf(e.Watch.Cylinders...).String()
	case e.Fit != nil:
		return evidence.UnitWords(e.Fit.Unit) + " put right"
	case e.Move != nil:
		return "moved " + part.Describe(e.Move.Parts)
	case e.Look != nil:
		words := e.Look.Words()
		if e.Look.Moving {
			return "as it came off: " + strings.Join(words, "; ")
		}
		return strings.Join(words, "; ")
	case e.Verdict != nil:
		s := fmt.Sprintf("verdict signed: %s at %s", evidence.UnitWords(e.Verdict.Unit), unit.Percent(e.Verdict.P))
		if e.Verdict.Revises > 0 {
			s += fmt.Sprintf(", after that of entry %d", e.Verdict.Revises)
		}
		return s
	case e.Withdraw != nil:
		return fmt.Sprintf("entry %d withdrawn: %s", e.Withdraw.Entry, e.Withdraw.Reason)
	case e.Trims != nil:
		return trouble.TrimWords(e.Trims.Banks)
	case e.Check != nil:
		return e.Check.Words()
	case e.Readings != nil:
		return e.Readings.Words()
	case e.Sparks != nil:
		return e.Sparks.Words()
	case e.Beside != nil:
		return e.Beside.Words()
	case e.Covers != nil:
		return coverWords(*e.Covers)
	}
	return ""
}

// coverWords says covers as "engine cover and plenum off".
func coverWords(c evidence.Covers) string {
	var words []string
	if len(c.Off) > 0 {
		words = append(words, strings.Join(c.Off, " and ")+" off")
	}
	if len(c.On) > 0 {
		words = append(words, strings.Join(c.On, " and ")+" back on")
	}
	return strings.Join(words, ", ")
}

// countWords says a run's counters as "cylinder 5: 23 of 1 500; the others 0 to 2".
func countWords(c evidence.Counters) string {
	of := unit.Thousands(c.Revolutions / 2)
	most := slices.Max(c.Counts)
	if most == 0 {
		return "no misfire in " + of + " on any cylinder"
	}
	if len(c.Counts) == 1 {
		return unit.Thousands(most) + " of " + of
	}
	// Those that stand out are named, the others joined.
	var high []string
	var others []int
	for i, n := range c.Counts {
		if n >= diagnose.Enough && 5*n >= most || n == most && most < diagnose.Enough {
			high = append(high, fmt.Sprintf("%d: %s", i+1, unit.Thousands(n)))
		} else {
			others = append(others, n)
		}
	}
	word := "cylinder "
	if len(high) > 1 {
		word = "cylinders "
	}
	s := fmt.Sprintf("%s%s of %s", word, strings.Join(high, ", "), of)
	if len(others) == 0 {
		return s
	}
	s += "; others " + unit.Thousands(slices.Min(others))
	if slices.Max(others) > slices.Min(others) {
		s += " to " + unit.Thousands(slices.Max(others))
	}
	return s
}
