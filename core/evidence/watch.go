package evidence

import (
	"fmt"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Watch is a run in which the misfire was followed without numbers: live data,
// a feel of the hand, an ear.
type Watch struct {
	// Cylinders where it was seen; none means that it ran clean.
	Cylinders []engine.Cylinder `json:"cylinders"`
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
	return bad.Err()
}

// KindWatch names the kind.
const KindWatch Kind = "watch"

func init() { register(KindWatch, func() Body { return new(Watch) }) }

// Watch is the body of the entry if it is of that kind, else nil.
func (e Entry) Watch() *Watch { return body[Watch](e) }

// Kind names it.
func (Watch) Kind() Kind { return KindWatch }

// Sentence says where it was seen.
func (w Watch) Sentence() string {
	if len(w.Cylinders) == 0 {
		return "watched: ran clean"
	}
	return "watched: misfire on " + engine.SetOf(w.Cylinders...).String()
}
