package worksheet

import (
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// leastMerged is the number of equal steps from which they are one step for all their places.
const leastMerged = 3

// merges lists the steps that are done at all places in one go, with their title; %s is the places.
var merges = []struct{ what, title string }{
	{"prepare.beside-plug", "Lay the new plugs of %s beside the old ones"},
	{"prepare.beside-coil", "Lay the new coils of %s beside the old ones"},
	{"prepare.beside-lead", "Lay the new leads of %s beside the old ones"},
	{"prepare.beside-boot", "Lay the new boots of %s beside the old ones"},
	{"remove.coil", "Pull the coils of %s"},
	{"remove.lead", "Pull the leads of %s"},
	{"thread.plug", "Threads of the new plugs: %s"},
	{"thread.boot", "Grease the boots of %s"},
	{"refit.home", "Push coils and leads home: %s"},
	{"torque.coil-bolt", "Tighten the coil bolts of %s"},
}

// merge makes one step of equal steps at several places, unless each place is finished before the next.
// The step stands where the first of them stood.
func (b *builder) merge() {
	for _, m := range merges {
		var at []int
		var places []engine.Place
		for i, s := range b.steps {
			if what, _, ok := strings.Cut(s.ID, "@"); ok && what == m.what && (len(at) == 0 || s.Do == b.steps[at[0]].Do) {
				at, places = append(at, i), append(places, s.Target)
			}
		}
		if len(at) < leastMerged {
			continue
		}
		one := b.steps[at[0]]
		one.ID, one.Target, one.Minutes = m.what, engine.Whole, 0
		for _, i := range at {
			one.Minutes += b.steps[i].Minutes
		}
		one.Title = strings.ReplaceAll(m.title, "%s", placesWords(places))
		b.steps[at[0]] = one
		for _, i := range slices.Backward(at[1:]) {
			b.steps = slices.Delete(b.steps, i, i+1)
		}
	}
}

// placesWords names places: "cylinders 1, 2 and 3".
func placesWords(places []engine.Place) string {
	var set engine.Set
	var words []string
	for _, p := range places {
		c, ok := p.Cylinder()
		if ok {
			set |= engine.SetOf(c)
		}
		words = append(words, where(p))
	}
	if set.Len() == len(places) {
		return set.String()
	}
	return unit.List(words)
}
