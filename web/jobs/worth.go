package jobs

import (
	"slices"

	"glenmist/core/explain"
	"glenmist/core/fault"
)

// worthView is the likelihood ratios of a test's answers for one fault.
type worthView struct{ Words, Says string }

// worths lists them by fault, for the named answers or, without names, for all.
func worths(all []explain.Worth, only ...string) []worthView {
	var list []worthView
	at := map[fault.ModeID]int{}
	for _, w := range all {
		if len(only) > 0 && !slices.Contains(only, w.Answer) {
			continue
		}
		i, ok := at[w.Mode]
		if !ok {
			i = len(list)
			at[w.Mode] = i
			list = append(list, worthView{Words: w.Words})
		} else {
			list[i].Says += "; "
		}
		list[i].Says += w.Answer + ": " + w.String()
	}
	return list
}
