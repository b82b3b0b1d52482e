package shop

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"

	"glenmist/core/knowledge"
)

// Changes says in words how settings differ from what they were, for the audit log; "nothing changed" if they do not.
func (s Settings) Changes(was Settings) string {
	var all []string
	changed := func(is bool, words string, args ...any) {
		if is {
			all = append(all, fmt.Sprintf(words, args...))
		}
	}
	changed(s.HourlyRate != was.HourlyRate, "an hour of work %g, was %g", s.HourlyRate, was.HourlyRate)
	changed(s.WrongVerdict != was.WrongVerdict, "a wrong verdict %g min, was %g", s.WrongVerdict, was.WrongVerdict)
	for _, tool := range slices.Sorted(maps.Keys(differing(set(s.Missing), set(was.Missing)))) {
		changed(slices.Contains(s.Missing, tool), "without %s", tool)
		changed(slices.Contains(was.Missing, tool), "has %s", tool)
	}
	changed(!reflect.DeepEqual(s.Tools, was.Tools), "torque wrenches or gauge wires")
	for _, id := range slices.Sorted(maps.Keys(differing(s.Schools, was.Schools))) {
		changed(true, "school %s: %s", id, s.Schools[id])
	}
	rows, before := byRow(s.Rows), byRow(was.Rows)
	for _, row := range slices.Sorted(maps.Keys(differing(rows, before))) {
		_, own := rows[row]
		changed(own, "own figures for %s", row)
		changed(!own, "shipped figures again for %s", row)
	}
	changed(s.NotLearning != was.NotLearning, "learning %s", onOff(!s.NotLearning))
	changed(s.CountImported != was.CountImported, "counting imported jobs %s", onOff(s.CountImported))
	if len(all) == 0 {
		return "nothing changed"
	}
	return strings.Join(all, "; ")
}

func onOff(on bool) string {
	if on {
		return "on"
	}
	return "off"
}

func set(words []string) map[string]bool {
	all := map[string]bool{}
	for _, w := range words {
		all[w] = true
	}
	return all
}

func byRow(rows []knowledge.Override) map[string]knowledge.Override {
	all := map[string]knowledge.Override{}
	for _, o := range rows {
		all[o.Row] = o
	}
	return all
}

// differing returns the keys whose values differ between two maps, or that only one has.
func differing[V any](a, b map[string]V) map[string]bool {
	keys := map[string]bool{}
	for _, m := range []map[string]V{a, b} {
		for k := range m {
			x, inA := a[k]
			y, inB := b[k]
			if inA != inB || !reflect.DeepEqual(x, y) {
				keys[k] = true
			}
		}
	}
	return keys
}
