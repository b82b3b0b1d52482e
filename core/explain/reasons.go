package explain

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// asideWords explains why an entry is not weighed.
var asideWords = map[diagnose.Aside]string{
	diagnose.NotReset:      "not weighed: the counters still held what was counted before the move",
	diagnose.OldCode:       "not weighed: permanent, or not cleared after the move, so it may be an old code",
	diagnose.NoMisfireCode: "noted, not weighed: no code that bears on a misfire",
	diagnose.History:       "not weighed: set aside, since the counts stand as history",
}

// Aside returns why an entry is not weighed, or "".
func Aside(a diagnose.Aside) string { return asideWords[a] }

// WhyNot says in words why a suspect does not stand higher: what speaks against it
// most, or that nothing does and others explain more.
func WhyNot(s, lead diagnose.Suspect) string {
	var against []string
	for _, r := range s.Reasons {
		if r.LogOdds < 0 || r.Shared && r.Alone < 0 {
			against = append(against, fmt.Sprintf("%s (entry %d)", r.Text, r.Entry))
		}
		if len(against) == 2 {
			break
		}
	}
	if len(against) > 0 {
		return "Against it: " + strings.Join(against, "; ") + "."
	}
	if s.Prior < lead.Prior/2 {
		return fmt.Sprintf("Nothing speaks against it, but it is seldom the cause: it began at %.2g %%, %s at %.2g %%.", 100*s.Prior, lead.Name(), 100*lead.Prior)
	}
	return "Nothing speaks against it yet: no entry distinguishes it from " + lead.Name() + "."
}

// Contradiction returns which entries disagree, and what to do about it.
func Contradiction(a *diagnose.Assessment, c diagnose.Contradiction) string {
	entry := func(seq int) evidence.Entry {
		i := slices.IndexFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Seq == seq })
		return a.Moments[i].Entry
	}
	rare := fmt.Sprintf("1 in %.0f", math.Min(1/math.Max(c.P, 1e-9), 1e6))
	text := fmt.Sprintf("Entry %d (%s) conflicts with the other evidence (chance of this or worse: %s).", c.Entries[0], entry(c.Entries[0]).Words(), rare)
	if len(c.Entries) < 2 {
		return text + " It may be misread, or there are two faults. Check it again."
	}
	return text + fmt.Sprintf(" It conflicts most with entry %d (%s). One of the two may be misread, or there are two faults. Check both again.", c.Entries[1], entry(c.Entries[1]).Words())
}

// Reasons adds to each suspect of an assessment what speaks for it and against it, in words, and
// returns the assessment.
func Reasons(a *diagnose.Assessment) *diagnose.Assessment {
	a.AddReasons()
	for k := range a.Suspects {
		s := &a.Suspects[k]
		for i := range s.Reasons {
			r := &s.Reasons[i]
			at := slices.IndexFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Seq == r.Entry })
			r.Text = reasonWords(a, a.Moments[at], *s)
		}
	}
	return a
}

// reasonWords puts an entry in words as it bears on one suspect.
func reasonWords(a *diagnose.Assessment, m evidence.Moment, s diagnose.Suspect) string {
	what := m.Entry.Words()
	if r := m.Entry.Readings(); r != nil && r.Measure == evidence.KVWave {
		what = waveSentence(a, *r)
	}
	if m.Entry.Codes() == nil && m.Entry.Counters() == nil && m.Entry.Watch() == nil || !s.Real() {
		return what
	}
	if s.Tag != "" {
		return fmt.Sprintf("%s; %s was %s", what, s.Tag, part.At(m.At.Where(s.Tag)))
	}
	return what
}
