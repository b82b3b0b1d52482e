package explain

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Conflict is two moves whose runs cannot both be right of one faulty part: the misfire went with it, and did not come
// back with it.
type Conflict struct {
	// Entries are the numbers of the two moves.
	Entries []int
	Text    string
	// Meanings lists what the two runs could mean, the likeliest first.
	Meanings []Meaning
}

// Meaning is one thing that all that was seen could mean, with its probability.
type Meaning struct {
	Words string
	P     float64
}

// Bounds of the list of meanings.
const (
	leastMeaning = 0.03
	mostMeanings = 3
)

// stayedWords states what the misfire did when the part was put back.
var stayedWords = map[diagnose.Outcome]string{
	diagnose.Stayed: "it stayed where the part had been", diagnose.Gone: "it was gone",
	diagnose.Both: "it was in both places", diagnose.Elsewhere: "it was somewhere else",
}

// Conflicts lists the moves that a later move of the same part back home has contradicted, the newest first.
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
					Text: fmt.Sprintf("After entry %d the misfire went with %s to %s. Entry %d put it back, and %s. A faulty %s alone does not do both.", there.Move, there.Parts(), there.To, back.Move, words, there.Tags[0].Words())})
			}
			break
		}
	}
	slices.Reverse(all)
	return all
}

// Meanings lists what the evidence could mean: the joint hypotheses by the units that are at fault and by what handling
// did to them.
func Meanings(a *diagnose.Assessment) (all []Meaning) {
	at := map[string]int{}
	for _, w := range a.JointHypotheses {
		var words []string
		for _, f := range w.Faults {
			words = append(words, meaningOf(a, f))
		}
		key := strings.Join(words, ", and ")
		i, ok := at[key]
		if !ok {
			i = len(all)
			at[key] = i
			all = append(all, Meaning{Words: key})
		}
		all[i].P += w.P
	}
	slices.SortStableFunc(all, func(x, y Meaning) int { return cmp.Compare(y.P, x.P) })
	all = slices.DeleteFunc(all, func(m Meaning) bool { return m.P < leastMeaning })
	return all[:min(len(all), mostMeanings)]
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
		return "nothing is at fault now"
	case h.Mode.Unit == fault.Else:
		return "something that is not in the list"
	default:
		name = evidence.UnitWords(evidence.UnitKey(h.Mode.Unit, h.Place))
	}
	switch {
	case f.BornAfter >= 0 && f.CuredAfter >= 0:
		return fmt.Sprintf("%s, left loose by entry %d and put right by entry %d", name, a.Moments[f.BornAfter].Entry.Seq, a.Moments[f.CuredAfter].Entry.Seq)
	case f.BornAfter >= 0 && h.Tag.IsNew():
		return name + ", faulty as it came"
	case f.BornAfter >= 0:
		return fmt.Sprintf("%s, left loose or broken by entry %d", name, a.Moments[f.BornAfter].Entry.Seq)
	case f.CuredAfter >= 0:
		return fmt.Sprintf("%s, put right by entry %d", name, a.Moments[f.CuredAfter].Entry.Seq)
	case len(f.Hypothesis.Affected(a.Now).List()) == 0 && h.Tag != "":
		return name + ", which is " + part.At(a.Now.Where(h.Tag))
	}
	return name + ", which comes and goes"
}
