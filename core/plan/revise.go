package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/unit"
)

// counted lists the entries that a verdict rests on: all that count, but other verdicts.
func counted(a *diagnose.Assessment) []int {
	var all []int
	for _, m := range a.Moments {
		if m.Entry.Verdict() == nil {
			all = append(all, m.Entry.Seq)
		}
	}
	return all
}

// revised reports whether a verdict that could be signed now differs from the one that stands, and
// rests on other evidence: the same unit by the same entries is no news.
func revised(signed evidence.Entry, v evidence.Verdict) bool {
	before := signed.Verdict()
	if len(before.Evidence) == 0 { // an old one, which did not say: any entry after it is news
		return before.Unit != v.Unit
	}
	return before.Unit != v.Unit || !slices.Equal(before.Evidence, v.Evidence)
}

// Changes says in words what a verdict changes against the one that it comes after; nil for a
// first one.
func Changes(l evidence.Ledger, v evidence.Verdict) []string {
	earlier, ok := l.Get(v.Revises)
	if !ok || earlier.Verdict() == nil {
		return nil
	}
	was := earlier.Verdict()
	var words []string
	if was.Unit == v.Unit {
		words = append(words, fmt.Sprintf("%s as before, now at %s (was %s)", evidence.UnitWords(v.Unit), unit.Percent(v.P), unit.Percent(was.P)))
	} else {
		words = append(words, fmt.Sprintf("%s at %s, in place of %s at %s", evidence.UnitWords(v.Unit), unit.Percent(v.P), evidence.UnitWords(was.Unit), unit.Percent(was.P)))
	}
	if fresh := lacking(v.Evidence, was.Evidence); len(fresh) > 0 {
		words = append(words, "new evidence: "+entries(fresh))
	}
	if gone := lacking(was.Evidence, v.Evidence); len(gone) > 0 {
		words = append(words, "withdrawn since: "+entries(gone))
	}
	for _, row := range []struct {
		words     string
		now, then []string
	}{{"now cleared as well", v.Cleared, was.Cleared}, {"no longer cleared", was.Cleared, v.Cleared}} {
		var names []string
		for _, key := range lacking(row.now, row.then) {
			names = append(names, evidence.UnitWords(key))
		}
		if len(names) > 0 {
			words = append(words, row.words+": "+unit.List(names))
		}
	}
	return words
}

// lacking lists what is in one list and not in the other.
func lacking[T comparable](in, other []T) []T {
	return slices.DeleteFunc(slices.Clone(in), func(x T) bool { return slices.Contains(other, x) })
}

func entries(seqs []int) string {
	words := make([]string, len(seqs))
	for i, n := range seqs {
		words[i] = fmt.Sprint(n)
	}
	if len(words) == 1 {
		return "entry " + words[0]
	}
	return "entries " + unit.List(words)
}
