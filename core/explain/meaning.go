package explain

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Conflict is two moves of a part with contradictory results: the misfire followed the part, but did not return with it.
type Conflict struct {
	// Entries are the numbers of the two moves.
	Entries []int
	Text    string
	// Meanings lists explanations of both results, the likeliest first.
	Meanings []Meaning
}

// Meaning is one explanation of all evidence, with its probability.
type Meaning struct {
	Words string
	P     float64
}

// Bounds of the list of meanings.
const (
	leastMeaning = 0.03
	mostMeanings = 3
)

// stayedWords states where the misfire was after the part was put back.
var stayedWords = map[diagnose.Outcome]string{
	diagnose.Stayed: "the misfire stayed where the part had been", diagnose.Gone: "the misfire was gone",
	diagnose.Both: "the misfire was in both places", diagnose.Elsewhere: "the misfire was in another cylinder",
}

// Conflicts lists the moves that a later move of the same part back to its home contradicts, the newest first.
func Conflicts(a *diagnose.Assessment) (all []Conflict) {
	for i, there := range a.Decodes {
		if there.Outcome != diagnose.Followed || there.OnBench() || there.Back() {
			continue
		}
		for _, back := range a.Decodes[i+1:] {
			home := slices.ContainsFunc(back.Ways, func(w diagnose.Way) bool {
				return w.Place == there.Tags[0].Home() && slices.Contains(w.Tags, there.Tags[0])
			})
			if !home {
				continue
			}
			if words, disagrees := stayedWords[back.Outcome]; disagrees {
				all = append(all, Conflict{Entries: []int{there.Move, back.Move}, Meanings: Meanings(a),
					Text: fmt.Sprintf("After entry %d the misfire followed %s to %s. After entry %d the part was back, and %s. A faulty %s alone does not explain both.", there.Move, there.Parts(), there.To, back.Move, words, there.Tags[0].Words())})
			}
			break
		}
	}
	slices.Reverse(all)
	return all
}

// Meanings lists explanations of the evidence: the joint hypotheses, grouped by the faulty units and by what handling did
// to them.
func Meanings(a *diagnose.Assessment) (all []Meaning) {
	sums := diagnose.SumBy(a.JointHypotheses, func(w *diagnose.JointHypothesis) string {
		var words []string
		for _, f := range w.Faults {
			words = append(words, meaningOf(a, f))
		}
		return strings.Join(words, ", and ")
	})
	for _, s := range sums[:min(len(sums), mostMeanings)] {
		if s.P >= leastMeaning {
			all = append(all, Meaning{s.Key, s.P})
		}
	}
	return all
}

// meaningOf is a fault in words, with what handling did to it.
func meaningOf(a *diagnose.Assessment, f *diagnose.Fault) string {
	h := f.Hypothesis
	var name string
	switch {
	case h.IsSet():
		name = string(h.Unit())
	case h.Tag != "":
		name = h.Tag.Words()
	case h.Mode.Unit == fault.NoFault:
		return "no fault now"
	case h.Mode.Unit == fault.Else:
		return "a fault that is not in the list"
	default:
		name = evidence.UnitWords(evidence.UnitKey(h.Mode.Unit, h.Place))
	}
	switch {
	case f.ArisesAfter >= 0 && f.CuredAfter >= 0:
		return fmt.Sprintf("%s, left loose in entry %d and put right in entry %d", name, a.Moments[f.ArisesAfter].Entry.Seq, a.Moments[f.CuredAfter].Entry.Seq)
	case f.ArisesAfter >= 0 && h.Tag.IsNew():
		return name + ", faulty from new"
	case f.ArisesAfter >= 0:
		return fmt.Sprintf("%s, left loose or damaged in entry %d", name, a.Moments[f.ArisesAfter].Entry.Seq)
	case f.CuredAfter >= 0:
		return fmt.Sprintf("%s, put right in entry %d", name, a.Moments[f.CuredAfter].Entry.Seq)
	case len(f.Hypothesis.Affected(a.Now).List()) == 0 && h.Tag != "":
		return name + ", which is " + part.At(a.Now.Where(h.Tag))
	}
	return name + ", intermittent"
}
