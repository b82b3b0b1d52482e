package explain

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// waveSentence returns what stands out in a capture's readings.
func waveSentence(a *diagnose.Assessment, set evidence.Readings) string {
	var abnormal []string
	for _, shape := range a.Shapes(set, evidence.Readings{}) {
		if shape.Abnormal {
			abnormal = append(abnormal, fmt.Sprintf("cylinder %d: %s", shape.Cylinder, shape.Words))
		}
	}
	words := "capture of kilovolts"
	if set.Capture > 0 {
		words = fmt.Sprintf("capture %d", set.Capture)
	}
	if len(abnormal) == 0 {
		return words + ": " + steady(a, set)
	}
	return words + ": " + strings.Join(abnormal, "; ")
}

// steady says in a clause what was compared in a capture in which no cylinder stands out.
func steady(a *diagnose.Assessment, set evidence.Readings) string {
	with, few := comparedCylinders(a, set)
	switch {
	case with == 0:
		return "too little to compare"
	case few != 0:
		return fmt.Sprintf("when steady none of %s stands out; too little to compare %s", with, few)
	}
	return "when steady no cylinder stands out"
}

func comparedCylinders(a *diagnose.Assessment, set evidence.Readings) (with, few engine.Set) {
	few = a.Incomparable(set)
	for _, one := range set.Each {
		if c, ok := one.Place.Cylinder(); ok {
			with |= engine.SetOf(c)
		}
	}
	return with &^ few, few
}

// Compared says which cylinders of a capture were compared, if none stands out, and what would stand out. “None stands out”
// is a claim with limited power: the shapes of sound cylinders scatter by an eighth in kilovolts and a sixth in burn time
// ([knowledge.Waves]), so that less than a third is not seen.
func Compared(a *diagnose.Assessment, set evidence.Readings) string {
	with, few := comparedCylinders(a, set)
	tooFew := fmt.Sprintf("Too little to compare %s: it takes two others with events.", few)
	switch {
	case with|few == 0:
		return "Too few events to compare."
	case with == 0:
		return tooFew
	}
	words := fmt.Sprintf("None of %s stands out. A third more or less in kilovolts or burn time would; a smaller difference can be a fault too.", with)
	if few != 0 {
		words += " " + tooFew
	}
	return words
}

// History compares cylinders that have too few siblings with their newest other recorded capture: firing voltage and burn time.
// number is the number of the capture that is shown. It returns "" if there is nothing to compare.
func History(a *diagnose.Assessment, set evidence.Readings, number int) string {
	_, few := comparedCylinders(a, set)
	var all []string
	for _, now := range set.Each {
		c, _ := now.Place.Cylinder()
		if !few.Has(c) {
			continue
		}
		for _, m := range slices.Backward(a.Moments) {
			was, ok := readingAt(m.Entry.Readings(), now.Place)
			if !ok || m.Entry.Readings().Capture == number {
				continue
			}
			all = append(all, fmt.Sprintf("Cylinder %d in capture %d: %s. Now: %s.", c, m.Entry.Readings().Capture, eventWords(was), eventWords(now)))
			break
		}
	}
	return strings.Join(all, " ")
}

// readingAt is the reading of a place in the readings of a capture.
func readingAt(set *evidence.Readings, place engine.Place) (one evidence.Reading, ok bool) {
	if set == nil || set.Measure != evidence.KVWave {
		return evidence.Reading{}, false
	}
	i := slices.IndexFunc(set.Each, func(r evidence.Reading) bool { return r.Place == place })
	if i < 0 {
		return evidence.Reading{}, false
	}
	return set.Each[i], true
}

// eventWords gives the kilovolts and the burn time of a reading.
func eventWords(r evidence.Reading) string {
	f := r.Figures
	switch {
	case len(f) == 0 || f[0] == 0:
		return "no event"
	case len(f) > 3 && f[3] > 0:
		return fmt.Sprintf("%.1f kV, burn time %.2f ms", f[0], f[3])
	}
	return fmt.Sprintf("%.1f kV", f[0])
}

// Changed returns what became of what was abnormal in one capture by another, when parts were moved
// between the two: where from and to says which cylinder each part served before and after.
func Changed(before, after []diagnose.Shape, moved []Passage) []string {
	abnormal := func(of []diagnose.Shape, c engine.Cylinder) *diagnose.Shape {
		for i := range of {
			if of[i].Cylinder == c && of[i].Abnormal {
				return &of[i]
			}
		}
		return nil
	}
	var all []string
	for _, was := range before {
		if !was.Abnormal {
			continue
		}
		still := abnormal(after, was.Cylinder)
		var went []string
		to := engine.Cylinder(0)
		for _, p := range moved {
			if p.From == was.Cylinder && p.To != 0 && abnormal(after, p.To) != nil && abnormal(before, p.To) == nil {
				went, to = append(went, p.Tag.Words()), p.To
			}
		}
		switch {
		case still == nil && len(went) > 0:
			all = append(all, fmt.Sprintf("what cylinder %d showed is on cylinder %d now: it went with %s", was.Cylinder, to, strings.Join(went, " and ")))
		case still != nil && len(moved) > 0:
			all = append(all, fmt.Sprintf("cylinder %d is abnormal as before (%s): it stayed", was.Cylinder, still.Words))
		case still != nil:
			all = append(all, fmt.Sprintf("cylinder %d is abnormal as before (%s)", was.Cylinder, still.Words))
		default:
			all = append(all, fmt.Sprintf("cylinder %d no longer stands out: it showed “%s”", was.Cylinder, was.Words))
		}
	}
	for _, is := range after {
		if is.Abnormal && abnormal(before, is.Cylinder) == nil && !slices.ContainsFunc(moved, func(p Passage) bool { return p.To == is.Cylinder && abnormal(before, p.From) != nil }) {
			all = append(all, fmt.Sprintf("cylinder %d is abnormal now (%s), and did not stand out before", is.Cylinder, is.Words))
		}
	}
	return all
}

// Passage is a part that served one cylinder and then another; 0 is none.
type Passage struct {
	Tag      part.Tag
	From, To engine.Cylinder
}

// Passages lists the parts that serve other single cylinders at one time than at another.
func Passages(before, after part.Positions) []Passage {
	one := func(at part.Positions, t part.Tag) engine.Cylinder {
		if of := at.Feeds(t); len(of) == 1 {
			return of[0]
		}
		return 0
	}
	var all []Passage
	for _, p := range append(before.All(), after.All()...) {
		from, to := one(before, p.Tag), one(after, p.Tag)
		if from != to && !slices.ContainsFunc(all, func(q Passage) bool { return q.Tag == p.Tag }) {
			all = append(all, Passage{p.Tag, from, to})
		}
	}
	return all
}
