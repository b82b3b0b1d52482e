package jobs

import (
	"slices"

	"glenmist/core/explain"
	"glenmist/core/fault"
)

// worthView is what the answers of a test are worth against one fault.
type worthView struct{ Words, Says string }

// worths lists them fault by fault; of some answers only, where they are named.
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
