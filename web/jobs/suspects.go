package jobs

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/explain"
	"glenmist/core/fault"
	"glenmist/core/plan"
	"glenmist/core/unit"
	"glenmist/web/page"
)

// leastPair is the probability from which a pair is listed, mostPairs the largest number of
// pairs.
const (
	leastPair = 0.003
	mostPairs = 3
)

// SuspectView is a suspect in the list, with its probability and the reasons for and against
// it.
type SuspectView struct {
	diagnose.Suspect
	Name  string
	Bar   int // thousandths
	Open  bool
	Lines []reasonLine
	// Weaker is the number of folded reasons.
	Weaker int
	Modes  []string
	// Shifts lists the effect of the complaint on its modes.
	Shifts []string
	// Age describes the effect of the age of its part.
	Age string
	// WhyNot states what lowers its probability.
	WhyNot string
	// PutRight is true if a verdict named it, it was repaired, and the misfire stayed.
	PutRight bool
}

type reasonLine struct {
	For    bool
	Odds   string
	Shared bool // other entries carry the same information
	Entry  int
	Text   string
}

// suspectGroup is all suspects of one kind of unit over the whole engine.
type suspectGroup struct {
	Name    string
	P       float64
	Bar     int // thousandths
	Members []SuspectView
	// Shifts lists the effect of the complaint on its most probable member.
	Shifts []string
}

// groupsOf groups the suspects by kind of unit, the most probable kind first. Two units of a kind
// can be faulty at the same time, so the sum of a group is an upper bound.
func groupsOf(suspects []SuspectView) []suspectGroup {
	var all []suspectGroup
	at := map[engine.Kind]int{}
	for _, s := range suspects {
		k, known := at[s.Unit]
		if !known {
			k = len(all)
			at[s.Unit] = k
			all = append(all, suspectGroup{Name: string(s.Unit), Shifts: s.Shifts})
		}
		all[k].P = min(1, all[k].P+s.P)
		all[k].Members = append(all[k].Members, s)
	}
	for i := range all {
		all[i].Bar = int(1000 * all[i].P)
		if len(all[i].Members) == 1 {
			all[i].Name = all[i].Members[0].Name
		} else {
			all[i].Name = article(all[i].Name)
		}
	}
	slices.SortStableFunc(all, func(x, y suspectGroup) int { return cmp.Compare(y.P, x.P) })
	return all
}

// kindNames gives the groups whose name is not the kind with an article.
var kindNames = map[string]string{string(engine.Compression): "compression of a cylinder", string(engine.Feed): "feed of a coil", string(engine.Ground): "ground of a coil",
	string(engine.Trigger): "trigger of a coil", string(engine.Driver): "driver of a coil", string(engine.Seat): "seat of a boot or lead"}

// article puts "a" or "an" before a kind of unit.
func article(word string) string {
	if name, ok := kindNames[word]; ok {
		return name
	}
	if strings.ContainsRune("aeiou", rune(word[0])) {
		return "an " + word
	}
	return "a " + word
}

// pairView is two units that may be faulty at the same time.
type pairView struct {
	Names string
	P     float64
}

// pairsOf lists the most probable pairs, and the sum of all pairs.
func pairsOf(a *diagnose.Assessment) (pairs []pairView, share float64) {
	sums := diagnose.SumBy(a.JointHypotheses, func(w *diagnose.JointHypothesis) string {
		if len(w.Faults) < 2 {
			return ""
		}
		share += w.P
		first, second := w.Faults[0].Suspect, w.Faults[1].Suspect
		if first == second {
			return ""
		}
		return a.Suspects[min(first, second)].Name() + " with " + a.Suspects[max(first, second)].Name()
	})
	for _, s := range sums[:min(len(sums), mostPairs)] {
		if s.P >= leastPair {
			pairs = append(pairs, pairView{Names: s.Key, P: s.P})
		}
	}
	return pairs, share
}

// suspectViews lists the suspects with their strongest reasons, or with all of them.
func suspectViews(a *diagnose.Assessment, p plan.Plan, all bool) []SuspectView {
	var views []SuspectView
	lead := a.Suspects[0]
	if p.PutRight[lead.Key()] {
		lead = p.Lead
	}
	open := lead.Key()
	for i, s := range a.Suspects {
		v := SuspectView{Suspect: s, Name: s.Name(), Bar: int(1000 * s.P), Open: s.Key() == open && len(s.Reasons) > 0, PutRight: p.PutRight[s.Key()]}
		shown := folded(len(s.Reasons), strongest, all)
		v.Weaker = len(s.Reasons) - shown
		for _, r := range s.Reasons[:shown] {
			line := reasonLine{r.LogOdds > 0, page.Odds(r.LogOdds), r.Shared, r.Entry, r.Text}
			if line.Shared {
				line.For, line.Odds = r.Alone > 0, page.Odds(r.Alone)
			}
			v.Lines = append(v.Lines, line)
		}
		v.Modes = modesOf(s)
		if i < leading {
			v.Shifts, v.Age = shiftsOf(a, s), ageOf(a, s)
		}
		if s.Key() != open && len(a.Moments) > 0 {
			v.WhyNot = explain.WhyNot(s, lead)
		}
		views = append(views, v)
	}
	return putRightLast(views)
}

// putRightLast moves the units that were put right while the misfire stayed behind what is still possible: the
// others of one per cent or more, and two others at least.
func putRightLast(views []SuspectView) []SuspectView {
	var first, right, rest []SuspectView
	for _, v := range views {
		switch {
		case v.PutRight:
			right = append(right, v)
		case v.P >= 0.01 || len(first) < 2:
			first = append(first, v)
		default:
			rest = append(rest, v)
		}
	}
	return slices.Concat(first, right, rest)
}

// shiftsOf describes the effect of the complaint on a suspect's modes.
func shiftsOf(a *diagnose.Assessment, s diagnose.Suspect) []string {
	var modes []fault.Mode
	for _, sh := range s.Shares {
		modes = append(modes, sh.Hypothesis.Mode)
	}
	words := a.Complaint.Shifted(modes)
	if least, most := a.StatementEffect(modes); least != 1 || most != 1 {
		words = append([]string{fmt.Sprintf("it fails %s, %s", a.Fails, unit.Likelier(least, most))}, words...)
	}
	return words
}

// ageOf describes the effect of the age of a suspect's part on its most probable mode.
func ageOf(a *diagnose.Assessment, s diagnose.Suspect) string {
	used, known := a.Complaint.Used[s.Tag]
	if f := s.Mode.Aged(used); known && f != 1 {
		return fmt.Sprintf("at %s of its life %g×", unit.Percent(used), f)
	}
	return ""
}

// mostModes is the largest number of modes listed for a suspect.
const mostModes = 4

// modesOf describes how a suspect's probability divides among its modes, if there are several.
func modesOf(s diagnose.Suspect) []string {
	var names []string
	sums := map[string]float64{}
	for _, sh := range s.Shares {
		words := sh.Hypothesis.Mode.Words
		if sums[words] == 0 {
			names = append(names, words)
		}
		sums[words] += sh.P
	}
	if len(names) < 2 {
		return nil
	}
	slices.SortStableFunc(names, func(a, b string) int { return cmp.Compare(sums[b], sums[a]) })
	lines := names[:0:0]
	for i, words := range names {
		if i == mostModes || sums[words] < 0.01 && i > 0 {
			return append(lines, fmt.Sprintf("%d less likely", len(names)-i))
		}
		lines = append(lines, words+" "+unit.Percent(sums[words]))
	}
	return lines
}
