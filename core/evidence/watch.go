package evidence

import (
	"fmt"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Watch is a run in which the misfire was observed without counts: in live data, by feel or by
// ear.
type Watch struct {
	// Cylinders lists where it was observed; an empty list means that the engine ran without
	// misfire.
	Cylinders []engine.Cylinder `json:"cylinders"`
	// Exposure states how often the circumstance of the complaint was met; nil means one run.
	Exposure *Exposure `json:"exposure,omitzero"`
}

func (w Watch) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	seen := map[engine.Cylinder]bool{}
	for i, c := range w.Cylinders {
		if c < 1 || int(c) > eng.Cylinders || seen[c] {
			bad.Add(fmt.Sprintf("cylinders[%d]", i), fmt.Sprintf("a cylinder of this engine, 1 to %d, once", eng.Cylinders), fmt.Sprint(c))
			break
		}
		seen[c] = true
	}
	if w.Exposure != nil {
		bad.Under("exposure", w.Exposure.check(eng, len(w.Cylinders) > 0))
	}
	return bad.Err()
}

// KindWatch is the kind of a [Watch].
const KindWatch Kind = "watch"

func init() { register(KindWatch, func() Body { return new(Watch) }) }

// Watch returns the body of the entry, or nil if it is of another kind.
func (e Entry) Watch() *Watch { return body[Watch](e) }

// Kind returns KindWatch.
func (Watch) Kind() Kind { return KindWatch }

// Sentence returns where it was observed.
func (w Watch) Sentence() string {
	s := "watched: ran clean"
	if len(w.Cylinders) > 0 {
		s = "watched: misfire on " + engine.SetOf(w.Cylinders...).String()
	}
	if w.Exposure != nil {
		s += "; " + w.Exposure.Sentence()
	}
	return s
}

// ShowsMisfire reports whether the entry is a run that showed a misfire which is no stray.
func (e Entry) ShowsMisfire() bool {
	return e.Watch() != nil && len(e.Watch().Cylinders) > 0 || e.Counters() != nil && slices.Max(e.Counters().Counts) >= 2*Enough
}
